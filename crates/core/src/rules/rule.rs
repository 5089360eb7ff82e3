//! A rule as an editor sets it.

use serde::{Deserialize, Serialize};
use url::form_urlencoded;

use super::pace::Pace;
use super::phrase::{Matching, Phrase};
use super::scope::Scope;
use crate::document::LinkSays;
use crate::ids::RuleId;
use crate::site::{Address, Target};

/// Whenever one of these phrases stands in a page, it leads there: to a target, or to what an editor says ([`super::Leads`]).
#[derive(Debug, Clone, PartialEq)]
pub struct Rule<T = Target> {
    /// Of two rules that want the same words, all else being equal, the older one has them.
    pub id: RuleId,
    pub phrases: Vec<Phrase>,
    pub matching: Matching,
    pub target: T,
    /// What its links say beside where they lead.
    pub says: Vec<LinkSays>,
    /// What its links to other sites tell these of where readers come from.
    pub tracking: Tracking,
    pub scope: Scope,
    pub pace: Pace,
    /// Rules of a higher one come first.
    pub priority: i32,
    /// How well its phrases name its target, 0 to 100; where nobody knows, 0.
    pub fit: f64,
}

/// Parameters that are added to addresses of other sites.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub struct Tracking(pub Vec<(String, String)>);

impl<T> Rule<T> {
    /// A rule with nothing but what it needs.
    pub fn new(id: RuleId, phrases: Vec<Phrase>, target: T) -> Self {
        Self {
            id,
            phrases,
            matching: Matching { forms: true, ..Matching::default() },
            target,
            says: Vec::new(),
            tracking: Tracking::default(),
            scope: Scope::default(),
            pace: Pace::default(),
            priority: 0,
            fit: 0.0,
        }
    }

    /// The same rule, leading elsewhere.
    pub fn leading<U>(self, target: U) -> Rule<U> {
        let Self { id, phrases, matching, target: _, says, tracking, scope, pace, priority, fit } = self;
        Rule { id, phrases, matching, target, says, tracking, scope, pace, priority, fit }
    }

    /// Whether a link says what its links say, and nothing else. O(what is said).
    pub(super) fn says_just(&self, says: &[LinkSays]) -> bool {
        // What is only taken back says nothing.
        let said: Vec<_> = says.iter().filter(|says| says.taken_back().is_some()).collect();
        said.len() == self.says.len() && self.says.iter().all(|says| said.contains(&says))
    }

    /// A target as its links write it: with what it tells other sites.
    pub(super) fn written(&self, target: &Target) -> Target {
        match target {
            Target::Outside { address, fragment } => {
                Target::Outside { address: self.tracking.on(address), fragment: fragment.clone() }
            }
            other => other.clone(),
        }
    }
}

impl Rule {
    /// Whether a link leads where its links lead, and says what they say. O(what is said).
    pub fn makes(&self, target: Option<&Target>, says: &[LinkSays]) -> bool {
        target == Some(&self.leads_to()) && self.says_just(says)
    }

    /// Where its links lead as they are written: with what it tells other sites.
    pub fn leads_to(&self) -> Target {
        self.written(&self.target)
    }
}

impl Tracking {
    /// An address with the parameters; those that it has already of the same names are replaced.
    #[must_use]
    pub fn on(&self, address: &Address) -> Address {
        self.with(address, true)
    }

    /// The same without them.
    #[must_use]
    pub fn off(&self, address: &Address) -> Address {
        self.with(address, false)
    }

    fn with(&self, address: &Address, added: bool) -> Address {
        if self.0.is_empty() {
            return address.clone();
        }
        let mut url = address.as_url().clone();
        let is_ours = |name: &str| self.0.iter().any(|(ours, _)| ours == name);
        let others = url.query_pairs().into_owned().filter(|(name, _)| !is_ours(name));
        let ours = self.0.iter().filter(|_| added).cloned();
        let query = form_urlencoded::Serializer::new(String::new()).extend_pairs(others.chain(ours)).finish();
        url.set_query(Some(query.as_str()).filter(|query| !query.is_empty()));
        Address::parse(url.as_str()).unwrap_or_else(|_| address.clone())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tracking_is_put_on_once_and_taken_off_again() {
        let tracking = Tracking(vec![("from".to_owned(), "guides & more".to_owned())]);
        let address = |text: &str| Address::parse(text).unwrap();
        let plain = address("https://shop.example/lamps?size=2");
        let tracked = tracking.on(&plain);
        assert_eq!(tracked.as_url().as_str(), "https://shop.example/lamps?size=2&from=guides+%26+more");
        assert_eq!(tracking.on(&tracked), tracked);
        assert_eq!(tracking.off(&tracked), plain);
        assert_eq!(Tracking::default().on(&plain), plain);
    }
}
