//! Addresses that differ and are the same page, and addresses that never end.

use std::collections::{HashMap, HashSet};
use std::hash::BuildHasher;

use rustc_hash::FxBuildHasher;

use super::address::Address;
use crate::document::ContentHash;
use crate::ids::PageId;

/// Names under which servers keep the first page of a folder.
const INDEX_FILES: [&str; 7] =
    ["index.html", "index.htm", "index.php", "index.xhtml", "default.htm", "default.asp", "default.aspx"];

/// An address whose page has the same text as that of `main`, and which many servers would give for it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Double {
    pub page: PageId,
    pub main: PageId,
}

/// Pages that are one page under several addresses: these differ in case, in a slash at the end or in the name of an
/// index file, and the pages in nothing, or the one names the other as its canonical.
///
/// Of each the one is kept that others name as canonical, else the shortest address. In the order of pages. O(n log n).
pub fn doubles<'p>(
    pages: impl Iterator<Item = (PageId, &'p Address, ContentHash, Option<&'p Address>)>,
) -> Vec<Double> {
    let mut groups: HashMap<String, Vec<_>> = HashMap::new();
    for page in pages {
        groups.entry(page.1.without_variants()).or_default().push(page);
    }
    let mut found = Vec::new();
    for group in groups.into_values().filter(|group| group.len() > 1) {
        let named: HashSet<_> = group.iter().filter_map(|(.., canonical)| *canonical).collect();
        let rank = |address: &Address| (!named.contains(address), address.as_str().len(), address.as_str().to_owned());
        let mut group = group;
        group.sort_by_cached_key(|(_, address, ..)| rank(address));
        let mut mains: Vec<(PageId, &Address, ContentHash)> = Vec::new();
        for (page, address, hash, canonical) in group {
            match mains.iter().find(|main| main.2 == hash || canonical == Some(main.1)) {
                Some((main, ..)) => found.push(Double { page, main: *main }),
                None => mains.push((page, address, hash)),
            }
        }
    }
    found.sort_by_key(|double| double.page);
    found
}

/// Parameters that tell a site who reads or whence a reader came, and change nothing on the page. A name that ends in `*`
/// stands for all that begin so.
pub const IGNORED_PARAMETERS: [&str; 11] = [
    "utm_*",
    "gclid",
    "fbclid",
    "msclkid",
    "mc_cid",
    "mc_eid",
    "phpsessid",
    "jsessionid",
    "sessionid",
    "session_id",
    "_ga",
];

impl Address {
    /// The same text for all addresses that servers give to one page. O(length).
    fn without_variants(&self) -> String {
        let lower = self.from_root().to_lowercase();
        let (path, query) = lower.split_once('?').unwrap_or((&lower, ""));
        let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
        let path = if INDEX_FILES.contains(&name) { folder } else { path.trim_end_matches('/') };
        format!("{path}?{query}")
    }

    /// Without the parameters of the query that change nothing on the page. O(length).
    #[must_use]
    pub fn without_parameters(self, ignored: &[impl AsRef<str>]) -> Self {
        let url = self.as_url();
        let path = url.path();
        // Some servers write the session into the path: /page;jsessionid=1A2B.
        let session = path.to_ascii_lowercase().find(";jsessionid=");
        let is_ignored = |name: &str| {
            ignored.iter().any(|pattern| match pattern.as_ref().strip_suffix('*') {
                Some(start) => name.get(..start.len()).is_some_and(|begin| begin.eq_ignore_ascii_case(start)),
                None => name.eq_ignore_ascii_case(pattern.as_ref()),
            })
        };
        let has_ignored = || url.query_pairs().any(|(name, _)| is_ignored(&name));
        if session.is_none() && (url.query().is_none() || !has_ignored()) {
            return self;
        }
        let mut new = url.clone();
        if let Some(at) = session {
            new.set_path(&path[..at]);
        }
        if let Some(query) = url.query() {
            // What stays is kept as it is written.
            let kept = query.split('&').filter(|pair| {
                let name = pair.split('=').next().unwrap_or_default();
                let name = percent_encoding::percent_decode_str(name).decode_utf8_lossy();
                !is_ignored(&name)
            });
            let kept = kept.collect::<Vec<_>>().join("&");
            new.set_query((!kept.is_empty()).then_some(kept.as_str()));
        }
        Self::parse(new.as_str()).unwrap_or(self)
    }
}

/// Addresses of one shape that are followed in any case. Further ones are a trap when they combine several parameters,
/// or when they lead from one to the next without end.
const MOST_OF_A_SHAPE: u32 = 3000;

/// A list of posts and its next pages is shorter than this, a calendar is not.
const LONGEST_ROW: u32 = 150;

/// Deeper paths, and parts that come again and again, are loops of relative links.
const MOST_PARTS: usize = 24;
const MOST_REPEATS: usize = 4;

/// Tells calendars, filters and loops, which make new addresses without end, from pages.
///
/// Two addresses have the same shape when they differ in numbers and in the values of their parameters alone. A site may
/// have any number of pages of one shape, as long as other pages lead to them. Memory: O(addresses).
#[derive(Debug, Default)]
pub struct Traps {
    shapes: HashMap<String, (u32, u32)>,
    /// The shape of an address, and how many of that shape led from one to the next until it was met.
    rows: HashMap<u64, (u32, u32)>,
}

impl Traps {
    /// Whether an address to which the page at `from` leads is one too many. Each address is to be shown once. O(length).
    pub fn is_trap(&mut self, address: &Address, from: &Address) -> bool {
        let url = address.as_url();
        let parts: Vec<_> = url.path().split('/').filter(|part| !part.is_empty()).collect();
        if parts.len() > MOST_PARTS {
            return true;
        }
        let most_alike = parts.iter().map(|part| parts.iter().filter(|other| *other == part).count()).max();
        if most_alike.unwrap_or_default() > MOST_REPEATS {
            return true;
        }
        let mut shape: String = url.path().chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect();
        while shape.contains("00") {
            shape = shape.replace("00", "0");
        }
        let mut names: Vec<_> = url.query_pairs().map(|(name, _)| name.into_owned()).collect();
        names.sort();
        names.dedup();
        if names.is_empty() && !shape.contains('0') {
            return false;
        }
        shape.push('?');
        shape.push_str(&names.join("&"));
        let number = u32::try_from(self.shapes.len()).unwrap_or(u32::MAX);
        let (shape, count) = self.shapes.entry(shape).or_insert((number, 0));
        *count += 1;
        let row = match self.rows.get(&key(from)) {
            Some((other, row)) if other == shape => row + 1,
            _ => 0,
        };
        self.rows.insert(key(address), (*shape, row));
        *count > MOST_OF_A_SHAPE && (names.len() > 1 || row > LONGEST_ROW)
    }
}

fn key(address: &Address) -> u64 {
    FxBuildHasher.hash_one(address)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plain(path: &str) -> String {
        let address = Address::parse(&format!("http://a.example{path}")).unwrap();
        address.without_parameters(&IGNORED_PARAMETERS).from_root()
    }

    #[test]
    fn parameters_that_change_nothing_go_and_all_else_stays_as_written() {
        assert_eq!(plain("/p?utm_source=x&id=7&UTM_campaign=y"), "/p?id=7");
        assert_eq!(plain("/p?PHPSESSID=1"), "/p");
        assert_eq!(plain("/p;jsessionid=1A?x=%26&session_id=2"), "/p?x=%26");
        assert_eq!(plain("/p?side=left&a"), "/p?side=left&a");
        assert_eq!(plain("/p?%75tm_x=1&b=2"), "/p?b=2");
    }

    #[test]
    fn one_page_under_several_addresses_is_one_page() {
        let addresses: Vec<_> = ["/", "/index.html", "/About", "/about/", "/about", "/b/", "/b/default.aspx", "/p?A=1"]
            .map(|path| Address::parse(&format!("http://a.example{path}")).unwrap())
            .into();
        let (same, other) = (ContentHash::of("same"), ContentHash::of("other"));
        let hashes = [same, same, same, same, same, same, other, same];
        let doubles = |canonical: Option<(usize, usize)>| -> Vec<_> {
            let canonical_of = |at: usize| canonical.filter(|(page, _)| *page == at).map(|(_, to)| &addresses[to]);
            let pages = addresses.iter().zip(hashes).enumerate();
            let pages = pages.map(|(at, (a, hash))| (PageId(at as u32), a, hash, canonical_of(at)));
            super::doubles(pages).iter().map(|double| (double.page.0, double.main.0)).collect()
        };
        // Of /About and /about, equally long, the first in the order of characters stays.
        assert_eq!(doubles(None), [(1, 0), (3, 2), (4, 2)]);
        assert_eq!(doubles(Some((2, 4))), [(1, 0), (2, 4), (3, 4)]);
        assert_eq!(doubles(Some((6, 5))), [(1, 0), (3, 2), (4, 2), (6, 5)]);
    }

    #[test]
    fn calendars_and_loops_end_and_pages_with_names_do_not() {
        let mut traps = Traps::default();
        let address = |path: &str| Address::parse(&format!("http://a.example{path}")).unwrap();
        let home = address("/");
        let month = |n: usize| address(&format!("/calendar/{}/{}", n / 12, n % 12));
        assert!(!traps.is_trap(&month(0), &home));
        let months = (1..10_000).filter(|n| !traps.is_trap(&month(*n), &month(n - 1))).count();
        assert_eq!(months + 1, MOST_OF_A_SHAPE as usize);
        let filters =
            (0..10_000).filter(|n| !traps.is_trap(&address(&format!("/shop?page={n}&sort=a{n}")), &home)).count();
        assert_eq!(filters, MOST_OF_A_SHAPE as usize);
        // Numbered pages without end, to which lists lead.
        let list = |n: usize| address(&format!("/archive/{}/", n / 1000));
        assert!((0..50_000).all(|n| !traps.is_trap(&address(&format!("/?p={n}")), &list(n))));
        let name =
            |n: usize| -> String { n.to_string().chars().map(|c| char::from(b'a' + (c as u8 - b'0'))).collect() };
        assert!((0..10_000).all(|n| !traps.is_trap(&address(&format!("/posts/{}", name(n))), &home)));
        assert!(traps.is_trap(&address("/a/b/a/b/a/b/a/b/a/b/"), &home));
    }
}
