//! What is around a page when rules are applied to it.

use std::collections::HashMap;

use strelm_core::document::Mail;
use strelm_core::language::fold;
use strelm_core::rules::{Around, RuleId, Spot};
use strelm_core::site::{Address, Destination, Target};
use strelm_store::rule::RuleException;

use super::site_rules::SiteRules;
use super::subject::Subject;
use crate::model::Model;

/// A page with what rules ask of its site.
pub(super) struct PageAround<'m> {
    pub model: &'m Model,
    pub rules: &'m SiteRules,
    pub subject: &'m Subject<'m>,
    /// Where what is written in its content leads.
    pub hrefs: &'m HashMap<String, Address>,
    pub is_passing: bool,
}

impl Around for PageAround<'_> {
    fn leads(&self, href: &str) -> Option<Target> {
        let (address, fragment) = match self.subject.address.follow(href) {
            // As it was read, since a page may say where its links start from.
            Destination::Page { address, fragment } => (self.hrefs.get(href).cloned().unwrap_or(address), fragment),
            Destination::Other(scheme) if scheme == "mailto" => return Mail::of(href).map(Target::Mail),
            Destination::Other(_) | Destination::Unusable => return None,
        };
        Some(match (self.model.site.page_at(&address), fragment) {
            (Some(page), None) => Target::Page(page),
            (Some(page), Some(id)) => Target::Place { page, id },
            (None, _) if self.model.site.is_own(&address) => Target::File(address),
            (None, fragment) => Target::Outside { address, fragment },
        })
    }

    fn shares_term(&self, target: &Target) -> bool {
        let category = target.page().and_then(|page| self.model.site.page(page)?.category.as_deref());
        category.is_some_and(|category| self.subject.terms.contains(&fold(category)))
    }

    fn links_here(&self, target: &Target) -> bool {
        let pages = target.page().zip(self.subject.page);
        pages.is_some_and(|(target, page)| self.model.site.leads_to(target, page))
    }

    fn knows_of_other_pages(&self) -> bool {
        !self.is_passing
    }

    fn is_exception(&self, rule: RuleId, spot: Spot) -> bool {
        let page = self.subject.page;
        page.is_some_and(|page| self.rules.exceptions.contains(&RuleException { rule, page, spot }))
    }
}
