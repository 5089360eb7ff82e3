//! By what pages are found when somebody types a few words: folded once.

use std::collections::HashMap;

use strelm_core::language::fold;
use strelm_core::site::{PageFacts, PageId};

/// What a page is called, in small letters without accents.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Told {
    /// Without the name of the site.
    pub title: Box<str>,
    /// Title, path, category and kind.
    all: Box<str>,
}

/// What all pages are called.
pub(crate) type AllTold = HashMap<PageId, Told>;

impl Told {
    /// `title` is the title of the page without the name of the site.
    pub fn of(page: &PageFacts, title: &str) -> Self {
        let title = fold(title);
        let category = page.category.as_deref().unwrap_or_default();
        let rest = fold(&format!("{} {category} {}", page.address.from_root(), page.kind.as_str()));
        Self { all: format!("{title} {rest}").into(), title: title.into() }
    }

    /// Whether all these words stand in it.
    pub fn holds_all(&self, words: &[String]) -> bool {
        words.iter().all(|word| self.all.contains(word))
    }
}
