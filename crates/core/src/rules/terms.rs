//! Rules that stand for all terms of a site: each term's name leads to its archive.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::phrase::Phrase;
use super::rule::Rule;
use super::scope::Scope;
use crate::ids::PageId;
use crate::site::{Address, Target};

/// Where a rule leads, as its editor says it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Leads {
    To(Target),
    /// From the name of each term to its archive. The rule has no phrases of its own.
    Archives(OfTerms),
}

/// For which terms a rule stands.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct OfTerms {
    /// The taxonomy, by the folder in which its archives are ([`TermArchive::taxonomy`]); `None` for all of them.
    pub taxonomy: Option<String>,
    /// Terms that fewer pages carry are left out.
    pub least_pages: usize,
    /// Whether a term is linked only on pages that carry it.
    pub only_carriers: bool,
}

/// The archive of a term: the page that lists the pages which carry a category or tag.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TermArchive {
    pub page: PageId,
    /// The folder in which archives of the same taxonomy are, such as `/tag/`.
    pub taxonomy: String,
    /// What the term is called.
    pub name: String,
    /// Pages that carry the term, ascending.
    pub carriers: Vec<PageId>,
}

impl TermArchive {
    /// The folder of an archive. `None` for the entry page, which is no archive. O(length).
    pub fn taxonomy_of(archive: &Address) -> Option<&str> {
        let path = archive.as_url().path();
        let folder = path.trim_end_matches('/').rfind('/')?;
        (path.len() > folder + 1).then(|| &path[..=folder])
    }
}

impl OfTerms {
    /// The archives that are meant. O(archives).
    pub fn among<'t>(&self, archives: &'t [TermArchive]) -> impl Iterator<Item = &'t TermArchive> {
        archives.iter().filter(move |archive| self.takes(archive))
    }

    fn takes(&self, archive: &TermArchive) -> bool {
        archive.carriers.len() >= self.least_pages
            && self.taxonomy.as_ref().is_none_or(|taxonomy| *taxonomy == archive.taxonomy)
    }
}

impl Rule<Leads> {
    /// The rules for which it stands, all with its number: itself, or one for each term whose archive is there. `archives`
    /// ascend by page. O(pages that carry the terms).
    pub fn laid(&self, archives: &[TermArchive]) -> Vec<Rule> {
        match &self.target {
            Leads::To(target) => vec![self.clone().leading(target.clone())],
            Leads::Archives(of) => of.among(archives).filter_map(|archive| self.of_term(of, archive)).collect(),
        }
    }

    /// The one of them that leads to a target; without one, the one that leads to the only target that there is.
    pub fn leading_to(&self, target: Option<&Target>, archives: &[TermArchive]) -> Option<Rule> {
        match &self.target {
            Leads::To(only) => Some(self.clone().leading(only.clone())),
            Leads::Archives(of) => {
                let page = target?.page()?;
                let at = archives.binary_search_by_key(&page, |archive| archive.page).ok()?;
                of.among(archives.get(at..=at)?).find_map(|archive| self.of_term(of, archive))
            }
        }
    }

    fn of_term(&self, of: &OfTerms, archive: &TermArchive) -> Option<Rule> {
        let name = Phrase::words(&archive.name).ok()?;
        let mut rule = Rule { phrases: vec![name], ..self.clone().leading(Target::Page(archive.page)) };
        if of.only_carriers {
            rule.scope.only = carriers_in(&rule.scope, archive);
            // Without any it would hold everywhere.
            if rule.scope.only.is_empty() {
                return None;
            }
        }
        Some(rule)
    }
}

fn carriers_in(scope: &Scope, archive: &TermArchive) -> BTreeSet<PageId> {
    let is_in = |page: &PageId| scope.only.is_empty() || scope.only.contains(page);
    archive.carriers.iter().copied().filter(is_in).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::RuleId;

    fn archive(page: u32, taxonomy: &str, name: &str, carriers: &[u32]) -> TermArchive {
        TermArchive {
            page: PageId(page),
            taxonomy: taxonomy.to_owned(),
            name: name.to_owned(),
            carriers: carriers.iter().copied().map(PageId).collect(),
        }
    }

    fn rule(of: OfTerms) -> Rule<Leads> {
        Rule::new(RuleId(4), Vec::new(), Target::Page(PageId(0))).leading(Leads::Archives(of))
    }

    #[test]
    fn each_term_that_is_used_enough_leads_to_its_archive() {
        let archives = [
            archive(7, "/category/", "Moon", &[1, 2, 3]),
            archive(8, "/tag/", "Red torch", &[1, 2]),
            archive(9, "/tag/", "…", &[1, 2, 3]),
        ];
        let laid = |of: OfTerms| {
            let rules = rule(of).laid(&archives);
            rules.iter().map(|rule| (rule.phrases[0].as_str().to_owned(), rule.target.clone())).collect::<Vec<_>>()
        };
        let (moon, torch) =
            (("Moon".to_owned(), Target::Page(PageId(7))), ("Red torch".to_owned(), Target::Page(PageId(8))));
        // A name without words is none.
        assert_eq!(laid(OfTerms::default()), [moon.clone(), torch.clone()]);
        assert_eq!(laid(OfTerms { least_pages: 3, ..OfTerms::default() }), [moon]);
        assert_eq!(laid(OfTerms { taxonomy: Some("/tag/".to_owned()), ..OfTerms::default() }), [torch]);
        assert_eq!(laid(OfTerms { taxonomy: Some("/topic/".to_owned()), ..OfTerms::default() }), []);
    }

    #[test]
    fn where_only_carriers_are_meant_the_rule_holds_on_them_alone() {
        let archives = [archive(7, "/tag/", "Moon", &[1, 2, 3]), archive(8, "/tag/", "Sun", &[4])];
        let mut rule = rule(OfTerms { only_carriers: true, ..OfTerms::default() });
        let only = |rule: &Rule<Leads>| {
            rule.laid(&archives)
                .iter()
                .map(|rule| rule.scope.only.iter().map(|page| page.0).collect())
                .collect::<Vec<Vec<_>>>()
        };
        assert_eq!(only(&rule), [vec![1, 2, 3], vec![4]]);
        rule.scope.only = [PageId(2), PageId(5)].into();
        assert_eq!(only(&rule), [vec![2]]);
        let to = |page| Target::Page(PageId(page));
        assert_eq!(rule.leading_to(Some(&to(7)), &archives), rule.laid(&archives).pop());
        assert_eq!(rule.leading_to(Some(&to(8)), &archives), None);
        assert_eq!(rule.leading_to(Some(&to(1)), &archives), None);
    }

    #[test]
    fn archives_of_a_taxonomy_share_a_folder() {
        let of = |address: &str| TermArchive::taxonomy_of(&Address::parse(address).unwrap()).map(str::to_owned);
        assert_eq!(of("https://sky.example/tag/red-torch/").as_deref(), Some("/tag/"));
        assert_eq!(of("https://sky.example/topics/sky/moon.html").as_deref(), Some("/topics/sky/"));
        assert_eq!(of("https://sky.example/moon").as_deref(), Some("/"));
        assert_eq!(of("https://sky.example/"), None);
    }
}
