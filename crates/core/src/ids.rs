//! Numbers of things that every part of the house speaks of.

use serde::{Deserialize, Serialize};

/// Number of a page within its site: small, dense, never used again for another page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(transparent)]
pub struct PageId(pub u32);

/// Number of a page that is planned and not on the site yet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PlannedPageId(pub i64);

/// Number of an auto-linking rule within its site; a smaller one is older.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct RuleId(pub u32);

/// Number of a change of the links of a page: of a link in the tray, on its way, or out.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ChangeId(pub i64);
