//! The links that a page gets as it passes: those that are carried to it, and those of rules.

use std::collections::HashMap;

use strelm_core::document::{Document, Edit, Format, LinkTarget, TextSpan};
use strelm_core::passing::PassingLink;
use strelm_core::rules::{Reader, apply};
use strelm_core::site::{Address, BlockKey, LinkForm, PageId, Target};
use strelm_core::tray::{Fitting, edit_of, words_of};
use strelm_store::{PgPool, SiteId, StoreError, boilerplate, page};

use super::around::PageAround;
use super::subject::Subject;
use crate::model::Model;

/// A page as it stands or passes.
pub struct PassingPage {
    /// Nothing where the site does not know it.
    pub page: Option<PageId>,
    pub address: Address,
    /// With its boilerplate marked.
    pub document: Document,
    pub tags: Vec<String>,
    /// Where what is written in its content leads, as far as it was read.
    pub hrefs: HashMap<String, Address>,
}

/// What was read of a page, beside its facts.
#[derive(Debug, Default)]
pub struct ReadOfPage {
    /// Its source, where that is HTML as it stands in the page.
    pub html: Option<String>,
    pub tags: Vec<String>,
    /// Where what is written in its content leads.
    pub hrefs: HashMap<String, Address>,
}

impl ReadOfPage {
    /// Two queries.
    ///
    /// # Errors
    /// [`StoreError`].
    pub async fn of(pool: &PgPool, site: SiteId, page: PageId) -> Result<Self, StoreError> {
        let Some(text) = page::text(pool, site, page).await? else { return Ok(Self::default()) };
        let links = page::content_links(pool, site, &[page]).await?;
        Ok(Self {
            html: text.source.filter(|source| source.format == Format::Html).map(|source| source.text),
            tags: text.says.tags,
            hrefs: links.into_iter().map(|link| (link.href, link.to)).collect(),
        })
    }

    /// The page as it stands in a document, with what was read of it. One query.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn page(
        self,
        pool: &PgPool,
        site: SiteId,
        (page, address): (Option<PageId>, Address),
        mut document: Document,
    ) -> Result<PassingPage, StoreError> {
        let blocks = BlockKey::all(&document);
        document.mark_boilerplate(&boilerplate::among(pool, site, &blocks).await?);
        Ok(PassingPage { page, address, document, tags: self.tags, hrefs: self.hrefs })
    }
}

/// What comes to a page as it passes: changes that go together.
#[derive(Debug, Clone, Default)]
pub struct PassingLinks {
    pub links: Vec<PassingLink>,
    /// The pages of the site to which links of rules lead.
    pub rule_targets: Vec<PageId>,
}

impl Model {
    /// The links that a page gets as it passes, the carried ones first. What is in the tray counts for nothing, since it is not
    /// there yet. `form` is how the site writes its links. O(n).
    pub fn links_as_it_passes(
        &self,
        text: &PassingPage,
        form: Option<&LinkForm>,
        came_from: Option<PageId>,
    ) -> PassingLinks {
        let document = &text.document;
        let mut fitting = Fitting::on(document.hash());
        let mut found = PassingLinks::default();
        let mut put = |found: &mut PassingLinks, edit: Edit, words: Option<TextSpan>| {
            let fits = fitting.add(edit.clone()).is_ok();
            if fits {
                found.links.push(PassingLink { edit, words });
            }
            fits
        };
        let mut carried: Vec<(TextSpan, Target)> = Vec::new();
        for entry in text.page.into_iter().flat_map(|page| self.carried(page)) {
            // A sentence that has changed is left alone.
            let Ok(edit) = edit_of(document, entry) else { continue };
            let words = words_of(document, entry).ok().filter(|words| !words.is_empty());
            if put(&mut found, edit, words)
                && let Some((words, target)) = words.zip(entry.link.brings().cloned())
            {
                carried.push((words, target));
            }
        }
        let rules = self.rules();
        if rules.set.rules().is_empty() {
            return found;
        }
        let facts = text.page.and_then(|page| self.site.page(page));
        let subject = match facts {
            Some(facts) => Subject::known(facts, &text.tags),
            None => Subject::unknown(&text.address, document),
        };
        let around = PageAround { model: self, rules, subject: &subject, hrefs: &text.hrefs, is_passing: true };
        let page = subject.rule_page(&carried, came_from);
        let limits = (rules.limits, self.limits().links);
        let applied = apply(&mut Reader::new(&rules.set), document, &page, limits, &around);
        let ground = self.ground(form);
        for link in applied.links(&rules.set) {
            let Some(href) = link.rule.leads_to().href(subject.address, form, &ground) else { continue };
            let target = LinkTarget { href, says: link.rule.says.clone() };
            let Ok(edit) = document.put_link_in(link.words, &target, link.rule.scope.blocks.also_in()) else {
                continue;
            };
            if put(&mut found, edit, Some(link.words)) {
                found.rule_targets.extend(link.rule.target.page());
            }
        }
        found
    }
}
