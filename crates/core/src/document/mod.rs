//! A page's source and what stands in it: text, blocks, links, ids, head. Reading only; changes are in [`edit`].

mod add_id;
pub mod attribute;
pub mod block;
mod block_source;
mod chosen_words;
pub mod edit;
mod elements;
pub mod encoding;
mod entrance;
pub mod find_again;
pub mod hash;
pub mod head;
mod html;
mod inline;
pub mod labels;
pub mod link;
pub mod link_says;
mod lists;
mod main_heading;
mod markdown;
mod nesting;
pub mod picture;
pub mod put_link;
pub mod quote;
pub mod rebase;
pub mod region;
pub mod run;
pub mod sighting;
mod source_places;
pub mod span;
pub mod take_out_link;
pub mod text;
pub(crate) mod title;
mod tree;
pub mod wording;

pub use attribute::{Attribute, LinkAttributes, LinkMarks};
pub use block::{Block, BlockId, BlockKind, PlaceKey};
pub use edit::{Edit, EditError, Splice};
pub use entrance::Entrance;
pub use find_again::Lost;
pub use hash::ContentHash;
pub use head::{Head, HeadLink};
#[cfg(test)]
pub(crate) use html::texts as html_texts;
pub use inline::Inline;
pub use labels::{Label, LabelKind};
pub use link::{Aim, Link, LinkKind, Mail};
pub use link_says::LinkSays;
pub use markdown::OPTIONS as MARKDOWN_OPTIONS;
pub use picture::Picture;
pub use put_link::{AlsoIn, LinkTarget, Refusal};
pub use quote::{Quote, QuotedSentence};
pub use rebase::NoPlace;
pub use region::Region;
pub use sighting::{Leads, Sighting, Sought};
pub use source_places::{PackedPlaces, SourcePlaces};
pub use span::{SourceSpan, TextSpan};
pub use take_out_link::FoundLink;
pub use text::TextLayer;
pub use wording::Wording;

use elements::Element;
use tree::MarkupTree;

use crate::language::sentence_within;

/// How a page's source is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Default)]
pub enum Format {
    #[default]
    Html,
    /// CommonMark with tables, footnotes and strikethrough.
    Markdown,
}

impl Format {
    /// Both of them.
    pub const ALL: [Self; 2] = [Self::Html, Self::Markdown];

    /// Its name in the database and on the command line.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Html => "html",
            Self::Markdown => "markdown",
        }
    }

    /// The format with this name.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|format| format.as_str() == word)
    }
}

/// One page, or a fragment of one, read with the place of every character in its source.
///
/// All source offsets are byte offsets into [`Document::source`]; all text offsets are byte offsets into the UTF-8
/// string of [`Document::text`].
#[derive(Debug, Clone)]
pub struct Document {
    source: String,
    text: TextLayer,
    blocks: Vec<Block>,
    links: Vec<Link>,
    /// Ids with how much text stands before them.
    ids: Vec<(usize, String)>,
    head: Head,
    tree: MarkupTree,
    /// Of all links, in source order.
    link_attributes: Vec<html::tokenizer::RawAttribute>,
    pictures: Vec<Picture>,
    /// In which elements say that they are, beside the page's own.
    languages: Vec<String>,
    /// Where links of Markdown refer to; none in HTML.
    definitions: Vec<markdown::Definition>,
    format: Format,
}

impl Document {
    /// Where the characters of the text stand in the source; all else is let go. O(stretches of text).
    pub fn into_places(self) -> PackedPlaces {
        self.text.places()
    }

    /// Reads a source that is written in `format`; see [`Document::from_html`] and [`Document::from_markdown`].
    pub fn read(source: impl Into<String>, format: Format) -> Self {
        match format {
            Format::Html => Self::from_html(source),
            Format::Markdown => Self::from_markdown(source),
        }
    }

    /// Reads Markdown without front matter. Never fails. O(n) in the bytes of `source`.
    pub fn from_markdown(source: impl Into<String>) -> Self {
        markdown::read(source.into())
    }

    /// How the source is written.
    pub fn format(&self) -> Format {
        self.format
    }

    /// Reads HTML: a whole page or the fragment that a content field holds.
    ///
    /// Never fails: like a browser it makes something of any input. O(n) in the bytes of `source`; nesting deeper than
    /// [`tree::MAX_DEPTH`] is flattened.
    pub fn from_html(source: impl Into<String>) -> Self {
        html::read(source.into())
    }

    /// The source, byte for byte as it was read.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// The text layer: what readers see, each character with its source bytes.
    pub fn text(&self) -> &TextLayer {
        &self.text
    }

    /// Blocks of text in source order.
    pub fn blocks(&self) -> &[Block] {
        &self.blocks
    }

    /// The language in which a block is said to be by an element around it, as a BCP 47 tag; `None` when none says so, or it
    /// is the page's own.
    pub fn language_of(&self, block: &Block) -> Option<&str> {
        self.languages.get(usize::from(block.language?)).map(String::as_str)
    }

    /// Links in source order; a link's index here is its ordinal on the page.
    pub fn links(&self) -> &[Link] {
        &self.links
    }

    /// Pictures in source order.
    pub fn pictures(&self) -> &[Picture] {
        &self.pictures
    }

    /// What a reader sees of a link, white space folded: its words, else the alternative text of its picture.
    pub fn anchor(&self, link: &Link) -> String {
        let words = text::fold_space(self.text.slice(link.text));
        if words.is_empty() { link.alt.as_deref().map(text::fold_space).unwrap_or_default() } else { words }
    }

    /// What a link says to whoever hears it: its words or those of its picture, else its label, else its title. O(length).
    pub fn heard(&self, link: &Link) -> String {
        let shown = self.anchor(link);
        let said = |name: &str| self.attribute(link, name).map(|said| text::fold_space(&said));
        let is_some = |said: &String| !said.is_empty();
        match shown.is_empty() {
            true => said("aria-label").filter(is_some).or_else(|| said("title")).unwrap_or_default(),
            false => shown,
        }
    }

    /// The sentence around words that stand in one block, in offsets of the whole text. O(length of the block).
    pub fn sentence_around(&self, words: TextSpan) -> Option<TextSpan> {
        let block = self.blocks.get(self.block_of(words)?.0 as usize)?;
        Some(sentence_within(self.text.as_str(), block.text, words))
    }

    /// The same with the words in it.
    pub fn quote_around(&self, words: TextSpan) -> Option<QuotedSentence> {
        Some(QuotedSentence::of(self.text.as_str(), self.sentence_around(words)?, words))
    }

    /// The headings under which a text offset stands, outermost first: each of a higher rank than the next. O(blocks).
    pub fn heading_path(&self, at: usize) -> Vec<String> {
        let before = self.blocks.partition_point(|block| block.text.start <= at);
        let mut rank = 7;
        let mut path = Vec::new();
        for block in self.blocks[..before].iter().rev().filter(|block| block.region == Region::Content) {
            if let BlockKind::Heading(level) = block.kind
                && level < rank
            {
                rank = level;
                path.push(text::fold_heading(self.text.slice(block.text)));
            }
        }
        path.reverse();
        path
    }

    /// How much of the page's text is before a text offset, from 0 to 1.
    pub fn share_before(&self, at: usize) -> f64 {
        let whole = self.text.len().max(1);
        at.min(whole) as f64 / whole as f64
    }

    /// Every `id` (and `name` of an `<a>`) that a fragment can point at, in source order.
    pub fn ids(&self) -> impl Iterator<Item = &str> {
        self.ids.iter().map(|(_, id)| id.as_str())
    }

    /// The id by which a fragment points at a block: of several the last before its end that comes after the text before
    /// the block. O(log ids).
    pub fn id_of(&self, block: BlockId) -> Option<&str> {
        let at = block.0 as usize;
        let text = self.blocks.get(at)?.text;
        let before = at.checked_sub(1).and_then(|before| self.blocks.get(before)).map_or(0, |before| before.text.end);
        let end = self.ids.partition_point(|(at, _)| *at <= text.end);
        self.ids[..end].last().filter(|(at, _)| *at >= before).map(|(_, id)| id.as_str())
    }

    /// What the page says about itself.
    pub fn head(&self) -> &Head {
        &self.head
    }

    /// The hash of the source, by which an edit knows the version that it was made for.
    pub fn hash(&self) -> ContentHash {
        ContentHash::of(&self.source)
    }

    /// The source span of the element that holds the page's own content: the first `main`, else the `body`, else all.
    pub fn main_span(&self) -> SourceSpan {
        self.tree
            .inner_span_of(Element::Main)
            .or_else(|| self.tree.inner_span_of(Element::Body))
            .unwrap_or(SourceSpan::new(0, self.source.len()))
    }

    /// Moves blocks to other regions, and the links in them. `None` leaves a block where it is.
    pub(crate) fn set_regions(&mut self, regions: &[Option<Region>]) {
        for (block, region) in self.blocks.iter_mut().zip(regions) {
            block.region = region.unwrap_or(block.region);
        }
        for link in &mut self.links {
            let region = link.block.and_then(|block| regions.get(block.0 as usize).copied().flatten());
            link.region = region.unwrap_or(link.region);
        }
    }

    pub(crate) fn tree(&self) -> &MarkupTree {
        &self.tree
    }
}
