//! Strong components: groups of pages from each of which all others of the group can be reached.

use super::roads::Roads;

const NONE: u32 = u32::MAX;

/// The component of each page for which `counts` holds, and how many components there are; `u32::MAX` for the others.
/// A component that leads to another has the greater number. O(pages + roads).
///
/// After Tarjan, “Depth-first search and linear graph algorithms” (1972), with a stack of its own: sites are deep.
pub fn strong_components(roads: &Roads, counts: impl Fn(u32) -> bool) -> (Vec<u32>, usize) {
    let mut search = Search::of(roads.pages());
    for start in 0..u32::try_from(roads.pages()).unwrap_or(u32::MAX) {
        if search.met[start as usize] == 0 && counts(start) {
            search.enter(start);
        }
        while let Some((page, next)) = search.path.last_mut() {
            let page = *page;
            let to = roads.ends(page).get(*next).copied();
            *next += 1;
            match to {
                Some(to) if !counts(to) => {}
                Some(to) if search.met[to as usize] == 0 => search.enter(to),
                Some(to) if search.found[to as usize] == NONE => search.is_led_back(page, search.met[to as usize]),
                Some(_) => {}
                None => search.leave(page),
            }
        }
    }
    (search.found, search.components as usize)
}

struct Search {
    found: Vec<u32>,
    components: u32,
    /// When a page was met, from 1; and the earliest page that is met again from it.
    met: Vec<u32>,
    earliest: Vec<u32>,
    clock: u32,
    /// Pages whose component is not known yet.
    open: Vec<u32>,
    /// The way to the page at which the search is, and which road of each is next.
    path: Vec<(u32, usize)>,
}

impl Search {
    fn of(pages: usize) -> Self {
        Self {
            found: vec![NONE; pages],
            components: 0,
            met: vec![0; pages],
            earliest: vec![0; pages],
            clock: 0,
            open: Vec::new(),
            path: Vec::new(),
        }
    }

    fn enter(&mut self, page: u32) {
        self.clock += 1;
        self.met[page as usize] = self.clock;
        self.earliest[page as usize] = self.clock;
        self.open.push(page);
        self.path.push((page, 0));
    }

    fn is_led_back(&mut self, page: u32, met: u32) {
        let earliest = &mut self.earliest[page as usize];
        *earliest = (*earliest).min(met);
    }

    fn leave(&mut self, page: u32) {
        self.path.pop();
        let at = page as usize;
        if self.earliest[at] == self.met[at] {
            while let Some(member) = self.open.pop() {
                self.found[member as usize] = self.components;
                if member == page {
                    break;
                }
            }
            self.components += 1;
        }
        if let Some((before, _)) = self.path.last().copied() {
            self.is_led_back(before, self.earliest[at]);
        }
    }
}
