//! What an ensemble says of the mentions of a page.

use super::{Page, Shared, each_mention, sureness};
use crate::openings::ensemble::Ensemble;
use crate::openings::features::{FEATURES, Features};
use crate::openings::fit::Part;
use crate::openings::portrait::Portraits;
use crate::phrases::{Mention, PhraseBook};
use crate::site::PageId;

/// A mention with what is said of it.
#[derive(Debug, Clone, Copy)]
pub(in crate::openings) struct Answer {
    pub mention: Mention,
    /// What each part adds.
    pub parts: [f32; 5],
    /// See [`sureness`].
    pub sureness: f32,
}

/// What each part said of mentions that are the same to it, by what they share.
#[derive(Default)]
struct Known([Vec<Option<f32>>; 5]);

impl Known {
    fn of(&mut self, part: Part, shared: usize, ask: impl FnOnce() -> f32) -> f32 {
        let known = &mut self.0[part as usize];
        if known.len() <= shared {
            known.resize(shared + 1, None);
        }
        *known[shared].get_or_insert_with(ask)
    }
}

/// As [`super::judge`], with what an ensemble says in place of the numbers. What is the same to a part in several
/// mentions is asked once: the need, say, of all that lead to one page. Hardly any two are in one place.
pub(in crate::openings) fn answers<'b>(
    portraits: &Portraits<'b>,
    book: &'b PhraseBook,
    ensemble: &Ensemble,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
) -> Vec<Answer> {
    let mut answers = Vec::new();
    let mut known = Known::default();
    each_mention(portraits, book, source, wanted, |page, at, mention| {
        let shared = page.shared(at, mention);
        let mut features: Features = [0.0; FEATURES];
        let parts = Part::ALL.map(|part| {
            let mut ask = || {
                page.put(part, shared, mention, &mut features);
                ensemble.part(part, &features)
            };
            match page.shared_to(part, shared, mention) {
                Some(number) => known.of(part, number, ask),
                None => ask(),
            }
        });
        answers.push(Answer { mention: *mention, parts, sureness: sureness(mention, &page.said[shared.wording]) });
    });
    answers
}

impl Page<'_> {
    /// The number of what a mention shares with those that are the same to a part.
    fn shared_to(&self, part: Part, shared: Shared, mention: &Mention) -> Option<usize> {
        match part {
            Part::Topic => shared.pair,
            Part::Wording => {
                let (capital, code) = self.written(mention);
                Some(shared.wording * 4 + usize::from(capital > 0.0) * 2 + usize::from(code > 0.0))
            }
            Part::Place => None,
            Part::Need => Some(shared.target),
            // Most words are no link to the page anywhere.
            Part::Variety if mention.naming.anchors == 0 => Some(0),
            Part::Variety => Some(shared.wording + 1),
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document::Document;
    use crate::openings::features::judge;
    use crate::openings::{Corpus, CorpusPage};
    use crate::site::Address;

    /// A page with one of three words as its title, whose text says them plainly and with all that is looked at beside.
    fn page() -> impl Strategy<Value = String> {
        let word = prop::sample::select(vec!["collimation", "dew shield", "barlow lens"]);
        let said = (word.clone(), 0..10usize).prop_map(|(word, how)| match how {
            0 => word.to_uppercase(),
            1 => format!("<b>{word}</b>"),
            2 => format!("<code>{word}</code>"),
            3 => format!("{word}.</p><p>See"),
            4 => format!("the {word}, of old"),
            5 => word.to_owned(),
            to => format!("<a href={}>{word}</a>", to - 6),
        });
        (word, prop::collection::vec(said, 0..14)).prop_map(|(title, said)| {
            format!("<html lang=en><title>{title}</title><h1>{title}</h1><p>Look at {}</p>", said.join(" and at "))
        })
    }

    proptest! {
        #[test]
        fn what_is_asked_once_is_answered_as_if_it_were_asked_each_time(pages in prop::collection::vec(page(), 2..9)) {
            let address = |at: usize| Address::parse(&format!("https://site.example/{at}")).unwrap();
            let ids: Vec<_> = (1..).map(PageId).take(pages.len()).collect();
            let pages = pages
                .iter()
                .enumerate()
                .map(|(at, html)| CorpusPage { address: address(at), document: Document::from_html(html.as_str()) });
            let Corpus { site, book, .. } = Corpus::of(address(0), pages.collect());
            let ensemble = Ensemble::shipped().unwrap();
            let portraits = Portraits::new(&site, &book);
            for source in ids {
                let wanted = |target: PageId| target.0 != 3;
                let judged = judge(&site, &book, source, wanted);
                let each: Vec<_> =
                    judged.iter().map(|one| (one.mention, ensemble.parts(&one.features), one.sureness())).collect();
                let answers = answers(&portraits, &book, &ensemble, source, wanted);
                let answers: Vec<_> = answers.iter().map(|one| (one.mention, one.parts, one.sureness)).collect();
                prop_assert_eq!(answers, each);
            }
        }
    }
}
