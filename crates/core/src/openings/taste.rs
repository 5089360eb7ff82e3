//! What an editor keeps, beyond what authors of other sites did: an assumption at first, then learnt from takes and passes.

use super::ensemble::{Ensemble, PartRange};
use super::part::Part;
use crate::site::Figures;

/// How far from the assumption a site's taste is likely to be: one standard deviation, in log-odds.
const KEEPS_SPREAD: f32 = 1.0;

/// The same for how much a part counts, as a factor.
const SCALE_SPREAD: f32 = 0.3;

/// Factors stay between these, whatever was decided.
const SCALES: std::ops::RangeInclusive<f32> = 0.25..=2.0;

/// Sweeps over the six numbers; they have settled long before.
const SWEEPS: usize = 40;

/// What is known of whose choice is foretold.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Taste {
    /// Added to the log-odds: authors link a few of the places that deserve it; who is asked keeps more.
    pub keeps: f32,
    /// How much each part counts beside what it counts with authors, in the order of [`Part::ALL`].
    pub scales: [f32; 5],
    /// Who wants links, of all targets.
    need: WhoseNeed,
    /// What is taken off where nothing says that the words mean the page: then authors left no link because none belongs
    /// there.
    doubt: f32,
}

/// For which targets somebody wants links.
#[derive(Debug, Clone, Copy, PartialEq)]
enum WhoseNeed {
    /// For what others link to, too, as the trees tell of authors.
    WellKnown,
    /// For what lacks links, and for nothing else: this is added for a target without any, and ever less with each link.
    Lacking(f32),
}

/// A decision to learn from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lesson {
    /// What each part of the fit added when it was decided, before any learning.
    pub adds: [f32; 5],
    pub is_kept: bool,
}

impl Taste {
    /// How likely an author is to have made the link.
    pub const AUTHOR: Self = Self { keeps: 0.0, scales: [1.0; 5], need: WhoseNeed::WellKnown, doubt: 0.0 };

    /// An editor of whom nothing is known yet.
    pub const EDITOR: Self = Self { keeps: 1.6, scales: [1.0; 5], need: WhoseNeed::Lacking(1.6), doubt: 2.4 };

    /// What the parts add before any learning: the trees' sums, doubts about the words, and a wish for targets that lack
    /// links, as far as it is they that are meant. `sureness` is that of [`Judged::sureness`](super::Judged::sureness),
    /// `from` the click depth of the page on which the words stand.
    pub fn untaught(&self, mut parts: [f32; 5], sureness: f32, from: Option<u32>, target: &Figures) -> [f32; 5] {
        parts[Part::Wording as usize] -= self.doubt * (1.0 - sureness);
        if let WhoseNeed::Lacking(most) = self.need {
            parts[Part::Need as usize] = most * sureness * gain(from, target);
        }
        parts
    }

    /// The same as this site counts them.
    pub fn taught(&self, untaught: [f32; 5]) -> [f32; 5] {
        std::array::from_fn(|part| untaught[part] * self.scales[part])
    }

    /// From little to much for a target's need; `learnt` is what the trees say.
    pub(super) fn range_of_need(&self, learnt: PartRange) -> PartRange {
        match self.need {
            WhoseNeed::WellKnown => learnt,
            WhoseNeed::Lacking(most) => PartRange { low: 0.0, high: most },
        }
    }

    /// An editor's taste after some decisions: the most likely one, when it was likely to be [`Taste::EDITOR`] before,
    /// give or take [`KEEPS_SPREAD`] and [`SCALE_SPREAD`], and each decision is made with the chance that the fit says
    /// (logistic regression with a normal prior, by Newton's steps along one number after the other). The order of the
    /// lessons does not matter but for the last digits. O(lessons).
    pub fn learnt(ensemble: &Ensemble, lessons: &[Lesson]) -> Self {
        let mut taste = Self::EDITOR;
        if lessons.is_empty() {
            return taste;
        }
        let odds = |taste: &Self, lesson: &Lesson| {
            let (kept, rise) = ensemble.promise(taste.taught(lesson.adds).iter().sum());
            (kept + taste.keeps, rise)
        };
        for _ in 0..SWEEPS {
            for number in 0..=Part::ALL.len() {
                let (prior, now, spread) = match number.checked_sub(1) {
                    None => (Self::EDITOR.keeps, taste.keeps, KEEPS_SPREAD),
                    Some(part) => (1.0, taste.scales[part], SCALE_SPREAD),
                };
                let (mut slope, mut bend) = ((prior - now) / (spread * spread), 1.0 / (spread * spread));
                for lesson in lessons {
                    let (odds, rise) = odds(&taste, lesson);
                    let along = number.checked_sub(1).map_or(1.0, |part| lesson.adds[part] * rise);
                    let chance = 1.0 / (1.0 + (-odds).exp());
                    slope += along * (f32::from(u8::from(lesson.is_kept)) - chance);
                    bend += along * along * chance * (1.0 - chance);
                }
                let next = now + slope / bend;
                match number.checked_sub(1) {
                    None => taste.keeps = next,
                    Some(part) => taste.scales[part] = next.clamp(*SCALES.start(), *SCALES.end()),
                }
            }
        }
        taste
    }
}

/// How much a target gains by a link from a page at a click depth, 0 to 1: as much as it lacks, or half of that from a page
/// that no reader gets to.
fn gain(from: Option<u32>, target: &Figures) -> f32 {
    if from.is_some() { target.lack() } else { 0.5 * target.lack() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_editor_wishes_less_for_a_target_with_each_link_that_it_has() {
        let need = |around: u32, content_links_in: u32, depth: Option<u32>| {
            let links_in = around + content_links_in;
            let figures = Figures { links_in, content_links_in, depth, ..Figures::default() };
            // What the trees say of authors, who link to what is well known.
            Taste::EDITOR.untaught([0.0, 0.0, 0.0, links_in as f32, 0.0], 1.0, Some(3), &figures)[Part::Need as usize]
        };
        assert_eq!(need(0, 0, None), 1.6);
        assert_eq!(need(20, 20, None), need(0, 0, None), "out of reach, whoever links there");
        assert_eq!(need(0, 0, Some(0)), 0.0, "where readers start");
        let falls = |needs: Vec<f32>| needs.is_sorted_by(|fewer, more| fewer > more) && needs[0] < 1.6;
        assert!(falls((1..200).map(|links| need(0, links, Some(2))).collect()));
        assert!(falls((1..200).map(|pages| need(pages, 0, Some(2))).collect()));
        assert!(need(0, 199, Some(2)) < 0.01 && need(0, 9, Some(2)) < need(150, 0, Some(2)));
        let unsure = Taste::EDITOR.untaught([0.0; 5], 0.5, Some(3), &Figures::default());
        assert!(unsure[Part::Need as usize] < 1.6, "as far as it is meant");
        for figures in [Figures::default(), Figures { links_in: 3, depth: Some(1), ..Figures::default() }] {
            let from = |depth| Taste::EDITOR.untaught([0.0; 5], 1.0, depth, &figures)[Part::Need as usize];
            assert!(from(None) < from(Some(9)), "no reader gets there to follow it");
        }
    }

    fn lessons(adds: [f32; 5], is_kept: bool, count: usize) -> Vec<Lesson> {
        vec![Lesson { adds, is_kept }; count]
    }

    #[test]
    fn takes_raise_and_passes_lower_what_is_alike_and_few_decisions_do_little() {
        let ensemble = Ensemble::shipped().unwrap();
        let adds = [0.5, 1.0, 0.2, 0.1, 0.0];
        let sum = |taste: Taste| taste.keeps + taste.taught(adds).iter().sum::<f32>();
        let before = sum(Taste::EDITOR);
        assert_eq!(Taste::learnt(&ensemble, &[]), Taste::EDITOR);
        let (one, many) = (lessons(adds, false, 1), lessons(adds, false, 30));
        let (one, many) = (sum(Taste::learnt(&ensemble, &one)), sum(Taste::learnt(&ensemble, &many)));
        assert!(many < one && one < before, "{many} {one} {before}");
        assert!(before - one < 1.0, "{one} {before}");
        assert!(sum(Taste::learnt(&ensemble, &lessons(adds, true, 30))) > before);
    }

    #[test]
    fn who_keeps_by_topic_and_not_by_wording_is_understood() {
        let ensemble = Ensemble::shipped().unwrap();
        let mut all = lessons([3.0, -1.0, 0.0, 0.0, 0.0], true, 40);
        all.extend(lessons([-1.0, 3.0, 0.0, 0.0, 0.0], false, 40));
        let taste = Taste::learnt(&ensemble, &all);
        assert!(taste.scales[0] > 1.1 && taste.scales[1] < 0.9, "{taste:?}");
        all.reverse();
        let other = Taste::learnt(&ensemble, &all);
        assert!((taste.keeps - other.keeps).abs() < 1e-3);
    }
}
