//! A page as it was read, before it is written.

use std::collections::HashSet;

use strelm_core::document::{ContentHash, Format, LinkAttributes, Region};
use strelm_core::site::{Address, BlockKey, PageKind, Standing, Validators};

/// A page as it was read.
#[derive(Debug, Clone)]
pub struct ReadPage {
    pub address: Address,
    pub kind: PageKind,
    pub title: String,
    pub heading: Option<String>,
    pub category: Option<String>,
    /// BCP 47.
    pub language: String,
    pub words: u32,
    pub crawled_hash: ContentHash,
    pub main_html: String,
    /// The content as the editing interface gives it.
    pub source: Option<Source>,
    pub links: Vec<ReadLink>,
    /// Its content blocks as crawled.
    pub blocks: Vec<ReadBlock>,
    /// What a fragment can point at.
    pub ids: Vec<String>,
    pub validators: Validators,
    pub says: Says,
    pub standing: Standing,
}

impl ReadPage {
    /// Its words but for those of boilerplate. O(blocks).
    pub(crate) fn own_words(&self, boilerplate: &HashSet<BlockKey>) -> u32 {
        let others =
            self.blocks.iter().filter(|block| boilerplate.contains(&block.key)).filter_map(|block| block.words);
        others.fold(self.words, u32::saturating_sub)
    }
}

/// A content block, by which boilerplate is told.
#[derive(Debug, Clone, Copy)]
pub struct ReadBlock {
    pub key: BlockKey,
    /// Set when the page's words are counted in what was crawled.
    pub words: Option<u32>,
}

/// What a file says of itself ahead of its text.
#[derive(Debug, Clone, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize)]
pub struct Says {
    /// As written.
    pub published: Option<String>,
    pub description: Option<String>,
    pub tags: Vec<String>,
}

/// A page's source as it can be edited.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Source {
    pub text: String,
    pub format: Format,
    pub hash: ContentHash,
}

/// A link as it was read from its page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReadLink {
    pub href: String,
    pub to: Address,
    pub fragment: Option<String>,
    pub anchor: String,
    pub region: Region,
    /// The content block in which it stands.
    pub block: Option<BlockKey>,
    /// Whether the link says `rel=tag`: it leads to the archive of a term.
    pub is_tag: bool,
    /// What it says beside where it leads.
    pub attributes: LinkAttributes,
}

impl ReadLink {
    /// Where it stands: what is in boilerplate is a menu.
    pub(crate) fn region_among(&self, boilerplate: &HashSet<BlockKey>) -> Region {
        match self.block.is_some_and(|block| boilerplate.contains(&block)) {
            true => Region::Menu,
            false => self.region,
        }
    }
}
