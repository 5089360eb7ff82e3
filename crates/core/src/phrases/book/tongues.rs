//! The languages of the site as a whole, in which the names of all its pages are known.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use super::PhraseBook;
use crate::language::Language;
use crate::phrases::names::Outline;

/// Languages of a site as a whole, at most.
const MOST_LANGUAGES: usize = 4;

/// A language in which so many pages have passages, one of this number, is one of the site as a whole.
const FEW_OF: usize = 10;

impl PhraseBook {
    /// Says that the site as a whole is in a language. Titles and headings may be in it on pages whose text is not: on a
    /// site that is translated in part, and where a page's own language was not recognised. O(names of the site) where that
    /// was not known.
    pub fn speaks(&mut self, language: Language) {
        if self.may_speak(language) {
            self.languages.insert(language);
            let pages: Vec<_> = self.facts.keys().copied().collect();
            pages.into_iter().for_each(|page| self.put_names(page));
        }
    }

    /// Whether it is a language that is not known yet to be one of the site.
    pub(super) fn may_speak(&self, language: Language) -> bool {
        language != Language::Other && self.languages.len() < MOST_LANGUAGES && !self.languages.contains(&language)
    }

    /// The languages in which many pages have passages, those first in which most have.
    pub(super) fn languages_of_passages(&self) -> Vec<Language> {
        let mut pages: BTreeMap<Language, usize> = BTreeMap::new();
        for language in self.outlines.values().flat_map(Outline::languages) {
            *pages.entry(*language).or_default() += 1;
        }
        let mut many: Vec<_> = pages.into_iter().filter(|(_, pages)| pages * FEW_OF >= self.outlines.len()).collect();
        many.sort_by_key(|(_, pages)| Reverse(*pages));
        many.into_iter().map(|(language, _)| language).collect()
    }
}
