//! What rules need to know of a page beside its text: of one that the site knows, and of one that merely passes.

use chrono::NaiveDate;
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::{Language, fold};
use strelm_core::rules::RulePage;
use strelm_core::site::{Address, PageFacts, PageId, PageKind, Standing, Target, language_of};

/// A page to which rules are applied.
pub(super) struct Subject<'m> {
    pub page: Option<PageId>,
    pub address: &'m Address,
    /// Its categories and tags, folded.
    pub terms: Vec<String>,
    kind: PageKind,
    language: Language,
    published: Option<NaiveDate>,
}

impl<'m> Subject<'m> {
    /// A page of the site.
    pub fn known(facts: &'m PageFacts, tags: &[String]) -> Self {
        Self {
            page: Some(facts.id),
            address: &facts.address,
            terms: facts.category.iter().chain(tags).map(|term| fold(term)).collect(),
            kind: facts.kind,
            language: facts.language,
            published: facts.standing.published,
        }
    }

    /// A page that the site does not know, as far as it tells of itself. O(n).
    pub fn unknown(address: &'m Address, document: &Document) -> Self {
        let head = document.head();
        let declared = head.language.as_deref().filter(|tag| !tag.trim().is_empty()).map(Language::from_tag);
        Self {
            page: None,
            address,
            terms: head.category.iter().map(|term| fold(term)).collect(),
            kind: PageKind::from_signs(head.microformat.as_deref(), head.open_graph_type.as_deref(), false),
            language: declared.or_else(|| language_of(document)).unwrap_or(Language::from_tag("und")),
            published: Standing::of(head, address).published,
        }
    }

    pub fn path(&self) -> &'m str {
        self.address.as_url().path()
    }

    /// As rules see it, with words that are to carry links, and where its reader came from.
    pub fn rule_page<'p>(&'p self, planned: &'p [(TextSpan, Target)], came_from: Option<PageId>) -> RulePage<'p> {
        RulePage {
            page: self.page,
            path: self.path(),
            kind: self.kind,
            terms: &self.terms,
            language: self.language,
            published: self.published,
            came_from,
            planned,
        }
    }
}
