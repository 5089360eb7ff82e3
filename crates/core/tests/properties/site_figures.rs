//! The site model after any sequence of deltas, judged by a model built anew and by a plain search.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use proptest::prelude::*;
use strelm_core::document::{LinkMarks, Region};
use strelm_core::reach::{Snapshot, Ways};
use strelm_core::site::{
    Address, ChangeId, Changes, Figures, Moment, OutLink, PageFacts, PageId, RoadRules, RoadsCount, Site,
};

use crate::support::{address, page};

const PAGES: u32 = 7;

#[derive(Debug, Clone)]
enum Delta {
    /// A page with its links: to what address, whether from its content, and whether it is to be followed.
    Put(u32, Vec<(u32, bool, bool)>),
    Plan(i64, u32, u32),
    /// A content link of a page, to an address, is to go.
    PlanRemoval(i64, u32, u32),
    Unplan(i64),
    Redirect(u32, u32),
    EndRedirect(u32),
    Remove(u32),
    /// Whether the content alone counts, whether `nofollow` is heeded, and a further entry page.
    Reach(bool, bool, Option<u32>),
}

/// As a link writes it: with the other scheme now and then, which changes nothing.
fn written(number: u32) -> Address {
    let address = address(number);
    if number.is_multiple_of(3) { address.other_scheme().unwrap() } else { address }
}

fn delta() -> impl Strategy<Value = Delta> {
    // Addresses beyond the pages' own are links to nowhere, or redirects.
    let link = (1..PAGES + 4, any::<bool>(), prop::bool::weighted(0.7));
    prop_oneof![
        4 => (1..=PAGES, prop::collection::vec(link, 0..5)).prop_map(|(page, links)| Delta::Put(page, links)),
        2 => (0i64..6, 1..=PAGES, 1..=PAGES).prop_map(|(c, s, t)| Delta::Plan(c, s, t)),
        2 => (6i64..12, 1..=PAGES, 1..PAGES + 4).prop_map(|(c, s, t)| Delta::PlanRemoval(c, s, t)),
        2 => (0i64..12).prop_map(Delta::Unplan),
        1 => (PAGES + 1..PAGES + 4, 1..PAGES + 4).prop_map(|(from, to)| Delta::Redirect(from, to)),
        1 => (PAGES + 1..PAGES + 4).prop_map(Delta::EndRedirect),
        1 => (1..=PAGES).prop_map(Delta::Remove),
        1 => (any::<bool>(), any::<bool>(), prop::option::of(1..PAGES + 4)).prop_map(|(c, n, e)| Delta::Reach(c, n, e)),
    ]
}

fn facts(number: u32) -> PageFacts {
    page(number, &format!("Page {number}"))
}

#[derive(Default)]
struct Plain {
    links: BTreeMap<u32, Vec<(u32, bool, bool)>>,
    planned: BTreeMap<i64, (u32, u32)>,
    removals: BTreeMap<i64, (u32, u32)>,
    redirects: HashMap<u32, u32>,
    content_alone: bool,
    heeds_nofollow: bool,
    entry: Option<u32>,
}

impl Plain {
    fn behind(&self, mut number: u32) -> Option<u32> {
        for _ in 0..10 {
            if self.links.contains_key(&number) {
                return Some(number);
            }
            number = *self.redirects.get(&number)?;
        }
        None
    }

    /// The links of a page without those that are to go.
    fn left(&self, page: u32) -> Vec<(u32, bool, bool)> {
        let mut links = self.links[&page].clone();
        for (_, to) in self.removals.values().filter(|(from, _)| *from == page) {
            if let Some(at) = links.iter().position(|link| (link.0, link.1) == (*to, true)) {
                links.remove(at);
            }
        }
        links
    }

    fn is_road(&self, content: bool, is_followed: bool) -> bool {
        (content || !self.content_alone) && (is_followed || !self.heeds_nofollow)
    }

    fn edges(&self) -> Vec<(u32, u32, bool, bool)> {
        let live = self.links.keys().flat_map(|from| {
            self.left(*from)
                .into_iter()
                .filter_map(|(to, content, is_followed)| Some((*from, self.behind(to)?, content, is_followed)))
        });
        live.chain(self.planned.values().map(|(from, to)| (*from, *to, true, true))).collect()
    }

    fn figures(&self, page: u32) -> Figures {
        let edges = self.edges();
        let from = |content: bool| {
            let sources = edges.iter().filter(|(s, t, c, _)| *t == page && *s != page && (*c || !content));
            u32::try_from(sources.map(|(s, ..)| s).collect::<BTreeSet<_>>().len()).unwrap()
        };
        let out = self.left(page).iter().filter(|(to, content, _)| *content && self.behind(*to) != Some(page)).count();
        let planned_out = self.planned.values().filter(|(s, _)| *s == page).count();
        let entries = [Some(1), self.entry].into_iter().flatten().filter_map(|entry| self.behind(entry));
        let mut depth: BTreeMap<u32, u32> = entries.map(|entry| (entry, 0)).collect();
        let is_there = |page: &u32| self.links.contains_key(page);
        let roads: Vec<_> =
            edges.iter().filter(|(s, t, c, f)| is_there(s) && is_there(t) && self.is_road(*c, *f)).collect();
        for _ in 0..PAGES {
            for (s, t, ..) in &roads {
                if let Some(d) = depth.get(s).copied() {
                    let best = depth.get(t).copied().unwrap_or(u32::MAX).min(d + 1);
                    depth.insert(*t, best);
                }
            }
        }
        Figures {
            links_in: from(false),
            content_links_in: from(true),
            links_out: u32::try_from(out + planned_out).unwrap(),
            links_away: 0,
            planned_in: u32::try_from(self.planned.values().filter(|(_, t)| *t == page).count()).unwrap(),
            planned_out: u32::try_from(planned_out).unwrap(),
            depth: depth.get(&page).copied(),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1500, ..ProptestConfig::default() })]

    #[test]
    fn figures_after_deltas_are_those_of_a_plain_count(deltas in prop::collection::vec(delta(), 0..40)) {
        check(deltas)?;
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 8, ..ProptestConfig::default() })]

    #[test]
    fn figures_after_thousands_of_deltas_are_those_of_a_plain_count(
        deltas in prop::collection::vec(delta(), 2000..4000)
    ) {
        check(deltas)?;
    }
}

fn check(deltas: Vec<Delta>) -> Result<(), TestCaseError> {
    {
        let mut site = Site::new(address(1));
        let mut plain = Plain::default();
        let mut before: Vec<Option<Figures>> = vec![None; PAGES as usize];
        for delta in deltas {
            match delta {
                Delta::Put(page, links) => {
                    let region = |content| if content { Region::Content } else { Region::Menu };
                    let marks = |is_followed: bool| LinkMarks::default().with(LinkMarks::NOFOLLOW, !is_followed);
                    let out: Vec<_> = links
                        .iter()
                        .map(|(to, c, f)| OutLink { to: written(*to), region: region(*c), marks: marks(*f) })
                        .collect();
                    site.put_page(facts(page), &out);
                    plain.links.insert(page, links);
                }
                Delta::Plan(change, source, target) => {
                    if plain.links.contains_key(&source) && plain.links.contains_key(&target) {
                        site.plan(ChangeId(change), PageId(source), PageId(target));
                        plain.planned.entry(change).or_insert((source, target));
                    }
                }
                Delta::PlanRemoval(change, source, to) => {
                    // A change that is known already is not planned twice.
                    let known = *plain.removals.entry(change).or_insert((source, to));
                    if known == (source, to) {
                        site.plan_removal(ChangeId(change), PageId(source), &written(to));
                    }
                }
                Delta::Unplan(change) => {
                    site.unplan(ChangeId(change));
                    plain.planned.remove(&change);
                    plain.removals.remove(&change);
                }
                Delta::Redirect(from, to) => {
                    site.put_redirect(&address(from), &address(to));
                    if from != to {
                        plain.redirects.insert(from, to);
                    }
                }
                Delta::EndRedirect(from) => {
                    site.remove_redirect(&address(from));
                    plain.redirects.remove(&from);
                }
                Delta::Remove(page) => {
                    site.remove_page(PageId(page));
                    plain.links.remove(&page);
                    prop_assert!(site.page(PageId(page)).is_none());
                }
                Delta::Reach(content_alone, heeds_nofollow, entry) => {
                    let from = if content_alone { RoadsCount::Content } else { RoadsCount::All };
                    let roads = RoadRules { from, nofollow: !heeds_nofollow };
                    let entries: Vec<_> = entry.map(address).into_iter().collect();
                    site.set_reach(&entries, roads);
                    (plain.content_alone, plain.heeds_nofollow, plain.entry) = (content_alone, heeds_nofollow, entry);
                }
            }
            let redirects: BTreeSet<_> = site.redirects().map(|(f, t)| (f.clone(), t.clone())).collect();
            let plain_redirects = plain.redirects.iter().map(|(f, t)| (address(*f), address(*t))).collect();
            prop_assert_eq!(redirects, plain_redirects);
            site.settle();
            let changes = site.take_changes();
            for page in plain.links.keys() {
                prop_assert_eq!(site.figures(PageId(*page)), Some(plain.figures(*page)), "page {}", page);
            }
            check_snapshots(&site, &plain)?;
            // What is not said to have changed has not.
            let figures: Vec<_> = (1..=PAGES).map(|page| site.figures(PageId(page))).collect();
            for (page, (figures, before)) in (1..).zip(figures.iter().zip(&before)) {
                let is_told = match &changes {
                    Changes::Everything => true,
                    Changes::Pages(pages) => pages.contains(&PageId(page)),
                };
                prop_assert!(is_told || figures == before, "page {}", page);
            }
            before = figures;
        }
    }
    Ok(())
}

/// A way to a page has as many steps as the page is deep, each of them a road, from where readers start.
fn check_way(site: &Site, snapshot: &Snapshot, page: PageId) -> Result<(), TestCaseError> {
    let way: Vec<u32> = site.way_to(page).into_iter().map(|page| snapshot.number_of(page).unwrap()).collect();
    match site.depth(page) {
        None => prop_assert!(way.is_empty()),
        Some(depth) => {
            prop_assert_eq!(way.len(), depth as usize + 1);
            prop_assert!(snapshot.is_entry(way[0]) && way.last() == snapshot.number_of(page).as_ref());
            prop_assert!(way.windows(2).all(|step| snapshot.roads().leads(step[0], step[1])));
        }
    }
    Ok(())
}

/// A snapshot has the roads of a plain count, with the tray and without, and its depths are those that follow deltas.
fn check_snapshots(site: &Site, plain: &Plain) -> Result<(), TestCaseError> {
    for moment in [Moment::Now, Moment::WithTray] {
        let snapshot = site.snapshot(moment);
        let roads: BTreeSet<(u32, u32)> = snapshot
            .numbers()
            .flat_map(|from| snapshot.roads().ends(from).iter().map(move |to| (from, *to)))
            .map(|(from, to)| (snapshot.page(from).unwrap().0, snapshot.page(to).unwrap().0))
            .collect();
        let edges = match moment {
            Moment::WithTray => plain.edges(),
            Moment::Now => {
                Plain { links: plain.links.clone(), redirects: plain.redirects.clone(), ..Plain::default() }.edges()
            }
        };
        let is_there = |page: &u32| plain.links.contains_key(page);
        let of_plain =
            edges.into_iter().filter(|(s, t, c, f)| s != t && is_there(s) && is_there(t) && plain.is_road(*c, *f));
        prop_assert_eq!(roads, of_plain.map(|(s, t, ..)| (s, t)).collect::<BTreeSet<_>>());
        if moment == Moment::WithTray {
            let ways = Ways::of(&snapshot);
            for page in plain.links.keys() {
                let depth = snapshot.number_of(PageId(*page)).and_then(|number| ways.depth(number));
                prop_assert_eq!(depth, site.depth(PageId(*page)));
                check_way(site, &snapshot, PageId(*page))?;
            }
        }
    }
    Ok(())
}
