//! Limits that keep pages readable. They hold for whoever places links: an editor, a rule, a plan.

mod house_rules;

use std::collections::HashMap;

use thiserror::Error;

use crate::document::{Document, Region, TextSpan};
use crate::language::sentence_around;
use crate::site::PageId;

pub use house_rules::HouseRules;

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

/// What a release brings so far, by target and by words.
#[derive(Debug, Clone, Default)]
pub struct ReleaseLoad {
    by_target: HashMap<PageId, usize>,
    by_phrase: HashMap<(PageId, String), usize>,
}

impl ReleaseLoad {
    /// One link more, where it keeps within the limits. O(1).
    ///
    /// # Errors
    /// The [`Breach`]; then nothing is added.
    pub fn add(&mut self, limits: LinkLimits, target: PageId, anchor: &str) -> Result<(), Breach> {
        let to_target = self.by_target.entry(target).or_default();
        let on_phrase = self.by_phrase.entry((target, anchor.to_lowercase())).or_default();
        if *to_target >= limits.per_target {
            return Err(Breach::Target { most: limits.per_target });
        }
        if *on_phrase >= limits.per_phrase {
            return Err(Breach::Phrase { most: limits.per_phrase });
        }
        (*to_target, *on_phrase) = (*to_target + 1, *on_phrase + 1);
        Ok(())
    }
}

impl LinkLimits {
    /// How many links the content of a page of so many words may carry.
    pub fn of_page(&self, words: usize) -> usize {
        (words / self.words_per_link.max(1)).max(self.per_page_at_least)
    }

    /// Whether new links on words of one page keep within the limits; in their order, the breach of each.
    ///
    /// `added` holds the words and the target of each; `linked` says whether the page's content leads to a target
    /// already. O(n + links²) in the links of the page.
    pub fn check_page(
        &self,
        document: &Document,
        added: &[(TextSpan, PageId)],
        linked: impl Fn(PageId) -> bool,
    ) -> Vec<Option<Breach>> {
        let content = document.links().iter().filter(|link| link.region == Region::Content);
        let mut spans: Vec<TextSpan> = content.map(|link| link.text).collect();
        let most = self.of_page(content_words(document));
        let mut targets: Vec<PageId> = Vec::new();
        let mut found = Vec::with_capacity(added.len());
        for (words, target) in added {
            let in_sentence = self.in_sentence(document, *words, &spans) + 1;
            let breach = if targets.contains(target) || linked(*target) {
                Some(Breach::SameTarget)
            } else if self.is_too_early(document, *words) {
                Some(Breach::TooEarly { words: self.first_words_free })
            } else if in_sentence > self.per_sentence {
                Some(Breach::Sentence { links: in_sentence, most: self.per_sentence })
            } else if spans.len() >= most {
                Some(Breach::Page { links: spans.len() + 1, most })
            } else {
                None
            };
            if breach.is_none() {
                spans.push(*words);
                targets.push(*target);
            }
            found.push(breach);
        }
        found
    }

    /// The same for a whole release: target and anchor text of each of its links, in order. O(links).
    pub fn check_release<'a>(&self, links: impl IntoIterator<Item = (PageId, &'a str)>) -> Vec<Option<Breach>> {
        let mut load = ReleaseLoad::default();
        links.into_iter().map(|(target, anchor)| load.add(*self, target, anchor).err()).collect()
    }

    fn is_too_early(&self, document: &Document, words: TextSpan) -> bool {
        if self.first_words_free == 0 {
            return false;
        }
        let content = document.blocks().iter().filter(|block| block.region == Region::Content);
        let before = content.take_while(|block| block.text.start < words.start).map(|block| {
            let end = block.text.end.min(words.start);
            crate::language::words(document.text().slice(TextSpan::new(block.text.start, end))).count()
        });
        before.sum::<usize>() < self.first_words_free
    }

    fn in_sentence(&self, document: &Document, words: TextSpan, links: &[TextSpan]) -> usize {
        let Some(block) = document.block_of(words).and_then(|id| document.blocks().get(id.0 as usize)) else {
            return 0;
        };
        let in_block = TextSpan::new(words.start - block.text.start, words.end - block.text.start);
        let sentence = sentence_around(document.text().slice(block.text), in_block);
        let sentence = TextSpan::new(block.text.start + sentence.start, block.text.start + sentence.end);
        links.iter().filter(|link| link.overlaps(sentence)).count()
    }
}

fn content_words(document: &Document) -> usize {
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    content.map(|block| crate::language::words(document.text().slice(block.text)).count()).sum()
}
