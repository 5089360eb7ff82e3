//! Parts of pages by CSS selectors.

use std::str::FromStr;

use lol_html::{ElementContentHandlers, HtmlRewriter, Settings};
use rustc_hash::{FxHashMap, FxHashSet};
use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::document::{Document, Format, TextSpan};

/// A CSS selector, such as `aside, .note`: elements by name, class, id, attributes and what they stand in.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Selector(String);

/// It is no selector, or one that cannot be told while a page goes by.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("“{selector}” is no selector that can be used here: {why}")]
pub struct NoSelector {
    selector: String,
    why: String,
}

impl Selector {
    /// # Errors
    /// [`NoSelector`] says what is wrong with it.
    pub fn parse(text: &str) -> Result<Self, NoSelector> {
        match lol_html::Selector::from_str(text) {
            Ok(_) => Ok(Self(text.to_owned())),
            Err(why) => Err(NoSelector { selector: text.to_owned(), why: why.to_string().to_lowercase() }),
        }
    }

    pub fn as_str(&self) -> &str {
        &self.0
    }
}

/// Which elements of a page some selectors mean.
#[derive(Debug, Default)]
pub(super) struct Selected<'s>(FxHashMap<&'s Selector, FxHashSet<usize>>);

impl<'s> Selected<'s> {
    /// What these mean on a page; nothing where there is no markup. One pass over the source for all, O(n).
    pub fn on(document: &Document, selectors: impl Iterator<Item = &'s Selector>) -> Self {
        let mut starts: FxHashMap<&Selector, FxHashSet<usize>> =
            selectors.map(|selector| (selector, FxHashSet::default())).collect();
        if starts.is_empty() || document.format() != Format::Html {
            return Self(starts);
        }
        note_starts(document.source(), &mut starts);
        Self(starts)
    }

    /// Whether words stand within an element that a selector means.
    pub fn holds(&self, selector: &Selector, document: &Document, words: TextSpan) -> bool {
        self.0.get(selector).is_some_and(|starts| !starts.is_empty() && document.stands_within(words, starts))
    }
}

/// Notes where the start tags of selected elements begin.
fn note_starts(source: &str, starts: &mut FxHashMap<&Selector, FxHashSet<usize>>) {
    let mut settings = Settings::new().with_strict(false);
    for (selector, starts) in starts {
        // It was parsed when the rule was made.
        let Ok(parsed) = lol_html::Selector::from_str(selector.as_str()) else { continue };
        let handlers =
            ElementContentHandlers::default().element(move |element: &mut lol_html::html_content::Element<'_, '_>| {
                starts.insert(element.source_location().bytes().start);
                Ok(())
            });
        settings = settings.append_element_content_handler((std::borrow::Cow::Owned(parsed), handlers));
    }
    let mut rewriter = HtmlRewriter::new(settings, |_: &[u8]| {});
    // A page that is too strange for it has none of the elements behind that place.
    if rewriter.write(source.as_bytes()).is_ok() {
        let _ = rewriter.end();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_stand_within_what_is_selected_however_it_is_closed() {
        let page = "<main><p class='note x'>one <b>two</b><div id=d data-k=v><ul><li>three<li class=note>four</ul></div><p>five</main>";
        let document = Document::from_html(page);
        let within = |selector: &str, word: &str| {
            let selector = Selector::parse(selector).unwrap();
            let selected = Selected::on(&document, [&selector].into_iter());
            let start = document.text().as_str().find(word).unwrap();
            selected.holds(&selector, &document, TextSpan::new(start, start + word.len()))
        };
        for (selector, words) in [
            (".note", &["one", "two", "four"][..]),
            ("p.note > b", &["two"]),
            ("#d", &["three", "four"]),
            ("[data-k=v] li:not(.note)", &["three"]),
            ("main p", &["one", "two", "five"]),
            ("aside, b", &["two"]),
        ] {
            for word in ["one", "two", "three", "four", "five"] {
                assert_eq!(within(selector, word), words.contains(&word), "{selector} {word}");
            }
        }
        assert!(Selector::parse("p:hover(").is_err() && Selector::parse("a + b").is_err());
        let markdown = Document::read("*one*".to_owned(), Format::Markdown);
        let selector = Selector::parse("p").unwrap();
        assert!(!Selected::on(&markdown, [&selector].into_iter()).holds(&selector, &markdown, TextSpan::new(0, 3)));
    }
}
