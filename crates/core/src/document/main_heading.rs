//! The main heading of a page: what its readers take for its name.

use super::block::{Block, BlockKind};
use super::region::Region;
use super::{Document, text, title};

/// What the heading above the name line of a manual page says, in the languages that manuals are written in.
const NAME_HEADINGS: [&str; 19] = [
    "name",
    "namn",
    "navn",
    "naam",
    "nom",
    "nome",
    "nombre",
    "nume",
    "nazwa",
    "jméno",
    "név",
    "nimi",
    "имя",
    "название",
    "назва",
    "ad",
    "名前",
    "名称",
    "이름",
];

/// Longer ones are not what a page is called.
const LONGEST_NAME: usize = 60;

impl Document {
    /// The visible text of the top-level heading as [`text::fold_heading`] has it: of several, that with which the title
    /// begins, else the first in the content, or what heads the page below the name of the site. A page without a title that
    /// begins as pages of manuals do, with a heading such as “NAME” and a line such as “ls - list files”, is headed by that
    /// name. O(blocks + text of headings).
    pub fn main_heading(&self) -> Option<String> {
        let headings = || self.blocks.iter().filter(|block| block.kind == BlockKind::Heading(1));
        let title = letters(self.head.title.as_deref().unwrap_or_default());
        // Such a heading is the same on many pages, so that it may have been taken for boilerplate.
        if title.is_empty()
            && let Some(name) = headings().next().and_then(|first| self.name_below(first))
        {
            return Some(name);
        }
        let in_content = || headings().filter(|block| block.region == Region::Content);
        let first = in_content().find(|block| self.begins(&title, block)).or_else(|| in_content().next());
        let block = first.map(|first| self.below_site_name(&title, first).unwrap_or(first));
        let heading = text::fold_heading(self.text.slice(block.or_else(|| headings().next())?.text));
        (!heading.is_empty()).then_some(heading)
    }

    /// Whether a title, of which these are the [`letters`], begins with a heading.
    fn begins(&self, title: &str, heading: &Block) -> bool {
        let heading = letters(self.text.slice(heading.text));
        !heading.is_empty() && title.starts_with(&heading)
    }

    /// Where a heading is how the title ends after a dash or a stroke, as the name of the site is: the main heading right
    /// below it, else a lesser one with which the title begins.
    fn below_site_name(&self, title: &str, heading: &Block) -> Option<&Block> {
        let (_, end) = title::split_end(self.head.title.as_deref()?)?;
        if letters(end) != letters(self.text.slice(heading.text)) {
            return None;
        }
        let content = || self.blocks.iter().filter(|block| block.region == Region::Content);
        let next = content().find(|block| block.text.start >= heading.text.end)?;
        let lesser = || content().find(|block| block.kind == BlockKind::Heading(2) && self.begins(title, block));
        if next.kind == BlockKind::Heading(1) { Some(next) } else { lesser() }
    }

    /// What stands before a dash in the line below a heading that says “name”.
    fn name_below(&self, heading: &Block) -> Option<String> {
        let says_name = NAME_HEADINGS.contains(&letters(self.text.slice(heading.text)).as_str());
        let below = self.blocks.iter().find(|block| block.text.start >= heading.text.end).filter(|_| says_name)?;
        let line = self.text.slice(below.text).trim_start();
        let dash = [" - ", " – ", " — "].into_iter().filter_map(|dash| line.find(dash)).min()?;
        let name = text::fold_heading(&line[..dash]);
        (!name.is_empty() && name.len() <= LONGEST_NAME && !name.contains(". ")).then_some(name)
    }
}

/// The letters and digits of a text in small letters, by which headings and titles are compared.
fn letters(text: &str) -> String {
    text.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}
