//! Links, and what is counted of them, as the site keeps and gives them.

use std::collections::HashMap;

use crate::document::{LinkMarks, Region};
use crate::ids::{ChangeId, PageId};
use crate::site::address::Address;
use crate::site::page::PageFacts;

/// A link on a page, as far as the model needs it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OutLink {
    pub to: Address,
    pub region: Region,
    /// What it says of how it is to be followed.
    pub marks: LinkMarks,
}

/// A link that leads to another site.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LinkAway<'s> {
    pub to: &'s Address,
    pub region: Region,
    pub marks: LinkMarks,
}

/// A link as the model keeps it, in eight bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct KeptLink {
    pub to: AddressIndex,
    pub region: Region,
    pub marks: LinkMarks,
}

/// A page that links to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct InboundPage {
    pub page: PageId,
    /// Links from its content, the tray included.
    pub content: u32,
    /// Links from its menus, header, footer and asides.
    pub boilerplate: u32,
}

/// The number of an address: sites have millions of links, each of which holds one.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) struct AddressIndex(pub u32);

impl AddressIndex {
    /// As an index.
    pub const fn at(self) -> usize {
        self.0 as usize
    }
}

#[derive(Debug)]
pub(super) struct Record {
    pub facts: PageFacts,
    pub address: AddressIndex,
    /// Those to addresses of the site, and those to others.
    pub links: Vec<KeptLink>,
    pub away: Vec<KeptLink>,
}

#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Counts {
    pub content: u32,
    pub boilerplate: u32,
}

/// Who links to an address.
#[derive(Debug, Default)]
pub(super) struct Inbound {
    pub by_page: HashMap<PageId, Counts>,
    /// How many of them do so from their content.
    pub from_content: u32,
}

/// A content link that is to be taken off, or to lead elsewhere.
#[derive(Debug, Clone, Copy)]
pub(super) struct Removal {
    pub change: ChangeId,
    pub to: AddressIndex,
    /// Whether there is such a link on the page, so that it is counted no more.
    pub counts: bool,
}
