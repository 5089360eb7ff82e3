//! Which part of a site is read: addresses that begin in one way, and not in another.

use super::Address;

/// Ways in which the path of an address may begin. `*` stands for any letters.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct SitePart {
    /// Without any, all of the site.
    pub within: Vec<String>,
    /// What is left out of that.
    pub without: Vec<String>,
}

impl SitePart {
    /// Whether an address of the site is of this part. O(patterns × length).
    pub fn holds(&self, address: &Address) -> bool {
        let path = address.from_root();
        let begins = |patterns: &[String]| patterns.iter().any(|pattern| begins(&path, pattern));
        (self.within.is_empty() || begins(&self.within)) && !begins(&self.without)
    }

    /// Whether it is the whole site.
    pub fn is_all(&self) -> bool {
        self.within.is_empty() && self.without.is_empty()
    }
}

/// Whether a path begins as a pattern says. O(path × stars).
fn begins(path: &str, pattern: &str) -> bool {
    let mut parts = pattern.split('*');
    let Some(rest) = path.strip_prefix(parts.next().unwrap_or_default()) else { return false };
    let mut rest = rest;
    for part in parts {
        let Some(at) = rest.find(part) else { return false };
        rest = &rest[at + part.len()..];
    }
    true
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn an_address_is_in_a_part_by_how_it_begins() {
        let part = |within: &[&str], without: &[&str]| {
            let owned = |patterns: &[&str]| patterns.iter().map(|pattern| (*pattern).to_owned()).collect();
            SitePart { within: owned(within), without: owned(without) }
        };
        let at = |path: &str| Address::parse(&format!("https://a.example{path}")).unwrap();
        assert!(SitePart::default().is_all() && SitePart::default().holds(&at("/x")));
        let docs = part(&["/docs/"], &["/docs/old/", "/docs/*/print", "*?print="]);
        for (path, is_in) in [
            ("/docs/", true),
            ("/docs/a", true),
            ("/docs", false),
            ("/blog/docs/", false),
            ("/docs/old/a", false),
            ("/docs/a/print.html", false),
            ("/docs/a?print=1", false),
            ("/docs/prints", true),
        ] {
            assert_eq!(docs.holds(&at(path)), is_in, "{path}");
        }
        assert!(!part(&[], &["/x"]).holds(&at("/xy")));
    }

    proptest! {
        /// A pattern matches what its stars can be filled with.
        #[test]
        fn stars_stand_for_anything(parts in prop::collection::vec("[a-c/]{0,3}", 1..4), fill in "[a-c]{0,4}", end in "[a-c]{0,3}") {
            let path = parts.join(&fill) + &end;
            prop_assert!(begins(&path, &parts.join("*")));
        }
    }
}
