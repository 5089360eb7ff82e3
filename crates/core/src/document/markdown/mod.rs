//! Reading Markdown into a [`Document`]: events with byte spans from `pulldown-cmark`, and on top of them the same
//! text layer, blocks and links that HTML has. Emphasis and links become nodes of the tree whose tags are their
//! delimiters, so words are wrapped by the same rules.

mod html_within;
mod kinds;
mod write;

pub(crate) use write::{destination, escape, proves};

use std::ops::Range;

use pulldown_cmark::{CowStr, Event, OffsetIter, Options, Parser, Tag, TagEnd};

use self::kinds::{is_container, is_end_of_block, kind_of, manner_of};
use super::block::{Block, BlockId, BlockKind, PlaceKey};
use super::elements::Element;
use super::html::tokenizer::RawAttribute;
use super::link::{AttributeRange, Link, LinkKind, Manner};
use super::picture::Picture;
use super::region::Region;
use super::run::RunKind;
use super::span::{SourceSpan, TextSpan};
use super::text::{Around, TextLayer, fold_space};
use super::tree::{MAX_DEPTH, MarkupTree, Node, ROOT};
use super::{Document, Format, Head};

/// What this Markdown has beyond CommonMark; whoever shows it must read it alike.
pub const OPTIONS: Options = Options::ENABLE_TABLES
    .union(Options::ENABLE_FOOTNOTES)
    .union(Options::ENABLE_STRIKETHROUGH)
    .union(Options::ENABLE_TASKLISTS)
    .union(Options::ENABLE_HEADING_ATTRIBUTES);

pub(super) fn read(source: String) -> Document {
    let mut reader = Reader::default();
    let mut events: OffsetIter<'_> = Parser::new_ext(&source, OPTIONS).into_offset_iter();
    for (event, span) in events.by_ref() {
        reader.event(&source, event, span);
    }
    reader.end_block();
    let mut definitions: Vec<_> = events
        .reference_definitions()
        .iter()
        .map(|(label, definition)| Definition {
            label: label.to_owned(),
            href: definition.dest.to_string(),
            source: SourceSpan::new(definition.span.start, definition.span.end),
        })
        .collect();
    definitions.sort_by_key(|definition| definition.source);
    let Reader { text, blocks, links, ids, tree, pictures, link_attributes, .. } = reader;
    Document {
        text,
        blocks,
        links,
        ids,
        head: Head::default(),
        tree,
        link_attributes,
        pictures,
        languages: Vec::new(),
        definitions,
        source,
        format: Format::Markdown,
    }
}

/// `[label]: target`, to which links of [`Manner::Reference`] refer.
#[derive(Debug, Clone)]
pub(crate) struct Definition {
    pub label: String,
    pub href: String,
    pub source: SourceSpan,
}

/// An element that is open.
struct Open {
    node: u32,
    block: Option<BlockKind>,
    link: Option<usize>,
    /// Where its text begins in the text layer.
    text_start: usize,
    /// Where what it holds ended so far: its closing delimiter begins there.
    inner_end: usize,
    /// An HTML element that was written out, by name.
    html: Option<String>,
}

#[derive(Default)]
struct Reader {
    link_attributes: Vec<RawAttribute>,
    pictures: Vec<Picture>,
    text: TextLayer,
    blocks: Vec<Block>,
    links: Vec<Link>,
    /// With how much text stands before.
    ids: Vec<(usize, String)>,
    tree: MarkupTree,
    stack: Vec<Open>,
    block_start: usize,
    /// HTML blocks arrive line by line.
    html: Option<Range<usize>>,
    /// Elements that were left out of the tree and still are to end.
    too_deep: usize,
    /// Whether formatting that HTML opened was never closed, so that a browser opens it again in what follows.
    mended: bool,
}

impl Reader {
    fn event(&mut self, source: &str, event: Event<'_>, span: Range<usize>) {
        let inline_end = span.end;
        match event {
            Event::Start(tag) => return self.start(source, tag, span),
            Event::End(tag) => return self.end(source, tag, span),
            Event::Text(text) => self.push_text(source, &text, span),
            Event::Code(code) => self.push_opaque(&code, span),
            Event::SoftBreak => self.push_text(source, &CowStr::Borrowed("\n"), span),
            Event::HardBreak => self.text.push_separator(),
            Event::Html(_) => match &mut self.html {
                Some(html) => html.end = span.end,
                None => self.html = Some(span),
            },
            Event::InlineHtml(tag) => self.inline_html(&tag, span),
            Event::FootnoteReference(_) | Event::Rule | Event::TaskListMarker(_) => {}
            Event::InlineMath(text) | Event::DisplayMath(text) => self.push_opaque(&text, span),
        }
        self.note_inner_end(inline_end);
    }

    fn note_inner_end(&mut self, end: usize) {
        if let Some(open) = self.stack.last_mut() {
            open.inner_end = end;
        }
    }

    fn push_text(&mut self, source: &str, text: &str, span: Range<usize>) {
        let around = Around { node: self.stack.last().map_or(ROOT, |open| open.node), mended: self.mended };
        let is_code = self.stack.iter().any(|open| open.block == Some(BlockKind::Code));
        let raw = source.get(span.clone()).unwrap_or_default();
        let kind = match raw == text {
            true if is_code => RunKind::Opaque,
            true => RunKind::Verbatim,
            false if raw.starts_with('&') || raw == "\r\n" => RunKind::Unit,
            false => RunKind::Opaque,
        };
        self.text.push(text, SourceSpan::new(span.start, span.end), kind, around);
    }

    fn push_opaque(&mut self, text: &str, span: Range<usize>) {
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let at = SourceSpan::new(span.start, span.end);
        let end_tag = Some(SourceSpan::new(span.end, span.end));
        let node = self.tree.push(Node {
            parent,
            element: Element::Code,
            start_tag: at,
            end_tag,
            is_block: false,
            mended: false,
        });
        self.text.push(text, at, RunKind::Opaque, Around { node, mended: false });
    }

    fn start(&mut self, source: &str, tag: Tag<'_>, span: Range<usize>) {
        let (element, block) = kind_of(&tag);
        if block.is_some() || is_container(&tag) {
            self.end_block();
        }
        if self.stack.len() >= MAX_DEPTH {
            self.too_deep += 1;
            return;
        }
        if let Tag::Heading { id: Some(id), .. } = &tag {
            self.ids.push((self.text.len(), id.to_string()));
        }
        let delimiter = match &tag {
            Tag::Emphasis | Tag::Link { .. } => 1,
            Tag::Strong => 2,
            Tag::Strikethrough => {
                source.get(span.clone()).unwrap_or_default().bytes().take_while(|b| *b == b'~').count()
            }
            Tag::Image { .. } => 2,
            _ => 0,
        };
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let start_tag = SourceSpan::new(span.start, span.start + delimiter);
        let is_block =
            !matches!(tag, Tag::Emphasis | Tag::Strong | Tag::Strikethrough | Tag::Link { .. } | Tag::Image { .. });
        let node = self.tree.push(Node { parent, element, start_tag, end_tag: None, is_block, mended: self.mended });
        let link = match &tag {
            Tag::Link { dest_url, link_type, title, .. } => {
                let link = self.open_link(dest_url, start_tag, manner_of(*link_type), AttributeRange::default());
                self.links[link].title = (!title.is_empty()).then(|| title.as_ref().into());
                Some(link)
            }
            _ => None,
        };
        let block = block.or_else(|| self.stack.last().and_then(|open| open.block));
        self.stack.push(Open { node, block, link, text_start: self.text.len(), inner_end: start_tag.end, html: None });
    }

    fn open_link(&mut self, href: &str, start_tag: SourceSpan, manner: Manner, attributes: AttributeRange) -> usize {
        let at = self.text.len();
        let block = None;
        self.links.push(Link {
            source: start_tag,
            start_tag,
            end_tag: None,
            href: href.trim().to_owned(),
            text: TextSpan::new(at, at),
            kind: LinkKind::Empty,
            alt: None,
            rel: Vec::new(),
            title: None,
            region: Region::Content,
            block,
            attributes,
            manner,
            mended: self.mended,
        });
        self.links.len() - 1
    }

    fn end(&mut self, source: &str, tag: TagEnd, span: Range<usize>) {
        if self.too_deep > 0 {
            self.too_deep -= 1;
            return;
        }
        if tag == TagEnd::HtmlBlock {
            self.take_html_block(source);
        }
        // HTML elements that were not closed end with what encloses them.
        while self.stack.last().is_some_and(|open| open.html.is_some()) {
            self.mended = true;
            self.close(None);
        }
        let heading = matches!(tag, TagEnd::Heading(_))
            .then(|| fold_space(self.text.as_str().get(self.block_start..).unwrap_or_default()));
        if is_end_of_block(&tag) {
            self.end_block();
        }
        let inner_end = self.stack.last().map_or(span.end, |open| open.inner_end);
        if matches!(tag, TagEnd::Image) {
            self.take_image(SourceSpan::new(span.start, span.end));
        }
        self.close(Some(SourceSpan::new(inner_end.min(span.end), span.end)));
        self.note_inner_end(span.end);
        let slug = heading.map(|text| slug(&text)).filter(|slug| !slug.is_empty());
        self.ids.extend(slug.map(|slug| (self.text.len(), slug)));
    }

    /// What an image holds is its alternative text: no text of the page.
    fn take_image(&mut self, source: SourceSpan) {
        let Some(open) = self.stack.last() else { return };
        let alt = self.text.cut_from(open.text_start);
        let link = self.stack.iter().rev().find_map(|open| open.link);
        if let Some(link) = link.and_then(|link| self.links.get_mut(link)) {
            link.alt.get_or_insert_with(|| alt.clone());
            if link.kind == LinkKind::Empty {
                link.kind = LinkKind::Picture;
            }
        }
        self.pictures.push(Picture {
            source,
            alt: (!alt.is_empty()).then_some(alt),
            link,
            text_at: self.text.len(),
            region: Region::Content,
            node: self.stack.iter().rev().nth(1).map_or(ROOT, |open| open.node),
            mended: self.mended,
        });
    }

    fn close(&mut self, end_tag: Option<SourceSpan>) {
        let Some(open) = self.stack.pop() else { return };
        self.tree.node_mut(open.node).end_tag = end_tag;
        let Some(link) = open.link else { return };
        let end = self.text.as_str().trim_end_matches('\n').len();
        let link = &mut self.links[link];
        link.end_tag = end_tag;
        link.source.end = end_tag.map_or(link.source.end, |tag| tag.end);
        link.text.end = end.max(link.text.start);
        let has_words = !self.text.slice(link.text).trim().is_empty();
        link.kind = match link.kind {
            LinkKind::Empty if has_words => LinkKind::Text,
            LinkKind::Picture if has_words => LinkKind::Mixed,
            other => other,
        };
    }

    fn end_block(&mut self) {
        let span = TextSpan::new(self.block_start, self.text.len());
        if !self.text.slice(span).trim().is_empty() {
            let kind = self.stack.last().and_then(|open| open.block).unwrap_or(BlockKind::Paragraph);
            let id = BlockId::at(self.blocks.len());
            let node = self.stack.last().map_or(ROOT, |open| open.node);
            let region = Region::Content;
            self.blocks.push(Block { text: span, kind, region, place: PlaceKey(0), language: None, node });
            let inside = self.links.iter_mut().rev().take_while(|link| link.text.start >= span.start);
            inside.for_each(|link| link.block = Some(id));
            self.text.push_separator();
        }
        self.block_start = self.text.len();
    }
}

/// The id that renderers commonly give a heading: lower case, words joined by hyphens.
pub(super) fn slug(heading: &str) -> String {
    let kept = heading
        .to_lowercase()
        .chars()
        .filter(|c| c.is_alphanumeric() || matches!(c, ' ' | '-' | '_'))
        .collect::<String>();
    kept.split(' ').filter(|word| !word.is_empty()).collect::<Vec<_>>().join("-")
}
