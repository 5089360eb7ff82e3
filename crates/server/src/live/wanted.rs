//! What of all that could be linked is wanted: not what was passed, what is linked, or what the rules of the house leave
//! out.

use std::collections::{BTreeMap, HashSet};

use chrono::NaiveDate;
use strelm_core::document::{ContentHash, TextSpan};
use strelm_core::language::{fold, sentence_around};
use strelm_core::limits::HouseRules;
use strelm_core::openings::Unwanted;
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{PageId, Site};
use strelm_store::passed::key_of;

use super::passes::Passes;
use super::planned::Planned;
use crate::words::sentence_pieces;

/// The editor's wishes over one model.
#[derive(Clone, Copy)]
pub struct Wanted<'m> {
    pub site: &'m Site,
    pub book: &'m PhraseBook,
    pub versions: &'m BTreeMap<PageId, ContentHash>,
    pub passes: &'m Passes,
    pub planned: &'m Planned,
    pub rules: &'m HouseRules,
    pub never_words: &'m HashSet<String>,
    pub today: NaiveDate,
}

impl Unwanted for Wanted<'_> {
    fn pair(&self, source: PageId, target: PageId) -> bool {
        self.passes.is_pair_passed(source, target)
            || self.site.leads_to(source, target)
            || (!self.rules.links_back && self.book.anchors().is_linked_in_prose(target, source))
            || self.is_left_out(source)
            || self.is_left_out(target)
            || self.stands_in(target)
            || self.is_too_old(target)
            || self.is_version(source, target)
            || self.is_version(target, source)
    }

    fn words(&self, source: PageId, target: PageId, words: TextSpan) -> bool {
        let Some(prose) = self.book.prose(source) else { return true };
        let shown = |span: TextSpan| prose.text().get(span.range()).unwrap_or_default();
        if !self.never_words.is_empty() && self.never_words.contains(&fold(shown(words))) {
            return true;
        }
        if !self.passes.has_places(source, target) {
            return false;
        }
        let Some((block, _)) = prose.block_around(words) else { return false };
        let in_block = TextSpan::new(words.start - block.start, words.end - block.start);
        let sentence = sentence_around(shown(block), in_block);
        let sentence = TextSpan::new(block.start + sentence.start, block.start + sentence.end);
        let (before, anchor, after) = sentence_pieces(prose.text(), sentence, words);
        self.passes.is_place_passed(source, target, &key_of(&before, &anchor, &after))
    }

    fn planned(&self, source: PageId) -> Vec<TextSpan> {
        let version = self.versions.get(&source);
        let current = self.planned.on(source).filter(|taken| Some(&taken.link.source_hash) == version);
        current.map(|taken| taken.link.words).collect()
    }
}

impl Wanted<'_> {
    fn is_left_out(&self, page: PageId) -> bool {
        let category = self.site.page(page).and_then(|page| page.category.as_deref());
        category.is_some_and(|category| self.rules.left_out.iter().any(|left_out| left_out == category))
    }

    /// Whether a page was published too long ago to be led to.
    pub fn is_too_old(&self, page: PageId) -> bool {
        let published = self.site.page(page).and_then(|page| page.standing.published);
        self.rules.is_too_old(published, self.today)
    }

    /// Whether a page names another one as the one to be linked to in its stead.
    fn stands_in(&self, page: PageId) -> bool {
        let canonical = self.site.page(page).and_then(|page| page.standing.canonical.as_ref());
        canonical.and_then(|canonical| self.site.page_at(canonical)).is_some_and(|canonical| canonical != page)
    }

    /// Whether one page is the other in another language.
    fn is_version(&self, page: PageId, other: PageId) -> bool {
        let standing = self.site.page(page).map(|page| &page.standing);
        standing.is_some_and(|standing| {
            standing.versions.iter().any(|version| self.site.page_at(&version.address) == Some(other))
        })
    }
}
