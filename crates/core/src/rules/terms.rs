//! Rules that stand for all terms of a site: each term's name leads to its archive.

use std::sync::Arc;

use serde::{Deserialize, Serialize};

use super::phrase::Phrase;
use super::rule::Rule;
use crate::document::LinkSays;
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
    pub carriers: Arc<[PageId]>,
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

    /// The archive that a target is, if it is meant.
    fn archive<'t>(&self, target: &Target, archives: &'t [TermArchive]) -> Option<&'t TermArchive> {
        let Target::Page(page) = target else { return None };
        let at = archives.binary_search_by_key(page, |archive| archive.page).ok()?;
        archives.get(at).filter(|archive| self.takes(archive))
    }

    fn takes(&self, archive: &TermArchive) -> bool {
        archive.carriers.len() >= self.least_pages
            && self.taxonomy.as_ref().is_none_or(|taxonomy| *taxonomy == archive.taxonomy)
    }
}

impl Rule<Leads> {
    /// The rules for which it stands, all with its number: itself, or one for each term whose archive is there. `archives`
    /// ascend by page. O(archives).
    pub fn laid(&self, archives: &[TermArchive]) -> Vec<Rule> {
        match &self.target {
            Leads::To(target) => vec![self.clone().leading(target.clone())],
            Leads::Archives(of) => of.among(archives).filter_map(|archive| self.of_term(of, archive)).collect(),
        }
    }

    /// The one of them that leads to a target; without one, the one that leads to the only target that there is. O(log archives).
    pub fn leading_to(&self, target: Option<&Target>, archives: &[TermArchive]) -> Option<Rule> {
        match &self.target {
            Leads::To(only) => Some(self.clone().leading(only.clone())),
            Leads::Archives(of) => self.of_term(of, of.archive(target?, archives)?),
        }
    }

    /// Whether one of them would make a link that leads to a target and says this. O(what is said + log archives).
    pub fn makes(&self, target: &Target, says: &[LinkSays], archives: &[TermArchive]) -> bool {
        let leads = match &self.target {
            Leads::To(only) => self.written(only) == *target,
            Leads::Archives(of) => of.archive(target, archives).is_some(),
        };
        leads && self.says_just(says)
    }

    fn of_term(&self, of: &OfTerms, archive: &TermArchive) -> Option<Rule> {
        let name = Phrase::words(&archive.name).ok()?;
        let mut rule = Rule { phrases: vec![name], ..self.clone().leading(Target::Page(archive.page)) };
        rule.scope.carriers = of.only_carriers.then(|| Arc::clone(&archive.carriers));
        Some(rule)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ids::RuleId;
    use crate::language::Language;
    use crate::rules::{Around, RulePage};
    use crate::site::PageKind;

    struct Nothing;

    impl Around for Nothing {
        fn leads(&self, _: &str) -> Option<Target> {
            None
        }
    }

    fn page_with(number: u32) -> RulePage<'static> {
        RulePage {
            page: Some(PageId(number)),
            path: "/",
            kind: PageKind::Page,
            terms: &[],
            language: Language::English,
            published: None,
            came_from: None,
            planned: &[],
        }
    }

    fn archive(page: u32, taxonomy: &str, name: &str, carriers: &[u32]) -> TermArchive {
        TermArchive {
            page: PageId(page),
            taxonomy: taxonomy.to_owned(),
            name: name.to_owned(),
            carriers: carriers.iter().copied().map(PageId).collect(),
        }
    }

    fn rule(of: OfTerms) -> Rule<Leads> {
        Rule::new(RuleId(4), Vec::new(), Leads::Archives(of))
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
        let on = |rule: &Rule<Leads>| -> Vec<Vec<u32>> {
            let pages = |rule: &Rule| {
                (1..=5).filter(|page| rule.scope.takes(&page_with(*page), &rule.target, &Nothing)).collect()
            };
            rule.laid(&archives).iter().map(pages).collect()
        };
        assert_eq!(on(&rule), [vec![1, 2, 3], vec![4]]);
        rule.scope.only = [PageId(2), PageId(5)].into();
        assert_eq!(on(&rule), [vec![2], vec![]]);
    }

    #[test]
    fn a_link_is_made_by_the_rule_of_its_term() {
        let archives = [archive(7, "/tag/", "Moon", &[1, 2, 3]), archive(8, "/tag/", "Sun", &[4])];
        let rule = rule(OfTerms { least_pages: 2, ..OfTerms::default() });
        let to = |page| Target::Page(PageId(page));
        assert_eq!(rule.leading_to(Some(&to(7)), &archives), rule.laid(&archives).pop());
        for (target, is_made) in [(to(7), true), (to(8), false), (to(1), false)] {
            assert_eq!(rule.leading_to(Some(&target), &archives).is_some(), is_made, "{target:?}");
            assert_eq!(rule.makes(&target, &[], &archives), is_made, "{target:?}");
        }
        let place = Target::Place { page: PageId(7), id: "top".to_owned() };
        assert!(!rule.makes(&place, &[], &archives), "an archive is led to as a whole");
        assert!(!rule.makes(&to(7), &[LinkSays::NewTab(true)], &archives));
        assert_eq!(rule.leading_to(None, &archives), None);
        let plain = Rule::new(RuleId(1), Vec::new(), Leads::To(to(3)));
        assert!(plain.makes(&to(3), &[], &[]) && !plain.makes(&to(4), &[], &[]));
        assert_eq!(plain.leading_to(None, &[]).map(|rule| rule.target), Some(to(3)));
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
