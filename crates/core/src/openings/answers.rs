//! What an ensemble says of the mentions of a page.

use super::candidate::Candidate;
use super::ensemble::Ensemble;
use super::features::{FEATURES, Features, each_mention};
use super::part::Part;
use super::portrait::Portraits;
use crate::ids::PageId;
use crate::phrases::PhraseBook;

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

/// The mentions of a page as [`super::judge`] has them, with what an ensemble says in place of the numbers, in order. What is
/// the same to a part in several mentions is asked once: the need, say, of all that lead to one page. Hardly any two are in
/// one place.
pub(super) fn answers<'b>(
    portraits: &Portraits<'b>,
    book: &'b PhraseBook,
    ensemble: &Ensemble,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
) -> Vec<Candidate> {
    let mut answers = Vec::new();
    let mut known = Known::default();
    each_mention(portraits, book, source, wanted, |walk, at, mention| {
        let shared = walk.shared(at, mention);
        let mut features: Features = [0.0; FEATURES];
        let parts = Part::ALL.map(|part| {
            let mut ask = || {
                walk.put(part, shared, mention, &mut features);
                ensemble.part(part, &features)
            };
            match walk.shared_to(part, shared, mention) {
                Some(number) => known.of(part, number, ask),
                None => ask(),
            }
        });
        answers.extend(Candidate::of(mention, parts, walk.sureness(shared, mention)));
    });
    answers
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document::Document;
    use crate::openings::{Corpus, CorpusPage, judge};
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
                    judged
                    .iter()
                    .filter_map(|one| Candidate::of(&one.mention, ensemble.parts(&one.features), one.sureness()))
                    .collect();
                prop_assert_eq!(answers(&portraits, &book, &ensemble, source, wanted), each);
            }
        }
    }
}
