//! What a list is made of: a list of nothing but links is a way around, not prose.

use super::region::Region;

/// Fewer links make no menu and no table of contents.
const FEWEST_LINKS: u32 = 3;

/// Of so many bytes of a list's text at least [`LINKED_BYTES`] are linked, or it is prose with links.
const TEXT_BYTES: u64 = 10;
const LINKED_BYTES: u64 = 8;

/// An outermost list, as it is read.
#[derive(Debug, Clone, Copy, Default)]
pub struct List {
    pub links: u32,
    /// Of those, links to places on the same page.
    pub to_this_page: u32,
    /// Bytes of text but white space.
    pub text: u64,
    /// Of those, bytes that are linked.
    pub linked: u64,
    /// Whether it began before the first heading of the page.
    pub is_before_headings: bool,
    /// Whether it stands inside `main` or `article`.
    pub inside_content: bool,
}

impl List {
    /// What a list is that neither landmarks nor names tell about; `None` when it is content.
    pub fn region(&self) -> Option<Region> {
        let mostly_links = self.links >= FEWEST_LINKS && self.linked * TEXT_BYTES >= self.text * LINKED_BYTES;
        match self {
            _ if !mostly_links => None,
            list if list.to_this_page == list.links => Some(Region::Contents),
            list if list.is_before_headings && !list.inside_content => Some(Region::Menu),
            _ => None,
        }
    }
}
