//! Dominators: the pages over which all ways to a page lead.

use super::roads::Roads;
use super::snapshot::Snapshot;

/// The root above all pages on which readers start, and what stands for a page that cannot be reached.
const ROOT: u32 = 0;
const NONE: u32 = u32::MAX;

/// The dominator tree of a site: above each page the last page that every way to it leads over.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Dominators {
    /// By number of page: its place in a walk over the site, from 1; [`NONE`] when it cannot be reached.
    place: Vec<u32>,
    /// By place: the page there, and the place of its dominator. The root has place 0.
    pages: Vec<u32>,
    above: Vec<u32>,
    /// By place: how many pages it dominates, itself included, and its place in a walk over the tree.
    size: Vec<u32>,
    entered: Vec<u32>,
}

impl Dominators {
    /// O((pages + roads) · log pages), in practice linear. `reversed` are the roads by where they lead.
    ///
    /// Semi-dominators with paths compressed as in Lengauer and Tarjan, “A fast algorithm for finding dominators in a
    /// flowgraph” (1979), and dominators from these as nearest common ancestors: Georgiadis, “Linear-time algorithms for
    /// dominators and related problems” (2005).
    pub fn of(snapshot: &Snapshot, reversed: &Roads) -> Self {
        let walk = Walk::over(snapshot);
        let above = dominators(snapshot, reversed, &walk);
        let mut size = vec![1u32; above.len()];
        for place in (1..above.len()).rev() {
            size[above[place] as usize] += size[place];
        }
        let mut entered = vec![0u32; above.len()];
        let mut free = vec![1u32; above.len()];
        for place in 1..above.len() {
            let next = &mut free[above[place] as usize];
            entered[place] = *next;
            *next += size[place];
            free[place] = entered[place] + 1;
        }
        Self { place: walk.place, pages: walk.pages, above, size, entered }
    }

    fn place(&self, page: u32) -> Option<usize> {
        self.place.get(page as usize).copied().filter(|place| *place != NONE).map(|place| place as usize)
    }

    /// The last page before `page` over which every way to it leads; `None` when there is none, or no way.
    pub fn above(&self, page: u32) -> Option<u32> {
        let above = self.above[self.place(page)?];
        (above != ROOT).then(|| self.pages[above as usize])
    }

    /// How many pages can only be reached over `page`, itself included; 0 when it cannot be reached.
    pub fn size(&self, page: u32) -> u32 {
        self.place(page).map_or(0, |place| self.size[place])
    }

    /// Whether every way to `page` leads over `over`, or they are the same. `false` for what cannot be reached. O(1).
    pub fn dominates(&self, over: u32, page: u32) -> bool {
        let (Some(over), Some(page)) = (self.place(over), self.place(page)) else { return false };
        let first = self.entered[over];
        (first..first + self.size[over]).contains(&self.entered[page])
    }
}

/// A walk over what can be reached, each page as deep as it goes before the next.
struct Walk {
    place: Vec<u32>,
    pages: Vec<u32>,
    /// By place: the place from which the walk came.
    from: Vec<u32>,
}

impl Walk {
    fn over(snapshot: &Snapshot) -> Self {
        let mut walk = Self { place: vec![NONE; snapshot.len()], pages: vec![NONE], from: vec![ROOT] };
        let mut path: Vec<(u32, usize)> = Vec::new();
        for entry in snapshot.entries() {
            if walk.place[*entry as usize] == NONE {
                walk.enter(*entry, ROOT);
                path.push((*entry, 0));
            }
            while let Some((page, next)) = path.last_mut() {
                let page = *page;
                let to = snapshot.roads().ends(page).get(*next).copied();
                *next += 1;
                match to {
                    Some(to) if walk.place[to as usize] == NONE => {
                        walk.enter(to, walk.place[page as usize]);
                        path.push((to, 0));
                    }
                    Some(_) => {}
                    None => drop(path.pop()),
                }
            }
        }
        walk
    }

    fn enter(&mut self, page: u32, from: u32) {
        self.place[page as usize] = u32::try_from(self.pages.len()).unwrap_or(NONE);
        self.pages.push(page);
        self.from.push(from);
    }
}

/// By place: the place of the dominator.
fn dominators(snapshot: &Snapshot, reversed: &Roads, walk: &Walk) -> Vec<u32> {
    let count = walk.pages.len();
    let mut forest = Forest {
        semi: (0..u32::try_from(count).unwrap_or(NONE)).collect(),
        label: (0..u32::try_from(count).unwrap_or(NONE)).collect(),
        ancestor: walk.from.clone(),
        path: Vec::new(),
    };
    for place in (1..count).rev() {
        let page = walk.pages[place];
        let mut semi = walk.from[place];
        for from in reversed.ends(page) {
            let from = walk.place[*from as usize];
            if from != NONE {
                semi = semi.min(forest.least(from, place + 1));
            }
        }
        forest.semi[place] = if snapshot.is_entry(page) { ROOT } else { semi };
    }
    let mut above = walk.from.clone();
    for place in 1..count {
        let mut candidate = above[place];
        while candidate > forest.semi[place] {
            candidate = above[candidate as usize];
        }
        above[place] = candidate;
    }
    above
}

/// The part of the walk whose semi-dominators are known, as trees with compressed paths.
struct Forest {
    semi: Vec<u32>,
    /// The place with the least semi-dominator on the compressed path above.
    label: Vec<u32>,
    ancestor: Vec<u32>,
    path: Vec<u32>,
}

impl Forest {
    /// The least semi-dominator on the path from `place` up to where places before `linked` begin.
    fn least(&mut self, place: u32, linked: usize) -> u32 {
        let is_linked = |ancestor: u32| ancestor as usize >= linked;
        let mut at = place;
        while is_linked(self.ancestor[at as usize]) {
            self.path.push(at);
            at = self.ancestor[at as usize];
        }
        let mut label = self.label[at as usize];
        while let Some(below) = self.path.pop() {
            let slot = below as usize;
            self.ancestor[slot] = self.ancestor[at as usize];
            match self.semi[label as usize] < self.semi[self.label[slot] as usize] {
                true => self.label[slot] = label,
                false => label = self.label[slot],
            }
            at = below;
        }
        self.semi[self.label[place as usize] as usize]
    }
}
