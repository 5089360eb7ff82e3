//! Formatting elements that were closed without an end tag of their own: a browser opens them again where text follows,
//! but not within the cells of tables and their like, and what such a cell leaves open ends with it (“the list of active
//! formatting elements” of the HTML standard).

use crate::document::elements::Element;

/// A page that leaves so many open is past help.
const MOST: usize = 200;

#[derive(Default)]
pub(super) struct Dangling {
    all: Vec<Element>,
    /// Those before this one are not opened again where the page is read now.
    first: usize,
}

/// What was opened again around a cell.
#[derive(Debug, Clone, Copy)]
pub(super) struct Around(usize);

impl Dangling {
    /// What is opened again here.
    pub fn here(&self) -> &[Element] {
        self.all.get(self.first..).unwrap_or_default()
    }

    /// `false` when there are too many.
    #[must_use]
    pub fn push(&mut self, element: Element) -> bool {
        let has_room = self.all.len() < MOST;
        if has_room {
            self.all.push(element);
        }
        has_room
    }

    /// Ends the last of a kind here. O(1): there are few.
    pub fn end(&mut self, element: Element) {
        if let Some(at) = self.here().iter().rposition(|dangling| *dangling == element) {
            self.all.remove(self.first + at);
        }
    }

    /// Ends all of a kind here.
    pub fn end_all(&mut self, element: Element) {
        let mut here = self.all.split_off(self.first);
        here.retain(|dangling| *dangling != element);
        self.all.append(&mut here);
    }

    /// A cell begins.
    pub fn enter(&mut self) -> Around {
        Around(std::mem::replace(&mut self.first, self.all.len()))
    }

    /// A cell ends.
    pub fn leave(&mut self, around: Around) {
        self.all.truncate(self.first);
        self.first = around.0;
    }
}
