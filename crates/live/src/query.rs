//! Which pages are asked for.

use serde::Deserialize;
use strelm_core::site::PageKind;
use utoipa::ToSchema;

use super::columns::{Column, ColumnRange};

/// Which pages are listed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Only {
    /// Links in = 0.
    Orphans,
    /// Not within reach of the entry pages.
    Unreachable,
    /// Pages with text whose content leads to no other page.
    DeadEnds,
    /// Pages with links that lead nowhere.
    Broken,
    /// Pages that the latest reading found for the first time.
    Fresh,
    /// Those of them to which no content links.
    FreshUnlinked,
    /// Pages with links in the tray, on them or to them.
    InTray,
    /// Pages to which openings lead.
    Offered,
    /// Pages to which all ways lead over one link or one page.
    Threads,
    /// Pages that hang together with others out of reach.
    Islands,
}

/// Which pages, in which order.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PageQuery {
    /// Words that title, address, category or kind must hold, in any order.
    pub text: String,
    pub only: Option<Only>,
    pub kind: Option<PageKind>,
    pub category: Option<String>,
    pub ranges: Vec<ColumnRange>,
    pub sort: Column,
    pub descending: bool,
}

impl PageQuery {
    /// Whether it asks for what is worked out of the graph as a whole.
    pub fn tells_of_soundings(&self) -> bool {
        self.sort == Column::Equity || matches!(self.only, Some(Only::Threads | Only::Islands))
    }
}
