//! What is chosen for a page as a whole: always where a link may stand, always within the limits, whatever the order.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::HashMap;

use proptest::prelude::*;
use strelm_core::document::{Document, Region, TextSpan};
use strelm_core::language::sentence_around;
use strelm_core::limits::LinkLimits;
use strelm_core::openings::{
    AllWanted, Board, BothWays, Candidate, Ensemble, Judge, LIKELY, Limits, Manners, Opening, OpeningIndex, Part,
    Reason, Tally, Taste, Unwanted, kept, percent,
};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{ChangeId, Changes, OutLink, PageFacts, PageId, Site};

use self::support::{address, follow, page};

const TITLES: [&str; 6] = ["Dark sky", "Moon", "Red torch", "Star atlas", "Dark adaptation", "Tube"];

/// What pages are made of: names of others, in places that take links and in places that do not.
fn piece() -> impl Strategy<Value = String> {
    let title = || prop::sample::select(TITLES.to_vec());
    prop_oneof![
        4 => (title(), title()).prop_map(|(a, b)| format!("<p>We saw the {a} over there. Then {b} came. The {a} again.</p>")),
        2 => title().prop_map(|a| format!("<p>Every night the {a} and the <em>{a}</em> meet the star.</p>")),
        1 => title().prop_map(|a| format!("<h2>{a}</h2>")),
        1 => title().prop_map(|a| format!("<p>Press <code>run {a} now</code> and <a href=\"/9\">{a}</a> it.</p>")),
        1 => title().prop_map(|a| format!("<nav><a href=\"/8\">{a}</a> {a}</nav>")),
        1 => title().prop_map(|a| format!("<pre>{a}</pre><button>{a}</button><p>Nothing of it.</p>")),
        1 => (title(), 0..TITLES.len()).prop_map(|(a, to)| format!("<ul><li><a href=\"/{}\">here</a> and {a}</li></ul>", to + 1)),
    ]
}

fn pages() -> impl Strategy<Value = Vec<String>> {
    prop::collection::vec(prop::collection::vec(piece(), 1..7).prop_map(|pieces| pieces.concat()), TITLES.len())
}

fn page_id(number: usize) -> PageId {
    PageId(u32::try_from(number).unwrap())
}

fn facts(number: usize) -> PageFacts {
    page(page_id(number).0, TITLES[number - 1])
}

#[derive(Default)]
struct World {
    documents: HashMap<PageId, Document>,
}

impl World {
    fn put(&mut self, site: &mut Site, book: &mut PhraseBook, number: usize, html: &str) -> PageId {
        let facts = facts(number);
        let document = Document::from_html(html);
        let links: Vec<_> = document
            .links()
            .iter()
            .map(|link| OutLink { to: follow(&link.href).unwrap(), region: link.region })
            .collect();
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&document), follow);
        site.put_page(facts.clone(), &links);
        self.documents.insert(facts.id, document);
        facts.id
    }
}

fn world(pages: &[String]) -> (Site, PhraseBook, World) {
    let mut site = Site::new(address(1));
    let (mut book, mut world) = (PhraseBook::default(), World::default());
    for (number, html) in (1..).zip(pages) {
        world.put(&mut site, &mut book, number, html);
    }
    site.settle();
    book.settle();
    (site, book, world)
}

const ALL: Limits = Limits { most: 50, most_pages: 1000, least_fit: 0.0 };

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

    #[test]
    fn what_is_kept_of_a_page_is_what_was_found_or_less(
        pages in pages(),
        renamed in 1..=TITLES.len(),
        noise in prop::collection::vec(any::<u8>(), 0..200),
    ) {
        let (mut site, mut book, _) = world(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let ids: Vec<_> = site.pages().map(|page| page.id).collect();
        let found: Vec<_> = ids.iter().map(|id| judge.candidates(*id, OpeningIndex::MOST)).collect();
        let bytes: Vec<_> = found.iter().map(|row| kept::to_bytes(row)).collect();
        let sitting = judge.sit();
        let mut board = Board::default();
        ids.iter().for_each(|id| board.changed(*id, []));
        for ((id, row), bytes) in ids.iter().zip(&found).zip(&bytes) {
            prop_assert_eq!(&sitting.candidates(*id, OpeningIndex::MOST), row, "a sitting judges alike");
            prop_assert_eq!(&kept::from_bytes(&book, *id, bytes), row);
            board.restore(*id, row.clone());
            // Whatever stands in the database, no place comes of it at which nothing is named.
            for odd in [noise.as_slice(), bytes.get(1..).unwrap_or_default()] {
                for place in kept::from_bytes(&book, *id, odd) {
                    prop_assert!(book.named_by(place.phrase).iter().any(|naming| naming.page == place.target));
                    prop_assert!(!judge.words_of(*id, &place).is_empty());
                }
            }
        }
        // It is known, and judged again when there is time.
        prop_assert!(board.is_complete() && !board.is_settled());
        prop_assert_eq!(board.waiting(usize::MAX).len(), ids.len());
        for id in &ids {
            board.put(*id, judge.candidates(*id, OpeningIndex::MOST));
        }
        let none = Passed(Vec::new());
        settle_with(&mut board, &site, &book, &ensemble, &none, Changes::Everything);
        prop_assert!(board.is_settled());
        // A page that is called otherwise by now is not led to by its old name alone.
        let facts = PageFacts { title: "Quasar".to_owned(), ..facts(renamed) };
        site.put_page(facts.clone(), &[]);
        book.put_page(&facts);
        book.put_prose(facts.id, None, follow);
        let still_named = |place: &Candidate| book.named_by(place.phrase).iter().any(|naming| naming.page == facts.id);
        for ((id, row), bytes) in ids.iter().zip(&found).zip(&bytes).filter(|((id, _), _)| **id != facts.id) {
            let expected: Vec<_> =
                row.iter().filter(|place| place.target != facts.id || still_named(place)).copied().collect();
            prop_assert_eq!(kept::from_bytes(&book, *id, bytes), expected);
        }
    }

    #[test]
    fn what_followed_is_what_is_counted_anew(
        first in pages(),
        changes in prop::collection::vec((1..=TITLES.len(), prop::collection::vec(piece(), 0..5), any::<bool>()), 1..6),
        planned in prop::collection::vec((1..=TITLES.len(), 1..=TITLES.len()), 0..4),
        passed in prop::collection::vec((1..=TITLES.len(), 1..=TITLES.len()), 0..4),
    ) {
        let (mut site, mut book, mut all) = world(&first);
        let ensemble = Ensemble::shipped().unwrap();
        let mut board = Board::default();
        (1..=TITLES.len()).for_each(|number| board.changed(page_id(number), []));
        let none = Passed(Vec::new());
        settle(&mut board, &mut site, &book, &ensemble, &none);
        for (number, pieces, is_removed) in changes {
            let id = page_id(number);
            if is_removed && number != 1 {
                book.remove_page(id);
                site.remove_page(id);
                all.documents.remove(&id);
                board.removed(id);
            } else {
                all.put(&mut site, &mut book, number, &pieces.concat());
                let mentioning = book.pages_that_may_mention(id, 1000);
                board.changed(id, mentioning);
            }
            site.settle();
            book.settle();
            settle(&mut board, &mut site, &book, &ensemble, &none);
        }
        // Links in the tray come and go, and with them what their targets need.
        for (change, (source, target)) in (1..).map(ChangeId).zip(&planned) {
            let (source, target) = (page_id(*source), page_id(*target));
            if site.page(source).is_some() && site.page(target).is_some() {
                site.plan(change, source, target);
                board.decided(source, Some(target));
                settle(&mut board, &mut site, &book, &ensemble, &none);
            }
        }
        if let Some((source, target)) = planned.first() {
            site.unplan(ChangeId(1));
            site.settle();
            board.decided(page_id(*source), Some(page_id(*target)));
            settle(&mut board, &mut site, &book, &ensemble, &none);
        }
        // Decisions come last: they are followed by name.
        let passed: Vec<_> = passed
            .into_iter()
            .map(|(source, target)| (page_id(source), page_id(target)))
            .collect();
        for (_, target) in &passed {
            board.decided_for_all(*target);
        }
        let passed = Passed(passed);
        settle(&mut board, &mut site, &book, &ensemble, &passed);
        let mut anew = Board::default();
        site.pages().for_each(|page| anew.changed(page.id, []));
        settle_with(&mut anew, &site, &book, &ensemble, &passed, Changes::Everything);
        let tallies = |board: &Board| -> Vec<Option<Tally>> {
            (1..=TITLES.len()).map(|number| board.tally(page_id(number)).copied()).collect()
        };
        // What is not likely is found, but not counted.
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let manners = Manners { limits: Some(LinkLimits::default()), ..Manners::default() };
        let likely = |found: Vec<Opening>| found.iter().filter(|opening| opening.fit.total() >= LIKELY).count();
        for page in site.pages() {
            let tally = board.tally(page.id).unwrap();
            let (index, wanted) = (Some(board.index()), &passed);
            prop_assert_eq!(tally.inbound as usize, likely(judge.inbound(index, page.id, wanted, ALL)));
            prop_assert_eq!(tally.outbound as usize, likely(judge.outbound(index, page.id, wanted, manners, ALL)));
            prop_assert!([tally.best_in, tally.best_out].into_iter().flatten().all(|fit| fit >= LIKELY));
        }
        prop_assert_eq!(tallies(&board), tallies(&anew));
        prop_assert!(board.is_settled() && anew.is_settled());
    }
}

struct Passed(Vec<(PageId, PageId)>);

impl Unwanted for Passed {
    fn pair(&self, source: PageId, target: PageId) -> bool {
        self.0.contains(&(source, target))
    }

    fn words(&self, _: PageId, _: PageId, _: TextSpan) -> bool {
        false
    }

    fn planned(&self, _: PageId) -> Vec<TextSpan> {
        Vec::new()
    }
}

/// A board that follows is told what changed; one that is made anew takes everything for changed.
fn settle(board: &mut Board, site: &mut Site, book: &PhraseBook, ensemble: &Ensemble, unwanted: &Passed) {
    let changes = site.take_changes();
    settle_with(board, site, book, ensemble, unwanted, changes);
}

fn settle_with(
    board: &mut Board,
    site: &Site,
    book: &PhraseBook,
    ensemble: &Ensemble,
    unwanted: &Passed,
    changes: Changes,
) {
    let judge = Judge { site, book, ensemble, taste: Taste::EDITOR };
    for page in board.waiting(usize::MAX) {
        board.put(page, judge.candidates(page, OpeningIndex::MOST));
    }
    board.follow_needs(site, changes);
    let manners = Manners { limits: Some(LinkLimits::default()), ..Manners::default() };
    board.settle(judge, unwanted, manners, ALL, usize::MAX);
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
