//! What can be wrong with a link.

use std::fmt;

use crate::ids::PageId;
use crate::site::{Absence, Address};

/// What can be wrong with a link, the worst first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Fault {
    /// There is nothing at the address.
    Nothing(Absence),
    /// The page is there, but not the place on it.
    NoPlace,
    /// The site sends on from there to this page.
    Moved(PageId),
    /// The address says `http` where the site says `https`, or the other way round.
    OtherScheme(PageId),
    /// The page names this one as the one to be linked to.
    NotCanonical(PageId),
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Nothing(Absence::Status(status)) => write!(f, "nothing there (status {status})"),
            Self::Nothing(Absence::Draft) => f.write_str("a draft that readers cannot see"),
            Self::NoPlace => f.write_str("the page has no such place"),
            Self::Moved(_) => f.write_str("the page has moved"),
            Self::OtherScheme(_) => f.write_str("http and https are mixed up"),
            Self::NotCanonical(_) => f.write_str("the page names another one as canonical"),
        }
    }
}

/// One or more links on a page with the same fault.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FaultyLink {
    pub page: PageId,
    pub to: Address,
    pub fragment: Option<String>,
    pub fault: Fault,
    /// How many of them stand in the page's content, and how many around it.
    pub content: u32,
    pub boilerplate: u32,
    /// The page that it was most likely meant for.
    pub likeliest: Option<PageId>,
}
