//! What came within reach and what was lost between two states of a site, and by which edit.

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use strelm_core::audit::{ReachEdit, Traces};
use strelm_core::document::{LinkMarks, Region};
use strelm_core::reach::{EquityRules, Soundings};
use strelm_core::site::{Moment, OutLink, PageId, Site};

use crate::support::{address, page};

const PAGES: u32 = 8;

/// Links of each page that there is, and where the addresses beyond the pages lead.
#[derive(Debug, Clone)]
struct State {
    links: BTreeMap<u32, BTreeSet<u32>>,
    redirects: BTreeMap<u32, u32>,
}

fn state() -> impl Strategy<Value = State> {
    let links = prop::collection::btree_set(1..PAGES + 3, 0..4);
    let pages = prop::collection::btree_map(2..=PAGES, links.clone(), 1..PAGES as usize);
    let redirects = prop::collection::btree_map(PAGES + 1..PAGES + 3, 1..=PAGES, 0..3);
    (pages, links, redirects).prop_map(|(mut pages, of_entry, redirects)| {
        pages.insert(1, of_entry);
        State { links: pages, redirects }
    })
}

impl State {
    fn site(&self) -> Site {
        let mut site = Site::new(address(1));
        for (from, to) in &self.redirects {
            site.put_redirect(&address(*from), &address(*to));
        }
        for (number, links) in &self.links {
            let link = |to: &u32| OutLink { to: address(*to), region: Region::Content, marks: LinkMarks::default() };
            let links: Vec<_> = links.iter().map(link).collect();
            site.put_page(page(*number, &format!("Page {number}")), &links);
        }
        site.settle();
        site
    }

    /// The page that a link to an address gets to.
    fn behind(&self, to: u32) -> Option<u32> {
        let to = self.redirects.get(&to).filter(|_| !self.links.contains_key(&to)).copied().unwrap_or(to);
        self.links.contains_key(&to).then_some(to)
    }

    fn leads(&self, from: u32, to: u32) -> bool {
        self.links.get(&from).is_some_and(|links| links.iter().any(|link| self.behind(*link) == Some(to)))
    }

    fn reached(&self) -> BTreeSet<u32> {
        let mut reached = BTreeSet::from([1]);
        let mut queue = vec![1];
        while let Some(page) = queue.pop() {
            for to in self.links[&page].iter().filter_map(|to| self.behind(*to)) {
                if reached.insert(to) {
                    queue.push(to);
                }
            }
        }
        reached
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 2000, ..ProptestConfig::default() })]

    #[test]
    fn what_came_and_was_lost_is_told_with_an_edit_that_was_made((before, after) in (state(), state())) {
        let (old, new) = (before.site(), after.site());
        let sound = |site: &Site| Soundings::of(site.snapshot(Moment::Now), EquityRules::default());
        let bytes = Traces::of(&old, &sound(&old)).to_bytes();
        let traces = Traces::from_bytes(&bytes);
        prop_assert_eq!(traces.to_bytes(), bytes);
        let changes = traces.changes(&new, &sound(&new));
        let (then, now) = (before.reached(), after.reached());
        let stayed: BTreeSet<u32> = before.links.keys().filter(|page| after.links.contains_key(page)).copied().collect();
        let came: BTreeSet<u32> = changes.iter().filter(|change| change.came).map(|change| change.page.0).collect();
        let lost: BTreeSet<u32> = changes.iter().filter(|change| !change.came).map(|change| change.page.0).collect();
        prop_assert_eq!(came, stayed.iter().filter(|page| now.contains(page) && !then.contains(page)).copied().collect());
        prop_assert_eq!(lost, stayed.iter().filter(|page| then.contains(page) && !now.contains(page)).copied().collect());
        for change in changes {
            match (change.came, change.by) {
                (false, ReachEdit::Page(PageId(page))) => {
                    prop_assert!(then.contains(&page) && !after.links.contains_key(&page));
                }
                (false, ReachEdit::Link { from, to } | ReachEdit::Redirect { from, to }) => {
                    let (from, to) = (from.0, to.0);
                    prop_assert!(now.contains(&from) && before.leads(from, to) && !after.leads(from, to));
                    // Whether the link is there still, though it gets elsewhere.
                    let is_redirect = matches!(change.by, ReachEdit::Redirect { .. });
                    let kept = before.links[&from].iter().filter(|link| before.behind(**link) == Some(to));
                    let kept = kept.filter(|link| after.links[&from].contains(*link)).count();
                    prop_assert!(!is_redirect || kept > 0, "{:?}", change);
                }
                (true, ReachEdit::Page(PageId(page))) => {
                    prop_assert!(now.contains(&page) && !before.links.contains_key(&page));
                }
                (true, ReachEdit::Link { from, to }) => {
                    let (from, to) = (from.0, to.0);
                    prop_assert!(then.contains(&from) && after.leads(from, to) && !before.leads(from, to));
                }
                (_, by) => prop_assert!(false, "readers start where they did, and what came came by a link: {:?}", by),
            }
        }
    }

    #[test]
    fn bytes_that_are_no_traces_tell_something_and_do_not_end_in_a_circle(
        bytes in prop::collection::vec(any::<u8>(), 0..200),
        pages in prop::collection::vec((1..PAGES, 1..PAGES), 0..12),
        after in state(),
    ) {
        let site = after.site();
        let now = Soundings::of(site.snapshot(Moment::Now), EquityRules::default());
        Traces::from_bytes(&bytes).changes(&site, &now);
        let circle: Vec<u8> = pages
            .into_iter()
            .flat_map(|(page, before)| [page.to_le_bytes(), before.to_le_bytes(), [0; 4], [0; 4]].concat())
            .collect();
        Traces::from_bytes(&circle).changes(&site, &now);
    }
}
