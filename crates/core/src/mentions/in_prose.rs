//! Looking for phrases in the words of a page that are kept in memory.

use super::part::Part;
use super::search::{MentionPlace, Searcher};
use crate::document::TextSpan;
use crate::language::Language;
use crate::phrases::Prose;

/// A phrase on a page of which the words alone are known, and not how they are written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ProseMention {
    /// Which of the phrases.
    pub phrase: usize,
    pub part: Part,
    pub place: MentionPlace,
    /// Whether some of the words carry a link; of what stands in no text nobody knows.
    pub is_linked: bool,
}

impl Searcher<'_> {
    /// The mentions in the content of a page, in text order, then those in what its pictures say. Boilerplate is no prose.
    /// `language` is that of the page, also for passages in another. O(n + links · log links + mentions).
    pub fn in_prose(&self, prose: &Prose, language: Language) -> Vec<ProseMention> {
        let links = prose.links();
        self.with_reader(|reader| {
            let mut found = Vec::new();
            for block in prose.blocks() {
                let part = Part::of_content(block.kind);
                if !self.looks_in(part) {
                    continue;
                }
                let span = block.text();
                let text = prose.text().get(span.range()).unwrap_or_default();
                for mention in reader.mentions(text, language) {
                    let words = TextSpan::new(span.start + mention.words.start, span.start + mention.words.end);
                    // Links do not stand in one another.
                    let first = links.partition_point(|(_, end)| *end as usize <= words.start);
                    let is_linked = links.get(first).is_some_and(|(start, _)| (*start as usize) < words.end);
                    let place = MentionPlace::Text(words);
                    found.push(ProseMention { phrase: mention.phrase, part, place, is_linked });
                }
            }
            for (picture, alt) in prose.alts().iter().filter(|_| self.looks_in(Part::Alt)) {
                found.extend(reader.mentions(alt, language).into_iter().map(|mention| ProseMention {
                    phrase: mention.phrase,
                    part: Part::Alt,
                    place: MentionPlace::Alt { picture: *picture as usize, words: mention.words.range() },
                    is_linked: false,
                }));
            }
            found
        })
    }

    /// The mentions in a title, in bytes of it. O(length).
    pub fn in_title(&self, title: &str, language: Language) -> Vec<ProseMention> {
        if !self.looks_in(Part::Title) {
            return Vec::new();
        }
        let found = self.with_reader(|reader| reader.mentions(title, language)).into_iter();
        let mentioned = found.map(|mention| ProseMention {
            phrase: mention.phrase,
            part: Part::Title,
            place: MentionPlace::Title(mention.words.range()),
            is_linked: false,
        });
        mentioned.collect()
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::document::Document;
    use crate::mentions::{Carries, Mentioned, Wanted};
    use crate::phrases::{Lexicon, ReadProse};
    use crate::rules::{Matching, Phrase};

    fn piece() -> impl Strategy<Value = String> {
        let words = prop::sample::select(vec!["red", "torches", "torch", "the red torch", "dim", "Red-torch"]);
        (words, 0..8u8).prop_map(|(words, how)| match how {
            0 => format!("<a href=/t>{words}</a> "),
            1 => format!("</p><h2>{words}</h2><p>"),
            2 => format!("</p><ul><li>{words}</ul><p>"),
            3 => format!("<code>{words}</code> "),
            4 => format!("</p><pre>{words}</pre><p>"),
            5 => format!("<img src=t.png alt='{words}'> <img src=u.png> "),
            _ => format!("{words} "),
        })
    }

    proptest! {
        #[test]
        fn the_document_says_the_same(pieces in prop::collection::vec(piece(), 0..20), forms: bool, gap in 0..2usize) {
            let page = format!("<title>Red torch</title><nav>red torch</nav><main><p>{}</p></main>", pieces.concat());
            let document = Document::from_html(&page);
            let phrases = ["red torch", "torch"].map(|phrase| Phrase::words(phrase).unwrap()).to_vec();
            let matching = Matching { forms, gap, ..Matching::default() };
            let parts = Part::IN_PROSE.into();
            let wanted = Wanted::new(phrases, matching, parts);
            let searcher = wanted.searcher();
            let prose = ReadProse::of(&document, Language::English).number(&mut Lexicon::default());
            let in_prose = searcher.in_prose(&prose, Language::English);
            let in_document: Vec<_> = searcher
                .on(&document, Language::English)
                .into_iter()
                .map(|mention| {
                    let Mentioned { phrase, part, place, carries } = mention;
                    let is_linked = matches!(carries, Carries::Link(_)) && part != Part::Alt;
                    ProseMention { phrase, part, place, is_linked }
                })
                .collect();
            prop_assert_eq!(in_prose, in_document);
        }
    }
}
