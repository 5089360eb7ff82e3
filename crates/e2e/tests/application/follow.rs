//! What a process holds in memory is what the database says; and work that broke off in the middle is taken up.

use std::time::Duration;

use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_core::document::{ContentHash, Document, LinkTarget, QuotedSentence, TextSpan};
use strelm_core::site::PageId;
use strelm_core::tray::{Change, Passed, PlannedLink};
use strelm_e2e::stage::Stage;
use strelm_store::decision::{self, Made, Maker, Wish};

use strelm_store::reading::{self, ReadingState};
use strelm_store::release::{self, PageState, ReleaseId, ReleaseState};
use strelm_store::site::Way;
use strelm_store::tray;
use strelm_store::{StoreError, page};
use strelm_work::{order_reading, order_release};

const SOURCE: &str = "/guides/dark-adaptation/";

async fn number_of(stage: &Stage, path: &str) -> PageId {
    let facts = page::facts(&stage.pool, stage.site, None).await.unwrap();
    facts.into_iter().find(|page| page.facts.address.from_root() == path).unwrap().facts.id
}

/// Puts a link on the first place where `words` stand on the page at `source`.
async fn take(stage: &Stage, source: &str, words: &str, target: &str) {
    let (source, target_page) = (number_of(stage, source).await, number_of(stage, target).await);
    let kept = page::text(&stage.pool, stage.site, source).await.unwrap().unwrap().source.unwrap();
    let document = Document::read(kept.text, kept.format);
    let start = document.text().as_str().find(words).unwrap();
    let link = PlannedLink {
        change: Change::Put,
        source,
        target: Some(target_page.into()),
        words: TextSpan::new(start, start + words.len()),
        source_hash: kept.hash,
        said: QuotedSentence::of_words(words.to_owned()),
        href: target.to_owned(),
        says: Vec::new(),
        fit: Some(50.0),
        by_rule: None,
    };
    decide(stage, &Wish::Take(&[link], &[], &[])).await.unwrap();
}

async fn decide(stage: &Stage, wish: &Wish<'_>) -> Result<Made, StoreError> {
    let maker = Maker { hand: uuid::Uuid::from_u128(1), key: uuid::Uuid::new_v4() };
    decision::make(&stage.pool, stage.site, maker, wish).await
}

async fn settled(stage: &Stage, id: ReleaseId) -> Vec<(PageState, Option<String>)> {
    for _ in 0..800 {
        let release = release::get(&stage.pool, stage.site, id).await.unwrap().unwrap();
        if release.state == ReleaseState::Out {
            let pages = release::pages(&stage.pool, &[id]).await.unwrap();
            return pages.into_iter().map(|page| (page.state, page.message)).collect();
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("the release does not end");
}

#[sqlx::test(migrations = false)]
async fn a_model_that_followed_is_a_model_loaded_anew(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    // The first server is there from the beginning and follows everything that happens now.
    stage.everything(|path| stage.address(path)).await.unwrap();
    take(&stage, SOURCE, "red torch", "/guides/red-torch/").await;
    take(&stage, "/reports/andromeda-galaxy/", "averted vision", "/guides/averted-vision/").await;
    let (id, _) = order_release(&stage.pool, stage.site, Way::Written).await.unwrap();
    assert_eq!(settled(&stage, id).await, [(PageState::Out, None), (PageState::Out, None)]);
    take(&stage, SOURCE, "limiting magnitude", "/glossary/limiting-magnitude/").await;
    let (saturn, barlow) =
        (number_of(&stage, "/reports/saturn-at-opposition/").await, number_of(&stage, "/glossary/barlow-lens/").await);
    let pair = Passed { source: Some(saturn), target: barlow, anchor: "Barlow lens".to_owned(), place: None };
    decide(&stage, &Wish::Pass(&pair, &[])).await.unwrap();
    let changed = "<p>Averted vision, again, and a <a href=\"/events/star-party/\">star party</a>.</p>";
    stage.change_live_page("/guides/collimation/", changed).await.unwrap();
    order_reading(&stage.pool, stage.site).await.unwrap();
    stage.wait_for_reading().await.unwrap();

    let anew = stage.second_server().await.unwrap();
    let loaded = stage.everything(|path| anew.address(path)).await.unwrap();
    let followed = stage.everything(|path| stage.address(path)).await.unwrap();
    assert_eq!(followed["status"], loaded["status"]);
    assert_eq!(followed["tray"], loaded["tray"]);
    let desks = followed["desks"].as_array().unwrap().iter().zip(loaded["desks"].as_array().unwrap());
    for (one, other) in desks {
        assert_eq!(one, other, "the Desk of {}", one["page"]["path"]);
    }
    assert_eq!(followed["pages"], loaded["pages"]);
    let unreachable = &followed["status"]["unreachable"];
    assert_eq!(unreachable, 6, "the changed page leads to the island: six orphans are left");
    anew.stop().await;
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_page_that_went_out_before_the_crash_is_not_sent_twice(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::read_in(options).await.unwrap();
    take(&stage, SOURCE, "red torch", "/guides/red-torch/").await;
    stage.stop_worker();
    tokio::time::sleep(Duration::from_millis(300)).await;
    let (id, _) = order_release(&stage.pool, stage.site, Way::Written).await.unwrap();
    // As if the worker had died between sending the page and noting that it is out.
    let before = stage.live_source(SOURCE).await.unwrap();
    let document = Document::from_html(before.clone());
    let start = document.text().as_str().find("red torch").unwrap();
    let target = LinkTarget::to("/guides/red-torch/");
    let edit = document.put_link(TextSpan::new(start, start + "red torch".len()), &target).unwrap();
    let after = edit.apply(&before).unwrap();
    let page = number_of(&stage, SOURCE).await;
    release::set_state(&stage.pool, stage.site, id, ReleaseState::Running, None).await.unwrap();
    release::note_versions(&stage.pool, id, page, &before, &after).await.unwrap();
    stage.change_live_page(SOURCE, &after).await.unwrap();

    stage.start_worker().unwrap();
    assert_eq!(settled(&stage, id).await, [(PageState::Out, None)]);
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), after, "the link is there once");
    let kept = page::text(&stage.pool, stage.site, page).await.unwrap().unwrap().source.unwrap();
    assert_eq!((kept.text, kept.hash), (after.clone(), ContentHash::of(&after)), "and Strelm knows it");
    assert!(tray::planned(&stage.pool, stage.site).await.unwrap().is_empty());
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn what_is_ordered_while_no_worker_runs_is_done_when_one_comes(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::set(options).await.unwrap();
    stage.stop_worker();
    tokio::time::sleep(Duration::from_millis(300)).await;
    stage.read_site().await.unwrap();
    tokio::time::sleep(Duration::from_millis(500)).await;
    let waiting = reading::latest(&stage.pool, stage.site).await.unwrap().unwrap();
    assert_eq!(waiting.state, ReadingState::Waiting);
    stage.start_worker().unwrap();
    stage.wait_for_reading().await.unwrap();
    assert_eq!(page::count(&stage.pool, stage.site).await.unwrap(), 73);
    stage.strike().await;
}
