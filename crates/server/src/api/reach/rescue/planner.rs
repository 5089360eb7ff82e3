//! A plan on its way: what may be put is looked up, the core plans, and each better plan is told.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;
use std::time::{Duration, Instant};

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::TextSpan;
use strelm_core::openings::{Opening, Room, Unwanted};
use strelm_core::plan::rescue::{Audience, Better, Candidate, Plan, Problem, Worth, helpful, lacking, solve};
use strelm_core::reach::{Equity, Roads, Snapshot, Ways, cut};
use strelm_core::site::{Moment, PageId};

use super::rows::{RescueNews, RescuePlan, RescueRow};
use super::teller::Teller;
use super::wish::{KeptRow, RescueWish};
use crate::api::ApiError;
use crate::api::pages::{OpeningRow, PageRef};
use strelm_live::{LiveSite, Model};

/// Pages for which openings are looked up before others get their turn with the model.
const LOOKED_UP_AT_ONCE: usize = 64;

/// Openings that are looked at for one page.
const MOST_OPENINGS: usize = 60;

/// Better plans are told of no more often.
const TOLD_EVERY: Duration = Duration::from_millis(700);

/// A rescue on its way.
pub struct Planner {
    pub live: Arc<LiveSite>,
    pub wish: RescueWish,
    pub teller: Teller,
    /// The graph with the tray.
    pub whole: Arc<Snapshot>,
    /// The one in which the plan is made: where pages are to get a second way, as if their threads were cut.
    pub snapshot: Arc<Snapshot>,
    reversed: Roads,
    ways: Ways,
    pub wanted: Vec<u32>,
    /// What may be put, those rows first that the editor keeps.
    openings: Vec<Opening>,
    kept: usize,
    /// Rows to be kept that are possible no more.
    lost: usize,
}

/// The best plan that was found.
pub struct Best {
    pub plan: Plan,
    pub chosen: Vec<Candidate>,
}

impl Best {
    /// From page to page, by their numbers.
    pub fn links(&self) -> impl Iterator<Item = (u32, u32)> {
        self.chosen.iter().map(|candidate| (candidate.from, candidate.to))
    }
}

impl Planner {
    pub fn new(live: Arc<LiveSite>, wish: RescueWish, teller: Teller) -> Self {
        let whole = Arc::new(live.look(|model| model.site.snapshot(Moment::WithTray)));
        let named = wish.pages.as_ref().map(|pages| {
            let named = pages.iter().filter_map(|page| whole.number_of(PageId(*page)));
            named.collect()
        });
        let snapshot = match &named {
            Some(named) if wish.second_way => Arc::new(cut(&whole, named)),
            _ => Arc::clone(&whole),
        };
        let reversed = snapshot.roads().reversed();
        let ways = Ways::of(&snapshot);
        let mut wanted = lacking(&snapshot, &ways, &reversed, wish.limits());
        wanted.retain(|page| named.as_ref().is_none_or(|named| named.contains(page)));
        Self { live, wish, teller, whole, snapshot, reversed, ways, wanted, openings: Vec::new(), kept: 0, lost: 0 }
    }

    /// The best plan that is found while the editor waits.
    pub fn best(&self) -> Best {
        let room = self.room();
        let room_on = |page: u32| room.get(&page).copied().unwrap_or(u32::MAX);
        let wanted = self.wanted.iter().copied();
        let problem = Problem::new(&self.snapshot, self.wish.limits(), wanted, self.candidates()).with_room(room_on);
        let until = Instant::now() + Duration::from_secs(u64::from(self.wish.seconds));
        let plan = solve(&problem, &mut Editor { planner: self, problem: &problem, until, told: None });
        let chosen = plan.chosen.iter().map(|at| problem.candidates()[*at as usize]).collect();
        Best { plan, chosen }
    }

    /// Looks up the openings that may help, a few pages at a time.
    pub fn look_up(&mut self) {
        let kept: Vec<Opening> = self.live.look(|model| {
            let opening = |row: &KeptRow| {
                let words = TextSpan::new(row.words_start, row.words_end.max(row.words_start));
                model.opening_on(PageId(row.source), PageId(row.target), words)
            };
            self.wish.kept.iter().filter_map(opening).collect()
        });
        (self.kept, self.lost) = (kept.len(), self.wish.kept.len() - kept.len());
        self.openings = kept;
        let targets = helpful(&self.wanted, &self.ways, &self.reversed, self.wish.limits());
        let targets: Vec<PageId> = targets.into_iter().filter_map(|page| self.snapshot.page(page)).collect();
        let untouched: HashSet<PageId> = self.wish.untouched.iter().copied().map(PageId).collect();
        let mut done = 0;
        for some in targets.chunks(LOOKED_UP_AT_ONCE) {
            if !self.teller.is_heard() {
                return;
            }
            self.teller.tell_if_heard(&RescueNews::Looking { done, of: targets.len() });
            let found: Vec<Opening> = self.live.look(|model| {
                let is_offered = |opening: &Opening| self.is_offered(model, opening, &untouched);
                let to = |page: &PageId| model.openings_in_most(*page, MOST_OPENINGS).into_iter().filter(is_offered);
                some.into_par_iter().flat_map_iter(to).collect()
            });
            self.openings.extend(found);
            done += some.len();
        }
        self.teller.tell_if_heard(&RescueNews::Looking { done, of: targets.len() });
    }

    /// Whether an opening is what the editor wishes, and its link alone keeps within the limits.
    fn is_offered(&self, model: &Model, opening: &Opening, untouched: &HashSet<PageId>) -> bool {
        let category = |page: PageId| model.site.page(page).and_then(|page| page.category.as_deref());
        let is_inside = || category(opening.source).is_some() && category(opening.source) == category(opening.target);
        opening.fit.total() >= self.wish.least_fit
            && !untouched.contains(&opening.source)
            && (!self.wish.same_category || is_inside())
            && room_on(model, opening.source).is_some_and(|room| room.left() > 0 && room.takes(opening))
    }

    /// New links that pages may carry, by their numbers.
    fn room(&self) -> HashMap<u32, u32> {
        let sources: HashSet<PageId> = self.openings.iter().map(|opening| opening.source).collect();
        self.live.look(|model| {
            let of = |page: &PageId| {
                let left = u32::try_from(room_on(model, *page)?.left()).unwrap_or(u32::MAX);
                Some((self.snapshot.number_of(*page)?, left))
            };
            sources.iter().filter_map(of).collect()
        })
    }

    fn candidates(&self) -> Vec<Candidate> {
        let by_equity = self
            .wish
            .prefer_equity
            .then(|| Equity::of(&self.snapshot, &self.reversed, self.live.look(Model::equity_rules)));
        let candidate = |(at, opening): (u32, &Opening)| {
            let candidate = Candidate::of(&self.snapshot, opening, at)?;
            let candidate = Candidate { fixed: (at as usize) < self.kept, ..candidate };
            Some(by_equity.as_ref().map_or(candidate, |equity| candidate.rather_by_equity(equity)))
        };
        (0..).zip(&self.openings).filter_map(candidate).collect()
    }

    /// A plan without who is left.
    pub fn told(&self, chosen: &[Candidate], worth: Worth) -> Result<RescuePlan, ApiError> {
        let row = |model: &Model, offer: usize| {
            let opening = &self.openings[offer];
            Ok::<_, ApiError>(RescueRow {
                source: PageRef::of(model, opening.source.0)?,
                opening: OpeningRow::of(model, opening, opening.target.0)?,
                kept: offer < self.kept,
            })
        };
        let mut rows = self.live.look(|model| {
            chosen.iter().map(|candidate| row(model, candidate.offer as usize)).collect::<Result<Vec<_>, _>>()
        })?;
        rows.sort_by(|one, other| {
            (&one.source.path, one.opening.words_start).cmp(&(&other.source.path, other.opening.words_start))
        });
        Ok(RescuePlan {
            is_final: false,
            is_best: false,
            wanted: u32::try_from(self.wanted.len()).unwrap_or(u32::MAX),
            helped: worth.helped,
            edited: worth.edited,
            least_edited: None,
            rows,
            left_count: 0,
            left: Vec::new(),
            lost: self.lost,
        })
    }
}

/// What a page may still carry, the tray counted.
fn room_on(model: &Model, page: PageId) -> Option<Room<'_>> {
    let planned = model.linkable().planned(page);
    model.judge().room_on(page, &planned, model.limits().links)
}

/// Waits for a plan as long as somebody listens and the time is not over.
struct Editor<'p> {
    planner: &'p Planner,
    problem: &'p Problem<'p>,
    until: Instant,
    /// When a plan was told of.
    told: Option<Instant>,
}

impl Audience for Editor<'_> {
    fn goes_on(&mut self) -> bool {
        self.planner.teller.is_heard() && Instant::now() < self.until
    }

    fn hears(&mut self, better: Better<'_>) {
        if self.told.is_some_and(|told| told.elapsed() < TOLD_EVERY) {
            return;
        }
        let chosen: Vec<_> = better.chosen().iter().map(|at| self.problem.candidates()[*at as usize]).collect();
        if let Ok(plan) = self.planner.told(&chosen, better.worth()) {
            self.planner.teller.tell_if_heard(&RescueNews::Plan(Box::new(plan)));
            self.told = Some(Instant::now());
        }
    }
}
