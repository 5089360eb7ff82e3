//! A link that a page carries already, or that is planned there.

use smallvec::SmallVec;

use super::rule::Rule;
use crate::document::{Link, LinkSays, TextSpan};
use crate::site::Target;

/// The `rel` of links that tell what a page is filed under.
const TAG: &str = "tag";

/// A link of a page, as rules see it.
pub(super) struct OldLink {
    pub words: TextSpan,
    /// The rules that would make it of its words.
    pub of_rules: SmallVec<[usize; 1]>,
    /// What it leads to, without the place on it.
    target: Option<Target>,
    /// Whether it tells what the page is filed under, and is no link that its text makes.
    is_tag: bool,
}

impl OldLink {
    /// One that stands on the page and leads there.
    pub fn of(link: &Link, leads: Option<Target>) -> Self {
        let (of_rules, target) = (SmallVec::new(), leads.map(|target| target.whole()));
        Self { words: link.text, of_rules, target, is_tag: link.has_rel(TAG) }
    }

    /// One that words are to carry.
    pub fn planned(words: TextSpan, target: &Target) -> Self {
        Self { words, of_rules: SmallVec::new(), target: Some(target.whole()), is_tag: false }
    }

    /// Whether it leads to a target, as links of a rule do. What a page is filed under says nothing in its text, unless the rule
    /// files pages.
    pub fn is_to(&self, rule: &Rule, target: &Target) -> bool {
        let files = |says: &LinkSays| matches!(says, LinkSays::Rel(token, true) if token == TAG);
        (!self.is_tag || rule.says.iter().any(files))
            && self.target.as_ref().is_some_and(|leads| untracked(rule, leads) == *target)
    }
}

/// What a link leads to, without what the rule adds to addresses.
fn untracked(rule: &Rule, leads: &Target) -> Target {
    match leads {
        Target::Outside { address, fragment } => {
            Target::Outside { address: rule.tracking.off(address), fragment: fragment.clone() }
        }
        other => other.clone(),
    }
}
