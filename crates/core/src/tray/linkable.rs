//! Which pages may be linked, and on which words: not what was passed, what is linked, or what the limits of the site leave
//! out.

use std::collections::{BTreeMap, HashSet};

use chrono::NaiveDate;

use super::contents::Tray;
use super::passed::{Passes, key_of};
use crate::document::{ContentHash, QuotedSentence, TextSpan};
use crate::ids::PageId;
use crate::language::fold;
use crate::limits::SiteLimits;
use crate::openings::Unwanted;
use crate::phrases::PhraseBook;
use crate::site::Site;

/// The editor's wishes over one site.
#[derive(Clone, Copy)]
pub struct Linkable<'m> {
    pub site: &'m Site,
    pub book: &'m PhraseBook,
    /// The version of each source that the prose was read from.
    pub versions: &'m BTreeMap<PageId, ContentHash>,
    pub passes: &'m Passes,
    pub tray: &'m Tray,
    pub limits: &'m SiteLimits,
    /// Words that never carry a link, folded.
    pub never_words: &'m HashSet<String>,
    /// By which the age of pages is told.
    pub today: NaiveDate,
}

impl Unwanted for Linkable<'_> {
    fn pair(&self, source: PageId, target: PageId) -> bool {
        self.passes.is_pair_passed(source, target)
            || self.site.leads_to(source, target)
            || (!self.limits.links_back && self.book.anchors().is_linked_in_prose(target, source))
            || self.is_left_out(source)
            || self.is_left_out(target)
            || self.stands_in(target)
            || self.is_too_old(target)
            || self.is_version(source, target)
            || self.is_version(target, source)
    }

    fn words(&self, source: PageId, target: PageId, words: TextSpan) -> bool {
        let Some(prose) = self.book.prose(source) else { return true };
        let shown = prose.text().get(words.range()).unwrap_or_default();
        if !self.never_words.is_empty() && self.never_words.contains(&fold(shown)) {
            return true;
        }
        if !self.passes.has_places(source, target) || prose.block_around(words).is_none() {
            return false;
        }
        let said = QuotedSentence::of(prose.text(), prose.sentence_around(words), words);
        self.passes.is_place_passed(source, target, &key_of(&said.before, &said.anchor, &said.after))
    }

    fn planned(&self, source: PageId) -> Vec<TextSpan> {
        let version = self.versions.get(&source);
        let current = self.tray.on(source).filter(|entry| Some(&entry.link.source_hash) == version);
        current.map(|entry| entry.link.words).collect()
    }
}

impl Linkable<'_> {
    fn is_left_out(&self, page: PageId) -> bool {
        let category = self.site.page(page).and_then(|page| page.category.as_deref());
        category.is_some_and(|category| self.limits.left_out.iter().any(|left_out| left_out == category))
    }

    /// Whether a page was published too long ago to be led to.
    pub fn is_too_old(&self, page: PageId) -> bool {
        let published = self.site.page(page).and_then(|page| page.standing.published);
        self.limits.is_too_old(published, self.today)
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
