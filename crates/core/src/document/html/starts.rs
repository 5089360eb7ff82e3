//! Start tags: which of them begin an element, and what holds inside of it.

use super::facts::TagFacts;
use super::links::LinkTag;
use super::tokenizer::{Content, RawAttribute, TagToken, Tokenizer};
use super::{Open, Reader};
use crate::document::block::BlockKind;
use crate::document::elements::Element;
use crate::document::lists::List;
use crate::document::region::Region;
use crate::document::tree::{MAX_DEPTH, Node, ROOT};

/// Elements of SVG and MathML that hold HTML.
const HOLD_HTML: [&str; 9] = ["foreignobject", "desc", "title", "annotation-xml", "mi", "mo", "mn", "ms", "mtext"];

/// No tag of a language that is in use is longer.
const LONGEST_TAG: usize = 35;

/// What is found out of a start tag before its element is entered.
struct Start<'t, 's> {
    element: Element,
    tag: &'t TagToken,
    link_tag: LinkTag<'t, 's>,
    /// Whether it stands in SVG or MathML.
    foreign: bool,
    hidden: bool,
    /// Whether a link is still open that a browser closes here.
    replaces_a_link: bool,
}

impl<'s> Reader<'s> {
    pub(super) fn start_tag(&mut self, tag: TagToken, tokens: &mut Tokenizer<'s>) {
        let element = Element::of(self.name(tag.name));
        let at = tag.source.start;
        self.note_within_select(element);
        if self.is_foreign() && element.breaks_out_of_foreign() {
            self.break_out(at);
        }
        let foreign = self.is_foreign();
        if !foreign && !self.has_a_place(element, tokens.attributes()) {
            self.tree.push_stray(at);
            return;
        }
        let replaces_a_link =
            element == Element::A && (self.is_open(element) || self.dangling.here().contains(&element));
        if !foreign {
            self.close_implied(element, at);
        }
        let facts = TagFacts::of(self.source, tokens.attributes());
        if !tokens.attributes().is_empty() {
            self.note_facts(element, &facts);
        }
        // The attribute `hidden` is a state and not a kind: scripts show what has it, as tabs, answers and variants.
        let hidden = self.stack.last().is_some_and(|open| open.hidden) || element.is_hidden();
        if element.is_block() {
            self.end_block();
        }
        let link_tag = LinkTag { source: tag.source, facts: &facts, attributes: tokens.attributes() };
        match element {
            Element::Br if !hidden => self.text.push_separator(),
            Element::Img => self.note_picture(tag.source, &facts, hidden),
            Element::Area if !hidden => self.note_area(&link_tag),
            _ => {}
        }
        if element.is_void() || (tag.self_closing && (foreign || begins_foreign(element))) {
            return;
        }
        if self.stack.len() >= MAX_DEPTH {
            self.is_lost = true;
            return;
        }
        self.enter(&Start { element, tag: &tag, link_tag, foreign, hidden, replaces_a_link });
        let content = element.content();
        if !foreign && content != Content::Markup {
            tokens.expect(content, self.name(tag.name));
        }
    }

    /// Whether a start tag outside of SVG and MathML begins anything, or a browser passes over it.
    fn has_a_place(&mut self, element: Element, attributes: &[RawAttribute]) -> bool {
        if element.is_inside_table() && !self.is_open(Element::Table) {
            return false;
        }
        let begins = self.begins(element);
        if !begins {
            // Of a second `html` or `body` a browser takes the attributes alone.
            self.note_facts(element, &TagFacts::of(self.source, attributes));
        }
        begins
    }

    fn enter(&mut self, start: &Start<'_, 's>) {
        let Start { element, tag, link_tag, foreign, hidden, replaces_a_link } = start;
        let (element, foreign, hidden, facts) = (*element, *foreign, *hidden, link_tag.facts);
        let outer = self.stack.last().copied();
        let in_cell = matches!(element, Element::Td | Element::Th | Element::Caption);
        let astray = element.is_table_part() || (outer.is_some_and(|open| open.astray) && !in_cell);
        self.is_lost |= element == Element::Frameset;
        let name = self.name(tag.name);
        let holds_html = foreign && HOLD_HTML.iter().any(|known| name.eq_ignore_ascii_case(known));
        let inside_content =
            outer.is_some_and(|open| open.inside_content) || matches!(element, Element::Main | Element::Article);
        let region = outer.map_or(Region::Content, |open| open.region);
        let region = region.of_child(element, facts.region_signs(), inside_content);
        let is_outermost = outer.is_none_or(|open| open.region == Region::Content);
        let is_box = region == Region::Aside && is_outermost && element != Element::Aside && facts.role.is_none();
        let boxed = is_box.then_some(self.text.len());
        let parent = outer.map_or(ROOT, |open| open.node);
        let is_block = element.is_block();
        let mended = *replaces_a_link || self.is_mended(outer.as_ref());
        let node = self.tree.push(Node { parent, element, start_tag: tag.source, end_tag: None, is_block, mended });
        let list = outer.and_then(|open| open.list).or_else(|| self.open_list(element, region, inside_content));
        let link = if hidden { None } else { self.open_link(element, link_tag, region, list) };
        if let Some(link) = link.and_then(|link| self.links.get_mut(link as usize)) {
            link.mended = mended;
        }
        let block = block_kind(element).or_else(|| outer.and_then(|open| open.block));
        let place = outer.map_or(0, |open| open.place);
        let (place, block_node) = match is_block {
            true => (facts.place_below(place, element), node),
            false => (place, outer.map_or(ROOT, |open| open.block_node)),
        };
        let language = match facts.lang.or(facts.xml_lang) {
            Some(tag) if element != Element::Html => self.note_language(tag),
            _ => outer.and_then(|open| open.language),
        };
        self.has_heading |= element.is_heading() && !hidden;
        self.open[element as usize] += 1;
        let keeps_to_itself = !foreign && element.keeps_formatting();
        let dangling = keeps_to_itself.then(|| self.dangling.enter());
        self.stack.push(Open {
            node,
            element,
            name: tag.name,
            region,
            inside_content,
            hidden,
            foreign: begins_foreign(element) || (foreign && !holds_html),
            astray,
            block,
            block_node,
            link,
            list,
            place,
            language,
            boxed,
            dangling,
        });
    }

    /// Whether an element begins here: a page has one `html`, one `head` and one `body`, each before all that stands in it.
    fn begins(&mut self, element: Element) -> bool {
        let only = match element {
            Element::Html => &mut self.has_html,
            Element::Head => &mut self.has_head,
            Element::Body => &mut self.has_body,
            _ => return true,
        };
        let is_first = !std::mem::replace(only, true);
        // After its time it is there already, though nothing says so. Text before the body, such as the complaint of a
        // program, does not keep a page from having one.
        let nothing_said = |reader: &Self| reader.text.as_str().trim_ascii().is_empty();
        is_first
            && match element {
                Element::Html => self.stack.is_empty() && nothing_said(self),
                Element::Head => {
                    !self.has_body && self.stack.iter().all(|open| open.element == Element::Html) && nothing_said(self)
                }
                _ => self.stack.iter().all(|open| matches!(open.element, Element::Html | Element::Head)),
            }
    }

    /// The number of a language in which an element says to be. That of the page has none.
    fn note_language(&mut self, tag: &str) -> Option<u8> {
        let tag = tag.trim();
        let is_own = self.head.language.as_deref().is_some_and(|own| own.eq_ignore_ascii_case(tag));
        if is_own || tag.is_empty() || tag.len() > LONGEST_TAG {
            return None;
        }
        let known = self.languages.iter().position(|known| known.eq_ignore_ascii_case(tag));
        let number = u8::try_from(known.unwrap_or(self.languages.len())).ok()?;
        if known.is_none() {
            self.languages.push(tag.to_owned());
        }
        Some(number)
    }

    fn open_list(&mut self, element: Element, region: Region, inside_content: bool) -> Option<u32> {
        let is_list = matches!(element, Element::Ul | Element::Ol | Element::Dl) && region == Region::Content;
        is_list.then(|| {
            self.lists.push(List { is_before_headings: !self.has_heading, inside_content, ..List::default() });
            u32::try_from(self.lists.len() - 1).unwrap_or(u32::MAX)
        })
    }
}

fn begins_foreign(element: Element) -> bool {
    matches!(element, Element::Svg | Element::Math)
}

fn block_kind(element: Element) -> Option<BlockKind> {
    Some(match element {
        Element::H1 => BlockKind::Heading(1),
        Element::H2 => BlockKind::Heading(2),
        Element::H3 => BlockKind::Heading(3),
        Element::H4 => BlockKind::Heading(4),
        Element::H5 => BlockKind::Heading(5),
        Element::H6 => BlockKind::Heading(6),
        Element::P
        | Element::Dd
        | Element::Div
        | Element::Section
        | Element::Article
        | Element::Main
        | Element::Details
        | Element::Body => BlockKind::Paragraph,
        Element::Li => BlockKind::ListItem,
        Element::Td | Element::Th => BlockKind::Cell,
        Element::Blockquote => BlockKind::Quote,
        Element::Figcaption | Element::Caption => BlockKind::Caption,
        Element::Pre | Element::Listing | Element::Plaintext => BlockKind::Code,
        Element::Summary => BlockKind::Summary,
        Element::Dt => BlockKind::Term,
        _ => return None,
    })
}
