//! What is kept and counted of openings follows every change: of texts, of the tray, of passes.

use proptest::prelude::*;
use strelm_core::limits::LinkLimits;
use strelm_core::openings::{
    Board, Candidate, Ensemble, Judge, LIKELY, Manners, Opening, OpeningIndex, Tally, Taste, kept,
};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{ChangeId, Changes, PageFacts, Site};

use crate::support::follow;
use crate::support::world::{ALL, Passed, TITLES, facts, page_id, pages, piece, world};

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

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
