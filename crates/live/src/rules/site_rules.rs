//! The rules of a site, put together.

use std::collections::HashSet;
use std::sync::Arc;

use strelm_core::document::LinkSays;
use strelm_core::rules::{Leads, Rule, RuleId, RuleLimits, RuleSet, TermArchive};
use strelm_core::site::Target;
use strelm_store::rule::{KeptRule, RuleException};

/// The rules of a site. They never change: whoever changes a rule puts all together anew.
#[derive(Debug)]
pub struct SiteRules {
    /// Those that are off too, the oldest first.
    pub kept: Vec<KeptRule>,
    /// Those that are on, each as the rules for which it stands.
    pub set: RuleSet,
    pub limits: RuleLimits,
    pub exceptions: HashSet<RuleException>,
    /// For the rules that stand for terms, ascending by page.
    terms: Arc<[TermArchive]>,
}

/// Rules as the database has them.
#[derive(Debug, Default)]
pub(crate) struct LoadedRules {
    pub kept: Vec<KeptRule>,
    pub limits: RuleLimits,
    pub exceptions: HashSet<RuleException>,
}

impl SiteRules {
    /// O(words of all phrases + terms × rules that stand for them).
    fn of(loaded: LoadedRules, terms: Arc<[TermArchive]>) -> Self {
        let LoadedRules { kept, limits, exceptions } = loaded;
        let on = kept.iter().filter(|kept| kept.is_on);
        let set = RuleSet::of(on.flat_map(|kept| kept.rule.laid(&terms)).collect());
        Self { kept, set, limits, exceptions, terms }
    }

    /// With another rule in the place of the one with its number, or beside all. The same cost.
    #[must_use]
    pub fn with(&self, rule: KeptRule) -> Self {
        let mut kept: Vec<_> = self.kept.iter().filter(|kept| kept.rule.id != rule.rule.id).cloned().collect();
        kept.push(rule);
        kept.sort_by_key(|kept| kept.rule.id);
        self.replaced(LoadedRules { kept, limits: self.limits, exceptions: self.exceptions.clone() })
    }

    /// Others with the same terms. The same cost.
    pub(crate) fn replaced(&self, loaded: LoadedRules) -> Self {
        Self::of(loaded, Arc::clone(&self.terms))
    }

    /// The same with other terms. The same cost.
    pub(crate) fn with_terms(&self, terms: Vec<TermArchive>) -> Self {
        let (kept, limits, exceptions) = (self.kept.clone(), self.limits, self.exceptions.clone());
        Self::of(LoadedRules { kept, limits, exceptions }, terms.into())
    }

    /// Whether any of them stands for terms.
    pub(crate) fn are_of_terms(&self) -> bool {
        self.kept.iter().any(|kept| matches!(kept.rule.target, Leads::Archives(_)))
    }

    /// The one with this number.
    pub fn get(&self, rule: RuleId) -> Option<&KeptRule> {
        let at = self.kept.binary_search_by_key(&rule, |kept| kept.rule.id).ok()?;
        self.kept.get(at)
    }

    /// What a rule makes of words that lead to a target; of a rule with one target, wherever they are said to lead.
    pub fn leading_to(&self, rule: RuleId, target: Option<&Target>) -> Option<Rule> {
        self.get(rule)?.rule.leading_to(target, &self.terms)
    }

    /// The rules for which one stands.
    pub fn laid(&self, rule: &KeptRule) -> Vec<Rule> {
        rule.rule.laid(&self.terms)
    }

    /// Whether a rule would make a link that leads to a target and says this. O(what is said + log terms).
    pub fn makes(&self, rule: &KeptRule, target: &Target, says: &[LinkSays]) -> bool {
        rule.rule.makes(target, says, &self.terms)
    }

    /// The categories and tags that have an archive, ascending by page.
    pub fn terms(&self) -> &[TermArchive] {
        &self.terms
    }
}

impl Default for SiteRules {
    fn default() -> Self {
        Self::of(LoadedRules::default(), Arc::default())
    }
}
