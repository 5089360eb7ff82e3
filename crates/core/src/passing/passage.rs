//! A page as it passes.

use std::ops::Deref;

use super::edit::{END_OF_BODY, PassingEdit};
use super::stretch::{LONGEST_SIDE, Stretch};
use super::whereabouts::Whereabouts;

/// Room for what comes into a piece.
const ROOM: usize = 512;

/// So much of what went by is remembered: a side, and the letter at its end.
const REMEMBERED: usize = LONGEST_SIDE + 4;

/// A page on its way. It never fails: what is not recognised goes on as it came.
#[derive(Debug)]
pub struct Passage<E> {
    edit: E,
    whereabouts: Whereabouts,
    /// What may yet become a stretch, and what went by last before it.
    held: Vec<u8>,
    before: Vec<u8>,
    /// How many bytes went by.
    passed: usize,
    /// How often each stretch was met, and whether it was changed.
    met: Vec<usize>,
    made: Vec<bool>,
    has_end: bool,
    sighted: Option<Vec<Sighted>>,
}

/// A stretch that was met.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct Sighted {
    pub stretch: usize,
    pub at: usize,
}

impl<E: Deref<Target = PassingEdit>> Passage<E> {
    /// Nothing of the page went by yet.
    pub fn of(edit: E) -> Self {
        let (met, made) = (vec![0; edit.stretches.len()], vec![false; edit.stretches.len()]);
        Self {
            edit,
            whereabouts: Whereabouts::default(),
            held: Vec::new(),
            before: Vec::new(),
            passed: 0,
            met,
            made,
            has_end: false,
            sighted: None,
        }
    }

    /// A whole page. O(n).
    pub fn over(edit: E, page: &[u8]) -> Vec<u8> {
        let mut passage = Self::of(edit);
        let mut out = Vec::with_capacity(page.len() + page.len() / 16);
        passage.push(page, &mut out);
        passage.end(&mut out);
        out
    }

    /// Where stretches are met on a page, none of which is changed.
    pub(super) fn sighted(edit: E, page: &[u8]) -> Vec<Sighted> {
        let mut passage = Self { sighted: Some(Vec::new()), ..Self::of(edit) };
        let mut out = Vec::new();
        passage.push(page, &mut out);
        let held = std::mem::take(&mut passage.held);
        passage.go(&held, true, &mut out);
        passage.sighted.unwrap_or_default()
    }

    /// The next bytes of the page; `out` gets what can go on. O(bytes + stretches × their lengths).
    pub fn push(&mut self, bytes: &[u8], out: &mut Vec<u8>) {
        if self.held.is_empty() {
            return self.go(bytes, false, out);
        }
        let mut held = std::mem::take(&mut self.held);
        held.extend_from_slice(bytes);
        self.go(&held, false, out);
    }

    /// The page is at its end.
    pub fn end(&mut self, out: &mut Vec<u8>) {
        let held = std::mem::take(&mut self.held);
        self.go(&held, true, out);
        if !self.has_end {
            out.extend_from_slice(&self.edit.at_end);
            self.has_end = true;
        }
    }

    /// The changes that were made so far, by their places among those that were asked for.
    pub fn links(&self) -> Vec<usize> {
        let made = self.edit.stretches.iter().zip(&self.made).filter(|(_, made)| **made);
        let mut links: Vec<_> = made.flat_map(|(stretch, _)| stretch.links.iter().copied()).collect();
        links.sort_unstable();
        links
    }

    fn go(&mut self, held: &[u8], is_last: bool, out: &mut Vec<u8>) {
        out.reserve(held.len() + ROOM);
        if self.is_over() {
            out.extend_from_slice(held);
            return;
        }
        let mut at = 0;
        let mut keep = self.first_begun(held, 0, is_last);
        let finder = self.edit.finder.clone();
        let mut search = finder.as_ref().map(|finder| finder.search(held));
        while let Some((row, found)) = search.as_mut().and_then(|search| search.next(held, at)) {
            if found.start >= keep {
                break;
            }
            if !is_last && found.end + self.beside(row) > held.len() {
                keep = found.start;
                break;
            }
            self.pass(&held[at..found.start], out);
            self.meet(row, (&held[..found.start], &held[found.end..]), &held[found.clone()], out);
            at = found.end;
            if keep < at {
                keep = self.first_begun(held, at, is_last);
            }
        }
        let keep = keep.max(at);
        self.pass(&held[at..keep], out);
        self.passed += keep;
        self.remember(&held[..keep]);
        self.held.extend_from_slice(&held[keep..]);
    }

    /// Whether nothing is to be put into the rest of the page.
    fn is_over(&self) -> bool {
        let met = self.met.iter().zip(&self.edit.stretches).all(|(met, stretch)| *met > stretch.nth);
        self.sighted.is_none() && met && (self.has_end || self.edit.at_end.is_empty())
    }

    /// How many bytes after one of the rows must be there to tell whether it is meant.
    fn beside(&self, row: usize) -> usize {
        match self.edit.of_bytes.get(row) {
            Some(stretches) => stretches.iter().map(|at| self.edit.stretches[*at].after.len()).max().unwrap_or(0),
            None => 1,
        }
    }

    fn pass(&mut self, bytes: &[u8], out: &mut Vec<u8>) {
        self.whereabouts.pass(bytes);
        out.extend_from_slice(bytes);
    }

    /// A row of bytes was found, with what stands before and after it.
    fn meet(&mut self, row: usize, (before, after): (&[u8], &[u8]), bytes: &[u8], out: &mut Vec<u8>) {
        let Some(stretches) = self.edit.of_bytes.get(row) else { return self.meet_end(after, bytes, out) };
        let may_be = self.whereabouts.may_begin_link();
        let is_beside =
            |stretch: &Stretch| self.ends_with(before, &stretch.before) && after.starts_with(&stretch.after);
        let meant: Vec<usize> =
            stretches.iter().copied().filter(|at| may_be && is_beside(&self.edit.stretches[*at])).collect();
        let mut change = None;
        for at in meant {
            let stretch = &self.edit.stretches[at];
            if let Some(sighted) = &mut self.sighted {
                sighted.push(Sighted { stretch: at, at: self.passed + before.len() });
            } else if self.met[at] == stretch.nth {
                change = Some(at);
            }
            self.met[at] += 1;
        }
        self.whereabouts.pass(bytes);
        match change {
            Some(at) => {
                self.made[at] = true;
                self.edit.stretches[at].write(out);
            }
            None => out.extend_from_slice(bytes),
        }
    }

    /// What may be the end of the body was found.
    fn meet_end(&mut self, after: &[u8], bytes: &[u8], out: &mut Vec<u8>) {
        let is_end = after.first().is_some_and(|byte| byte.is_ascii_whitespace() || matches!(byte, b'/' | b'>'));
        if is_end && !self.has_end && self.whereabouts.is_text() {
            out.extend_from_slice(&self.edit.at_end);
            self.has_end = true;
        }
        self.pass(bytes, out);
    }

    /// Whether what went by ends so.
    fn ends_with(&self, here: &[u8], end: &[u8]) -> bool {
        match end.len().checked_sub(here.len()) {
            None | Some(0) => here.ends_with(end),
            Some(earlier) => end[earlier..] == *here && self.before.ends_with(&end[..earlier]),
        }
    }

    fn remember(&mut self, bytes: &[u8]) {
        self.before.extend_from_slice(&bytes[bytes.len().saturating_sub(REMEMBERED)..]);
        let more = self.before.len().saturating_sub(REMEMBERED);
        self.before.drain(..more);
    }

    /// From where on the last bytes are the begin of something that is looked for.
    fn first_begun(&self, held: &[u8], from: usize, is_last: bool) -> usize {
        let rows = self
            .edit
            .of_bytes
            .iter()
            .filter_map(|stretches| stretches.first().map(|at| self.edit.stretches[*at].bytes.as_slice()));
        let ends = END_OF_BODY.into_iter().filter(|_| !self.edit.at_end.is_empty() && !self.has_end);
        let begun = rows.chain(ends).filter_map(|row| begun(&held[from..], row));
        match is_last {
            true => held.len(),
            false => begun.min().map_or(held.len(), |at| from + at),
        }
    }
}

/// Where the last bytes begin that are the begin of a row, and not all of it.
fn begun(bytes: &[u8], row: &[u8]) -> Option<usize> {
    let first = *row.first()?;
    let from = bytes.len().saturating_sub(row.len() - 1);
    let starts = memchr::memchr_iter(first, &bytes[from..]).map(|at| from + at);
    starts.into_iter().find(|at| row.starts_with(&bytes[*at..]))
}
