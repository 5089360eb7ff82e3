//! What a rescue is to bring about, and by which links it may.

use crate::openings::Opening;
use crate::reach::{Equity, Roads, Snapshot, Ways};

/// Stands for the depth of a page that cannot be reached.
pub(super) const FAR: u32 = u32::MAX;

/// What is to hold for every page that is helped, and for every page that is edited.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct RescueLimits {
    /// Clicks from where readers start, at most.
    pub depth: u32,
    /// Links in from so many different pages, at least.
    pub links_in: u32,
    /// New links on one page, at most.
    pub per_page: u32,
    /// Whether a page may be linked from one that it links to.
    pub pairs: bool,
}

/// A link that may be put: pages by their numbers in the snapshot.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Candidate {
    /// The page on which it would stand.
    pub from: u32,
    /// The page to which it would lead.
    pub to: u32,
    /// The sentence in which it would stand, by a number that no other sentence of the page has: a plan puts one link into
    /// a sentence.
    pub sentence: u32,
    /// What the link costs beside others: 0 for one that every editor would keep, 1 for one that none would.
    pub cost: f32,
    /// Whether every plan has it: the editor chose it.
    pub fixed: bool,
    /// By what whoever offers it knows it.
    pub offer: u32,
}

impl Candidate {
    /// An opening, which costs the less the better it fits; `None` where one of its pages is not in the graph.
    pub fn of(snapshot: &Snapshot, opening: &Opening, offer: u32) -> Option<Self> {
        Some(Self {
            from: snapshot.number_of(opening.source)?,
            to: snapshot.number_of(opening.target)?,
            sentence: u32::try_from(opening.sentence.start).unwrap_or(u32::MAX),
            cost: (1.0 - opening.fit.total() / 100.0) as f32,
            fixed: false,
            offer,
        })
    }

    /// The same where a link rather stands on a page with much equity than on one with a high fit. Above the average page
    /// little is gained by still more.
    #[must_use]
    pub fn rather_by_equity(self, equity: &Equity) -> Self {
        let beside_average = equity.share(self.from) * equity.shares().len() as f64;
        Self { cost: 0.25 * self.cost + 0.75 / (1.0 + beside_average as f32), ..self }
    }
}

/// Pages to be helped, and the links that may be put for it.
#[derive(Debug)]
pub struct Problem<'s> {
    pub(super) snapshot: &'s Snapshot,
    /// The roads by where they lead.
    pub(super) reversed: Roads,
    pub(super) limits: RescueLimits,
    /// Pages to be helped, in the order of their numbers.
    pub(super) wanted: Vec<u32>,
    /// In the order of the pages on which they would stand; none between pages that are linked already.
    pub(super) candidates: Vec<Candidate>,
    /// By page: where its candidates begin, and at last where those of the last page end.
    starts: Vec<u32>,
    /// By page: the candidates that lead to it.
    into: Vec<Vec<u32>>,
    /// By page, as the site stands: its depth, [`FAR`] where it cannot be reached; and how many pages link to it.
    pub(super) depth: Vec<u32>,
    pub(super) links_in: Vec<u32>,
    pub(super) is_wanted: Vec<bool>,
    /// By page: new links that it may carry.
    room: Vec<u32>,
    /// The candidates that every plan has.
    pub(super) fixed: Vec<u32>,
}

impl<'s> Problem<'s> {
    /// O(pages + roads + candidates · log candidates). Candidates between pages that are linked already, or that the limits
    /// forbid, are left out.
    pub fn new(
        snapshot: &'s Snapshot,
        limits: RescueLimits,
        wanted: impl IntoIterator<Item = u32>,
        candidates: impl IntoIterator<Item = Candidate>,
    ) -> Self {
        let pages = snapshot.len();
        let is_there = |page: u32| (page as usize) < pages;
        let mut is_wanted = vec![false; pages];
        wanted.into_iter().filter(|page| is_there(*page)).for_each(|page| is_wanted[page as usize] = true);
        let roads = snapshot.roads();
        let may = |candidate: &Candidate| {
            let Candidate { from, to, .. } = *candidate;
            let is_new = is_there(from) && is_there(to) && from != to && !roads.leads(from, to);
            is_new && (limits.pairs || !roads.leads(to, from))
        };
        let mut candidates: Vec<Candidate> = candidates.into_iter().filter(may).collect();
        candidates.sort_by(|one, other| {
            (one.from, one.to, one.sentence)
                .cmp(&(other.from, other.to, other.sentence))
                .then(other.fixed.cmp(&one.fixed))
                .then(one.cost.total_cmp(&other.cost))
        });
        candidates.dedup_by_key(|candidate| (candidate.from, candidate.to, candidate.sentence));
        let mut starts = vec![0u32; pages + 1];
        let mut into = vec![Vec::new(); pages];
        for (at, candidate) in (0u32..).zip(&candidates) {
            starts[candidate.from as usize + 1] = at + 1;
            into[candidate.to as usize].push(at);
        }
        for page in 1..starts.len() {
            starts[page] = starts[page].max(starts[page - 1]);
        }
        let ways = Ways::of(snapshot);
        let depth = snapshot.numbers().map(|page| ways.depth(page).unwrap_or(FAR)).collect();
        let reversed = roads.reversed();
        let count = |page: u32| u32::try_from(reversed.ends(page).len()).unwrap_or(u32::MAX);
        let links_in = snapshot.numbers().map(count).collect();
        let wanted = snapshot.numbers().filter(|page| is_wanted[*page as usize]).collect();
        let fixed = (0u32..).zip(&candidates).filter(|(_, candidate)| candidate.fixed).map(|(at, _)| at).collect();
        let room = vec![limits.per_page; pages];
        Self { snapshot, reversed, limits, wanted, candidates, starts, into, depth, links_in, is_wanted, room, fixed }
    }

    /// The same where pages may carry no more new links than `room` says of each by its number. O(pages).
    #[must_use]
    pub fn with_room(mut self, room: impl Fn(u32) -> u32) -> Self {
        for (page, most) in (0u32..).zip(&mut self.room) {
            *most = self.limits.per_page.min(room(page));
        }
        self
    }

    /// New links that a page may carry.
    pub(super) fn room(&self, page: u32) -> usize {
        self.room[page as usize] as usize
    }

    /// The candidates that would stand on a page.
    pub(super) fn on(&self, page: u32) -> std::ops::Range<u32> {
        self.starts[page as usize]..self.starts[page as usize + 1]
    }

    /// The candidates that would lead to a page.
    pub(super) fn to(&self, page: u32) -> &[u32] {
        &self.into[page as usize]
    }

    pub(super) fn candidate(&self, at: u32) -> &Candidate {
        &self.candidates[at as usize]
    }

    /// The candidates, by whose places in this list plans name them.
    pub fn candidates(&self) -> &[Candidate] {
        &self.candidates
    }

    /// Pages on which candidates would stand.
    pub(super) fn sources(&self) -> impl Iterator<Item = u32> + '_ {
        self.snapshot.numbers().filter(|page| !self.on(*page).is_empty())
    }

    /// How many links a page still lacks as the site stands.
    pub(super) fn lacks(&self, page: u32) -> u32 {
        self.limits.links_in.saturating_sub(self.links_in[page as usize])
    }
}
