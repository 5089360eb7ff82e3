//! Words that an editor chose, and pages that are about the same: whatever the site, the answers hold.

use std::collections::BTreeSet;

use proptest::prelude::*;
use strelm_core::document::{BlockKind, TextSpan};
use strelm_core::language::Language;
use strelm_core::openings::{Ensemble, Judge, Taste};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{PageId, Site};

use crate::support::site_in;

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

/// Whether words on the first page lead to the one that has them as its title before all others.
fn title_is_offered(mut pages: Vec<(String, Vec<String>)>, title: &str) {
    pages.push((title.to_owned(), vec!["Nothing else of it.".to_owned()]));
    pages[0].1.push(format!("Here we look at {title} again."));
    let (site, book) = site_of(&pages);
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let start = book.prose(PageId(1)).unwrap().text().rfind(title).unwrap();
    let proposed = judge.targets_for(PageId(1), TextSpan::new(start, start + title.len()), 3);
    assert_eq!(proposed[0].target, PageId(pages.len() as u32));
    assert!(proposed[0].has_all);
}

#[test]
fn a_title_that_repeats_a_word_comes_before_a_page_that_speaks_of_it_again_and_again() {
    let page = |title: &str, texts: &[&str]| (title.to_owned(), texts.iter().map(|&text| text.to_owned()).collect());
    let pages = vec![page("glass", &["mirror tube map"]), page("glass", &["dust dust dust", "dust dust"])];
    title_is_offered(pages, "dust dust dust");
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
        prop_assert!(proposed.is_sorted_by(|a, b| a.similarity >= b.similarity));
        let targets: BTreeSet<_> = proposed.iter().map(|proposal| proposal.target).collect();
        prop_assert_eq!(targets.len(), proposed.len());
        prop_assert!(!targets.contains(&PageId(1)));
        for proposal in &proposed {
            prop_assert!((0.0..=1.01).contains(&proposal.similarity), "{}", proposal.similarity);
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
        title_is_offered(pages, &title);
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
            prop_assert!(bridge.similarity > 0.0 && bridge.similarity <= 1.001);
            let paragraph = &prose.text()[bridge.after.range()];
            let (title, texts) = &pages[target.0 as usize - 1];
            for word in &bridge.shared {
                prop_assert!(paragraph.contains(word.as_str()));
                prop_assert!(title.contains(word.as_str()) || texts.iter().any(|text| text.contains(word.as_str())));
            }
        }
    }
}

const TITLES: [&str; 6] = ["Dark sky", "Moon", "Red torch", "Star atlas", "Dark adaptation", "Tube"];

/// Pages with these titles; those that are not told have nothing to say.
fn titled(texts: &[&str]) -> (Site, PhraseBook) {
    let filler: Vec<_> = (0..TITLES.len()).map(|at| format!("<p>Filler number {at} alone.</p>")).collect();
    let text = |at: usize| texts.get(at).copied().unwrap_or(&filler[at]);
    let pages: Vec<_> = TITLES.into_iter().enumerate().map(|(at, title)| (title, text(at))).collect();
    site_in(Language::English, &pages)
}

#[test]
fn words_lead_to_what_they_name_and_then_to_what_is_about_the_same() {
    let (site, book) = titled(&["<p>In the dark sky the moon is bright, and the eye needs its dark adaptation.</p>"]);
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let text = book.prose(PageId(1)).unwrap().text();
    let words = |words: &str| {
        let start = text.find(words).unwrap();
        TextSpan::new(start, start + words.len())
    };
    let proposed = judge.targets_for(PageId(1), words("dark adaptation"), 5);
    assert_eq!(proposed[0].target, PageId(5));
    assert!(proposed[0].opening.is_some(), "these words are its name");
    assert!(proposed.iter().all(|proposal| proposal.target != PageId(1)), "never the page itself");
    let bright = judge.targets_for(PageId(1), words("is bright"), 5);
    assert!(bright.iter().all(|proposal| proposal.opening.is_none()));
    assert!(judge.targets_for(PageId(1), TextSpan::new(5000, 5001), 5).is_empty());
    let places = judge.openings_to(PageId(1), PageId(2));
    assert_eq!(places.iter().map(|o| &text[o.words.range()]).collect::<Vec<_>>(), ["moon"]);
}

#[test]
fn a_bridge_stands_after_the_paragraph_that_is_about_the_same() {
    let (site, book) = titled(&[
        "<p>Cooking soup in the hut is slow.</p><p>A mirror is aligned by three screws, and a collimator shows the \
         doughnut of a star.</p>",
        "<p>How screws behind the mirror and a collimator bring the doughnut into the middle.</p>",
    ]);
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let bridge = judge.bridge(PageId(1), PageId(2)).unwrap();
    let text = book.prose(PageId(1)).unwrap().text();
    assert!(text[bridge.after.range()].starts_with("A mirror"));
    assert!(bridge.shared.iter().any(|word| word == "collimator"), "{:?}", bridge.shared);
    assert_eq!(judge.bridge(PageId(1), PageId(6)), None, "nothing in common");
    assert_eq!(judge.alike(PageId(1), 3)[0].0, PageId(2));
    assert!(judge.candidates(PageId(1), 50).iter().all(|candidate| candidate.target != PageId(2)));
}

#[test]
fn a_picture_leads_to_what_it_says_and_to_what_stands_beside_it() {
    let mut pages: Vec<_> = TITLES.iter().map(|title| format!("<p>{title} is a page.</p>")).collect();
    pages[0] = "<p>Far from here.</p><p>Wool.</p><p>We look at the moon.</p>".to_owned();
    let (site, book) = titled(&pages.iter().map(String::as_str).collect::<Vec<_>>());
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let at = book.prose(PageId(1)).unwrap().text().find("We look").unwrap();
    let first = |says: &str| judge.targets_for_picture(PageId(1), says, at, 5).first().map(|proposal| proposal.target);
    let page = |title: &str| (1..).zip(TITLES).find(|(_, known)| *known == title).map(|(at, _)| PageId(at));
    assert_eq!(first("An eye during its dark adaptation"), page("Dark adaptation"));
    assert_eq!(first(""), page("Moon"), "by the paragraph that follows");
    // Words that say nothing lead nowhere by themselves.
    let all = judge.targets_for_picture(PageId(1), "the of and its", at, 5);
    assert!(all.iter().all(|proposal| proposal.name.is_none()), "{all:?}");
}
