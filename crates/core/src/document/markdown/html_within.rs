//! HTML within Markdown: tags in running text, and whole blocks.

use std::ops::Range;

use super::{Open, Reader};
use crate::document::Document;
use crate::document::block::{Block, BlockId, PlaceKey};
use crate::document::elements::Element;
use crate::document::html::tokenizer::RawAttribute;
use crate::document::link::{AttributeRange, Link, Manner};
use crate::document::run::RunKind;
use crate::document::span::{SourceSpan, TextSpan};
use crate::document::text::Around;
use crate::document::tree::{Node, ROOT};

impl Reader {
    pub(super) fn inline_html(&mut self, tag: &str, span: Range<usize>) {
        let at = SourceSpan::new(span.start, span.end);
        let inner = tag.trim_start_matches('<').trim_start_matches('/');
        let name: String =
            inner.chars().take_while(char::is_ascii_alphanumeric).collect::<String>().to_ascii_lowercase();
        if name.is_empty() || Element::of(&name).is_void() || tag.ends_with("/>") {
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
        self.ids.extend(parsed.ids().map(|id| (self.text.len(), id.to_owned())));
        let link = parsed.links().first().map(|link| {
            let attributes = self.take_attributes(parsed.raw_attributes(link), span.start);
            let ordinal = self.open_link(&link.href, at, Manner::Element, attributes);
            self.links[ordinal].rel = link.rel.clone();
            ordinal
        });
        let parent = self.stack.last().map_or(ROOT, |open| open.node);
        let node = self.tree.push(Node {
            parent,
            element: Element::of(&name),
            start_tag: at,
            end_tag: None,
            is_block: false,
            mended: self.mended,
        });
        let block = self.stack.last().and_then(|open| open.block);
        self.stack.push(Open { node, block, link, text_start: self.text.len(), inner_end: span.end, html: Some(name) });
    }

    /// A block of HTML is read for its words, links and ids, and never edited.
    pub(super) fn take_html_block(&mut self, source: &str) {
        let Some(span) = self.html.take() else { return };
        let inner = Document::from_html(source.get(span.clone()).unwrap_or_default());
        self.mended |= inner.tree().has_unended(Element::is_formatting);
        let before = self.text.len();
        self.ids.extend(inner.ids.iter().map(|(at, id)| (before + at, id.clone())));
        for block in inner.blocks() {
            let start = self.text.len();
            self.text.push(
                inner.text().slice(block.text).trim_end_matches('\n'),
                SourceSpan::new(span.start, span.end),
                RunKind::Opaque,
                Around { node: ROOT, mended: true },
            );
            let id = BlockId::at(self.blocks.len());
            let text = TextSpan::new(start, self.text.len());
            let (kind, region) = (block.kind, block.region);
            self.blocks.push(Block { text, kind, region, place: PlaceKey(0), language: None, node: ROOT });
            let shift = |at: usize| (at + start).saturating_sub(block.text.start);
            let moved = |at: SourceSpan| SourceSpan::new(at.start + span.start, at.end + span.start);
            let inside: Vec<_> = inner.links().iter().filter(|link| block.text.contains(link.text)).collect();
            let attributes: Vec<_> =
                inside.iter().map(|link| self.take_attributes(inner.raw_attributes(link), span.start)).collect();
            self.links.extend(inside.into_iter().zip(attributes).map(|(link, attributes)| Link {
                attributes,
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

    /// Attributes of HTML within, which was read by itself and begins at `offset`.
    fn take_attributes(&mut self, attributes: &[RawAttribute], offset: usize) -> AttributeRange {
        let start = u32::try_from(self.link_attributes.len()).unwrap_or(u32::MAX);
        let moved = |at: SourceSpan| SourceSpan::new(at.start + offset, at.end + offset);
        self.link_attributes.extend(attributes.iter().map(|raw| RawAttribute {
            source: moved(raw.source),
            name: moved(raw.name),
            value: moved(raw.value),
            quote: raw.quote,
        }));
        AttributeRange { start, end: u32::try_from(self.link_attributes.len()).unwrap_or(u32::MAX) }
    }
}
