//! Which of several places comes first. Nothing here hangs on the order in which rules are given.

use std::cmp::Reverse;

use super::mention::Mention;
use super::rule_set::RuleSet;

/// The smallest comes first: higher priority, longer phrase, higher fit, older rule, earlier on the page.
pub(super) type Turn = (Reverse<i32>, Reverse<(usize, usize)>, Reverse<u64>, u32, usize, usize, usize);

pub(super) fn turn_of(rules: &RuleSet, mention: &Mention) -> Turn {
    let rule = &rules.rules()[mention.rule];
    // Numbers with a point that are not below zero are in the order of their bits.
    let fit = rule.fit.max(0.0).to_bits();
    let length = rules.length((mention.rule, mention.phrase));
    let at = mention.words;
    (Reverse(rule.priority), Reverse(length), Reverse(fit), rule.id.0, at.start, at.end, mention.phrase)
}
