//! A plan in the making: the links that are chosen, and what they bring about.

use rustc_hash::{FxHashMap, FxHashSet};

use super::problem::{FAR, Problem};

/// How good a plan is: as many pages helped as can be, then as few pages edited, then as little cost.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Worth {
    /// How many of the wanted pages are within the depth and have their links in.
    pub helped: u32,
    /// How many pages are edited.
    pub edited: u32,
    /// The cost of all links together.
    pub cost: f64,
}

impl Worth {
    /// Costs that differ by less are the same.
    const SAME: f64 = 1e-9;

    /// Whether this is better than another.
    pub fn is_better_than(&self, other: &Self) -> bool {
        let first = (self.helped, std::cmp::Reverse(self.edited));
        let second = (other.helped, std::cmp::Reverse(other.edited));
        first > second || first == second && self.cost < other.cost - Self::SAME
    }
}

/// Chosen links with the depths that follow from them.
#[derive(Debug, Clone)]
pub(super) struct Draft<'p, 's> {
    pub problem: &'p Problem<'s>,
    depth: Vec<u32>,
    new_in: Vec<u32>,
    /// By page on which links stand: the chosen candidates.
    chosen: FxHashMap<u32, Vec<u32>>,
    queue: Vec<u32>,
    /// Pages that came nearer since somebody asked; some more than once.
    nearer: Vec<u32>,
}

impl<'p, 's> Draft<'p, 's> {
    /// Nothing is chosen but what is fixed. O(pages).
    pub fn of(problem: &'p Problem<'s>) -> Self {
        let mut draft = Self {
            problem,
            depth: problem.depth.clone(),
            new_in: vec![0; problem.snapshot.len()],
            chosen: FxHashMap::default(),
            queue: Vec::new(),
            nearer: Vec::new(),
        };
        problem.fixed.iter().for_each(|at| draft.add(*at));
        draft
    }

    /// With these candidates. O(pages + what they bring nearer).
    pub fn with(problem: &'p Problem<'s>, chosen: impl IntoIterator<Item = u32>) -> Self {
        let mut draft = Self::of(problem);
        chosen.into_iter().filter(|at| !problem.candidate(*at).fixed).for_each(|at| draft.add(at));
        draft
    }

    /// The chosen candidates, in their order.
    pub fn chosen(&self) -> Vec<u32> {
        let mut all: Vec<u32> = self.chosen.values().flatten().copied().collect();
        all.sort_unstable();
        all
    }

    /// The chosen candidates on a page.
    pub fn on(&self, page: u32) -> &[u32] {
        self.chosen.get(&page).map_or(&[], Vec::as_slice)
    }

    /// Pages that are edited, in the order of their numbers.
    pub fn edited(&self) -> Vec<u32> {
        let mut pages: Vec<u32> = self.chosen.keys().copied().collect();
        pages.sort_unstable();
        pages
    }

    pub fn depth(&self, page: u32) -> u32 {
        self.depth[page as usize]
    }

    /// How many links in a wanted page still lacks.
    pub fn lacks(&self, page: u32) -> u32 {
        self.problem.lacks(page).saturating_sub(self.new_in[page as usize])
    }

    /// Whether a page is near enough.
    pub fn is_near(&self, page: u32) -> bool {
        self.depth(page) <= self.problem.limits.depth
    }

    /// Whether a page is near enough and has its links in.
    pub fn is_helped(&self, page: u32) -> bool {
        self.is_near(page) && self.lacks(page) == 0
    }

    /// Wanted pages that are not helped. O(wanted pages).
    pub fn left(&self) -> impl Iterator<Item = u32> + '_ {
        self.problem.wanted.iter().copied().filter(|page| !self.is_helped(*page))
    }

    /// O(wanted pages + chosen links).
    pub fn worth(&self) -> Worth {
        let left = self.left().count();
        let cost = self.chosen.values().flatten().map(|at| f64::from(self.problem.candidate(*at).cost)).sum();
        Worth {
            helped: u32::try_from(self.problem.wanted.len() - left).unwrap_or(u32::MAX),
            edited: u32::try_from(self.chosen.len()).unwrap_or(u32::MAX),
            cost,
        }
    }

    /// Whether a candidate may stand beside those that are chosen. O(links on both of its pages).
    pub fn may(&self, at: u32) -> bool {
        let candidate = self.problem.candidate(at);
        let beside = self.on(candidate.from);
        let clashes = |other: &u32| {
            let other = self.problem.candidate(*other);
            other.to == candidate.to || other.sentence == candidate.sentence
        };
        let points_back = |other: &u32| self.problem.candidate(*other).to == candidate.from;
        beside.len() < self.problem.room(candidate.from)
            && !beside.iter().any(clashes)
            && (self.problem.limits.pairs || !self.on(candidate.to).iter().any(points_back))
    }

    /// Chooses a candidate, whether it may or not. O(what it brings nearer).
    pub fn add(&mut self, at: u32) {
        let candidate = *self.problem.candidate(at);
        self.chosen.entry(candidate.from).or_default().push(at);
        self.new_in[candidate.to as usize] += 1;
        let from = self.depth(candidate.from);
        if from != FAR && from + 1 < self.depth(candidate.to) {
            self.come_nearer(candidate.to, from + 1);
        }
    }

    fn come_nearer(&mut self, page: u32, depth: u32) {
        self.depth[page as usize] = depth;
        let mut queue = std::mem::take(&mut self.queue);
        queue.push(page);
        let mut next = 0;
        while let Some(page) = queue.get(next).copied() {
            next += 1;
            let depth = self.depth[page as usize] + 1;
            let chosen = self.chosen.get(&page).into_iter().flatten().map(|at| self.problem.candidate(*at).to);
            for to in self.problem.snapshot.roads().ends(page).iter().copied().chain(chosen) {
                let known = &mut self.depth[to as usize];
                if depth < *known {
                    *known = depth;
                    queue.push(to);
                }
            }
        }
        self.nearer.append(&mut queue);
        self.queue = queue;
    }

    /// Pages that came nearer since this was asked for the last time; some more than once.
    pub fn take_nearer(&mut self) -> Vec<u32> {
        std::mem::take(&mut self.nearer)
    }

    /// Pages on which links would stand that may help who is left: into a page, or into those far off from which it can be
    /// reached. O(roads among what is far off + candidates there).
    pub fn sources_for_left(&self) -> Vec<u32> {
        let mut is_known: FxHashSet<u32> = self.left().collect();
        let mut queue: Vec<u32> = is_known.iter().copied().collect();
        let mut sources: FxHashSet<u32> = FxHashSet::default();
        while let Some(page) = queue.pop() {
            let candidates = self.problem.to(page).iter().map(|at| self.problem.candidate(*at).from);
            for from in candidates {
                // A page that cannot be reached may carry the link once it can.
                if sources.insert(from) && !self.is_near(from) && is_known.insert(from) {
                    queue.push(from);
                }
            }
            let before = self.problem.reversed.ends(page).iter().copied();
            queue.extend(before.filter(|from| !self.is_near(*from) && is_known.insert(*from)));
        }
        let mut sources: Vec<u32> = sources.into_iter().collect();
        sources.sort_unstable();
        sources
    }

    /// Whether it may be that nothing is lost without a chosen link; `false` is sure. O(roads and candidates to its target).
    pub fn may_do_without(&self, at: u32) -> bool {
        let candidate = self.problem.candidate(at);
        if candidate.fixed {
            return false;
        }
        let to = candidate.to;
        if !self.is_helped(to) || !self.problem.is_wanted[to as usize] {
            return true;
        }
        if self.problem.lacks(to) > 0 && self.new_in[to as usize] <= self.problem.lacks(to) {
            return false;
        }
        let limit = self.problem.limits.depth;
        let leads = |from: u32| from != candidate.from && self.depth(from) < limit;
        let is_chosen = |other: &&u32| self.on(self.problem.candidate(**other).from).contains(*other);
        self.problem.depth[to as usize] <= limit
            || self.problem.reversed.ends(to).iter().any(|from| leads(*from))
            || self.problem.to(to).iter().filter(is_chosen).any(|other| leads(self.problem.candidate(*other).from))
    }

    /// The same without the links on some pages, but for those that are fixed. O(pages + what is left brings nearer).
    pub fn without(&self, pages: &FxHashSet<u32>) -> Self {
        let left = self.chosen.iter().filter(|(page, _)| !pages.contains(page)).flat_map(|(_, on)| on.iter().copied());
        let mut left: Vec<u32> = left.collect();
        left.sort_unstable();
        Self::with(self.problem, left)
    }

    /// How many pages would come near enough by one more link, and are neither yet nor among `counted`: wanted ones, and
    /// others that may carry links to these. `seen` becomes the pages that come nearer. O(what it brings nearer).
    pub fn brought_near(&self, at: u32, counted: &FxHashSet<u32>, seen: &mut Vec<u32>) -> (u32, u32) {
        let candidate = self.problem.candidate(at);
        let from = self.depth(candidate.from);
        let limit = self.problem.limits.depth;
        seen.clear();
        if from >= limit || from + 1 >= self.depth(candidate.to) {
            return (0, 0);
        }
        let mut found: FxHashMap<u32, u32> = FxHashMap::default();
        found.insert(candidate.to, from + 1);
        seen.push(candidate.to);
        let (mut next, mut wanted, mut others) = (0, 0, 0);
        while let Some(page) = seen.get(next).copied() {
            next += 1;
            let depth = found[&page];
            if !self.is_near(page) && !counted.contains(&page) {
                match self.problem.is_wanted[page as usize] {
                    true => wanted += 1,
                    false => others += 1,
                }
            }
            if depth == limit {
                continue;
            }
            let chosen = self.on(page).iter().map(|at| self.problem.candidate(*at).to);
            for to in self.problem.snapshot.roads().ends(page).iter().copied().chain(chosen) {
                if depth + 1 < self.depth(to) && !found.contains_key(&to) {
                    found.insert(to, depth + 1);
                    seen.push(to);
                }
            }
        }
        (wanted, others)
    }
}
