//! What the parser's events are in our words.

use pulldown_cmark::{HeadingLevel, LinkType, Tag, TagEnd};

use crate::document::block::BlockKind;
use crate::document::elements::Element;
use crate::document::link::Manner;

/// The name by which the rules know an element, and the block that its text is.
pub(super) fn kind_of(tag: &Tag<'_>) -> (Element, Option<BlockKind>) {
    match tag {
        Tag::Paragraph => (Element::P, None),
        Tag::Heading { level, .. } => (Element::H, Some(BlockKind::Heading(level_of(*level)))),
        Tag::BlockQuote(_) => (Element::Blockquote, Some(BlockKind::Quote)),
        Tag::CodeBlock(_) => (Element::Pre, Some(BlockKind::Code)),
        Tag::Item => (Element::Li, Some(BlockKind::ListItem)),
        Tag::FootnoteDefinition(_) => (Element::Footnote, Some(BlockKind::Paragraph)),
        Tag::TableCell => (Element::Td, Some(BlockKind::Cell)),
        Tag::Emphasis => (Element::Em, None),
        Tag::Strong => (Element::Strong, None),
        Tag::Strikethrough => (Element::S, None),
        Tag::Link { .. } => (Element::A, None),
        Tag::Image { .. } => (Element::Img, None),
        _ => (Element::Div, None),
    }
}

pub(super) fn is_container(tag: &Tag<'_>) -> bool {
    matches!(tag, Tag::Paragraph | Tag::List(_) | Tag::Table(_) | Tag::TableHead | Tag::TableRow | Tag::HtmlBlock)
}

pub(super) fn is_end_of_block(tag: &TagEnd) -> bool {
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

pub(super) fn manner_of(kind: LinkType) -> Manner {
    match kind {
        LinkType::Inline => Manner::Inline,
        LinkType::Autolink | LinkType::Email => Manner::Autolink,
        _ => Manner::Reference,
    }
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
