//! How elements end: by their own end tags, by those of others, and by what begins after them.

use super::tokenizer::TagToken;
use super::{Open, Reader};
use crate::document::elements::Element;
use crate::document::nesting::Meeting;
use crate::document::span::{SourceSpan, TextSpan};

impl Reader<'_> {
    /// HTML elements end SVG and MathML, but for the places there that hold HTML.
    pub(super) fn break_out(&mut self, at: usize) {
        // In the source the element that does so still stands inside.
        self.tree.push_stray(at);
        while self.is_foreign() {
            self.pop(at, None);
        }
    }

    pub(super) fn close_implied(&mut self, opening: Element, at: usize) {
        let innermost = self.stack.last().map(|open| open.element);
        if innermost == Some(Element::Head) && !opening.may_stand_in_head() {
            let depth = self.stack.len() - 1;
            self.pop_to(depth, at, None);
        }
        if opening == Element::A {
            // A link inside a link ends the outer one.
            if let Some(depth) = self.depth_of(Element::A) {
                // Where that takes blocks along, a browser's tree and ours part for good.
                self.is_lost |= self.stack[depth..].iter().any(|open| open.element.is_special());
                self.pop_to(depth, at, None);
            }
            self.dangling.end_all(Element::A);
            return;
        }
        let mut closed = None;
        for depth in (0..self.stack.len()).rev() {
            match opening.start_meets(self.stack[depth].element) {
                Meeting::Closes => closed = Some(depth),
                Meeting::Passes => {}
                Meeting::Stops => break,
            }
        }
        if let Some(depth) = closed {
            self.pop_to(depth, at, None);
        }
        if opening.closes_p() && self.is_open(Element::P) {
            let inner = self.stack.iter().rposition(|open| open.element == Element::P || open.element.hides_p());
            if let Some(depth) = inner.filter(|depth| self.stack[*depth].element == Element::P) {
                self.pop_to(depth, at, None);
            }
        }
    }

    pub(super) fn depth_of(&self, element: Element) -> Option<usize> {
        self.is_open(element).then(|| self.stack.iter().rposition(|open| open.element == element)).flatten()
    }

    /// The open element that an end tag ends.
    pub(super) fn ended_by(&self, element: Element, name: &str) -> Option<usize> {
        if !self.is_open(element) {
            return None;
        }
        for (depth, open) in self.stack.iter().enumerate().rev() {
            let is_same = match element {
                Element::Other => open.element == element && self.name(open.name).eq_ignore_ascii_case(name),
                _ if element.is_heading() => open.element.is_heading(),
                _ => open.element == element,
            };
            if is_same {
                return Some(depth);
            }
            if element.ends_not_beyond(open.element) {
                return None;
            }
        }
        None
    }

    /// The open cell of the innermost table.
    fn cell_in_table(&self) -> Option<usize> {
        let is_edge = |open: &Open| matches!(open.element, Element::Table | Element::Template | Element::Html);
        let is_cell = |open: &Open| matches!(open.element, Element::Td | Element::Th);
        let depth = self.stack.iter().rposition(|open| is_cell(open) || is_edge(open))?;
        is_cell(&self.stack[depth]).then_some(depth)
    }

    pub(super) fn end_tag(&mut self, tag: TagToken) {
        let name = self.name(tag.name);
        let element = Element::of(name);
        if element != Element::Select {
            self.note_within_select(element);
        }
        if element.is_inside_table() && !self.is_open(Element::Table) {
            return self.tree.push_stray(tag.source.start);
        }
        if matches!(element, Element::Body | Element::Html) {
            // What follows goes on where it would have without.
            let ended = self.ended_by(element, name).map(|depth| self.stack[depth].node);
            ended.into_iter().for_each(|node| self.tree.node_mut(node).end_tag = Some(tag.source));
            return self.tree.push_stray(tag.source.start);
        }
        if element.is_block() {
            self.end_block();
        }
        if let Some(depth) = self.ended_by(element, name) {
            // Of headings any end tag ends any; only its own belongs to it.
            let own = self.stack[depth].element == element;
            if element.is_formatting() && self.stack[depth..].iter().any(|open| open.element.is_special()) {
                self.tree.note_crossing(tag.source.start);
                self.tree.push_stray(tag.source.start);
            }
            self.pop_to(depth, tag.source.start, own.then_some(tag.source));
            if !own {
                self.tree.push_stray(tag.source.start);
            }
            return;
        }
        self.tree.push_stray(tag.source.start);
        if matches!(element, Element::Tr | Element::Tbody)
            && let Some(depth) = self.cell_in_table()
        {
            // A cell without a row of its own was given one, and a row without a body.
            self.pop_to(depth, tag.source.start, None);
        }
        // What was opened again before a table, or a drawing, is not ended in it.
        let is_kept = self.stack.last().is_some_and(|open| open.astray)
            || self.is_open(Element::Svg)
            || self.is_open(Element::Math);
        if !is_kept {
            self.dangling.end(element);
        }
    }

    pub(super) fn pop_to(&mut self, depth: usize, at: usize, end_tag: Option<SourceSpan>) {
        while self.stack.len() > depth + 1 {
            self.pop(at, None);
        }
        self.pop(at, end_tag);
    }

    pub(super) fn pop(&mut self, at: usize, end_tag: Option<SourceSpan>) {
        let Some(open) = self.stack.last() else { return };
        if open.element.is_block() {
            self.end_block();
        }
        let Some(open) = self.stack.pop() else { return };
        self.open[open.element as usize] -= 1;
        self.boxes.extend(open.boxed.map(|start| TextSpan::new(start, self.text.len())));
        if end_tag.is_some() {
            self.tree.node_mut(open.node).end_tag = end_tag;
        }
        if end_tag.is_none() && open.element.is_formatting() {
            self.is_lost |= !self.dangling.push(open.element);
        }
        // What such an element kept to itself, a browser may mix up with what is around it.
        let is_cell = matches!(open.element, Element::Td | Element::Th | Element::Caption);
        self.is_lost |= end_tag.is_none() && open.dangling.is_some() && !is_cell;
        if let Some(around) = open.dangling {
            self.dangling.leave(around);
        }
        if let Some(link) = open.link {
            self.end_link(link as usize, at, end_tag);
        }
    }
}
