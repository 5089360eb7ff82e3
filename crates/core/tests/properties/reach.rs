//! What is worked out of the graph of a site, judged by taking pages and links away one by one, and by dense algebra.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use strelm_core::document::{LinkMarks, Region};
use strelm_core::reach::{
    Carrier, Dominators, Equity, EquityRules, Flow, Over, Snapshot, Strength, Ways, cut, islands, strong_components,
    threads,
};
use strelm_core::site::PageId;

const MOST_PAGES: u32 = 9;

/// Pages, links between them, and where readers start.
#[derive(Debug, Clone)]
struct Graph {
    pages: u32,
    links: Vec<(u32, u32, Strength)>,
    entries: Vec<u32>,
}

fn strength() -> impl Strategy<Value = Strength> {
    let regions = vec![Region::Content, Region::Content, Region::Menu, Region::Footer, Region::Breadcrumb];
    (prop::sample::select(regions), prop::bool::weighted(0.2))
        .prop_map(|(region, nofollow)| Strength::of(region, LinkMarks::default().with(LinkMarks::NOFOLLOW, nofollow)))
}

fn graph() -> impl Strategy<Value = Graph> {
    (1..=MOST_PAGES).prop_flat_map(|pages| {
        let links = prop::collection::vec((0..pages, 0..pages, strength()), 0..(pages as usize * 3));
        let entries = prop::collection::btree_set(0..pages, 1..=2.min(pages as usize));
        (links, entries).prop_map(move |(links, entries)| Graph {
            pages,
            links,
            entries: entries.into_iter().collect(),
        })
    })
}

/// Ids have gaps, as those of sites that lost pages.
const fn id(number: u32) -> PageId {
    PageId(number * 3 + 2)
}

impl Graph {
    fn snapshot(&self) -> Snapshot {
        let pages = (0..self.pages).map(id).collect();
        Snapshot::new(pages, self.entries.iter().map(|entry| id(*entry)), |page, roads| {
            let own = self.links.iter().filter(|(from, ..)| id(*from) == page);
            roads.extend(own.map(|(_, to, strength)| (id(*to), *strength)));
            // Links to pages that are gone lead nowhere.
            roads.push((PageId(1), Strength::CONTENT));
        })
    }

    fn roads(&self) -> BTreeSet<(u32, u32)> {
        self.links.iter().filter(|(from, to, _)| from != to).map(|(from, to, _)| (*from, *to)).collect()
    }

    /// What can be reached from some pages over roads that are there.
    fn reached(&self, from: &[u32], is_there: impl Fn((u32, u32)) -> bool) -> BTreeSet<u32> {
        let mut reached: BTreeSet<u32> = from.iter().copied().collect();
        for _ in 0..self.pages {
            let next: Vec<_> =
                self.roads().into_iter().filter(|road| reached.contains(&road.0) && is_there(*road)).collect();
            reached.extend(next.into_iter().map(|(_, to)| to));
        }
        reached
    }

    fn within_reach(&self) -> BTreeSet<u32> {
        self.reached(&self.entries, |_| true)
    }

    /// What can be reached without a page.
    fn without(&self, page: u32) -> BTreeSet<u32> {
        let entries: Vec<u32> = self.entries.iter().copied().filter(|entry| *entry != page).collect();
        self.reached(&entries, |(from, to)| from != page && to != page)
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 1000, ..ProptestConfig::default() })]

    #[test]
    fn a_snapshot_has_each_road_once_and_as_strong_as_its_strongest_link(graph in graph()) {
        let snapshot = graph.snapshot();
        let mut strongest: BTreeMap<(u32, u32), Strength> = BTreeMap::new();
        for (from, to, strength) in graph.links.iter().filter(|(from, to, _)| from != to) {
            let known = strongest.entry((*from, *to)).or_insert(*strength);
            *known = (*known).max(*strength);
        }
        let found = |roads: &strelm_core::reach::Roads, swap: bool| -> BTreeMap<(u32, u32), Strength> {
            let of = |page| roads.of(page).map(move |road| {
                (if swap { (road.to, page) } else { (page, road.to) }, road.strength)
            });
            snapshot.numbers().flat_map(of).collect()
        };
        prop_assert_eq!(snapshot.roads().len(), strongest.len());
        prop_assert_eq!(&found(snapshot.roads(), false), &strongest);
        prop_assert_eq!(&found(&snapshot.roads().reversed(), true), &strongest);
        for number in snapshot.numbers() {
            prop_assert_eq!(snapshot.number_of(snapshot.page(number).unwrap()), Some(number));
            prop_assert_eq!(snapshot.is_entry(number), graph.entries.contains(&number));
        }
    }

    #[test]
    fn roads_that_are_added_are_as_if_they_had_been_there(graph in graph(), more in prop::collection::vec((0..9u32, 0..9u32), 0..6)) {
        let more: Vec<_> = more.into_iter().filter(|(from, to)| *from < graph.pages && *to < graph.pages).collect();
        let mut whole = graph.clone();
        whole.links.extend(more.iter().map(|(from, to)| (*from, *to, Strength::CONTENT)));
        prop_assert_eq!(graph.snapshot().with(more), whole.snapshot());
    }

    #[test]
    fn the_way_to_a_page_is_one_and_none_is_shorter(graph in graph()) {
        let ways = Ways::of(&graph.snapshot());
        let mut at: BTreeSet<u32> = graph.entries.iter().copied().collect();
        let mut depth: BTreeMap<u32, u32> = BTreeMap::new();
        for clicks in 0..=graph.pages {
            at.iter().for_each(|page| { depth.entry(*page).or_insert(clicks); });
            at = graph.roads().into_iter().filter(|(from, _)| at.contains(from)).map(|(_, to)| to).collect();
        }
        for page in 0..graph.pages {
            prop_assert_eq!(ways.depth(page), depth.get(&page).copied());
            let way = ways.to(page);
            prop_assert_eq!(way.len(), ways.depth(page).map_or(0, |depth| depth as usize + 1));
            prop_assert!(way.windows(2).all(|step| graph.roads().contains(&(step[0], step[1]))));
            prop_assert!(way.first().is_none_or(|first| graph.entries.contains(first)));
            prop_assert!(way.last().is_none_or(|last| *last == page));
        }
        let (by_depth, unreachable) = ways.counts();
        prop_assert_eq!(by_depth.iter().sum::<u32>() + unreachable, graph.pages);
        prop_assert_eq!(unreachable as usize, graph.pages as usize - graph.within_reach().len());
    }

    #[test]
    fn a_component_is_what_leads_to_each_other(graph in graph()) {
        let snapshot = graph.snapshot();
        let counts = |page: u32| !page.is_multiple_of(4);
        let (component, count) = strong_components(snapshot.roads(), counts);
        let within = |(from, to): (u32, u32)| counts(from) && counts(to);
        let reached: Vec<_> = (0..graph.pages).map(|page| graph.reached(&[page], within)).collect();
        for one in (0..graph.pages).filter(|page| counts(*page)) {
            for other in (0..graph.pages).filter(|page| counts(*page)) {
                let is_one = reached[one as usize].contains(&other) && reached[other as usize].contains(&one);
                prop_assert_eq!(component[one as usize] == component[other as usize], is_one);
                if reached[one as usize].contains(&other) {
                    prop_assert!(component[one as usize] >= component[other as usize]);
                }
            }
        }
        let known: BTreeSet<_> = component.iter().filter(|component| **component != u32::MAX).collect();
        prop_assert_eq!(known.len(), count);
    }

    #[test]
    fn a_page_dominates_what_cannot_be_reached_without_it(graph in graph()) {
        let snapshot = graph.snapshot();
        let dominators = Dominators::of(&snapshot, &snapshot.roads().reversed());
        let within = graph.within_reach();
        for over in 0..graph.pages {
            let without = graph.without(over);
            let lost: Vec<u32> = within.iter().copied().filter(|page| !without.contains(page)).collect();
            prop_assert_eq!(dominators.size(over) as usize, if within.contains(&over) { lost.len() } else { 0 });
            for page in 0..graph.pages {
                let is = within.contains(&over) && within.contains(&page) && (over == page || !without.contains(&page));
                prop_assert_eq!(dominators.dominates(over, page), is, "{} over {}", page, over);
            }
        }
        for page in 0..graph.pages {
            // The nearest of all that dominate it.
            let above: Vec<u32> = (0..graph.pages).filter(|o| *o != page && dominators.dominates(*o, page)).collect();
            let nearest = above.iter().copied().find(|near| above.iter().all(|far| dominators.dominates(*far, *near)));
            prop_assert_eq!(dominators.above(page), nearest);
        }
    }

    #[test]
    fn without_its_thread_a_page_is_lost_and_so_is_what_hangs_on_it(graph in graph()) {
        let snapshot = graph.snapshot();
        let reversed = snapshot.roads().reversed();
        let found = threads(&snapshot, &reversed, &Dominators::of(&snapshot, &reversed));
        let within = graph.within_reach();
        for page in (0..graph.pages).filter(|page| within.contains(page)) {
            let thread = found.iter().find(|thread| thread.page == page);
            let links: Vec<_> = graph.roads().into_iter().filter(|(_, to)| *to == page).collect();
            let needed = links.iter().find(|link| !graph.reached(&graph.entries, |road| road != **link).contains(&page));
            match (thread.map(|thread| thread.over), needed) {
                (Some(Over::Link(from)), Some(link)) => {
                    prop_assert_eq!(from, link.0);
                    let left = graph.reached(&graph.entries, |road| road != *link);
                    prop_assert_eq!(thread.unwrap().hanging as usize, within.difference(&left).count());
                }
                (Some(Over::Page(over)), None) => {
                    let left = graph.without(over);
                    prop_assert!(!left.contains(&page) && !graph.entries.contains(&over));
                    let hanging = within.iter().filter(|lost| **lost != over && !left.contains(lost)).count();
                    prop_assert_eq!(thread.unwrap().hanging as usize, hanging);
                }
                (None, None) => {
                    let others = (0..graph.pages).filter(|o| *o != page && !graph.entries.contains(o));
                    prop_assert!(others.into_iter().all(|over| graph.without(over).contains(&page)), "{page}");
                }
                (thread, needed) => prop_assert!(false, "{:?} where {:?} is needed", thread, needed),
            }
        }
        prop_assert!(found.iter().all(|thread| within.contains(&thread.page)));
        // With its thread cut a page is out of reach, and a road from any page that is not brings it back: a second way.
        for thread in &found {
            let cut = cut(&snapshot, &[thread.page].into_iter().collect());
            let ways = Ways::of(&cut);
            prop_assert_eq!(ways.depth(thread.page), None);
            let left = match thread.over {
                Over::Link(from) => graph.reached(&graph.entries, |road| road != (from, thread.page)),
                Over::Page(over) => graph.without(over),
            };
            for from in snapshot.numbers().filter(|from| ways.depth(*from).is_some()) {
                let second = Ways::of(&cut.with([(from, thread.page)]));
                prop_assert!(second.depth(thread.page).is_some());
            }
            // What does not hang on it stays within reach, but for the page over which all ways lead itself.
            let lost = within.iter().filter(|page| ways.depth(**page).is_none() && left.contains(page));
            prop_assert_eq!(lost.count(), 0);
        }
    }

    #[test]
    fn islands_hang_together_and_their_gates_open_most(graph in graph()) {
        let snapshot = graph.snapshot();
        let found = islands(&snapshot, &Ways::of(&snapshot));
        let within = graph.within_reach();
        let lost: BTreeSet<u32> = (0..graph.pages).filter(|page| !within.contains(page)).collect();
        let between: BTreeSet<_> = graph.roads().into_iter().filter(|(f, t)| lost.contains(f) && lost.contains(t)).collect();
        let mut left = lost.clone();
        let mut plain: Vec<Vec<u32>> = Vec::new();
        while let Some(first) = left.pop_first() {
            let mut group = BTreeSet::from([first]);
            for _ in 0..graph.pages {
                for (from, to) in &between {
                    if group.contains(from) || group.contains(to) {
                        group.extend([*from, *to]);
                    }
                }
            }
            left.retain(|page| !group.contains(page));
            if group.len() > 1 {
                plain.push(group.into_iter().collect());
            }
        }
        plain.sort_by_key(|group| (std::cmp::Reverse(group.len()), group[0]));
        prop_assert_eq!(found.iter().map(|island| island.pages.clone()).collect::<Vec<_>>(), plain);
        for island in found {
            let opens = |page: u32| graph.reached(&[page], |road| between.contains(&road)).len();
            let most = island.pages.iter().map(|page| opens(*page)).max().unwrap();
            prop_assert_eq!((opens(island.gate), island.opened.len()), (most, most));
        }
    }

    #[test]
    fn equity_is_where_a_reader_ends_up_who_wanders_for_ever(
        graph in graph(),
        damping in prop::sample::select(vec![0.0, 0.3, 0.85, 0.95]),
    ) {
        let snapshot = graph.snapshot();
        let reversed = snapshot.roads().reversed();
        let rules = EquityRules { damping, ..EquityRules::default() };
        let equity = Equity::of(&snapshot, &reversed, rules);
        let dense = dense(&snapshot, &rules);
        for page in snapshot.numbers() {
            prop_assert!((equity.share(page) - dense[page as usize]).abs() < 1e-9, "{:?} {:?}", equity.shares(), dense);
        }
        prop_assert!((equity.shares().iter().sum::<f64>() - 1.0).abs() < 1e-9);
        // What one page gets is what others pass on; the rest comes to all pages alike.
        let rest = |page: u32| equity.share(page) - equity.got(&reversed, page).iter().map(|(_, part)| part).sum::<f64>();
        for page in snapshot.numbers() {
            prop_assert!((rest(page) - rest(0)).abs() < 1e-8);
            for (to, part) in equity.passed(&snapshot, page) {
                prop_assert!(equity.got(&reversed, to).iter().any(|(from, got)| *from == page && *got == part));
            }
        }
    }

    #[test]
    fn links_flow_from_group_to_group_as_a_plain_count_says(graph in graph()) {
        let group = |page: u32| (page % 4 != 3).then_some(page % 4);
        let flow = Flow::of(&graph.snapshot(), |_| true, group);
        let roads = graph.roads();
        let grouped = |(from, to): &(u32, u32)| Some((group(*from)?, group(*to)?));
        for from in 0..4 {
            for to in 0..4 {
                let count = roads.iter().filter_map(grouped).filter(|pair| *pair == (from, to)).count();
                let cell = flow.cells.iter().find(|cell| (cell.from, cell.to) == (from, to));
                prop_assert_eq!(cell.map_or(0, |cell| cell.links as usize), count);
            }
            let all = roads.iter().filter_map(grouped).filter(|(of, _)| *of == from);
            let inside = all.clone().filter(|(of, to)| of == to).count();
            let (found_inside, found_all) = flow.inside(from);
            prop_assert_eq!((found_inside as usize, found_all as usize), (inside, all.count()));
        }
        for page in 0..graph.pages {
            let to: Vec<_> = roads.iter().filter(|(from, _)| *from == page).filter_map(grouped).collect();
            let strays = !to.is_empty() && to.iter().all(|(from, to)| from != to);
            prop_assert_eq!(flow.strays.contains(&page), strays);
        }
    }
}

/// The stationary distribution by elimination: (I − d·Pᵀ)·x = (1 − d)/n, where a page that passes nothing on passes to all.
fn dense(snapshot: &Snapshot, rules: &EquityRules) -> Vec<f64> {
    let worth = |strength: Strength| match strength.carrier() {
        _ if !strength.is_followed() => 0.0,
        Carrier::Content => rules.content,
        Carrier::Menu => rules.menu,
        Carrier::Footer => rules.footer,
    };
    let n = snapshot.len();
    let mut rows = vec![vec![0.0; n + 1]; n];
    for (at, row) in rows.iter_mut().enumerate() {
        row[at] = 1.0;
        row[n] = (1.0 - rules.damping) / n as f64;
    }
    for from in snapshot.numbers() {
        let total: f64 = snapshot.roads().of(from).map(|road| worth(road.strength)).sum();
        for to in snapshot.numbers() {
            let road = snapshot.roads().of(from).find(|road| road.to == to);
            let part = if total > 0.0 { road.map_or(0.0, |road| worth(road.strength) / total) } else { 1.0 / n as f64 };
            rows[to as usize][from as usize] -= rules.damping * part;
        }
    }
    for pivot in 0..n {
        let best = (pivot..n).max_by(|a, b| rows[*a][pivot].abs().total_cmp(&rows[*b][pivot].abs())).unwrap();
        rows.swap(pivot, best);
        let scaled: Vec<f64> = rows[pivot].iter().map(|value| value / rows[pivot][pivot]).collect();
        for (at, row) in rows.iter_mut().enumerate() {
            let factor = if at == pivot { 0.0 } else { row[pivot] };
            row.iter_mut().zip(&scaled).for_each(|(value, by)| *value -= factor * by);
        }
        rows[pivot] = scaled;
    }
    rows.into_iter().map(|row| row[n]).collect()
}
