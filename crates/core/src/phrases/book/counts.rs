//! How often phrases stand on the site.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::PhraseBook;
use crate::phrases::places::{each_phrase, places_of};
use crate::phrases::trie::PhraseId;
use crate::site::PageId;

/// How a phrase stands in the prose of the whole site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Standing {
    /// Places without a link.
    pub stands: u32,
    /// Links in prose whose words it is.
    pub linked: u32,
    /// Pages on which it stands, linked or not.
    pub pages: u32,
}

impl PhraseBook {
    /// Counts where phrases stand, once for the whole site; from then on each delta keeps the counts right. Where
    /// many passages are in a language by now that was none of the site's, the names of all pages are known in that, too,
    /// and all is counted anew. O(words of the site) both times, else O(1), and O(pages) after a delta.
    pub fn settle(&mut self) {
        if std::mem::take(&mut self.passages_changed) {
            let fresh: Vec<_> = self.languages_of_passages().into_iter().filter(|it| self.may_speak(*it)).collect();
            self.is_counted &= fresh.is_empty();
            fresh.into_iter().for_each(|language| self.speaks(language));
        }
        if self.is_counted {
            return;
        }
        self.is_counted = true;
        self.phrases.iter_mut().for_each(|phrase| (phrase.stands, phrase.pages) = (0, 0));
        let pages: Vec<_> = self.prose.keys().copied().collect();
        pages.into_iter().for_each(|page| self.count(page, 1));
        // From now on they grow slowly, if at all.
        self.shrink_to_fit();
    }

    /// Gives back the room that lists took for growing, and that of the stems that were met.
    pub(crate) fn shrink_to_fit(&mut self) {
        self.stems = Arc::default();
        self.phrases.shrink_to_fit();
        self.pages_with.shrink_to_fit();
        self.named_with.shrink_to_fit();
    }

    /// Adds or takes off what stands on a page.
    pub(super) fn count(&mut self, page: PageId, by: i32) {
        let Some(prose) = self.prose.get(&page).filter(|_| self.is_counted) else { return };
        let mut found: FxHashMap<PhraseId, u32> = FxHashMap::default();
        each_phrase(&self.trie, prose, |phrase, _, _, is_linked| {
            *found.entry(phrase).or_default() += u32::from(!is_linked);
        });
        for (phrase, stands) in found {
            let phrase = &mut self.phrases[phrase.0 as usize];
            phrase.pages = phrase.pages.saturating_add_signed(by);
            phrase.stands = phrase.stands.saturating_add_signed(by * stands.cast_signed());
        }
    }

    /// Counts a phrase that was not known before. O(pages with its words).
    pub(super) fn count_new(&mut self, phrase: PhraseId) {
        if !self.is_counted {
            return;
        }
        let terms = self.phrases[phrase.0 as usize].terms.clone();
        let (mut pages, mut stands) = (0, 0);
        for page in self.pages_with_all(&terms) {
            let Some(prose) = self.prose.get(&page) else { continue };
            let places = places_of(&terms, prose);
            pages += u32::from(!places.is_empty());
            stands += places.iter().filter(|(_, is_linked)| !is_linked).count();
        }
        let phrase = &mut self.phrases[phrase.0 as usize];
        phrase.pages += pages;
        phrase.stands += u32::try_from(stands).unwrap_or(u32::MAX);
    }

    /// O(1). Where phrases stand is known after [`PhraseBook::settle`].
    pub fn standing(&self, phrase: PhraseId) -> Standing {
        let known = &self.phrases[phrase.0 as usize];
        Standing { stands: known.stands, pages: known.pages, linked: self.anchors.linked(phrase) }
    }
}
