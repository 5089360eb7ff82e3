//! Finding pages by a few words: in titles and addresses first, then in the text.

use std::collections::BTreeSet;
use std::sync::Arc;

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::language::{Language, Stemmer, fold, words};
use strelm_core::site::{PageFacts, PageId};

use super::model::Model;
use super::told::{AllTold, Told};

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

    /// What all pages are called. O(letters of it) when first asked for after a page changed, else O(1).
    pub(crate) fn all_told(&self) -> Arc<AllTold> {
        self.answers.told.get(&(), self.at_pages(), || {
            let facts: Vec<&PageFacts> = self.site.pages().collect();
            let told = |page: &&PageFacts| (page.id, Told::of(page, self.book.own_title(&page.title)));
            facts.par_iter().map(told).collect()
        })
    }
}

#[cfg(test)]
mod tests {
    use strelm_core::language::Language;
    use strelm_core::openings::Ensemble;
    use strelm_core::site::{Address, PageKind, Standing};
    use strelm_store::page::KnownPage;

    use super::super::model::GraphDelta;
    use super::*;

    fn page(id: u32, title: &str) -> GraphDelta {
        let facts = PageFacts {
            id: PageId(id),
            address: Address::parse(&format!("https://site.example/{id}/")).unwrap(),
            kind: PageKind::Post,
            title: title.to_owned(),
            heading: None,
            category: Some("Größe".to_owned()),
            words: 3,
            language: Language::Other,
            editable: true,
            standing: Standing::default(),
        };
        let known = KnownPage { facts, gone: None, first_reading: None };
        let (links, fragments, ids) = Default::default();
        GraphDelta { known, links, fragments, version: None, ids }
    }

    #[test]
    fn pages_are_found_by_what_they_are_called_now() {
        let entry = Address::parse("https://site.example/1/").unwrap();
        let mut model = Model::new(entry, Arc::new(Ensemble::shipped().unwrap()));
        model.put_graph(page(1, "Étoiles et planètes"));
        model.put_graph(page(2, "Plan"));
        assert_eq!(model.find("PLAN", 9), [(PageId(2), FoundIn::TitleBegins), (PageId(1), FoundIn::Title)]);
        assert_eq!(model.find("große 2", 9), [(PageId(2), FoundIn::Address)]);
        model.put_graph(page(2, "Carte"));
        assert_eq!(model.find("plan", 9), [(PageId(1), FoundIn::Title)]);
        assert_eq!(model.find("carte", 9), [(PageId(2), FoundIn::TitleBegins)]);
        assert!(Arc::ptr_eq(&model.all_told(), &model.all_told()), "folded once");
    }
}
