//! What is chosen for a page as a whole: always where a link may stand, always within the limits, whatever the order.

use std::collections::HashMap;

use proptest::prelude::*;
use strelm_core::document::{Document, Region, TextSpan};
use strelm_core::language::sentence_around;
use strelm_core::limits::LinkLimits;
use strelm_core::openings::{
    AllWanted, BothWays, Candidate, Ensemble, Judge, Limits, Manners, OpeningIndex, Part, Reason, Taste, Unwanted,
    percent,
};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{ChangeId, PageId, Site};

use crate::support::world::{ALL, Passed, TITLES, World, page_id, pages, world};
use crate::support::{address, follow, page};

/// Links that the content of a page has.
fn links_of(document: &Document) -> Vec<TextSpan> {
    document.links().iter().filter(|link| link.region == Region::Content).map(|link| link.text).collect()
}

fn sentence_of(document: &Document, words: TextSpan) -> TextSpan {
    let block = document.blocks()[document.block_of(words).unwrap().0 as usize].text;
    let within = TextSpan::new(words.start - block.start, words.end - block.start);
    let sentence = sentence_around(document.text().slice(block), within);
    TextSpan::new(block.start + sentence.start, block.start + sentence.end)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn a_set_stands_where_links_may_and_within_the_limits(
        pages in pages(),
        per_sentence in 1..3usize,
        per_page in 1..6usize,
        first_words_free in prop::sample::select(vec![0, 5, 20]),
        rotate in 0..40usize,
    ) {
        let (site, book, world) = world(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let limits = LinkLimits {
            per_sentence, words_per_link: 1000, per_page_at_least: per_page, first_words_free, ..LinkLimits::default()
        };
        let manners = Manners { limits: Some(limits), ..Manners::default() };
        for (page, document) in &world.documents {
            let mut candidates = judge.candidates(*page, OpeningIndex::MOST);
            let weighed = |all: &[Candidate]| all.iter().map(|one| (*one, judge.weigh(*page, one))).collect();
            let chosen = judge.choose(*page, weighed(&candidates), &[], manners, 50);
            let count = candidates.len().max(1);
            candidates.rotate_left(rotate % count);
            candidates.reverse();
            prop_assert_eq!(&chosen, &judge.choose(*page, weighed(&candidates), &[], manners, 50), "their order does not matter");
            let mut links = links_of(document);
            let before = links.len();
            let mut targets = Vec::new();
            for (candidate, _) in &chosen {
                let words = judge.words_of(*page, candidate);
                prop_assert!(document.may_link(words).is_ok(), "{}", document.text().slice(words));
                let block = &document.blocks()[document.block_of(words).unwrap().0 as usize];
                prop_assert!(block.region == Region::Content && block.kind.is_prose());
                prop_assert!(!links.iter().any(|link| link.overlaps(words)), "words that carry a link");
                prop_assert!(candidate.target != *page && !targets.contains(&candidate.target));
                prop_assert!(!book.anchors().is_linked_in_prose(*page, candidate.target));
                let content = document.blocks().iter().filter(|block| block.region == Region::Content);
                let words_before: usize = content
                    .filter(|block| block.text.start < words.start)
                    .map(|block| {
                        let end = block.text.end.min(words.start);
                        let text = document.text().slice(TextSpan::new(block.text.start, end));
                        strelm_core::language::words(text).count()
                    })
                    .sum();
                prop_assert!(words_before >= first_words_free);
                links.push(words);
                targets.push(candidate.target);
            }
            for (candidate, _) in &chosen {
                let sentence = sentence_of(document, judge.words_of(*page, candidate));
                prop_assert!(links.iter().filter(|link| link.overlaps(sentence)).count() <= per_sentence.max(1));
            }
            prop_assert!(chosen.is_empty() || links.len() <= per_page.max(before));
        }
    }

    #[test]
    fn both_ways_are_the_set_of_a_page_and_the_best_place_for_each_other_target(
        pages in pages(),
        most in 0..4usize,
        least_fit in prop::sample::select(vec![0.0, 7.0, 30.0]),
        unwanted in prop::collection::vec((1..=TITLES.len(), 1..=TITLES.len()), 0..4),
    ) {
        let (site, book, _) = world(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let unwanted = Passed(unwanted.into_iter().map(|(from, to)| (page_id(from), page_id(to))).collect());
        let limits = Limits { most, least_fit, ..ALL };
        let sitting = judge.sit();
        for page in site.pages().map(|page| page.id) {
            let BothWays { chosen, beside } = sitting.both_ways(page, &unwanted, Manners::default(), limits);
            let set = judge.outbound(None, page, &unwanted, Manners::default(), limits);
            let places = |all: &[(Candidate, _)]| -> Vec<_> {
                all.iter().map(|(candidate, _)| (candidate.target, judge.words_of(page, candidate))).collect()
            };
            prop_assert_eq!(places(&chosen), set.iter().map(|o| (o.target, o.words)).collect::<Vec<_>>());
            // By hand: all that may be led to, each by its best place.
            let mut best: HashMap<PageId, f32> = HashMap::new();
            for candidate in judge.candidates(page, OpeningIndex::MOST) {
                let weighed = judge.weigh(page, &candidate);
                if percent(weighed.without_need) >= least_fit && !unwanted.pair(page, candidate.target) {
                    let known = best.entry(candidate.target).or_insert(f32::NEG_INFINITY);
                    *known = known.max(weighed.log_odds);
                }
            }
            for (candidate, _) in &chosen {
                prop_assert!(best.remove(&candidate.target).is_some());
            }
            let told: HashMap<_, _> = beside.iter().map(|(one, weighed)| (one.target, weighed.log_odds)).collect();
            prop_assert_eq!(told.len(), beside.len(), "no target twice");
            prop_assert_eq!(told, best);
        }
    }
}

#[test]
fn a_page_that_names_very_many_leads_to_each_of_them() {
    let (mut site, mut book, mut world) = (Site::new(address(1)), PhraseBook::default(), World::default());
    let named: Vec<u32> = (2..150).collect();
    let title = |number: u32| format!("Star cluster K{number}");
    let line = |number: &u32| format!("<p>Then we saw the {} at last. It was bright.</p>", title(*number));
    let hub: String = named.iter().map(line).collect::<String>().repeat(3);
    for number in std::iter::once(&1).chain(&named) {
        let html = if *number == 1 { hub.as_str() } else { "<p>About it.</p>" };
        let (facts, document) = (page(*number, &title(*number)), Document::from_html(html));
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&document), follow);
        site.put_page(facts.clone(), &[]);
        world.documents.insert(facts.id, document);
    }
    site.settle();
    book.settle();
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let mut index = OpeningIndex::default();
    site.pages().for_each(|page| index.put(page.id, judge.candidates(page.id, OpeningIndex::MOST)));
    let limits = Limits::default();
    let of_hub = judge.outbound(Some(&index), PageId(1), &AllWanted, Manners::default(), limits);
    assert_eq!(of_hub.len(), limits.most);
    for target in named.iter().map(|number| PageId(*number)) {
        let told = |index| {
            let found = judge.inbound(index, target, &AllWanted, limits);
            found.iter().map(|opening| (opening.source, opening.words)).collect::<Vec<_>>()
        };
        assert_eq!(told(Some(&index)), told(None), "what is kept tells what looking at the page does");
        assert_eq!(told(None).len(), 1, "{target:?}");
    }
    // The same from one look at the page: what is chosen for it, and the rest beside that.
    let BothWays { chosen, beside } = judge.sit().both_ways(PageId(1), &AllWanted, Manners::default(), limits);
    let mut targets: Vec<_> = chosen.iter().chain(&beside).map(|(found, _)| found.target.0).collect();
    targets.sort_unstable();
    assert_eq!((chosen.len(), targets), (limits.most, named));
    assert!(beside.is_sorted_by(|(_, a), (_, b)| a.log_odds >= b.log_odds));
}

#[test]
fn places_that_no_reader_gets_to_count_less() {
    let text = "<p>In the night the eye needs its dark adaptation, and that takes half an hour.</p>";
    let mut pages = vec!["<p>Nothing but a filler stands here.</p>".to_owned(); TITLES.len()];
    pages[0] = "<p>See the <a href=\"/3\">torch</a>.</p>".to_owned();
    (pages[1], pages[2]) = (text.to_owned(), text.to_owned());
    let (mut site, book, _) = world(&pages);
    let ensemble = Ensemble::shipped().unwrap();
    let target = PageId(5);
    let found = |site: &Site| {
        let judge = Judge { site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let found = judge.inbound(None, target, &AllWanted, Limits::default());
        let needs = found.iter().map(|o| {
            let reasons = judge.reasons(o.source, target, o.words).unwrap()[Part::Need as usize].clone();
            (o.source.0, o.fit.parts[Part::Need as usize].strength, reasons.contains(&Reason::SourceUnreachable))
        });
        needs.collect::<Vec<_>>()
    };
    assert_eq!(found(&site), [(3, 1.0, false), (2, 0.5, true)]);
    site.plan(ChangeId(1), PageId(1), PageId(2));
    site.settle();
    let mut now = found(&site);
    now.sort_by_key(|(source, ..)| *source);
    assert_eq!(now, [(2, 1.0, false), (3, 1.0, false)]);
    site.plan(ChangeId(2), PageId(1), target);
    site.unplan(ChangeId(1));
    site.settle();
    assert_eq!(found(&site), [(3, 0.5, false), (2, 0.25, true)], "within reach, and linked once");
}
