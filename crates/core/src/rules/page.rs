//! What rules need to know of a page beside its text.

use chrono::NaiveDate;

use super::spot::Spot;
use crate::document::TextSpan;
use crate::ids::{PageId, RuleId};
use crate::language::Language;
use crate::site::{PageKind, Target};

/// A page that is read for rules.
#[derive(Debug, Clone, Copy)]
pub struct RulePage<'p> {
    /// `None` for one that the site does not know.
    pub page: Option<PageId>,
    /// The path of its address.
    pub path: &'p str,
    pub kind: PageKind,
    /// Its categories and tags, folded.
    pub terms: &'p [String],
    pub language: Language,
    pub published: Option<NaiveDate>,
    /// The page from which its reader came, where somebody reads it now.
    pub came_from: Option<PageId>,
    /// Words that are to carry a link, as though it stood there, and where that leads.
    pub planned: &'p [(TextSpan, Target)],
}

/// What is around a page.
pub trait Around {
    /// Where a link of the page leads, by its `href`.
    fn leads(&self, href: &str) -> Option<Target>;

    /// Whether the page has a category or tag in common with a target.
    fn shares_term(&self, _target: &Target) -> bool {
        false
    }

    /// Whether a target links to the page.
    fn links_here(&self, _target: &Target) -> bool {
        false
    }

    /// Whether somebody counts the links that rules make on other pages. If not, a rule that may make only so many on the
    /// whole site makes none.
    fn knows_of_other_pages(&self) -> bool {
        true
    }

    /// Whether an editor passed a link of a rule in this place.
    fn is_exception(&self, _rule: RuleId, _spot: Spot) -> bool {
        false
    }
}
