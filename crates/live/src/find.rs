//! Finding pages by a few words: in titles and addresses first, then in the text.

use std::collections::BTreeSet;

use strelm_core::language::{Language, Stemmer, fold, words};
use strelm_core::site::PageId;

use super::model::Model;
use super::told::Told;

/// Where the words stand, the best place first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum FoundIn {
    TitleBegins,
    Title,
    Address,
    Text,
}

impl Model {
    /// Pages whose title, address, category or kind holds all the words, then pages whose text does; at most `most`.
    /// Of equals those come first to which more pages link. O(pages).
    pub fn find(&self, text: &str, most: usize) -> Vec<(PageId, FoundIn)> {
        let wanted: Vec<_> = text.split_whitespace().map(fold).collect();
        if wanted.is_empty() {
            return Vec::new();
        }
        let whole = wanted.join(" ");
        let place = |told: &Told| match &*told.title {
            title if title.starts_with(&whole) => FoundIn::TitleBegins,
            title if wanted.iter().all(|word| title.contains(word)) => FoundIn::Title,
            _ => FoundIn::Address,
        };
        let all_told = self.all_told();
        let mut found: Vec<_> = all_told
            .iter()
            .filter(|(_, told)| told.holds_all(&wanted))
            .map(|(page, told)| (place(told), std::cmp::Reverse(self.links_in(*page)), *page))
            .collect();
        if found.len() < most {
            let named: std::collections::HashSet<_> = found.iter().map(|(.., page)| *page).collect();
            let in_text =
                self.book.pages_with_words(&self.stems(text)).into_iter().filter(|page| !named.contains(page));
            found.extend(in_text.map(|page| (FoundIn::Text, std::cmp::Reverse(self.links_in(page)), page)));
        }
        found.sort_unstable();
        found.into_iter().take(most).map(|(place, _, page)| (page, place)).collect()
    }

    fn links_in(&self, page: PageId) -> u32 {
        self.site.figures(page).map_or(0, |figures| figures.links_in)
    }

    /// The words as pages in any of the site's languages may have them.
    fn stems(&self, text: &str) -> Vec<Vec<String>> {
        let languages: BTreeSet<Language> = self.site.pages().map(|page| page.language).collect();
        let stem = |language| {
            let stemmer = Stemmer::new(language);
            words(text).map(|word| stemmer.stem(word.text)).collect::<Vec<_>>()
        };
        let mut all: Vec<_> = languages.into_iter().map(stem).collect();
        all.sort();
        all.dedup();
        all
    }
}
