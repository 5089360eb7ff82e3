//! The links of a site that lead away, counted by host and by address.

use std::collections::BTreeMap;

use rustc_hash::FxHashMap;

use super::away::away;
use crate::anchors::{AnchorPlace, SiteAnchors};
use crate::document::LinkMarks;
use crate::ids::PageId;
use crate::site::Address;

/// A host to which a site leads, or mail, or phone.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct AwayHost {
    pub host: String,
    pub addresses: usize,
    pub counted: AwayCount,
}

/// An address to which a site leads.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct AwayAddress {
    /// With the place on its page.
    pub address: String,
    pub counted: AwayCount,
}

/// What is counted of links.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct AwayCount {
    /// Links in the content of pages, and pages with such.
    pub links: usize,
    pub pages: usize,
    /// Links in menus, headers and footers.
    pub repeated: usize,
    /// Of all of them.
    pub nofollow: usize,
    pub sponsored: usize,
    pub user_content: usize,
    pub new_tab: usize,
}

/// All hosts, those with the most links first; each with its addresses, in the same order.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Destinations {
    pub hosts: Vec<(AwayHost, Vec<AwayAddress>)>,
}

/// Counts links in the order of their pages.
#[derive(Debug, Default)]
struct Counting {
    counted: AwayCount,
    latest: Option<PageId>,
}

impl Counting {
    fn add(&mut self, place: &AnchorPlace<'_>) {
        let count = &mut self.counted;
        if place.is_repeated {
            count.repeated += 1;
        } else {
            count.links += 1;
            count.pages += usize::from(self.latest.replace(place.page) != Some(place.page));
        }
        let has = |mark| usize::from(place.marks.has(mark));
        count.nofollow += has(LinkMarks::NOFOLLOW);
        count.sponsored += has(LinkMarks::SPONSORED);
        count.user_content += has(LinkMarks::USER_CONTENT);
        count.new_tab += has(LinkMarks::NEW_TAB);
    }
}

impl AwayCount {
    fn order(&self) -> std::cmp::Reverse<(usize, usize)> {
        std::cmp::Reverse((self.links, self.repeated))
    }
}

impl Destinations {
    /// Of the site of `base`. O(links + targets + addresses · log addresses).
    pub fn of(anchors: &SiteAnchors, base: &Address) -> Self {
        let mut hosts: BTreeMap<&str, (Counting, FxHashMap<&str, Counting>)> = BTreeMap::new();
        for place in anchors.leading(|to| away(base, to).is_some()) {
            let Some(host) = away(base, place.to) else { continue };
            let (of_host, addresses) = hosts.entry(host).or_default();
            of_host.add(&place);
            addresses.entry(place.to).or_default().add(&place);
        }
        let mut hosts: Vec<_> = hosts
            .into_iter()
            .map(|(host, (of_host, addresses))| {
                let mut addresses: Vec<_> = addresses
                    .into_iter()
                    .map(|(to, counting)| AwayAddress { address: to.to_owned(), counted: counting.counted })
                    .collect();
                addresses.sort_by(|a, b| (a.counted.order(), &a.address).cmp(&(b.counted.order(), &b.address)));
                let host = AwayHost { host: host.to_owned(), addresses: addresses.len(), counted: of_host.counted };
                (host, addresses)
            })
            .collect();
        hosts.sort_by_key(|(host, _)| host.counted.order());
        Self { hosts }
    }

    /// The addresses of a host. O(hosts).
    pub fn addresses(&self, host: &str) -> &[AwayAddress] {
        self.hosts.iter().find(|(known, _)| known.host == host).map_or(&[], |(_, addresses)| addresses)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::anchors::{LookedLink, SaidLink};
    use crate::document::LinkKind;
    use crate::language::Language;

    fn link(to: &str, marks: LinkMarks, is_repeated: bool) -> LookedLink {
        LookedLink::of(SaidLink {
            language: Language::English,
            text: "lens",
            kind: LinkKind::Text,
            to,
            ordinal: Some(0),
            is_repeated,
            is_filing: false,
            marks,
        })
    }

    #[test]
    fn links_that_lead_away_are_counted_by_host_and_by_address() {
        let (plain, paid) = (LinkMarks::default(), LinkMarks::SPONSORED.with(LinkMarks::NEW_TAB, true));
        let mut anchors = SiteAnchors::default();
        let lens = |marks| link("https://optics.example/lens?from=sky", marks, false);
        anchors.put(PageId(1), &[lens(plain), lens(paid), link("https://sky.example/", plain, false)]);
        anchors.put(PageId(2), &[lens(paid), link("https://optics.example/", plain, true)]);
        anchors.put(PageId(3), &[link("mailto:moon@sky.example", plain, false)]);
        let base = Address::parse("https://sky.example/").unwrap();
        let found = Destinations::of(&anchors, &base);
        let told: Vec<_> = found.hosts.iter().map(|(host, addresses)| (host.host.as_str(), addresses.len())).collect();
        assert_eq!(told, [("optics.example", 2), ("mailto:", 1)]);
        let counted = AwayCount { links: 3, pages: 2, repeated: 1, sponsored: 2, new_tab: 2, ..AwayCount::default() };
        assert_eq!(found.hosts[0].0.counted, counted);
        let addresses = found.addresses("optics.example");
        assert_eq!(addresses[0].counted, AwayCount { repeated: 0, ..counted });
        assert_eq!(addresses[1].address, "https://optics.example/");
        assert_eq!(found.addresses("nobody.example"), []);
    }
}
