//! Edits proved on a sample: the demo's pages, generated pages, and the documents of html5lib's tests.

#![allow(clippy::unwrap_used)]

use std::path::{Path, PathBuf};

use proptest::prelude::*;
use strelm_core::document::Document;
use strelm_proof::documents::{generated, prove_all, prove_folder, prove_torn, tree_construction};
use strelm_proof::hostile::Hostile;
use strelm_proof::html::{self, Effort};
use strelm_proof::markdown;
use strelm_proof::report::Report;

const EFFORT: Effort = Effort { spans: 4, others: 1 };

fn here(path: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(path)
}

fn holds(report: &Report, at_least: usize) {
    assert!(report.total() >= at_least, "only {} edits", report.total());
    assert_eq!(report.violations, 0, "{}", report.kept.join("\n"));
}

#[test]
fn edits_of_the_demo_do_what_they_say() {
    holds(&prove_folder(&here("../../demo"), Effort { spans: 6, others: 2 }, 200).unwrap(), 1000);
}

#[test]
fn edits_of_generated_pages_do_what_they_say() {
    let pages: Vec<_> = (0..250).map(|seed| generated(&mut fastrand::Rng::with_seed(seed))).collect();
    holds(&prove_all("generated", &pages, EFFORT), 1000);
}

#[test]
fn edits_of_broken_pages_do_what_they_say() {
    let pages = tree_construction(&here("tests/tree-construction")).unwrap();
    assert!(pages.len() > 1500);
    let some: Vec<_> = pages.into_iter().step_by(3).collect();
    holds(&prove_all("tree construction", &some, EFFORT), 1000);
}

#[test]
fn edits_of_torn_pages_do_what_they_say() {
    holds(&prove_torn(&here("../../demo"), EFFORT, 3, 100).unwrap(), 1000);
}

#[test]
fn hostile_pages_are_read_to_their_end() {
    for hostile in Hostile::ALL {
        let document = Document::from_html(hostile.page(300_000));
        assert_eq!(document.source().len(), hostile.page(300_000).len(), "{}", hostile.name);
    }
    for hostile in Hostile::MARKDOWN {
        let document = Document::from_markdown(hostile.page(20_000));
        assert!(!document.source().is_empty(), "{}", hostile.name);
    }
}

fn effort() -> Effort {
    Effort { spans: 3, others: 1 }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    #[test]
    fn edits_of_arbitrary_bytes_do_what_they_say(bytes in prop::collection::vec(any::<u8>(), 0..300), seed in any::<u64>()) {
        // A content field is given as text: what is no UTF-8 is replaced before.
        let source = format!("<body>{}", String::from_utf8_lossy(&bytes));
        let report = html::prove("bytes", &source, effort(), seed);
        prop_assert_eq!(report.violations, 0, "{}", report.kept.join("\n"));
    }

    #[test]
    fn edits_of_arbitrary_markup_do_what_they_say(
        source in "(<p>|</p>|<a href=x>|</a>|<b>|</b>|<i|>|<table>|<td>|</td>|</table>|<!--|-->|&amp;|&|<svg>|</svg>|<select>|<ul>|<li>|\"| x=|two words |\r\n|é){0,40}",
        seed in any::<u64>(),
    ) {
        let report = html::prove("markup", &format!("<body>{source}"), effort(), seed);
        prop_assert_eq!(report.violations, 0, "{}", report.kept.join("\n"));
    }

    #[test]
    fn edits_of_arbitrary_markdown_do_what_they_say(
        source in "(\\[|\\]|\\(|\\)|\\*|_|`|~~two~~ |<a href=x>|</a>|# |> |- |1\\. |\n|\n\n|\\|a\\|b\\|\n\\|-\\|-\\|\n|two words |!\\[alt\\]\\(/p\\) |\\[one\\]\\(/one\\) |\\[two\\]\\[two\\] |\n\n\\[two\\]: /two\n|é){0,40}",
        seed in any::<u64>(),
    ) {
        let report = markdown::prove("markdown", &source, effort(), seed);
        prop_assert_eq!(report.violations, 0, "{}\n{:?}", report.kept.join("\n"), source);
    }
}
