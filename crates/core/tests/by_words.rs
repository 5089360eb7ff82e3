//! Words that an editor chose, and pages that are about the same: whatever the site, the answers hold.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::BTreeSet;

use proptest::prelude::*;
use strelm_core::document::{BlockKind, TextSpan};
use strelm_core::language::Language;
use strelm_core::openings::{Ensemble, Judge, Taste};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{PageId, Site};

use self::support::site_in;

const WORDS: [&str; 10] = ["moon", "dust", "glass", "mirror", "tube", "frost", "torch", "map", "lens", "people"];

fn words(most: usize) -> impl Strategy<Value = String> {
    prop::collection::vec(prop::sample::select(WORDS.to_vec()), 1..most).prop_map(|words| words.join(" "))
}

/// Titles with paragraphs.
fn pages() -> impl Strategy<Value = Vec<(String, Vec<String>)>> {
    prop::collection::vec((words(4), prop::collection::vec(words(12), 1..4)), 2..9)
}

fn site_of(pages: &[(String, Vec<String>)]) -> (Site, PhraseBook) {
    let html: Vec<_> = pages
        .iter()
        .map(|(title, paragraphs)| {
            let text: String = paragraphs.iter().map(|text| format!("<p>{text}</p>")).collect();
            format!("<h1>{title}</h1>{text}<h2>More of {title}</h2>")
        })
        .collect();
    let pages: Vec<_> = pages.iter().zip(&html).map(|((title, _), html)| (title.as_str(), html.as_str())).collect();
    site_in(Language::English, &pages)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn chosen_words_lead_to_other_pages_each_once_the_likeliest_first(
        pages in pages(),
        from in 0.0..1.0f64,
        len in 1usize..40,
        most in 1usize..6,
    ) {
        let (site, book) = site_of(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let text = book.prose(PageId(1)).unwrap().text();
        let start = (from * text.len() as f64) as usize;
        let chosen = TextSpan::new(start, (start + len).min(text.len()));
        let proposed = judge.targets_for(PageId(1), chosen, most);
        prop_assert!(proposed.len() <= most);
        prop_assert!(proposed.is_sorted_by(|a, b| a.likeness >= b.likeness));
        let targets: BTreeSet<_> = proposed.iter().map(|proposal| proposal.target).collect();
        prop_assert_eq!(targets.len(), proposed.len());
        prop_assert!(!targets.contains(&PageId(1)));
        for proposal in &proposed {
            prop_assert!((0.0..=1.01).contains(&proposal.likeness), "{}", proposal.likeness);
            if let Some(opening) = &proposal.opening {
                prop_assert!(opening.source == PageId(1) && opening.target == proposal.target);
                prop_assert!(opening.words.overlaps(chosen));
            }
        }
    }

    #[test]
    fn whoever_chooses_a_title_is_offered_its_page(pages in pages(), title in words(4)) {
        // Pages with the same words in their titles would be as good.
        prop_assume!(pages.iter().all(|(other, _)| other.split(' ').all(|word| !title.contains(word))));
        let mut pages = pages;
        pages.push((title.clone(), vec!["Nothing else of it.".to_owned()]));
        pages[0].1.push(format!("Here we look at {title} again."));
        let (site, book) = site_of(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let start = book.prose(PageId(1)).unwrap().text().rfind(&title).unwrap();
        let proposed = judge.targets_for(PageId(1), TextSpan::new(start, start + title.len()), 3);
        prop_assert_eq!(proposed[0].target, PageId(pages.len() as u32));
        prop_assert!(proposed[0].has_all);
    }

    #[test]
    fn a_bridge_begins_after_a_paragraph_that_shares_words_with_the_target(pages in pages()) {
        let (site, book) = site_of(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        for target in (2..).take(pages.len() - 1).map(PageId) {
            let Some(bridge) = judge.bridge(PageId(1), target) else { continue };
            let prose = book.prose(PageId(1)).unwrap();
            let (block, kind) = prose.block_around(bridge.after).unwrap();
            prop_assert_eq!((block, kind), (bridge.after, BlockKind::Paragraph), "no heading");
            prop_assert!(bridge.likeness > 0.0 && bridge.likeness <= 1.001);
            let paragraph = &prose.text()[bridge.after.range()];
            let (title, texts) = &pages[target.0 as usize - 1];
            for word in &bridge.shared {
                prop_assert!(paragraph.contains(word.as_str()));
                prop_assert!(title.contains(word.as_str()) || texts.iter().any(|text| text.contains(word.as_str())));
            }
        }
    }
}
