//! Limits that keep pages readable. They hold for whoever places links: an editor, a rule, a plan.

mod carried;
mod release_load;
mod site_limits;

use thiserror::Error;

use crate::document::{Document, Region, TextSpan};
use crate::site::Target;

pub use carried::Carried;
pub use release_load::ReleaseLoad;
pub use site_limits::SiteLimits;

/// How many links are still a help to readers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LinkLimits {
    /// Links in one sentence.
    pub per_sentence: usize,
    /// Links in the content of a page: one for so many words …
    pub words_per_link: usize,
    /// … and in any case so many.
    pub per_page_at_least: usize,
    /// The first words of a page's content, which carry none.
    pub first_words_free: usize,
    /// New links to one page in one release.
    pub per_target: usize,
    /// New links on the same words to the same page in one release.
    pub per_phrase: usize,
}

impl Default for LinkLimits {
    fn default() -> Self {
        Self {
            per_sentence: 2,
            words_per_link: 20,
            per_page_at_least: 10,
            first_words_free: 0,
            per_target: 100,
            per_phrase: 40,
        }
    }
}

/// A limit that new links would break.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum Breach {
    #[error("the sentence would carry {links} links, and more than {most} are hard to read")]
    Sentence { links: usize, most: usize },
    #[error("the page would carry {links} links in its content, and more than {most} are too many for its length")]
    Page { links: usize, most: usize },
    #[error("the first {words} words of a page carry no links")]
    TooEarly { words: usize },
    #[error("the page would link to the same page twice")]
    SameTarget,
    #[error("one release would bring more than {most} links to this page")]
    Target { most: usize },
    #[error("one release would put the same words to the same page more than {most} times")]
    Phrase { most: usize },
}

impl LinkLimits {
    /// How many links the content of a page of so many words may carry.
    pub fn of_page(&self, words: usize) -> usize {
        (words / self.words_per_link.max(1)).max(self.per_page_at_least)
    }

    /// Whether one link more on a page keeps within the limits: how many words stand before it, and in which sentence it
    /// does. O(links).
    ///
    /// # Errors
    /// The [`Breach`].
    pub fn one_more(
        &self,
        carried: &Carried,
        words_before: impl FnOnce() -> usize,
        sentence: Option<TextSpan>,
    ) -> Result<(), Breach> {
        if self.first_words_free > 0 && words_before() < self.first_words_free {
            return Err(Breach::TooEarly { words: self.first_words_free });
        }
        let in_sentence = sentence.map_or(0, |sentence| carried.links_in(sentence)) + 1;
        if in_sentence > self.per_sentence {
            return Err(Breach::Sentence { links: in_sentence, most: self.per_sentence });
        }
        let most = self.of_page(carried.words);
        match carried.links.len() < most {
            true => Ok(()),
            false => Err(Breach::Page { links: carried.links.len() + 1, most }),
        }
    }

    /// Whether new links on words of one page keep within the limits; in their order, the breach of each.
    ///
    /// `added` holds the words and the target of each; `linked` says whether the page's content leads to a target
    /// already. O(n + links²) in the links of the page.
    pub fn check_page<T: PartialEq>(
        &self,
        document: &Document,
        added: &[(TextSpan, T)],
        linked: impl Fn(&T) -> bool,
    ) -> Vec<Option<Breach>> {
        let mut carried = Carried::of(document);
        let mut targets: Vec<&T> = Vec::new();
        let mut found = Vec::with_capacity(added.len());
        for (words, target) in added {
            let checked = match targets.contains(&target) || linked(target) {
                true => Err(Breach::SameTarget),
                false => {
                    let before = || words_before(document, *words);
                    self.one_more(&carried, before, document.sentence_around(*words))
                }
            };
            if checked.is_ok() {
                carried.links.push(*words);
                targets.push(target);
            }
            found.push(checked.err());
        }
        found
    }

    /// The same for a whole release: target and anchor text of each of its links, in order. O(links).
    pub fn check_release<'a, T: Into<Target>>(
        &self,
        links: impl IntoIterator<Item = (T, &'a str)>,
    ) -> Vec<Option<Breach>> {
        let mut load = ReleaseLoad::default();
        links.into_iter().map(|(target, anchor)| load.add(*self, &target.into(), anchor).err()).collect()
    }
}

/// How many words of a page's content stand before some of its words. O(n).
fn words_before(document: &Document, words: TextSpan) -> usize {
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let before = content.take_while(|block| block.text.start < words.start).map(|block| {
        let end = block.text.end.min(words.start);
        crate::language::words(document.text().slice(TextSpan::new(block.text.start, end))).count()
    });
    before.sum()
}
