//! Links and pictures, as they are met on the way through a page.

use std::borrow::Cow;

use super::Reader;
use super::facts::TagFacts;
use super::head::tokens;
use super::tokenizer::RawAttribute;
use crate::document::elements::Element;
use crate::document::link::{Aim, AttributeRange, Link, LinkKind, Manner};
use crate::document::picture::Picture;
use crate::document::region::Region;
use crate::document::span::{SourceSpan, TextSpan};
use crate::document::tree::ROOT;

/// A start tag that carries a link.
pub(super) struct LinkTag<'t, 's> {
    pub source: SourceSpan,
    pub facts: &'t TagFacts<'s>,
    pub attributes: &'t [RawAttribute],
}

impl<'s> Reader<'s> {
    /// `None` when the tag carries no link.
    pub(super) fn open_link(
        &mut self,
        element: Element,
        tag: &LinkTag<'_, 's>,
        region: Region,
        list: Option<u32>,
    ) -> Option<u32> {
        let facts = tag.facts;
        let href = facts.href().filter(|_| element == Element::A)?;
        let is_button = facts.role.is_some_and(|role| role.trim().eq_ignore_ascii_case("button"));
        let kind = if is_button { LinkKind::Button } else { LinkKind::Empty };
        let ordinal = self.push_link(tag, href, kind, region, list);
        let is_category = facts.class.is_some_and(|class| class.split_ascii_whitespace().any(|c| c == "p-category"));
        if is_category && self.category.is_none() {
            self.category = Some(ordinal as usize);
        }
        Some(ordinal)
    }

    fn push_link(
        &mut self,
        tag: &LinkTag<'_, 's>,
        href: Cow<'s, str>,
        kind: LinkKind,
        region: Region,
        list: Option<u32>,
    ) -> u32 {
        let at = self.text.len();
        let href = href.trim().to_owned();
        if let Some(list) = list.and_then(|list| self.lists.get_mut(list as usize)) {
            list.links += 1;
            list.to_this_page += u32::from(Aim::of(&href) == Aim::Place);
        }
        let first = u32::try_from(self.link_attributes.len()).unwrap_or(u32::MAX);
        self.link_attributes.extend_from_slice(tag.attributes);
        let end = u32::try_from(self.link_attributes.len()).unwrap_or(u32::MAX);
        self.links.push(Link {
            source: tag.source,
            start_tag: tag.source,
            end_tag: None,
            href,
            text: TextSpan::new(at, at),
            kind,
            alt: None,
            rel: tag.facts.rel.map(tokens).unwrap_or_default(),
            title: None,
            region,
            block: None,
            attributes: AttributeRange { start: first, end },
            manner: Manner::Element,
            mended: self.is_mended(self.stack.last()),
        });
        self.link_lists.push(list);
        u32::try_from(self.links.len() - 1).unwrap_or(u32::MAX)
    }

    pub(super) fn note_area(&mut self, tag: &LinkTag<'_, 's>) {
        let Some(href) = tag.facts.href() else { return };
        let region = self.stack.last().map_or(Region::Content, |open| open.region);
        let ordinal = self.push_link(tag, href, LinkKind::Area, region, None);
        self.links[ordinal as usize].alt = tag.facts.alt().map(Cow::into_owned);
    }

    pub(super) fn note_picture(&mut self, source: SourceSpan, facts: &TagFacts<'s>, hidden: bool) {
        let link = self.stack.iter().rev().find_map(|open| open.link);
        let alt = facts.alt().map(Cow::into_owned);
        if let Some(link) = link.and_then(|link| self.links.get_mut(link as usize)) {
            link.alt = link.alt.take().or_else(|| alt.clone());
            if link.kind == LinkKind::Empty {
                link.kind = LinkKind::Picture;
            }
        }
        if hidden {
            return;
        }
        let outer = self.stack.last();
        self.pictures.push(Picture {
            source,
            alt,
            link: link.map(|link| link as usize),
            text_at: self.text.len(),
            region: outer.map_or(Region::Content, |open| open.region),
            node: outer.map_or(ROOT, |open| open.node),
            mended: self.is_mended(outer),
        });
    }

    pub(super) fn end_link(&mut self, link: usize, at: usize, end_tag: Option<SourceSpan>) {
        let text_end = self.text.as_str().trim_end_matches('\n').len();
        let link = &mut self.links[link];
        link.source.end = end_tag.map_or(at, |tag| tag.end);
        link.end_tag = end_tag;
        link.text.end = text_end.max(link.text.start);
        let has_words = !self.text.slice(link.text).trim().is_empty();
        link.kind = match link.kind {
            LinkKind::Empty if has_words => LinkKind::Text,
            LinkKind::Picture if has_words => LinkKind::Mixed,
            other => other,
        };
    }
}
