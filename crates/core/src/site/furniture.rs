//! What stands on most pages in the same place is furniture, whatever its markup says.

use std::collections::{HashMap, HashSet};

use crate::document::{Block, Document, Region};

/// The place and the words of a block: the same on pages on which it is repeated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct BlockKey(u64);

impl BlockKey {
    /// As a database keeps it.
    pub const fn as_i64(self) -> i64 {
        self.0.cast_signed()
    }

    pub const fn from_i64(key: i64) -> Self {
        Self(key.cast_unsigned())
    }

    /// O(text of the block).
    pub fn of(document: &Document, block: &Block) -> Self {
        // FNV-1a, which gives the same on every machine and in every version.
        let add = |hash: u64, byte: u8| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3);
        let mut hash = block.place.0 ^ 0xcbf2_9ce4_8422_2325;
        // White space as one space.
        for (at, word) in
            document.text().slice(block.text).split(char::is_whitespace).filter(|w| !w.is_empty()).enumerate()
        {
            if at > 0 {
                hash = add(hash, b' ');
            }
            hash = word.bytes().fold(hash, add);
        }
        Self(hash)
    }

    /// The content blocks of a page, each key once, in no order.
    pub fn all(document: &Document) -> HashSet<Self> {
        let content = document.blocks().iter().filter(|block| block.region == Region::Content);
        content.map(|block| Self::of(document, block)).collect()
    }
}

/// Counts on how many pages each block stands. Memory: O(different blocks).
#[derive(Debug, Default)]
pub struct Repetition {
    counts: HashMap<BlockKey, u32>,
    pages: u32,
}

impl Repetition {
    /// On fewer pages repetition tells nothing.
    pub const FEWEST_PAGES: u32 = 6;

    /// A block is furniture when it stands on more than one in so many pages.
    pub const ONE_IN: u32 = 2;

    /// O(blocks of the page).
    pub fn add(&mut self, blocks: &HashSet<BlockKey>) {
        self.pages += 1;
        blocks.iter().for_each(|key| *self.counts.entry(*key).or_default() += 1);
    }

    /// The blocks that stand on more than half of the pages; none when there are few pages.
    pub fn furniture(&self) -> HashSet<BlockKey> {
        if self.pages < Self::FEWEST_PAGES {
            return HashSet::new();
        }
        let most = self.counts.iter().filter(|(_, count)| **count * Self::ONE_IN > self.pages);
        most.map(|(key, _)| *key).collect()
    }
}

impl Document {
    /// Takes repeated blocks out of the content, and their links with them: what is mostly links becomes a menu, other
    /// words an aside. O(n).
    pub fn mark_furniture(&mut self, furniture: &HashSet<BlockKey>) {
        if furniture.is_empty() {
            return;
        }
        let mut linked = vec![0; self.blocks().len()];
        for link in self.links() {
            if let Some(bytes) = link.block.and_then(|block| linked.get_mut(block.0 as usize)) {
                *bytes += self.text().slice(link.text).trim().len();
            }
        }
        let regions = self.blocks().iter().zip(linked).map(|(block, linked)| {
            let is_repeated = block.region == Region::Content && furniture.contains(&BlockKey::of(self, block));
            let whole = self.text().slice(block.text).trim().len();
            is_repeated.then_some(if linked * 10 >= whole * 6 { Region::Menu } else { Region::Aside })
        });
        let regions: Vec<_> = regions.collect();
        self.set_regions(&regions);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn page(number: usize) -> Document {
        // Neither landmarks nor names tell the parts of this template apart.
        Document::from_html(format!(
            "<table><tr><td><a href=/>Home</a> <a href=/about>About</a></td></tr><tr><td><h1>Page {number}</h1>\
             <p>Words of page {number}, and <a href=/{number}>one link</a>.</p><p>See also: <a href=/help>help</a></p>\
             </td></tr><tr><td>Made by hand in the north of the town.</td></tr></table>"
        ))
    }

    #[test]
    fn what_most_pages_have_in_common_is_no_content() {
        let mut repetition = Repetition::default();
        for number in 0..9 {
            repetition.add(&BlockKey::all(&page(number)));
        }
        // Some pages have another template.
        for number in 0..4 {
            repetition.add(&BlockKey::all(&Document::from_html(format!("<p>Words of page {number}.</p>"))));
        }
        let furniture = repetition.furniture();
        let mut document = page(3);
        document.mark_furniture(&furniture);
        let regions: Vec<_> = document.blocks().iter().map(|block| block.region).collect();
        let expected = [Region::Menu, Region::Content, Region::Content, Region::Aside, Region::Aside];
        assert_eq!(regions, expected);
        let links: Vec<_> = document.links().iter().map(|link| (link.href.as_str(), link.region)).collect();
        let expected =
            [("/", Region::Menu), ("/about", Region::Menu), ("/3", Region::Content), ("/help", Region::Aside)];
        assert_eq!(links, expected);
    }

    #[test]
    fn few_pages_tell_nothing() {
        let mut repetition = Repetition::default();
        (0..5).for_each(|number| repetition.add(&BlockKey::all(&page(number))));
        assert!(repetition.furniture().is_empty());
    }
}
