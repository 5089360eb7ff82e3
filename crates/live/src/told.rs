//! By what pages are found when somebody types a few words: folded once, as long as no text changes.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::language::fold;
use strelm_core::site::{PageFacts, PageId};

use super::model::Model;

/// What a page is called, in small letters without accents.
#[derive(Debug, PartialEq, Eq)]
pub(super) struct Told {
    /// Without the name of the site.
    pub title: Box<str>,
    /// Title, path, category and kind.
    all: Box<str>,
}

impl Told {
    fn of(model: &Model, page: &PageFacts) -> Self {
        let title = fold(model.book.own_title(&page.title));
        let category = page.category.as_deref().unwrap_or_default();
        let rest = fold(&format!("{} {category} {}", page.address.from_root(), page.kind.as_str()));
        Self { all: format!("{title} {rest}").into(), title: title.into() }
    }

    /// Whether all these words stand in it.
    pub fn holds_all(&self, words: &[String]) -> bool {
        words.iter().all(|word| self.all.contains(word))
    }
}

/// What all pages were called when texts had changed so often.
struct At {
    texts_changed: u64,
    pages: Arc<HashMap<PageId, Told>>,
}

/// What all pages were called when somebody asked last.
#[derive(Default)]
pub(super) struct AllTold(Mutex<Option<At>>);

impl Model {
    /// What all pages are called. O(letters of it) when first asked for after a change of a text, else O(1).
    pub(super) fn all_told(&self) -> Arc<HashMap<PageId, Told>> {
        let mut known = self.told.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(at) = known.as_ref().filter(|at| at.texts_changed == self.texts_changed) {
            return Arc::clone(&at.pages);
        }
        let facts: Vec<&PageFacts> = self.site.pages().collect();
        let pages = Arc::new(facts.par_iter().map(|page| (page.id, Told::of(self, page))).collect());
        *known = Some(At { texts_changed: self.texts_changed, pages: Arc::clone(&pages) });
        pages
    }
}

#[cfg(test)]
mod tests {
    use strelm_core::language::Language;
    use strelm_core::openings::Ensemble;
    use strelm_core::site::{Address, PageKind, Standing};
    use strelm_store::page::KnownPage;

    use super::super::find::FoundIn;
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
