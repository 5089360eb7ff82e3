//! What the links of one site tell of what its authors link, beyond what authors of other sites do.
//!
//! Authors differ: one links every name of a command, another the first mention on a page, a third hardly a word. So the
//! links of some pages are hidden, the judge is asked what it would link there, and learns from where it was wrong: a few
//! trees more for each part but the need, which is for the editor to say.

use std::hash::{Hash, Hasher};

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use rustc_hash::FxHasher;

use super::boost::{BoostSettings, grow_beside};
use super::example::{Example, Listed};
use super::hide::HiddenLink;
use super::lists::Wishes;
use super::rows::rows_of;
use crate::openings::ensemble::Shifts;
use crate::openings::{Ensemble, Habits, Part, Taste, percent};
use crate::phrases::{Mention, PhraseBook};
use crate::site::{PageId, Site};

/// Of places that are no links, so many are learnt from.
const ONE_IN: usize = 6;

/// Links are hidden on one in so many of the pages that have some: the others tell how the site links, as they will.
const ONE_PAGE_IN: usize = 10;

/// Of other pages so many times, until there are enough links to learn from.
const MOST_TIMES: usize = 6;
const ENOUGH: usize = 600;

/// Links that are hidden at a time, on no more than so many pages.
const MOST_LINKS: usize = 300;
const MOST_AT_ONCE: usize = 300;

/// Pages that are looked at side by side.
const AT_ONCE: usize = 4;

/// Fewer links tell nothing for sure: with some 50 to 200 of them right words were found less often as well as more often.
pub const FEWEST: usize = 200;

/// Links that a page of the site has in its running text, in the mean and at least. Where there are fewer, words without a
/// link are no habit but how most of the site is, and what its few links are tells nothing of those that it lacks.
const LEAST_A_PAGE: f64 = 0.3;

/// What comes first in the lists of pages is known from other sites; which words carry a link differs more, and is what the
/// links of one site tell best.
const WISHES: Wishes = Wishes { of_source: 0.0, to_target: 0.0, of_pair: 6.0 };

const PARTS: [Part; 4] = [Part::Topic, Part::Wording, Part::Place, Part::Variety];

/// The shift for editors is looked for so far in both directions, and in so many steps.
const MOST_SHIFT: f32 = 4.0;
const HALVINGS: usize = 12;

/// What is being learnt of a site: pages of which links are to be hidden, and what was seen on them.
#[derive(Debug)]
pub struct Learner {
    /// The next last.
    to_look_at: Vec<Group>,
    examples: Vec<Example>,
    /// Links that were hidden, and those in prose on the pages on which they were.
    links: usize,
    in_prose: usize,
    /// Pages that were looked at.
    seen: usize,
    /// How many pages have links in prose, of those that have prose.
    share: f64,
}

/// Pages of which links are to be hidden at a time.
#[derive(Debug)]
struct Group {
    pages: Vec<PageId>,
    /// Links that they have in prose, of which those on short lines are not hidden.
    links: usize,
}

impl Learner {
    /// Nothing is learnt yet. Which pages are chosen hangs on their addresses, not on their order. O(pages log pages).
    pub fn of(book: &PhraseBook) -> Self {
        let links_on = |page: &PageId| book.anchors().counts_on(*page).1;
        let mut pages: Vec<PageId> = book.pages_with_prose().filter(|page| links_on(page) > 0).collect();
        pages.sort_by_cached_key(|page| (mark(book, *page), *page));
        let size = pages.len().div_ceil(ONE_PAGE_IN).max(1);
        let some = |pages: &[PageId]| {
            let mut group = Group { pages: Vec::new(), links: 0 };
            for page in pages.iter().take(MOST_AT_ONCE) {
                if group.links >= MOST_LINKS {
                    break;
                }
                group.links += links_on(page);
                group.pages.push(*page);
            }
            group
        };
        let mut to_look_at: Vec<_> = pages.chunks(size).take(MOST_TIMES).map(some).collect();
        to_look_at.reverse();
        let share = pages.len() as f64 / book.prose_count().max(1) as f64;
        Self { to_look_at, examples: Vec::new(), links: 0, in_prose: 0, seen: 0, share }
    }

    /// Pages of which the links in prose are to be hidden now and shown again afterwards; `None` when enough is known, or
    /// too little can be.
    pub fn next_pages(&mut self) -> Option<Vec<PageId>> {
        if self.links >= ENOUGH || !self.may_suffice() {
            return None;
        }
        let Group { pages, links } = self.to_look_at.pop()?;
        self.seen += pages.len();
        self.in_prose += links;
        Some(pages)
    }

    /// Whether there may be enough links to learn from once all pages are looked at, if of the others twice as many can be
    /// hidden as of those that were seen.
    fn may_suffice(&self) -> bool {
        let to_come: usize = self.to_look_at.iter().map(|group| group.links).sum();
        let hidden = if self.seen == 0 { 1.0 } else { 2.0 * self.links as f64 / self.in_prose.max(1) as f64 };
        self.links as f64 + hidden.min(1.0) * to_come as f64 >= FEWEST as f64
    }

    /// Looks at pages of which these links are hidden. O(what judging them costs).
    pub fn look_at(&mut self, site: &Site, book: &PhraseBook, hidden: &[(PageId, Vec<HiddenLink>)]) {
        let mut pages: Vec<_> = hidden.iter().map(|(page, links)| (mark(book, *page), *page, links)).collect();
        pages.sort_unstable_by_key(|(mark, page, _)| (*mark, *page));
        let of_page = |(of, page, links): &(u64, PageId, &Vec<HiddenLink>)| -> Vec<Example> {
            let pages = |target| (*of, mark(book, target));
            let is_drawn = |mention: &Mention| is_drawn(pages(mention.target()), mention.first);
            let rows = rows_of(site, book, *page, links, is_drawn);
            rows.iter().map(|row| row.example(1.0, ONE_IN, listed(pages(row.target)))).collect()
        };
        // Few at a time: what is known of the places of a page takes much more room than the examples.
        for pages in pages.chunks(AT_ONCE) {
            let found: Vec<Vec<Example>> = pages.par_iter().map(of_page).collect();
            self.examples.extend(found.into_iter().flatten());
        }
        self.links += hidden.iter().map(|(_, links)| links.len()).sum::<usize>();
    }

    /// What the links told beside what the ensemble knows; `None` when they are too few. O(examples).
    pub fn learnt(&self, ensemble: &Ensemble) -> Option<Habits> {
        let a_page = self.links as f64 / self.seen.max(1) as f64 * self.share;
        if self.links < FEWEST || a_page < LEAST_A_PAGE {
            return None;
        }
        let settings = BoostSettings {
            rounds: 20,
            depth: 2,
            rate: 0.1,
            least_weight: 10.0,
            wishes: WISHES,
            parts: &PARTS,
            ..BoostSettings::default()
        };
        let trees = grow_beside(ensemble, &self.examples, settings);
        // Trees of these settings are never too deep.
        let grown = Ensemble::new(0.0, ensemble.ranges(), trees.clone()).ok()?;
        let mut said: Vec<Said> = Vec::with_capacity(self.examples.len());
        let (mut means, mut weight) = ([0.0; 5], 0.0);
        for example in &self.examples {
            let features = example.features.all();
            let before = ensemble.log_odds(&features);
            let added = grown.parts(&features);
            let chance = 1.0 / (1.0 + (-before).exp());
            let counts = example.stands_for * chance * (1.0 - chance);
            means.iter_mut().zip(added).for_each(|(mean, added)| *mean += counts * added);
            weight += counts;
            said.push(Said { before, after: before + added.iter().sum::<f32>(), stands_for: example.stands_for });
        }
        let promised = |log_odds: f32| percent(ensemble.promise(log_odds - ensemble.bias()).0 + Taste::EDITOR.keeps);
        let shifts = Shifts { authors: 0.0, editors: shift(&said, promised) };
        // What was decided before is learnt from by what each part said then: as much as it says now, in the mean.
        Some(Habits::of(self.links, trees, shifts).centred(means.map(|mean| mean / weight.max(1e-6))))
    }
}

/// What is said of a place without habits and with them, and how many of its like it stands for.
struct Said {
    before: f32,
    after: f32,
    stands_for: f32,
}

/// What is to be added to what is said with habits, so that as much is promised in the sum as without. O(n).
fn shift(said: &[Said], promised: impl Fn(f32) -> f64) -> f32 {
    let sum = |of: &dyn Fn(&Said) -> f32| -> f64 {
        said.iter().map(|said| f64::from(said.stands_for) * promised(of(said))).sum()
    };
    let before = sum(&|said| said.before);
    let (mut low, mut high) = (-MOST_SHIFT, MOST_SHIFT);
    for _ in 0..HALVINGS {
        let middle = (low + high) / 2.0;
        if sum(&|said| said.after + middle) > before { high = middle } else { low = middle }
    }
    (low + high) / 2.0
}

/// The same number for the same address, whatever its page is numbered.
fn mark(book: &PhraseBook, page: PageId) -> u64 {
    let mut hasher = FxHasher::default();
    book.facts(page).map(|facts| facts.address.as_str()).hash(&mut hasher);
    hasher.finish()
}

/// Whether a place that is no link is one of those that are learnt from.
fn is_drawn(pages: (u64, u64), first: usize) -> bool {
    let mut hasher = FxHasher::default();
    (pages, first).hash(&mut hasher);
    (hasher.finish() >> 32).is_multiple_of(ONE_IN as u64)
}

/// Pages stand in the lists under what their addresses give, not under their numbers.
const fn listed((source, target): (u64, u64)) -> Listed {
    Listed { variant: 0, source: (source >> 32) as u32, target: (target >> 32) as u32 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn as_much_is_promised_after_the_shift_as_before() {
        // As if the habits raised all places, what was worth little most, and set some of them apart.
        let said: Vec<Said> = (0..300u16)
            .map(|at| {
                let (before, apart) = (f32::from(at) * -0.02, f32::from(at % 7));
                Said { before, after: before * 0.7 + 1.0 + apart * 0.4, stands_for: f32::from(at % 3 + 1) }
            })
            .collect();
        let promised = |log_odds: f32| percent(log_odds + 1.6);
        let by = shift(&said, promised);
        let sum = |of: &dyn Fn(&Said) -> f32| -> f64 {
            said.iter().map(|said| f64::from(said.stands_for) * promised(of(said))).sum()
        };
        let (before, after) = (sum(&|said| said.before), sum(&|said| said.after + by));
        assert!(by < -1.0 && (after / before - 1.0).abs() < 0.01, "{before} {after} by {by}");
    }
}
