//! Reading HTML into a [`Document`]: tokens from `html5gum` (the WHATWG tokenizer with byte spans), and on top of them
//! just enough tree building to know blocks, regions, links and what encloses what.

use std::convert::Infallible;

use html5gum::emitters::callback::{CallbackEmitter, CallbackEvent};
use html5gum::{Span, Tokenizer};

use super::block::{Block, BlockId, BlockKind};
use super::link::{Link, LinkKind};
use super::place;
use super::region::Region;
use super::span::{SourceSpan, TextSpan};
use super::text::{Around, RunKind, TextLayer, fold_space};
use super::tree::{MAX_DEPTH, Node, ROOT, Tree};
use super::{Document, Format, Head, HeadLink, elements};

pub(super) fn read(source: String) -> Document {
    let mut reader = Reader::new(&source);
    let mut emitter = CallbackEmitter::new(|event: CallbackEvent<'_>, span: Span<usize>| -> Option<Infallible> {
        reader.event(&event, span);
        None
    });
    emitter.naively_switch_states(true);
    // Both the tokens and the errors of this tokenizer are types without values.
    let Ok(()) = Tokenizer::new_with_emitter(source.as_str(), emitter).finish();
    let Reader { text, blocks, links, ids, head, tree, .. } = reader.finish();
    Document { text, blocks, links, ids, head, tree, source, format: Format::Html }
}

/// A start tag while its attributes arrive.
#[derive(Default)]
struct Tag {
    name: String,
    start: usize,
    attributes: Vec<(String, String)>,
}

impl Tag {
    fn get(&self, name: &str) -> Option<&str> {
        self.attributes.iter().find(|(n, _)| n == name).map(|(_, v)| v.as_str())
    }
}

struct Open {
    node: u32,
    name: Box<str>,
    region: Region,
    inside_content: bool,
    hidden: bool,
    block: Option<BlockKind>,
    link: Option<usize>,
}

struct Reader<'s> {
    source: &'s str,
    text: TextLayer,
    blocks: Vec<Block>,
    links: Vec<Link>,
    ids: Vec<String>,
    head: Head,
    tree: Tree,
    stack: Vec<Open>,
    tag: Tag,
    /// Characters that the tokenizer gave out since the last tag.
    characters: String,
    /// Where the last token other than text ended.
    token_end: usize,
    /// The text of the block being read begins here.
    block_start: usize,
    title: Option<String>,
    category: Option<usize>,
    /// Formatting elements, by [`elements::formatting_index`], that were closed without an end tag of their own.
    dangling: [u32; elements::FORMATTING.len()],
}

impl<'s> Reader<'s> {
    fn new(source: &'s str) -> Self {
        Self {
            source,
            text: TextLayer::default(),
            blocks: Vec::new(),
            links: Vec::new(),
            ids: Vec::new(),
            head: Head::default(),
            tree: Tree::default(),
            stack: Vec::new(),
            tag: Tag::default(),
            characters: String::new(),
            token_end: 0,
            block_start: 0,
            title: None,
            category: None,
            dangling: [0; elements::FORMATTING.len()],
        }
    }

    fn event(&mut self, event: &CallbackEvent<'_>, span: Span<usize>) {
        match event {
            CallbackEvent::OpenStartTag { name } => {
                self.flush_characters(span.start);
                self.tag = Tag { name: lossy(name), start: span.start, attributes: Vec::new() };
            }
            CallbackEvent::AttributeName { name } => self.tag.attributes.push((lossy(name), String::new())),
            CallbackEvent::AttributeValue { value } => {
                if let Some((_, v)) = self.tag.attributes.last_mut() {
                    *v = lossy(value);
                }
            }
            CallbackEvent::CloseStartTag { self_closing } => {
                self.token_end = span.end;
                self.start_tag(span.end, *self_closing);
            }
            CallbackEvent::EndTag { name } => {
                self.flush_characters(span.start);
                self.token_end = span.end;
                self.end_tag(&lossy(name), SourceSpan::new(span.start, span.end));
            }
            CallbackEvent::String { value } => self.characters.push_str(&String::from_utf8_lossy(value)),
            CallbackEvent::Comment { .. } | CallbackEvent::Doctype { .. } => {
                self.flush_characters(span.start);
                self.token_end = span.end;
            }
            CallbackEvent::Error(_) => {}
        }
    }

    fn finish(mut self) -> Self {
        self.flush_characters(self.source.len());
        while !self.stack.is_empty() {
            self.pop(self.source.len(), None);
        }
        self.end_block();
        self.head.title = self.title.take().map(|t| fold_space(&t)).filter(|t| !t.is_empty());
        let category = self.category.map(|link| fold_space(self.text.slice(self.links[link].text)));
        self.head.category = category.filter(|text| !text.is_empty());
        self
    }

    fn region(&self) -> Region {
        self.stack.last().map_or(Region::Content, |open| open.region)
    }

    fn start_tag(&mut self, end: usize, self_closing: bool) {
        let tag = std::mem::take(&mut self.tag);
        let start_tag = SourceSpan::new(tag.start, end);
        self.close_implied(&tag.name, tag.start);
        self.note_facts(&tag);
        let hidden = self.stack.last().is_some_and(|open| open.hidden) || elements::is_hidden(&tag.name);
        if elements::is_block(&tag.name) {
            self.end_block();
        }
        if tag.name == "br" && !hidden {
            self.text.push_separator();
        }
        let foreign = self.stack.iter().any(|open| matches!(&*open.name, "svg" | "math"));
        if elements::is_void(&tag.name) || (self_closing && foreign) || self.stack.len() >= MAX_DEPTH {
            return;
        }
        let inside_content = self.stack.last().is_some_and(|open| open.inside_content)
            || matches!(tag.name.as_str(), "main" | "article");
        let names = format!("{} {}", tag.get("id").unwrap_or_default(), tag.get("class").unwrap_or_default());
        let region = self.region().of_child(&tag.name, tag.get("role"), &names, inside_content);
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let is_block = elements::is_block(&tag.name);
        let name: Box<str> = tag.name.as_str().into();
        let node = self.tree.push(Node { parent, name: name.clone(), start_tag, end_tag: None, is_block });
        let link = self.open_link(&tag, start_tag, region, hidden);
        let block = block_kind(&tag.name).or_else(|| self.stack.last().and_then(|open| open.block));
        self.stack.push(Open { node, name, region, inside_content, hidden, block, link });
    }

    fn open_link(&mut self, tag: &Tag, start_tag: SourceSpan, region: Region, hidden: bool) -> Option<usize> {
        let href = tag.get("href").filter(|_| tag.name == "a" && !hidden)?;
        let rel = tag.get("rel").unwrap_or_default();
        let at = self.text.len();
        self.links.push(Link {
            source: start_tag,
            start_tag,
            end_tag: None,
            href: href.trim().to_owned(),
            text: TextSpan::new(at, at),
            kind: LinkKind::Picture,
            alt: None,
            rel: tokens(rel),
            region,
            block: None,
        });
        let ordinal = self.links.len() - 1;
        let is_category = tag.get("class").is_some_and(|c| c.split_ascii_whitespace().any(|c| c == "p-category"));
        if is_category && self.category.is_none() {
            self.category = Some(ordinal);
        }
        Some(ordinal)
    }

    fn close_implied(&mut self, opening: &str, at: usize) {
        if opening == "a" {
            // A link inside a link ends the outer one.
            if let Some(depth) = self.stack.iter().rposition(|open| &*open.name == "a") {
                self.pop_to(depth, at, None);
            }
            self.dangling[0] = 0;
            return;
        }
        for depth in (0..self.stack.len()).rev() {
            let open = &self.stack[depth].name;
            if elements::closes(opening, open) {
                return self.pop_to(depth, at, None);
            }
            if elements::is_scope(open) {
                return;
            }
        }
    }

    fn end_tag(&mut self, name: &str, span: SourceSpan) {
        if elements::is_block(name) {
            self.end_block();
        }
        if let Some(depth) = self.stack.iter().rposition(|open| &*open.name == name) {
            self.pop_to(depth, span.start, Some(span));
            return;
        }
        self.tree.push_stray(span.start);
        if let Some(index) = elements::formatting_index(name) {
            self.dangling[index] = self.dangling[index].saturating_sub(1);
        }
    }

    fn pop_to(&mut self, depth: usize, at: usize, end_tag: Option<SourceSpan>) {
        while self.stack.len() > depth + 1 {
            self.pop(at, None);
        }
        self.pop(at, end_tag);
    }

    fn pop(&mut self, at: usize, end_tag: Option<SourceSpan>) {
        let Some(open) = self.stack.last() else { return };
        if elements::is_block(&open.name) {
            self.end_block();
        }
        let Some(open) = self.stack.pop() else { return };
        self.tree.node_mut(open.node).end_tag = end_tag;
        if let (None, Some(index)) = (end_tag, elements::formatting_index(&open.name)) {
            self.dangling[index] += 1;
        }
        if let Some(link) = open.link {
            let text_end = self.text.as_str().trim_end_matches('\n').len();
            let link = &mut self.links[link];
            link.source.end = end_tag.map_or(at, |tag| tag.end);
            link.end_tag = end_tag;
            link.text.end = text_end.max(link.text.start);
            if !self.text.slice(link.text).trim().is_empty() {
                link.kind = LinkKind::Text;
            }
        }
    }

    /// What a start tag says besides being there: ids, language, meta data, alternative texts.
    fn note_facts(&mut self, tag: &Tag) {
        let name = tag.get("name").filter(|_| tag.name == "a");
        self.ids.extend(tag.get("id").into_iter().chain(name).map(str::to_owned));
        if self.head.microformat.is_none() {
            let root = |class: &str| class.split_ascii_whitespace().find(|c| c.starts_with("h-")).map(str::to_owned);
            self.head.microformat = tag.get("class").and_then(root);
        }
        let first = |slot: &mut Option<String>, value: Option<&str>| {
            if slot.is_none() {
                *slot = value.map(str::to_owned);
            }
        };
        match tag.name.as_str() {
            "html" => first(&mut self.head.language, tag.get("lang").or_else(|| tag.get("xml:lang"))),
            "base" => first(&mut self.head.base, tag.get("href")),
            "link" => {
                if let Some((rel, href)) = tag.get("rel").zip(tag.get("href")) {
                    let rel = tokens(rel);
                    self.head.links.push(HeadLink { rel, href: href.trim().to_owned() });
                }
            }
            "meta" if tag.get("property") == Some("og:type") => {
                first(&mut self.head.open_graph_type, tag.get("content"));
            }
            "meta" if tag.get("name").is_some_and(|name| name.eq_ignore_ascii_case("robots")) => {
                self.head.noindex |= tag.get("content").is_some_and(|c| c.to_ascii_lowercase().contains("noindex"));
            }
            "img" => {
                if let Some(link) = self.stack.iter().rev().find_map(|open| open.link) {
                    first(&mut self.links[link].alt, tag.get("alt"));
                }
            }
            _ => {}
        }
    }

    fn flush_characters(&mut self, end: usize) {
        let characters = std::mem::take(&mut self.characters);
        if characters.is_empty() {
            return;
        }
        let inner = self.stack.last();
        let name = inner.map(|open| open.name.clone()).unwrap_or_default();
        if &*name == "title" {
            self.title.get_or_insert_default().push_str(&characters);
        }
        if inner.is_some_and(|open| open.hidden) {
            return;
        }
        let node = inner.map_or(ROOT, |open| open.node);
        let around = Around { node, mended: self.dangling.iter().any(|count| *count > 0) };
        let start = self.token_end;
        let raw = self.source.get(start..end).unwrap_or_default();
        let pieces = place::pieces(raw, true);
        let faithful = pieces.iter().map(|p| p.text.len()).sum::<usize>() == characters.len()
            && pieces.iter().flat_map(|p| p.text.bytes()).eq(characters.bytes());
        if !faithful {
            let source = SourceSpan::new(start.min(end), end);
            self.text.push(&characters, source, RunKind::Opaque, around);
            return;
        }
        for piece in pieces {
            let source = SourceSpan::new(start + piece.raw.start, start + piece.raw.end);
            self.text.push(&piece.text, source, piece.kind, around);
        }
    }

    /// Ends the block being read, at the end of the text so far. Blocks of nothing but white space are not kept.
    fn end_block(&mut self) {
        let span = TextSpan::new(self.block_start, self.text.len());
        if !self.text.slice(span).trim().is_empty() {
            let kind = self.stack.last().and_then(|open| open.block).unwrap_or(BlockKind::Paragraph);
            let id = BlockId(u32::try_from(self.blocks.len()).unwrap_or(u32::MAX));
            self.blocks.push(Block { text: span, kind, region: self.region() });
            let inside = self.links.iter_mut().rev().take_while(|link| link.text.start >= span.start);
            inside.for_each(|link| link.block = Some(id));
            self.text.push_separator();
        }
        self.block_start = self.text.len();
    }
}

fn block_kind(element: &str) -> Option<BlockKind> {
    Some(match element {
        "h1" => BlockKind::Heading(1),
        "h2" => BlockKind::Heading(2),
        "h3" => BlockKind::Heading(3),
        "h4" => BlockKind::Heading(4),
        "h5" => BlockKind::Heading(5),
        "h6" => BlockKind::Heading(6),
        "p" | "dd" | "div" | "section" | "article" | "main" | "body" => BlockKind::Paragraph,
        "li" => BlockKind::ListItem,
        "td" | "th" => BlockKind::Cell,
        "blockquote" => BlockKind::Quote,
        "figcaption" | "caption" => BlockKind::Caption,
        "pre" => BlockKind::Code,
        "summary" => BlockKind::Summary,
        "dt" => BlockKind::Term,
        _ => return None,
    })
}

fn tokens(list: &str) -> Vec<String> {
    list.split_ascii_whitespace().map(str::to_ascii_lowercase).collect()
}

fn lossy(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}
