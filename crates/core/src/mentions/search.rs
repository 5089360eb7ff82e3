//! Looking for phrases on a page.

use std::collections::BTreeSet;
use std::ops::Range;

use super::part::Part;
use crate::document::{Document, Refusal, SourceSpan, TextSpan};
use crate::ids::RuleId;
use crate::language::Language;
use crate::rules::{Matching, Phrase, Reader, Readers, Rule, RuleSet};

/// Phrases, put together so that all are found at once. It never changes.
#[derive(Debug)]
pub struct Wanted {
    phrases: RuleSet<()>,
    parts: BTreeSet<Part>,
}

/// Looks for phrases on pages, on as many threads as ask.
pub struct Searcher<'w> {
    readers: Readers<'w, ()>,
    parts: &'w BTreeSet<Part>,
}

/// Where on a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum MentionPlace {
    /// In its text.
    Text(TextSpan),
    /// In what a picture says, by its number on the page, in bytes of that.
    Alt { picture: usize, words: Range<usize> },
    /// In its title, in bytes of that.
    Title(Range<usize>),
}

/// Words of a page that are a phrase.
#[derive(Debug, Clone, PartialEq)]
pub struct Mentioned {
    /// Which of the phrases.
    pub phrase: usize,
    pub part: Part,
    pub place: MentionPlace,
    pub carries: Carries,
}

/// Whether words carry a link.
#[derive(Debug, Clone, PartialEq)]
pub enum Carries {
    /// Some of them carry this one, by its number on the page.
    Link(usize),
    /// None, and they could.
    Nothing,
    /// None, and why they cannot.
    Refused(Refusal),
    /// What readers see in no text carries none.
    Never,
}

impl Carries {
    fn of(link: Option<usize>, may: impl FnOnce() -> Result<SourceSpan, Refusal>) -> Self {
        match link {
            Some(link) => Self::Link(link),
            None => may().map_or_else(Self::Refused, |_| Self::Nothing),
        }
    }
}

impl Wanted {
    /// `parts` is where they are looked for. O(words of the phrases).
    pub fn new(phrases: Vec<Phrase>, matching: Matching, parts: BTreeSet<Part>) -> Self {
        let rule = Rule { matching, ..Rule::new(RuleId(0), phrases, ()) };
        Self { phrases: RuleSet::of(vec![rule]), parts }
    }

    /// One that looks for them.
    pub const fn searcher(&self) -> Searcher<'_> {
        Searcher { readers: Readers::new(&self.phrases), parts: &self.parts }
    }
}

impl Searcher<'_> {
    /// Whether it looks in a part of pages.
    pub fn looks_in(&self, part: Part) -> bool {
        self.parts.contains(&part)
    }

    pub(super) fn with_reader<T>(&self, look: impl FnOnce(&mut Reader<'_, ()>) -> T) -> T {
        self.readers.with(|reader| look(reader))
    }

    /// The mentions of a page: those in its title, in its text, and in its pictures, each in their order. Where a phrase begins within another
    /// one that was found, both are told. `language` is that of what does not say another. O(n + links · log links + mentions).
    pub fn on(&self, document: &Document, language: Language) -> Vec<Mentioned> {
        let title = document.head().title.as_deref().unwrap_or_default();
        let in_title = self.in_title(title, language).into_iter().map(|found| Mentioned {
            phrase: found.phrase,
            part: found.part,
            place: found.place,
            carries: Carries::Never,
        });
        self.readers.with(|reader| {
            let mut found: Vec<_> = in_title.collect();
            found.extend(self.in_blocks(reader, document, language));
            found.extend(self.in_pictures(reader, document, language));
            found
        })
    }

    fn in_blocks(&self, reader: &mut Reader<'_, ()>, document: &Document, language: Language) -> Vec<Mentioned> {
        let mut found = Vec::new();
        let mut links: Vec<(TextSpan, usize)> =
            document.links().iter().enumerate().map(|(number, link)| (link.text, number)).collect();
        links.sort_unstable();
        for block in document.blocks() {
            let part = Part::of(block);
            if !self.parts.contains(&part) {
                continue;
            }
            let language = document.language_of(block).map_or(language, Language::from_tag);
            let (text, start) = (document.text().slice(block.text), block.text.start);
            for mention in reader.mentions(text, language) {
                let words = TextSpan::new(start + mention.words.start, start + mention.words.end);
                // Links do not stand in one another.
                let first = links.partition_point(|(text, _)| text.end <= words.start);
                let link = links.get(first).filter(|(text, _)| text.overlaps(words)).map(|(_, number)| *number);
                found.push(Mentioned {
                    phrase: mention.phrase,
                    part,
                    place: MentionPlace::Text(words),
                    carries: Carries::of(link, || document.may_link(words)),
                });
            }
        }
        found
    }

    fn in_pictures(&self, reader: &mut Reader<'_, ()>, document: &Document, language: Language) -> Vec<Mentioned> {
        let mut found = Vec::new();
        if !self.parts.contains(&Part::Alt) {
            return found;
        }
        for (number, picture) in document.pictures().iter().enumerate() {
            let Some(alt) = picture.alt.as_deref() else { continue };
            for mention in reader.mentions(alt, language) {
                found.push(Mentioned {
                    phrase: mention.phrase,
                    part: Part::Alt,
                    place: MentionPlace::Alt { picture: number, words: mention.words.range() },
                    carries: Carries::of(picture.link, || document.may_link_picture(number)),
                });
            }
        }
        found
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::language::{fold, words};

    const PAGE: &str = "<title>Red torches</title><nav><a href=/t>Red torch</a></nav><main><h1>The red torch</h1>\
        <p>A <a href=/t>red torch</a> and a <b>red</b> torch.</p><ul><li>red torches</li></ul><table><tr><td>Red torch\
        </table><img src=t.png alt='a red torch'><pre>red torch</pre></main>";

    fn wanted(phrases: &[&str], matching: Matching, parts: &[Part]) -> Wanted {
        let phrases = phrases.iter().map(|phrase| Phrase::words(phrase).unwrap()).collect();
        Wanted::new(phrases, matching, parts.iter().copied().collect())
    }

    fn found(wanted: &Wanted, page: &str) -> Vec<String> {
        let document = Document::from_html(page);
        let said = |mention: Mentioned| {
            let words = match &mention.place {
                MentionPlace::Text(words) => document.text().slice(*words).to_owned(),
                MentionPlace::Alt { picture, words } => {
                    document.pictures()[*picture].alt.as_deref().unwrap()[words.clone()].to_owned()
                }
                MentionPlace::Title(words) => document.head().title.as_deref().unwrap()[words.clone()].to_owned(),
            };
            let link = match mention.carries {
                Carries::Link(link) => format!(" → {}", document.links()[link].href),
                _ => String::new(),
            };
            format!("{} {words}{link}", mention.part.name())
        };
        wanted.searcher().on(&document, Language::English).into_iter().map(said).collect()
    }

    #[test]
    fn a_phrase_is_found_in_every_part_of_a_page() {
        let forms = Matching { forms: true, ..Matching::default() };
        assert_eq!(
            found(&wanted(&["red torch"], forms.clone(), &Part::ALL), PAGE),
            [
                "titles Red torches",
                "menus Red torch → /t",
                "headings red torch",
                "text red torch → /t",
                "text red torch",
                "lists red torches",
                "tables Red torch",
                "code red torch",
                "alt red torch",
            ]
        );
        assert_eq!(
            found(&wanted(&["red torch"], Matching::default(), &[Part::List, Part::Text]), PAGE),
            ["text red torch → /t", "text red torch"]
        );
        let capital = Matching { keeps_case: true, ..Matching::default() };
        assert_eq!(found(&wanted(&["Red torch"], capital, &[Part::Text, Part::Table]), PAGE), ["tables Red torch"]);
    }

    #[test]
    fn what_could_carry_a_link_is_told_from_what_could_not() {
        let document = Document::from_html(PAGE);
        let wanted = wanted(&["red torch"], Matching::default(), &[Part::Heading, Part::Text]);
        let carries: Vec<_> =
            wanted.searcher().on(&document, Language::English).into_iter().map(|one| one.carries).collect();
        assert!(matches!(carries[..], [Carries::Refused(_), Carries::Link(1), Carries::Nothing]), "{carries:?}");
    }

    #[test]
    fn parts_are_known_by_their_names() {
        assert!(Part::ALL.into_iter().all(|part| Part::named(part.name()) == Some(part)));
        assert_eq!(Part::named("footnotes"), None);
    }

    proptest! {
        /// A plain search, word by word.
        #[test]
        fn a_plain_search_finds_the_same(
            texts in prop::collection::vec(prop::collection::vec(prop::sample::select(vec!["red", "Red", "torch", "dim", "réd"]), 0..12), 1..4),
            phrases in prop::collection::vec(prop::collection::vec(prop::sample::select(vec!["red", "torch"]), 1..3), 1..3),
        ) {
            let page: String = texts.iter().map(|text| format!("<p>{}</p>", text.join(" "))).collect();
            let said: Vec<String> = phrases.iter().map(|phrase| phrase.join(" ")).collect();
            let said: Vec<&str> = said.iter().map(String::as_str).collect();
            let found = found(&wanted(&said, Matching::default(), &[Part::Text]), &page).len();
            let mut plain = 0;
            for text in &texts {
                let folded: Vec<_> = words(&text.join(" ")).map(|word| fold(word.text)).collect();
                let at = |phrase: &Vec<&str>| folded.windows(phrase.len()).filter(|window| window == phrase).count();
                plain += phrases.iter().map(at).sum::<usize>();
            }
            prop_assert_eq!(found, plain);
        }
    }
}
