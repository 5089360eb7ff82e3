//! The training's own figures, counted by hand.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use strelm_core::openings::learning::PlaceRow;
use strelm_core::openings::{Ensemble, FEATURES, Features, PartRange, Tree};
use strelm_core::site::PageId;
use strelm_train::hidden::{HiddenSite, Hide, hide};
use strelm_train::measure::{measure, pairs, reliability};

/// Judges by the first number alone: what is at least 1, 2, … 20 counts so much.
fn by_first_number() -> Ensemble {
    let step = |at: u8| Tree::Split {
        feature: 0,
        below: f32::from(at),
        left: Box::new(Tree::Leaf(0.0)),
        right: Box::new(Tree::Leaf(1.0)),
    };
    let trees = [(1..=20).map(step).collect(), vec![], vec![], vec![], vec![]];
    Ensemble::new(0.0, [PartRange { low: 0.0, high: 1.0 }; 5], trees).unwrap()
}

fn row(source: u32, target: u32, worth: f32, is_link: bool, is_pair: bool) -> PlaceRow {
    let mut features: Features = [0.0; FEATURES];
    features[0] = worth;
    PlaceRow { source: PageId(source), target: PageId(target), first: 0, features, is_link, is_pair }
}

/// A site whose first page links to the next two, and the second to the third.
fn site() -> HiddenSite {
    let mut pages = vec![
        ("index.html", "<p>Of <a href=1.html>the first</a> and <a href=2.html>the second</a> we speak here.</p>"),
        ("1.html", "<p>We speak of <a href=2.html>the second</a> here.</p>"),
    ];
    let names: Vec<String> = (2..20).map(|at| format!("{at}.html")).collect();
    pages.extend(names.iter().map(|name| (name.as_str(), "<p>Nothing.</p>")));
    let pages: Vec<_> = pages.into_iter().map(|(path, html)| (path.to_owned(), html.to_owned())).collect();
    hide(&pages, Hide::All, 1).unwrap()
}

#[test]
fn figures_are_those_counted_by_hand() {
    let site = site();
    assert_eq!(site.hidden.len(), 3);
    // Page 1 is to find 2 and 3, page 2 is to find 3.
    let rows = [
        row(1, 2, 9.0, false, true),
        row(1, 2, 3.0, true, true),
        row(1, 5, 8.0, false, false),
        row(1, 6, 7.0, false, false),
        row(1, 7, 6.0, false, false),
        row(1, 3, 5.0, true, true),
        row(2, 4, 9.0, false, false),
        row(2, 3, 2.0, true, true),
    ];
    let figures = measure(&site, &rows, &by_first_number());
    assert!((figures.recall_at_10 - 1.0).abs() < 1e-9 && (figures.pool - 1.0).abs() < 1e-9);
    assert!((figures.precision_at_5 - f64::midpoint(2.0 / 5.0, 1.0 / 2.0)).abs() < 1e-9);
    assert!((figures.words - 2.0 / 3.0).abs() < 1e-9, "the best place of the pair 1, 2 is not the author's");
    assert!((figures.inbound_at_10 - 1.0).abs() < 1e-9);
    // Without the second page's row, a third of the pairs is out of reach, half of page 3's.
    let figures = measure(&site, &rows[..6], &by_first_number());
    assert!((figures.pool - 0.5).abs() < 1e-9);
    assert!((figures.inbound_at_10 - 0.75).abs() < 1e-9);
    assert!((figures.precision_at_5 - 0.4).abs() < 1e-9, "a page with nothing to offer is not counted");
    let kept = pairs(&site, &rows, &by_first_number());
    assert_eq!(kept.len(), 7);
    assert_eq!(kept.iter().filter(|(_, is_linked)| *is_linked).count(), 3);
    assert_eq!(kept.last().unwrap().0, 9.0);
}

#[test]
fn what_comes_after_the_tenth_is_not_found() {
    let site = site();
    let mut rows: Vec<_> = (4..14).map(|target| row(2, target, 15.0, false, false)).collect();
    rows.push(row(2, 3, 14.0, true, true));
    let figures = measure(&site, &rows, &by_first_number());
    assert_eq!((figures.recall_at_10, figures.words), (0.0, 0.0));
    assert!((figures.pool - 0.5).abs() < 1e-9);
}

proptest! {
    #[test]
    fn tenths_hold_all_pairs(pairs in prop::collection::vec((-9.0f32..9.0, any::<bool>()), 0..200)) {
        let tenths = reliability(pairs.iter().copied());
        prop_assert_eq!(tenths.iter().map(|(count, _)| count).sum::<usize>(), pairs.len());
        prop_assert_eq!(
            tenths.iter().map(|(_, linked)| linked).sum::<usize>(),
            pairs.iter().filter(|(_, linked)| *linked).count()
        );
        for (tenth, (count, _)) in tenths.iter().enumerate() {
            let chance = |odds: f32| 1.0 / (1.0 + f64::from(-odds).exp());
            let here = pairs.iter().filter(|(odds, _)| {
                let chance = chance(*odds);
                chance >= tenth as f64 / 10.0 && (chance < (tenth as f64 + 1.0) / 10.0 || tenth == 9)
            });
            prop_assert!(here.count().abs_diff(*count) <= 1, "but for what lies on the border");
        }
    }
}
