//! Answers that are kept for as long as what they were worked out of stays as it is.

use std::sync::{Arc, Mutex, PoisonError};

/// Counts changes of what answers are worked out of. Each answer names those that it depends on, and leaves the others at 0.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Revisions {
    /// Pages, what they are called and their links, what is at other addresses, and which links the tray takes away.
    pub pages: u64,
    /// What figures are counted from: the pages, links in the tray, and from where readers start.
    pub figures: u64,
    /// What is known of readings: which pages are new.
    pub reading: u64,
    /// How many openings pages have, and how good the best of them are.
    pub tallies: u64,
    /// Which openings there are.
    pub rows: u64,
    /// What is worked out of the graph as a whole.
    pub soundings: u64,
    /// Which texts are known, and what they say.
    pub texts: u64,
    /// Auto-linking rules, and what holds for all of them.
    pub rules: u64,
}

/// The latest answers to some questions, each with the revisions that it depends on.
#[derive(Debug)]
pub(crate) struct Kept<Q, T>(Mutex<Vec<Answer<Q, T>>>);

#[derive(Debug)]
struct Answer<Q, T> {
    question: Q,
    at: Revisions,
    answer: Arc<T>,
}

impl<Q, T> Default for Kept<Q, T> {
    fn default() -> Self {
        Self(Mutex::default())
    }
}

/// Answers that are kept at the same time to questions of one kind; a person scrolls through one or two lists.
const MOST: usize = 8;

impl<Q: PartialEq + Clone, T> Kept<Q, T> {
    /// The answer as it is kept, or worked out once for all who ask meanwhile.
    pub fn get(&self, question: &Q, at: Revisions, work_out: impl FnOnce() -> T) -> Arc<T> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(place) = kept.iter().position(|known| known.question == *question) {
            let known = kept.remove(place);
            if known.at == at {
                let answer = Arc::clone(&known.answer);
                kept.insert(0, known);
                return answer;
            }
        }
        let answer = Arc::new(work_out());
        kept.truncate(MOST - 1);
        kept.insert(0, Answer { question: question.clone(), at, answer: Arc::clone(&answer) });
        answer
    }
}

#[cfg(test)]
mod tests {
    use std::cell::Cell;

    use super::*;

    #[test]
    fn an_answer_is_worked_out_again_when_what_it_depends_on_changed_and_not_before() {
        let kept: Kept<usize, usize> = Kept::default();
        let worked = Cell::new(0);
        let ask = |question: usize, at: u64| {
            let answer = kept.get(&question, Revisions { pages: at, ..Revisions::default() }, || {
                worked.set(worked.get() + 1);
                question * 10 + worked.get()
            });
            *answer
        };
        assert_eq!((ask(1, 0), ask(1, 0), ask(2, 0), ask(1, 0)), (11, 11, 22, 11));
        assert_eq!((ask(1, 1), ask(2, 0), ask(1, 1)), (13, 22, 13), "another question's answer stays");
        for question in 3..=10 {
            ask(question, 0);
        }
        let before = worked.get();
        ask(1, 1);
        assert_eq!(worked.get(), before + 1, "the oldest made room");
    }
}
