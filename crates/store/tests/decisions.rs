//! Decisions, the tray and releases, against a real PostgreSQL: made once, undone and done again, never two links on the
//! same words.

#![allow(clippy::unwrap_used, clippy::panic)]

mod common;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, QuotedSentence, TextSpan};
use strelm_core::site::PageId;
use strelm_core::tray::{Change, Decision, Passed, PassedPlace, PlannedLink, TrayState};
use strelm_store::decision::{self, Made, Maker, Wish};
use strelm_store::release::{self, PageState, ReleaseState};
use strelm_store::site::Way;
use strelm_store::{SiteId, lesson, passed, tray};
use uuid::Uuid;

use common::*;

#[sqlx::test]
async fn a_decision_that_is_sent_twice_is_made_once(pool: PgPool) {
    let site = small_site(&pool).await;
    let maker = maker(1);
    let first = decision::make(&pool, site, maker, &Wish::Take(&[new_link(1, 2)], &[], &[])).await.unwrap();
    let second = decision::make(&pool, site, maker, &Wish::Take(&[new_link(1, 2)], &[], &[])).await.unwrap();
    assert_eq!(first, second);
    assert_eq!(tray::planned(&pool, site).await.unwrap().len(), 1);
    let undo = Maker { key: Uuid::new_v4(), ..maker };
    for _ in 0..2 {
        let undone = decision::undo(&pool, site, undo).await.unwrap();
        assert_eq!(undone, Some(done(first.clone())));
    }
    assert!(tray::planned(&pool, site).await.unwrap().is_empty());
}

#[sqlx::test]
async fn each_hand_undoes_its_own_decisions_and_does_them_again(pool: PgPool) {
    let site = small_site(&pool).await;
    let (mine, yours) = (|| maker(1), || maker(2));
    let change = take(&pool, site, &new_link(1, 2)).await.unwrap();
    pass(&pool, site, 2, 3).await;
    decision::make(&pool, site, yours(), &Wish::Take(&[new_link(3, 1)], &[], &[])).await.unwrap();
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert_eq!(state_of(&pool, site, change).await.0, TrayState::Dropped);

    let kinds = |decision: Option<Decision>| decision.map(|decision| decision.kind.as_str());
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("drop"));
    assert_eq!(state_of(&pool, site, change).await.0, TrayState::Tray);
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("pass"));
    assert!(!is_passed(&pool, site, 2, 3).await);
    assert_eq!(kinds(decision::undo(&pool, site, mine()).await.unwrap()), Some("take"));
    assert_eq!(decision::undo(&pool, site, mine()).await.unwrap(), None, "the other's link stays");
    assert_eq!(tray::planned(&pool, site).await.unwrap().len(), 1);

    for kind in ["take", "pass", "drop"] {
        assert_eq!(kinds(decision::redo(&pool, site, mine()).await.unwrap()), Some(kind));
    }
    assert_eq!(decision::redo(&pool, site, mine()).await.unwrap(), None);
    assert!(is_passed(&pool, site, 2, 3).await);
    assert_eq!(state_of(&pool, site, change).await.0, TrayState::Dropped);
    // Something new ends what could be done again.
    decision::undo(&pool, site, mine()).await.unwrap();
    done(bring_back(&pool, site, 2, 3).await);
    assert_eq!(decision::redo(&pool, site, mine()).await.unwrap(), None);
}

#[sqlx::test]
async fn what_went_out_is_not_undone_and_what_others_took_is_not_overrun(pool: PgPool) {
    let site = small_site(&pool).await;
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    begin_release(&pool, site).await;
    assert_eq!(decision::undo(&pool, site, maker(1)).await.unwrap(), None, "it is on its way");
    let dropped = take(&pool, site, &new_link(2, 3)).await.unwrap();
    done(decide(&pool, site, Wish::Drop(&[dropped])).await);
    decision::make(&pool, site, maker(2), &Wish::Take(&[new_link(2, 3)], &[], &[])).await.unwrap();
    assert!(decision::undo(&pool, site, maker(1)).await.unwrap_err().is_conflict());
    assert!(matches!(decide(&pool, site, Wish::Drop(&[dropped])).await, Made::TooLate));
}

#[sqlx::test]
async fn a_pair_of_pages_has_one_link_in_the_tray(pool: PgPool) {
    let site = small_site(&pool).await;
    let change = take(&pool, site, &new_link(1, 2)).await.unwrap();
    assert!(take(&pool, site, &new_link(1, 2)).await.unwrap_err().is_conflict());
    let same_words = take(&pool, site, &new_link(1, 3)).await.unwrap_err();
    assert!(same_words.is_about_the_same_words(), "{same_words}");
    let beside = PlannedLink { words: TextSpan::new(1, 4), ..new_link(1, 3) };
    take(&pool, site, &beside).await.unwrap();
    take(&pool, site, &new_link(2, 1)).await.unwrap();
    assert!(take(&pool, site, &new_link(1, 1)).await.is_err(), "a page does not link to itself");
    assert!(take(&pool, site, &new_link(1, 99)).await.is_err(), "a target is a page of the site");
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert!(matches!(decide(&pool, site, Wish::Drop(&[change])).await, Made::TooLate));
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let planned = tray::planned(&pool, site).await.unwrap();
    let pairs: Vec<_> = planned.iter().map(|t| (t.link.source.0, t.link.target_page().unwrap().0)).collect();
    assert_eq!(pairs, [(1, 2), (1, 3), (2, 1)]);
    assert_eq!((planned[0].link.fit, planned[0].link.said.anchor.as_str()), (Some(61.5), "words"));
}

#[sqlx::test]
async fn a_release_gathers_the_tray_and_each_page_ends_on_its_own(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site, Way::Written).await.unwrap().is_none(), "an empty tray is no release");
    drop(tx);
    let out = take(&pool, site, &new_link(1, 2)).await.unwrap();
    let held = take(&pool, site, &new_link(2, 3)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert_eq!(state_of(&pool, site, out).await.0, TrayState::Releasing);
    assert!(
        matches!(decide(&pool, site, Wish::Drop(&[out])).await, Made::TooLate),
        "what is on its way is not dropped"
    );
    take(&pool, site, &new_link(3, 1)).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin(&mut tx, site, Way::Written).await.unwrap_err().is_conflict(), "one release at a time");
    drop(tx);

    release::note_versions(&pool, id, PageId(1), "<p>a</p>", "<p><a>a</a></p>").await.unwrap();
    finish(&pool, site, id, 1, PageState::Out, None, &[(out, TrayState::Out)]).await.unwrap();
    finish(&pool, site, id, 2, PageState::HeldBack, Some("changed"), &[(held, TrayState::Tray)]).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::Out, None).await.unwrap();
    assert_eq!(state_of(&pool, site, out).await, (TrayState::Out, None));
    assert_eq!(state_of(&pool, site, held).await, (TrayState::Tray, Some("changed".to_owned())));
    let pages = release::pages(&pool, &[id]).await.unwrap();
    assert_eq!(pages.iter().map(|page| page.state).collect::<Vec<_>>(), [PageState::Out, PageState::HeldBack]);
    let versions = release::versions(&pool, id, PageId(1)).await.unwrap();
    assert_eq!(versions, Some(("<p>a</p>".to_owned(), "<p><a>a</a></p>".to_owned())));
    assert_eq!(tray::of_releases(&pool, &[id]).await.unwrap().len(), 2);

    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin_taking_back(&mut tx, site, id).await.unwrap().is_some());
    tx.commit().await.unwrap();
    finish(&pool, site, id, 1, PageState::TakenBack, None, &[(out, TrayState::TakenBack)]).await.unwrap();
    release::set_state(&pool, site, id, ReleaseState::TakenBack, None).await.unwrap();
    assert_eq!(state_of(&pool, site, out).await.0, TrayState::TakenBack);
    let mut tx = pool.begin().await.unwrap();
    assert!(release::begin_taking_back(&mut tx, site, id).await.unwrap().is_none(), "it is taken back once");
    drop(tx);
    let known = release::get(&pool, site, id).await.unwrap().unwrap();
    assert!(known.finished_at.is_some() && known.taken_back_at.is_some());
    assert!(release::get(&pool, SiteId(site.0 + 1), id).await.unwrap().is_none(), "it belongs to its site");
}

#[sqlx::test]
async fn a_page_is_not_out_without_its_versions(pool: PgPool) {
    let site = small_site(&pool).await;
    take(&pool, site, &new_link(1, 2)).await.unwrap();
    let id = begin_release(&pool, site).await;
    assert!(finish(&pool, site, id, 1, PageState::Out, None, &[]).await.is_err());
    assert!(finish(&pool, site, id, 1, PageState::HeldBack, None, &[]).await.is_err());
}

#[sqlx::test]
async fn an_interrupted_release_goes_on_or_gives_the_rest_back(pool: PgPool) {
    let site = small_site(&pool).await;
    let out = take(&pool, site, &new_link(1, 2)).await.unwrap();
    let rest = take(&pool, site, &new_link(2, 3)).await.unwrap();
    let id = begin_release(&pool, site).await;
    release::note_versions(&pool, id, PageId(1), "a", "b").await.unwrap();
    finish(&pool, site, id, 1, PageState::Out, None, &[(out, TrayState::Out)]).await.unwrap();
    assert_eq!(release::give_up(&pool, site, id).await.unwrap(), None, "it is not interrupted");
    release::set_state(&pool, site, id, ReleaseState::Interrupted, Some("no answer")).await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(release::overdue(&mut tx, 0.0).await.unwrap().is_empty(), "it waits for a decision");
    assert!(release::go_on(&mut tx, site, id).await.unwrap().is_some());
    tx.commit().await.unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert_eq!(release::overdue(&mut tx, 0.0).await.unwrap(), [(site, id, false)]);
    drop(tx);
    release::set_state(&pool, site, id, ReleaseState::Interrupted, Some("no answer")).await.unwrap();
    assert!(release::give_up(&pool, site, id).await.unwrap().is_some());
    assert_eq!(state_of(&pool, site, out).await.0, TrayState::Out);
    assert_eq!(state_of(&pool, site, rest).await, (TrayState::Tray, None));
    let known = release::get(&pool, site, id).await.unwrap().unwrap();
    assert_eq!((known.state, known.message), (ReleaseState::Out, None));
}

#[sqlx::test]
async fn passing_twice_is_passing_once(pool: PgPool) {
    let site = small_site(&pool).await;
    done(pass(&pool, site, 1, 2).await);
    assert!(matches!(pass(&pool, site, 1, 2).await, Made::TooLate));
    done(pass(&pool, site, 3, 1).await);
    assert_eq!(passed::to(&pool, site, None).await.unwrap().len(), 2);
    assert_eq!(passed::of_page(&pool, site, PageId(2)).await.unwrap().len(), 1);
    assert!(is_passed(&pool, site, 1, 2).await);
    assert!(!is_passed(&pool, site, 2, 1).await, "a pair has a direction");
    done(bring_back(&pool, site, 1, 2).await);
    assert!(!is_passed(&pool, site, 1, 2).await);
}

#[sqlx::test]
async fn a_place_a_pair_and_a_page_are_passed_side_by_side_and_undone_one_by_one(pool: PgPool) {
    let site = small_site(&pool).await;
    let place = |before: &str| {
        let place = PassedPlace { before: before.to_owned(), after: " end.".to_owned() };
        Passed { place: Some(place), ..pair(1, 2) }
    };
    let all = [place("One "), place("Two "), pair(1, 2), Passed { source: None, ..pair(1, 2) }];
    for passed in &all {
        done(decide(&pool, site, Wish::Pass(passed, &[])).await);
        assert!(matches!(decide(&pool, site, Wish::Pass(passed, &[])).await, Made::TooLate), "{passed:?}");
    }
    assert_eq!(passed::to(&pool, site, None).await.unwrap(), all);
    for left in (0..all.len()).rev() {
        let undone = decision::undo(&pool, site, maker(1)).await.unwrap().unwrap();
        assert_eq!((undone.source, undone.place.as_ref()), (all[left].source, all[left].place.as_ref()));
        assert_eq!(passed::to(&pool, site, None).await.unwrap(), all[..left]);
    }
    for _ in &all {
        decision::redo(&pool, site, maker(1)).await.unwrap().unwrap();
    }
    assert_eq!(passed::to(&pool, site, None).await.unwrap(), all);
    let (id, known) = passed::of_page(&pool, site, PageId(1)).await.unwrap().remove(0);
    assert_eq!(passed::by_id(&pool, site, id).await.unwrap(), Some(known), "its number names it");
}

#[sqlx::test]
async fn decisions_teach_as_long_as_they_hold(pool: PgPool) {
    let site = small_site(&pool).await;
    let taught = async || lesson::count(&pool, site).await.unwrap();
    let adds = [0.5, 1.0, 0.0, -0.25, 0.0];
    let link = new_link(1, 2);
    done(decide(&pool, site, Wish::Take(std::slice::from_ref(&link), &[adds], &[])).await);
    done(decide(&pool, site, Wish::Pass(&pair(1, 3), &[adds])).await);
    assert_eq!(taught().await, (1, 1));
    let lessons = lesson::all(&pool, site, 10).await.unwrap();
    assert_eq!(lessons.iter().map(|l| (l.is_kept, l.adds)).collect::<Vec<_>>(), [(true, adds), (false, adds)]);
    assert_eq!(lesson::all(&pool, site, 1).await.unwrap(), lessons[..1], "the first so many");
    done(bring_back(&pool, site, 1, 3).await);
    assert_eq!(taught().await, (1, 0), "what was brought back was passed by mistake");
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert_eq!(taught().await, (1, 1));
    decision::undo(&pool, site, maker(1)).await.unwrap();
    let change = tray::planned(&pool, site).await.unwrap()[0].id;
    done(decide(&pool, site, Wish::Drop(&[change])).await);
    assert_eq!(taught().await, (0, 0), "what was dropped is not kept");
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert_eq!(taught().await, (1, 0));
    lesson::forget(&pool, site).await.unwrap();
    assert_eq!((taught().await, tray::planned(&pool, site).await.unwrap().len()), ((0, 0), 1));
}

#[sqlx::test]
async fn many_links_are_taken_and_undone_as_one(pool: PgPool) {
    let site = small_site(&pool).await;
    let links = [new_link(1, 2), new_link(1, 3), new_link(2, 3)];
    let beside = PlannedLink { words: TextSpan::new(20, 24), ..links[1].clone() };
    let links = [links[0].clone(), beside, links[2].clone()];
    let made = done(decide(&pool, site, Wish::Take(&links, &[], &[])).await);
    assert_eq!((made.changes.len(), made.anchor.as_str()), (3, "3 links"));
    decision::undo(&pool, site, maker(1)).await.unwrap();
    assert!(tray::planned(&pool, site).await.unwrap().is_empty());
    // All or none: one of them is there already.
    take(&pool, site, &links[2]).await.unwrap();
    let refused = decision::make(&pool, site, maker(1), &Wish::Take(&links, &[], &[])).await;
    assert!(refused.unwrap_err().is_conflict());
    assert_eq!(tray::planned(&pool, site).await.unwrap().len(), 1);
}

#[sqlx::test]
async fn a_new_wording_and_a_link_without_a_fit_are_kept_as_they_are(pool: PgPool) {
    let site = small_site(&pool).await;
    let says = QuotedSentence { before: "We ".to_owned(), anchor: "align".to_owned(), after: " it.".to_owned() };
    let link = PlannedLink { change: Change::Reword(says.clone()), fit: None, ..new_link(1, 2) };
    take(&pool, site, &link).await.unwrap();
    let kept = tray::planned(&pool, site).await.unwrap().remove(0).link;
    assert_eq!((kept.change, kept.fit), (Change::Reword(says), None));
    assert_eq!(link.shown_anchor(), "align");
    let again = PlannedLink { words: TextSpan::new(20, 24), ..new_link(1, 2) };
    assert!(take(&pool, site, &again).await.unwrap_err().is_conflict(), "the pair has a link to come");
}

#[sqlx::test]
async fn a_picture_carries_one_link_and_words_beside_it_another(pool: PgPool) {
    let site = small_site(&pool).await;
    let written = ContentHash::of("<img src=moon.png>");
    let on_picture = |target| PlannedLink {
        change: Change::PutOnPicture(written),
        words: TextSpan::new(20, 20),
        fit: None,
        ..new_link(1, target)
    };
    take(&pool, site, &on_picture(2)).await.unwrap();
    let kept = tray::planned(&pool, site).await.unwrap().remove(0).link;
    assert_eq!((kept.change, kept.words), (Change::PutOnPicture(written), TextSpan::new(20, 20)));
    assert!(take(&pool, site, &on_picture(3)).await.unwrap_err().is_conflict(), "it carries a link already");
    let other = PlannedLink { change: Change::PutOnPicture(ContentHash::of("<img src=mars.png>")), ..on_picture(3) };
    take(&pool, site, &other).await.unwrap();
    let words = PlannedLink { words: TextSpan::new(20, 24), ..new_link(1, 2) };
    assert!(take(&pool, site, &words).await.unwrap_err().is_conflict(), "the pair has a link to come");
}
