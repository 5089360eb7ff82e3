//! How often phrases stand on the site.

use std::sync::Arc;
use std::sync::atomic::{AtomicU32, Ordering};

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use rustc_hash::FxHashMap;

use super::PhraseBook;
use crate::phrases::places::{each_phrase, places_of};
use crate::phrases::prose::Prose;
use crate::phrases::trie::PhraseId;
use crate::site::PageId;

/// How a phrase stands in the prose of the whole site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct PhraseUse {
    /// Places without a link.
    pub stands: u32,
    /// Links in prose whose words it is.
    pub linked: u32,
    /// Pages on which it stands, linked or not.
    pub pages: u32,
}

/// How often all phrases stand on a site, while it is being counted.
#[derive(Debug)]
pub struct Counts {
    stands: Vec<AtomicU32>,
    pages: Vec<AtomicU32>,
    /// How often prose had changed when they were begun.
    prose_changed: u64,
}

impl Counts {
    fn of(&self, phrase: PhraseId) -> Option<(&AtomicU32, &AtomicU32)> {
        let number = phrase.0 as usize;
        self.stands.get(number).zip(self.pages.get(number))
    }
}

impl PhraseBook {
    /// Counts where phrases stand, once for the whole site; from then on each delta keeps the counts right. Where
    /// many passages are in a language by now that was none of the site's, the names of all pages are known in that, too,
    /// and all is counted anew. O(words of the site) both times, else O(1), and O(pages) after a delta.
    pub fn settle(&mut self) {
        self.settle_languages();
        if self.is_counted {
            return;
        }
        let counts = self.counts();
        let pages: Vec<_> = self.prose.keys().copied().collect();
        self.count_into(&counts, &pages);
        self.put_counts(&counts);
    }

    /// The first part of [`PhraseBook::settle`]: afterwards, names are known in all languages of the site.
    pub fn settle_languages(&mut self) {
        if std::mem::take(&mut self.passages_changed) {
            let fresh: Vec<_> = self.languages_of_passages().into_iter().filter(|it| self.may_speak(*it)).collect();
            self.is_counted &= fresh.is_empty();
            fresh.into_iter().for_each(|language| self.speaks(language));
        }
    }

    /// Whether the counts of phrases are those of the prose.
    pub const fn is_counted(&self) -> bool {
        self.is_counted
    }

    /// Says that so many texts are to come or to go that all is better counted at the end: until then deltas count
    /// nothing.
    pub const fn uncount(&mut self) {
        self.is_counted = false;
    }

    /// Counts of all phrases, none of which was counted yet. O(phrases).
    pub fn counts(&self) -> Counts {
        let none = || self.phrases.iter().map(|_| AtomicU32::new(0)).collect();
        Counts { stands: none(), pages: none(), prose_changed: self.prose_changed }
    }

    /// Counts what stands on some pages, side by side, while others may read the book. O(words of the pages).
    pub fn count_into(&self, counts: &Counts, pages: &[PageId]) {
        pages.par_iter().filter_map(|page| self.prose.get(page)).for_each(|prose| {
            for (phrase, stands) in self.found_in(prose) {
                if let Some((all_stands, all_pages)) = counts.of(phrase) {
                    all_stands.fetch_add(stands, Ordering::Relaxed);
                    all_pages.fetch_add(1, Ordering::Relaxed);
                }
            }
        });
    }

    /// Takes over counts of all pages; `false` when prose or phrases changed since they were begun, so that they are to
    /// be counted once more. O(phrases).
    pub fn put_counts(&mut self, counts: &Counts) -> bool {
        if counts.prose_changed != self.prose_changed || counts.stands.len() != self.phrases.len() {
            return false;
        }
        for (phrase, (stands, pages)) in self.phrases.iter_mut().zip(counts.stands.iter().zip(&counts.pages)) {
            phrase.stands = stands.load(Ordering::Relaxed);
            phrase.pages = pages.load(Ordering::Relaxed);
        }
        self.is_counted = true;
        // From now on they grow slowly, if at all.
        self.shrink_to_fit();
        true
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
        for (phrase, stands) in self.found_in(prose) {
            let phrase = &mut self.phrases[phrase.0 as usize];
            phrase.pages = phrase.pages.saturating_add_signed(by);
            phrase.stands = phrase.stands.saturating_add_signed(by * stands.cast_signed());
        }
    }

    /// The phrases in a text, and how often each stands there without a link.
    fn found_in(&self, prose: &Prose) -> FxHashMap<PhraseId, u32> {
        let mut found: FxHashMap<PhraseId, u32> = FxHashMap::default();
        each_phrase(&self.trie, prose, |phrase, _, _, is_linked| {
            *found.entry(phrase).or_default() += u32::from(!is_linked);
        });
        found
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
    pub fn standing(&self, phrase: PhraseId) -> PhraseUse {
        let known = &self.phrases[phrase.0 as usize];
        PhraseUse { stands: known.stands, pages: known.pages, linked: self.anchors.linked(phrase) }
    }
}
