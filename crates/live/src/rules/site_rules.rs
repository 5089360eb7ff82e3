//! The rules of a site, put together.

use std::collections::HashSet;

use strelm_core::rules::{RuleId, RuleLimits, RuleSet};
use strelm_store::rule::{KeptRule, RuleException};

/// The rules of a site. They never change: whoever changes a rule puts all together anew.
#[derive(Debug)]
pub struct SiteRules {
    /// Those that are off too, the oldest first.
    pub kept: Vec<KeptRule>,
    /// Those that are on.
    pub set: RuleSet,
    pub limits: RuleLimits,
    pub exceptions: HashSet<RuleException>,
}

impl SiteRules {
    /// O(words of all phrases).
    pub fn of(kept: Vec<KeptRule>, limits: RuleLimits, exceptions: HashSet<RuleException>) -> Self {
        let set = RuleSet::of(kept.iter().filter(|kept| kept.is_on).map(|kept| kept.rule.clone()).collect());
        Self { kept, set, limits, exceptions }
    }

    /// With another rule in the place of the one with its number, or beside all. O(words of all phrases).
    #[must_use]
    pub fn with(&self, rule: KeptRule) -> Self {
        let mut kept: Vec<_> = self.kept.iter().filter(|kept| kept.rule.id != rule.rule.id).cloned().collect();
        kept.push(rule);
        kept.sort_by_key(|kept| kept.rule.id);
        Self::of(kept, self.limits, self.exceptions.clone())
    }

    /// The one with this number.
    pub fn get(&self, rule: RuleId) -> Option<&KeptRule> {
        let at = self.kept.binary_search_by_key(&rule, |kept| kept.rule.id).ok()?;
        self.kept.get(at)
    }
}

impl Default for SiteRules {
    fn default() -> Self {
        Self::of(Vec::new(), RuleLimits::default(), HashSet::new())
    }
}
