//! Reading HTML into a [`Document`]: tokens with byte spans, and on top of them just enough tree building to know
//! blocks, regions, links and what encloses what. Where a browser would build a tree that differs from the source, the
//! text there is marked and never edited.

mod dangling;
mod ends;
pub(crate) mod facts;
mod head;
mod links;
pub(crate) mod references;
mod starts;
pub(crate) mod tokenizer;
mod wholes;

#[cfg(test)]
mod html5lib_tests;

use super::block::{Block, BlockId, BlockKind, PlaceKey};
use super::elements::Element;
use super::link::Link;
use super::lists::List;
use super::picture::Picture;
use super::region::Region;
use super::run::RunKind;
use super::span::{SourceSpan, TextSpan};
use super::text::{Around, TextLayer, fold_space};
use super::tree::{MarkupTree, ROOT};
use super::{Document, Format, Head};
use dangling::Dangling;
use tokenizer::{HtmlToken, RawAttribute, TextMode, Tokenizer};

/// For each byte of a source whether it is text in which character references and tags count.
#[cfg(test)]
pub(crate) fn texts(source: &str) -> Vec<bool> {
    use super::elements::Element;
    let mut texts = vec![false; source.len()];
    let mut tokens = tokenizer::Tokenizer::new(source);
    while let Some(token) = tokens.next() {
        match token {
            tokenizer::HtmlToken::Text(span, tokenizer::TextMode::Data) => texts[span.range()].fill(true),
            tokenizer::HtmlToken::StartTag(tag) => {
                let name = &source[tag.name.range()];
                tokens.expect(Element::of(name).content(), name);
            }
            _ => {}
        }
    }
    texts
}

pub(super) fn read(source: String) -> Document {
    let mut tokens = Tokenizer::new(&source);
    let mut reader = Reader::new(&source);
    while let Some(token) = tokens.next() {
        reader.take(token, &mut tokens);
    }
    let read = reader.finish();
    let Reader { text, blocks, links, ids, head, tree, link_attributes, pictures, languages, .. } = read;
    Document {
        text,
        blocks,
        links,
        ids,
        head,
        tree,
        link_attributes,
        pictures,
        languages,
        definitions: Vec::new(),
        source,
        format: Format::Html,
    }
}

#[derive(Clone, Copy)]
struct Open {
    node: u32,
    element: Element,
    /// Where its name stands, by which elements without a meaning of their own are told apart.
    name: SourceSpan,
    region: Region,
    inside_content: bool,
    hidden: bool,
    /// SVG or MathML, and not a place there that holds HTML.
    foreign: bool,
    /// In a table but in no cell of it: a browser moves what stands here before the table.
    astray: bool,
    block: Option<BlockKind>,
    /// The innermost block element.
    block_node: u32,
    link: Option<u32>,
    /// The outermost list around.
    list: Option<u32>,
    place: u64,
    /// What it says to be written in.
    language: Option<u8>,
    /// Where its text begins, when it is an aside by its name alone.
    boxed: Option<usize>,
    /// Of a cell and its like, which formatting elements are opened again around it.
    dangling: Option<dangling::Around>,
}

struct Reader<'s> {
    source: &'s str,
    text: TextLayer,
    blocks: Vec<Block>,
    /// The list of each block and of each link.
    block_lists: Vec<Option<u32>>,
    link_lists: Vec<Option<u32>>,
    lists: Vec<List>,
    /// The text of each element that is an aside by its name alone.
    boxes: Vec<TextSpan>,
    links: Vec<Link>,
    link_attributes: Vec<RawAttribute>,
    pictures: Vec<Picture>,
    languages: Vec<String>,
    /// With how much text stands before.
    ids: Vec<(usize, String)>,
    head: Head,
    tree: MarkupTree,
    stack: Vec<Open>,
    /// How many elements of each kind are open.
    open: [u16; Element::COUNT],
    /// The text of the block being read begins here.
    block_start: usize,
    has_heading: bool,
    has_html: bool,
    has_head: bool,
    has_body: bool,
    title: Option<String>,
    category: Option<usize>,
    dangling: Dangling,
    /// The rest of the page may stand elsewhere in a browser's tree: it is read and never edited.
    is_lost: bool,
}

impl<'s> Reader<'s> {
    fn new(source: &'s str) -> Self {
        Self {
            source,
            // About a third of a page is text.
            text: TextLayer::with_capacity(source.len() / 3, source.len() / 80),
            blocks: Vec::with_capacity(source.len() / 400),
            block_lists: Vec::new(),
            link_lists: Vec::new(),
            lists: Vec::new(),
            boxes: Vec::new(),
            links: Vec::new(),
            link_attributes: Vec::new(),
            pictures: Vec::new(),
            languages: Vec::new(),
            ids: Vec::new(),
            head: Head::default(),
            tree: MarkupTree::with_capacity(source.len() / 60),
            stack: Vec::with_capacity(64),
            open: [0; Element::COUNT],
            block_start: 0,
            has_heading: false,
            has_html: false,
            has_head: false,
            has_body: false,
            title: None,
            category: None,
            dangling: Dangling::default(),
            is_lost: false,
        }
    }

    fn take(&mut self, token: HtmlToken, tokens: &mut Tokenizer<'s>) {
        match token {
            HtmlToken::Text(span, mode) => self.characters(span, mode),
            HtmlToken::StartTag(tag) => {
                self.start_tag(tag, tokens);
                tokens.foreign = self.is_foreign();
            }
            HtmlToken::EndTag(tag) => {
                self.end_tag(tag);
                tokens.foreign = self.is_foreign();
            }
            HtmlToken::Comment(..) | HtmlToken::Doctype(_) | HtmlToken::Nothing(_) => {}
        }
    }

    fn finish(mut self) -> Self {
        while !self.stack.is_empty() {
            self.pop(self.source.len(), None);
        }
        self.end_block();
        self.head.title = self.title.take().map(|t| fold_space(&t)).filter(|t| !t.is_empty());
        let category = self.category.map(|link| fold_space(self.text.slice(self.links[link].text)));
        self.head.category = category.filter(|text| !text.is_empty());
        self.judge_boxes();
        self.judge_lists();
        self
    }

    fn is_open(&self, element: Element) -> bool {
        self.open[element as usize] > 0
    }

    /// Whether what comes next is SVG or MathML.
    fn is_foreign(&self) -> bool {
        self.stack.last().is_some_and(|open| open.foreign)
    }

    /// Browsers differ in what they make of markup within a choice.
    fn note_within_select(&mut self, element: Element) {
        let belongs = matches!(element, Element::Option | Element::Optgroup | Element::Hr | Element::Script);
        self.is_lost |= self.is_open(Element::Select) && !belongs;
    }

    fn name(&self, span: SourceSpan) -> &'s str {
        self.source.get(span.range()).unwrap_or_default()
    }

    fn is_mended(&self, around: Option<&Open>) -> bool {
        !self.dangling.here().is_empty() || self.is_lost || around.is_some_and(|open| open.astray)
    }

    fn characters(&mut self, span: SourceSpan, mode: TextMode) {
        let source: &'s str = self.source;
        let raw = source.get(span.range()).unwrap_or_default();
        let inner = self.stack.last();
        // That of a drawing is none of the page.
        let is_of_drawing = self.stack.iter().rev().nth(1).is_some_and(|around| around.foreign);
        if inner.is_some_and(|open| open.element == Element::Title) && !self.is_foreign() && !is_of_drawing {
            let title = self.title.get_or_insert_default();
            references::each_piece(raw, mode, |piece| title.push_str(&piece.text));
        }
        if inner.is_some_and(|open| open.element == Element::Head) {
            // What is more than white space begins the body, without the space before it.
            let body = raw.trim_ascii_start();
            if body.is_empty() {
                return;
            }
            let start = span.end - body.len();
            self.pop_to(self.stack.len() - 1, start, None);
            return self.characters(SourceSpan::new(start, span.end), mode);
        }
        let inner = self.stack.last();
        if inner.is_some_and(|open| open.hidden) {
            return;
        }
        let around = Around { node: inner.map_or(ROOT, |open| open.node), mended: self.is_mended(inner) };
        let list = inner.and_then(|open| open.list);
        let text = &mut self.text;
        if tokenizer::is_plain(raw, mode) {
            text.push(raw, span, RunKind::Verbatim, around);
        } else {
            references::each_piece(raw, mode, |piece| {
                let at = SourceSpan::new(span.start + piece.raw.start, span.start + piece.raw.end);
                text.push(&piece.text, at, piece.kind, around);
            });
        }
        if let Some(list) = list.and_then(|list| self.lists.get_mut(list as usize)) {
            let seen = raw.bytes().filter(|byte| !byte.is_ascii_whitespace()).count() as u64;
            list.text += seen;
            list.linked += if self.open[Element::A as usize] > 0 { seen } else { 0 };
        }
    }

    /// Ends the block being read, at the end of the text so far. Blocks of nothing but white space are not kept.
    fn end_block(&mut self) {
        let span = TextSpan::new(self.block_start, self.text.len());
        if !self.text.slice(span).trim().is_empty() {
            let open = self.stack.last();
            let kind = open.and_then(|open| open.block).unwrap_or(BlockKind::Paragraph);
            let id = BlockId::at(self.blocks.len());
            self.blocks.push(Block {
                text: span,
                kind,
                region: open.map_or(Region::Content, |open| open.region),
                place: PlaceKey(open.map_or(0, |open| open.place)),
                language: open.and_then(|open| open.language),
                node: open.map_or(ROOT, |open| open.block_node),
            });
            self.block_lists.push(open.and_then(|open| open.list));
            let inside = self.links.iter_mut().rev().take_while(|link| link.text.start >= span.start);
            inside.for_each(|link| link.block = Some(id));
            self.text.push_separator();
        }
        self.block_start = self.text.len();
    }
}
