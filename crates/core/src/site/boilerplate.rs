//! What stands on most pages, or on nearly all pages of one folder, in the same place is boilerplate, whatever its markup says.

use std::collections::{HashMap, HashSet};

use super::Address;
use crate::document::{Block, Document, Region};

/// The place and the words of a block: the same on pages on which it is repeated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct BlockKey(u64);

impl BlockKey {
    /// As a database keeps it.
    pub const fn as_i64(self) -> i64 {
        self.0.cast_signed()
    }

    /// A key that was kept in a database.
    pub const fn from_i64(key: i64) -> Self {
        Self(key.cast_unsigned())
    }

    /// O(text of the block).
    pub fn of(document: &Document, block: &Block) -> Self {
        // FNV-1a, which gives the same on every machine and in every version.
        let add = |hash: u64, byte: u8| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3);
        let mut hash = block.place.0 ^ 0xcbf2_9ce4_8422_2325;
        // White space as one space.
        for (at, word) in document.text().slice(block.text).split_whitespace().enumerate() {
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

/// Counts on how many pages each block stands, folder by folder. Memory: O(different blocks of each folder).
#[derive(Debug, Default)]
pub struct Repetition {
    folders: HashMap<String, Repeated>,
}

#[derive(Debug, Default)]
struct Repeated {
    pages: u32,
    counts: HashMap<BlockKey, u32>,
}

impl Repetition {
    /// On fewer pages repetition tells nothing.
    pub const FEWEST_PAGES: u32 = 6;

    /// On fewer pages of one folder it tells nothing.
    pub const FEWEST_OF_FOLDER: u32 = 12;

    /// A block is boilerplate when it stands on more than so many in ten pages.
    pub const IN_TEN: u32 = 5;

    /// Of the pages of one folder: articles of one kind may have more in common than a template.
    pub const IN_TEN_OF_FOLDER: u32 = 8;

    /// O(blocks of the page).
    pub fn add(&mut self, page: &Address, blocks: &HashSet<BlockKey>) {
        let repeated = self.folders.entry(folder(page).to_owned()).or_default();
        repeated.pages += 1;
        blocks.iter().for_each(|key| *repeated.counts.entry(*key).or_default() += 1);
    }

    /// The blocks that stand on more than half of the pages, or on nearly all of one folder; none when there are few.
    pub fn boilerplate(&self) -> HashSet<BlockKey> {
        let mut all = Repeated::default();
        let mut boilerplate = HashSet::new();
        for folder in self.folders.values() {
            boilerplate.extend(folder.boilerplate(Self::FEWEST_OF_FOLDER, Self::IN_TEN_OF_FOLDER));
            all.pages += folder.pages;
            folder.counts.iter().for_each(|(key, count)| *all.counts.entry(*key).or_default() += count);
        }
        boilerplate.extend(all.boilerplate(Self::FEWEST_PAGES, Self::IN_TEN));
        boilerplate
    }
}

impl Repeated {
    fn boilerplate(&self, fewest: u32, in_ten: u32) -> impl Iterator<Item = BlockKey> {
        let is_boilerplate = move |count: u32| self.pages >= fewest && count * 10 > self.pages * in_ten;
        self.counts.iter().filter(move |(_, count)| is_boilerplate(**count)).map(|(key, _)| *key)
    }
}

/// The address of a page up to its name.
fn folder(page: &Address) -> &str {
    let url = page.as_str();
    let path = url.split(['?', '#']).next().unwrap_or(url).trim_end_matches('/');
    path.rfind('/').map_or(path, |end| &path[..end])
}

impl Document {
    /// Takes repeated blocks out of the content, and their links with them: what is mostly links becomes a menu, other
    /// words an aside. O(n).
    pub fn mark_boilerplate(&mut self, boilerplate: &HashSet<BlockKey>) {
        if boilerplate.is_empty() {
            return;
        }
        let mut linked = vec![0; self.blocks().len()];
        for link in self.links() {
            if let Some(bytes) = link.block.and_then(|block| linked.get_mut(block.0 as usize)) {
                *bytes += self.text().slice(link.text).trim().len();
            }
        }
        let regions = self.blocks().iter().zip(linked).map(|(block, linked)| {
            let is_repeated = block.region == Region::Content && boilerplate.contains(&BlockKey::of(self, block));
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

    fn address(folder: &str, number: usize) -> Address {
        Address::parse(&format!("https://sky.example/{folder}/{number}.html")).unwrap()
    }

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
            repetition.add(&address("all", number), &BlockKey::all(&page(number)));
        }
        // Some pages have another template.
        for number in 0..4 {
            let other = Document::from_html(format!("<p>Words of page {number}.</p>"));
            repetition.add(&address("all", number), &BlockKey::all(&other));
        }
        let boilerplate = repetition.boilerplate();
        let mut document = page(3);
        document.mark_boilerplate(&boilerplate);
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
        (0..5).for_each(|number| repetition.add(&address("all", number), &BlockKey::all(&page(number))));
        assert!(repetition.boilerplate().is_empty());
    }

    #[test]
    fn what_nearly_all_pages_of_a_folder_have_in_common_is_no_content_either() {
        let part = |name: &str, number: usize| {
            Document::from_html(format!(
                "<p>Part of {name}.</p><p>Words of page {number} of {name}.</p><h2>Example</h2>"
            ))
        };
        let mut repetition = Repetition::default();
        for (folder, pages) in [("moons", 12), ("dust", 11), ("glass", 30)] {
            for number in 0..pages {
                // Of the last folder just eight in ten pages say so.
                let name = if folder == "glass" && number % 5 == 0 { "others" } else { folder };
                repetition.add(&address(folder, number), &BlockKey::all(&part(name, number)));
            }
        }
        let boilerplate = repetition.boilerplate();
        let regions = |name: &str| -> Vec<Region> {
            let mut document = part(name, 1);
            document.mark_boilerplate(&boilerplate);
            document.blocks().iter().map(|block| block.region).collect()
        };
        assert_eq!(
            regions("moons"),
            [Region::Aside, Region::Content, Region::Aside],
            "and what is on most of all pages"
        );
        for name in ["dust", "glass", "others"] {
            assert_eq!(regions(name), [Region::Content, Region::Content, Region::Aside]);
        }
    }

    #[test]
    fn a_folder_is_the_address_up_to_the_name() {
        for (page, of) in [
            ("https://sky.example/moons/io.html", "https://sky.example/moons"),
            ("https://sky.example/moons/io/", "https://sky.example/moons"),
            ("https://sky.example/moons/?of=a/b", "https://sky.example"),
            ("https://sky.example/", "https:/"),
        ] {
            assert_eq!(folder(&Address::parse(page).unwrap()), of);
        }
    }
}
