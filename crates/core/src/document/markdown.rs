//! Reading Markdown into a [`Document`]: events with byte spans from `pulldown-cmark`, and on top of them the same
//! text layer, blocks and links that HTML has. Emphasis and links become nodes of the tree whose tags are their
//! delimiters, so words are wrapped by the same rules.

use std::ops::Range;

use pulldown_cmark::{CowStr, Event, HeadingLevel, OffsetIter, Options, Parser, Tag, TagEnd};

use super::block::{Block, BlockId, BlockKind};
use super::edit::Edit;
use super::link::{Link, LinkKind};
use super::region::Region;
use super::span::{SourceSpan, TextSpan};
use super::text::{Around, RunKind, TextLayer, fold_space};
use super::tree::{MAX_DEPTH, Node, ROOT, Tree};
use super::{Document, Format, Head, elements};

/// What this Markdown has beyond CommonMark; whoever shows it must read it alike.
pub const OPTIONS: Options = Options::ENABLE_TABLES
    .union(Options::ENABLE_FOOTNOTES)
    .union(Options::ENABLE_STRIKETHROUGH)
    .union(Options::ENABLE_TASKLISTS)
    .union(Options::ENABLE_HEADING_ATTRIBUTES);

pub(super) fn read(source: String) -> Document {
    let mut reader = Reader::default();
    let events: OffsetIter<'_> = Parser::new_ext(&source, OPTIONS).into_offset_iter();
    for (event, span) in events {
        reader.event(&source, event, span);
    }
    reader.end_block();
    let Reader { text, blocks, links, ids, tree, .. } = reader;
    Document { text, blocks, links, ids, head: Head::default(), tree, source, format: Format::Markdown }
}

/// A link's destination as Markdown writes it.
pub(super) fn destination(href: &str) -> String {
    let is_plain =
        !href.is_empty() && href.chars().all(|c| !c.is_whitespace() && !c.is_control() && !"()<>\\".contains(c));
    if is_plain {
        return href.to_owned();
    }
    let escaped: String = href
        .chars()
        .map(|c| match c {
            '<' => "%3C".to_owned(),
            '>' => "%3E".to_owned(),
            '\\' => "%5C".to_owned(),
            c if c.is_control() => String::new(),
            c => c.to_string(),
        })
        .collect();
    format!("<{escaped}>")
}

/// Whether an edit leaves all visible text as it is and adds exactly one link, on these words.
pub(super) fn proves(document: &Document, words: TextSpan, edit: &Edit) -> bool {
    let Ok(after) = edit.apply(document.source()) else { return false };
    let after = Document::from_markdown(after);
    let is_new = |link: &&Link| link.text == words;
    after.text().as_str() == document.text().as_str()
        && after.links().len() == document.links().len() + 1
        && after.links().iter().filter(is_new).count() == 1
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
    text: TextLayer,
    blocks: Vec<Block>,
    links: Vec<Link>,
    ids: Vec<String>,
    tree: Tree,
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
            Event::Code(code) => self.push_opaque("code", &code, span),
            Event::SoftBreak => self.push_text(source, &CowStr::Borrowed("\n"), span),
            Event::HardBreak => self.text.push_separator(),
            Event::Html(_) => match &mut self.html {
                Some(html) => html.end = span.end,
                None => self.html = Some(span),
            },
            Event::InlineHtml(tag) => self.inline_html(&tag, span),
            Event::FootnoteReference(_) | Event::Rule | Event::TaskListMarker(_) => {}
            Event::InlineMath(text) | Event::DisplayMath(text) => self.push_opaque("code", &text, span),
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

    fn push_opaque(&mut self, element: &str, text: &str, span: Range<usize>) {
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let at = SourceSpan::new(span.start, span.end);
        let end_tag = Some(SourceSpan::new(span.end, span.end));
        let node = self.tree.push(Node { parent, name: element.into(), start_tag: at, end_tag, is_block: false });
        self.text.push(text, at, RunKind::Opaque, Around { node, mended: false });
    }

    fn start(&mut self, source: &str, tag: Tag<'_>, span: Range<usize>) {
        let (name, block) = kind_of(&tag);
        if block.is_some() || is_container(&tag) {
            self.end_block();
        }
        if self.stack.len() >= MAX_DEPTH {
            self.too_deep += 1;
            return;
        }
        if let Tag::Heading { id: Some(id), .. } = &tag {
            self.ids.push(id.to_string());
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
        let node = self.tree.push(Node { parent, name: name.into(), start_tag, end_tag: None, is_block });
        let link = match &tag {
            Tag::Link { dest_url, .. } => Some(self.open_link(dest_url, start_tag)),
            _ => None,
        };
        let block = block.or_else(|| self.stack.last().and_then(|open| open.block));
        self.stack.push(Open { node, block, link, text_start: self.text.len(), inner_end: start_tag.end, html: None });
    }

    fn open_link(&mut self, href: &str, start_tag: SourceSpan) -> usize {
        let at = self.text.len();
        let block = None;
        self.links.push(Link {
            source: start_tag,
            start_tag,
            end_tag: None,
            href: href.trim().to_owned(),
            text: TextSpan::new(at, at),
            kind: LinkKind::Picture,
            alt: None,
            rel: Vec::new(),
            region: Region::Content,
            block,
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
            self.take_image();
        }
        self.close(Some(SourceSpan::new(inner_end.min(span.end), span.end)));
        self.note_inner_end(span.end);
        self.ids.extend(heading.map(|text| slug(&text)).filter(|slug| !slug.is_empty()));
    }

    /// What an image holds is its alternative text: no text of the page.
    fn take_image(&mut self) {
        let Some(open) = self.stack.last() else { return };
        let alt = self.text.cut_from(open.text_start);
        if let Some(link) = self.stack.iter().rev().find_map(|open| open.link) {
            self.links[link].alt.get_or_insert(alt);
        }
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
        if !self.text.slice(link.text).trim().is_empty() {
            link.kind = LinkKind::Text;
        }
    }

    fn inline_html(&mut self, tag: &str, span: Range<usize>) {
        let at = SourceSpan::new(span.start, span.end);
        let inner = tag.trim_start_matches('<').trim_start_matches('/');
        let name: String =
            inner.chars().take_while(char::is_ascii_alphanumeric).collect::<String>().to_ascii_lowercase();
        if name.is_empty() || elements::is_void(&name) || tag.ends_with("/>") {
            return;
        }
        if tag.starts_with("</") {
            // Only the innermost element can end here: what crosses is left to the enclosing block.
            if self.stack.last().is_some_and(|open| open.html.as_deref() == Some(name.as_str())) {
                self.close(Some(at));
            } else {
                self.tree.push_stray(span.start);
            }
            return;
        }
        let parsed = Document::from_html(format!("{tag}x"));
        self.ids.extend(parsed.ids().iter().cloned());
        let link = parsed.links().first().map(|link| self.open_link(&link.href, at));
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let node =
            self.tree.push(Node { parent, name: name.as_str().into(), start_tag: at, end_tag: None, is_block: false });
        let block = self.stack.last().and_then(|open| open.block);
        self.stack.push(Open { node, block, link, text_start: self.text.len(), inner_end: span.end, html: Some(name) });
    }

    /// A block of HTML is read for its words, links and ids, and never edited.
    fn take_html_block(&mut self, source: &str) {
        let Some(span) = self.html.take() else { return };
        let inner = Document::from_html(source.get(span.clone()).unwrap_or_default());
        self.mended |= inner.tree().has_unended(|name| elements::formatting_index(name).is_some());
        self.ids.extend(inner.ids().iter().cloned());
        for block in inner.blocks() {
            let start = self.text.len();
            self.text.push(
                inner.text().slice(block.text).trim_end_matches('\n'),
                SourceSpan::new(span.start, span.end),
                RunKind::Opaque,
                Around { node: ROOT, mended: true },
            );
            let id = BlockId(u32::try_from(self.blocks.len()).unwrap_or(u32::MAX));
            let text = TextSpan::new(start, self.text.len());
            self.blocks.push(Block { text, kind: block.kind, region: block.region });
            let shift = |at: usize| (at + start).saturating_sub(block.text.start);
            let moved = |at: SourceSpan| SourceSpan::new(at.start + span.start, at.end + span.start);
            let inside = inner.links().iter().filter(|link| block.text.contains(link.text));
            self.links.extend(inside.map(|link| Link {
                source: moved(link.source),
                start_tag: moved(link.start_tag),
                end_tag: link.end_tag.map(moved),
                text: TextSpan::new(shift(link.text.start), shift(link.text.end)),
                block: Some(id),
                ..link.clone()
            }));
            self.text.push_separator();
        }
        self.block_start = self.text.len();
    }

    fn end_block(&mut self) {
        let span = TextSpan::new(self.block_start, self.text.len());
        if !self.text.slice(span).trim().is_empty() {
            let kind = self.stack.last().and_then(|open| open.block).unwrap_or(BlockKind::Paragraph);
            let id = BlockId(u32::try_from(self.blocks.len()).unwrap_or(u32::MAX));
            self.blocks.push(Block { text: span, kind, region: Region::Content });
            let inside = self.links.iter_mut().rev().take_while(|link| link.text.start >= span.start);
            inside.for_each(|link| link.block = Some(id));
            self.text.push_separator();
        }
        self.block_start = self.text.len();
    }
}

/// The name by which the rules know an element, and the block that its text is.
fn kind_of(tag: &Tag<'_>) -> (&'static str, Option<BlockKind>) {
    match tag {
        Tag::Paragraph => ("p", None),
        Tag::Heading { level, .. } => ("h", Some(BlockKind::Heading(level_of(*level)))),
        Tag::BlockQuote(_) => ("blockquote", Some(BlockKind::Quote)),
        Tag::CodeBlock(_) => ("pre", Some(BlockKind::Code)),
        Tag::Item => ("li", Some(BlockKind::ListItem)),
        Tag::FootnoteDefinition(_) => ("footnote", Some(BlockKind::Paragraph)),
        Tag::TableCell => ("td", Some(BlockKind::Cell)),
        Tag::Emphasis => ("em", None),
        Tag::Strong => ("strong", None),
        Tag::Strikethrough => ("s", None),
        Tag::Link { .. } => ("a", None),
        Tag::Image { .. } => ("img", None),
        _ => ("div", None),
    }
}

fn is_container(tag: &Tag<'_>) -> bool {
    matches!(tag, Tag::Paragraph | Tag::List(_) | Tag::Table(_) | Tag::TableHead | Tag::TableRow | Tag::HtmlBlock)
}

fn is_end_of_block(tag: &TagEnd) -> bool {
    matches!(
        tag,
        TagEnd::Heading(_)
            | TagEnd::BlockQuote(_)
            | TagEnd::CodeBlock
            | TagEnd::Item
            | TagEnd::Paragraph
            | TagEnd::FootnoteDefinition
            | TagEnd::TableCell
    )
}

fn level_of(level: HeadingLevel) -> u8 {
    match level {
        HeadingLevel::H1 => 1,
        HeadingLevel::H2 => 2,
        HeadingLevel::H3 => 3,
        HeadingLevel::H4 => 4,
        HeadingLevel::H5 => 5,
        HeadingLevel::H6 => 6,
    }
}

/// The id that renderers commonly give a heading: lower case, words joined by hyphens.
fn slug(heading: &str) -> String {
    let kept = heading
        .to_lowercase()
        .chars()
        .filter(|c| c.is_alphanumeric() || matches!(c, ' ' | '-' | '_'))
        .collect::<String>();
    kept.split(' ').filter(|word| !word.is_empty()).collect::<Vec<_>>().join("-")
}
