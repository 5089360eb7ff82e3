//! Hiding the links of a site: what is hidden was prose, is known word by word, and is gone from the text's markup alone.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeSet;

use proptest::prelude::*;
use strelm_core::site::PageId;
use strelm_train::hidden::{HiddenSite, Hide, hide};
use strelm_train::rows::rows;

fn site(pages: &[(&str, &str)]) -> Vec<(String, String)> {
    pages.iter().map(|(path, html)| ((*path).to_owned(), (*html).to_owned())).collect()
}

fn anchors(site: &HiddenSite) -> BTreeSet<(u32, u32, String)> {
    let text = |page: PageId| site.corpus.book.prose(page).unwrap().text();
    let pairs = site.hidden.iter().flat_map(|((source, target), spans)| {
        spans.iter().map(|words| (source.0, target.0, text(*source)[words.range()].to_owned()))
    });
    pairs.collect()
}

#[test]
fn links_in_prose_are_hidden_and_lists_of_links_are_left() {
    let pages = site(&[
        (
            "index.html",
            "<html lang=en><title>Start</title><nav><a href=moon.html>Moon</a></nav><p>We look at the \
             <a href=moon.html>old moon</a> and at <a href='dir/sun.html#spots'>sunspots</a> when it is dry.</p>\
             <ul><li><a href=moon.html>Moon</a></li><li><a href='dir/sun.html'>Sun</a></li></ul>",
        ),
        ("moon.html", "<html lang=en><title>Moon</title><p>Of itself: <a href=#x>craters</a> and more of that.</p>"),
        (
            "dir/sun.html",
            "<html lang=en><title>Sun</title><p>Never without a filter, says <a href='https://other.example/'>a \
             book</a>; see <a href='../gone.html'>nothing</a> of it, and the <a href='../moon.html'>moon</a> at night.</p>",
        ),
    ]);
    let all = hide(&pages, Hide::All, 1).unwrap();
    let expected = [(1, 2, "old moon"), (1, 3, "sunspots"), (3, 2, "moon")];
    assert_eq!(anchors(&all), expected.map(|(from, to, words)| (from, to, words.to_owned())).into());
    assert_eq!(all.sources, [PageId(1), PageId(3)]);
    let anchors = all.corpus.book.anchors();
    assert!(all.hidden.keys().all(|(source, target)| !anchors.is_linked_in_prose(*source, *target)));
    let is_kept = |from, to| anchors.out_of(PageId(from)).contains(&PageId(to));
    assert!(is_kept(1, 2) && is_kept(1, 3), "links of the list are left");
    // The words are found again, as a link and as a pair.
    let rows = rows(&all);
    let found = rows.iter().find(|row| row.source == PageId(3) && row.target == PageId(2) && row.is_link);
    assert!(found.is_some_and(|row| row.is_pair));
    assert!(rows.iter().all(|row| row.is_pair || !row.is_link));
}

#[test]
fn a_site_without_an_entry_page_or_with_strange_names_is_told() {
    assert!(hide(&site(&[("a.html", "<p>x</p>")]), Hide::All, 1).is_ok(), "the address of the entry needs no page");
    assert!(hide(&[], Hide::All, 1).unwrap().sources.is_empty());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn a_fifth_of_the_pages_or_all_lose_their_links_the_same_ones_each_time(
        count in 5usize..60,
        seed in 0u64..50,
        to in prop::collection::vec(0usize..60, 60),
    ) {
        let page = |at: usize| {
            let to = to[at] % count;
            let html = format!("<html lang=en><title>Page {at}</title><p>In the cold we read of <a href={to}.html>the one \
                before {to}</a> and went home.</p>");
            (format!("{at}.html"), html)
        };
        let pages: Vec<_> = (0..count).map(page).collect();
        let all = hide(&pages, Hide::All, seed).unwrap();
        let own = (0..count).filter(|at| to[*at] % count == *at).count();
        prop_assert_eq!(all.sources.len(), count - own, "but for links to the page itself");
        let some = hide(&pages, Hide::Some, seed).unwrap();
        prop_assert!(some.sources.iter().all(|page| all.sources.contains(page)));
        prop_assert!(some.sources.len() <= count / 2 + 4);
        let again = hide(&pages, Hide::Some, seed).unwrap();
        prop_assert_eq!(&again.sources, &some.sources);
        prop_assert_eq!(anchors(&again), anchors(&some));
        for (_, _, words) in anchors(&all) {
            prop_assert!(words.starts_with("the one before "), "{}", words);
        }
    }
}
