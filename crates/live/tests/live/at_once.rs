//! What rules link at once after a reading, without anybody who looks first.

use std::time::Duration;

use sqlx::PgPool;
use strelm_core::rules::Handling;
use strelm_core::tray::TrayEntry;
use strelm_store::decision::{self, Maker, Wish};
use strelm_store::reading::{self, Outcome, ReadAddress, ReadingState};
use strelm_store::rule::{self, KeptRule, Switch};
use strelm_store::{page, tray};
use uuid::Uuid;

use super::stage::{Stage, address, rule as leading};

fn text(words: &str) -> String {
    format!("<main><p>{words}</p><p>{}</p></main>", "Whoever comes late brings the tea. ".repeat(20))
}

fn at_once(phrase: &str, target: u32) -> KeptRule {
    KeptRule { handling: Handling::AtOnce, ..leading(phrase, target, |_| {}) }
}

/// Reads these pages as new or changed ones, and waits until rules are done with that reading.
async fn read(stage: &Stage, pages: &[(&str, &str, Outcome)]) {
    let mut tx = stage.pool.begin().await.unwrap();
    let (reading, _) = reading::begin(&mut tx, stage.site).await.unwrap();
    tx.commit().await.unwrap();
    reading::start_run(&stage.pool, stage.site, reading).await.unwrap();
    let put: Vec<_> = pages.iter().map(|(path, html, _)| (*path, *html)).collect();
    stage.put(&put).await;
    let told: Vec<_> = pages
        .iter()
        .map(|(path, _, outcome)| ReadAddress { address: address(path), outcome: *outcome, note: None })
        .collect();
    reading::note_outcomes(&stage.pool, reading, &told).await.unwrap();
    page::mark_term_archives(&stage.pool, stage.site).await.unwrap();
    reading::end_run(&stage.pool, stage.site, reading, ReadingState::Done, None).await.unwrap();
    for _ in 0..400 {
        stage.live().await;
        if rule::taken_after(&stage.pool, stage.site).await.unwrap() == Some(reading) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(25)).await;
    }
    panic!("rules are not done with the reading");
}

/// The links of the tray in words: page, what is linked, address as it is written, rule.
async fn taken(stage: &Stage) -> Vec<String> {
    let entries = tray::planned(&stage.pool, stage.site).await.unwrap();
    let told = |entry: &TrayEntry| {
        let link = &entry.link;
        let rule = link.by_rule.map(|by| by.rule.0);
        format!("{} {} → {} by {rule:?}", link.source.0, link.said.anchor, link.href)
    };
    entries.iter().map(told).collect()
}

async fn drop_all(stage: &Stage) {
    let entries = tray::planned(&stage.pool, stage.site).await.unwrap();
    let ids: Vec<_> = entries.iter().map(|entry| entry.id).collect();
    let maker = Maker { hand: Uuid::from_u128(7), key: Uuid::from_u128(8) };
    decision::make(&stage.pool, stage.site, maker, &Wish::Drop(&ids)).await.unwrap();
}

#[sqlx::test(migrations = "../store/migrations")]
async fn pages_that_are_new_or_changed_get_their_links_and_no_others(pool: PgPool) {
    let lamp = text("A velvet lantern hangs there.");
    let old = [("/", text("Welcome.")), ("/old/", lamp.clone()), ("/lamps/", text("All lamps."))];
    let stage = Stage::set(&pool, &old.each_ref().map(|(path, html)| (*path, html.as_str()))).await;
    stage.make(&[at_once("velvet lantern", 3), leading("silver whistle", 3, |_| {})]).await;
    let new = text("Under the velvet lantern lies a silver whistle. Two velvet lanterns hang beside it.");
    read(&stage, &[("/new/", &new, Outcome::New), ("/old/", &lamp, Outcome::Unchanged)]).await;
    assert_eq!(taken(&stage).await, ["4 velvet lantern → /lamps/ by Some(1)"]);
    read(&stage, &[("/old/", &text("The velvet lantern is lit."), Outcome::Changed)]).await;
    assert_eq!(taken(&stage).await, ["2 velvet lantern → /lamps/ by Some(1)", "4 velvet lantern → /lamps/ by Some(1)"]);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_an_editor_drops_does_not_come_back_though_the_server_begins_anew(pool: PgPool) {
    let stage = Stage::set(&pool, &[("/", &text("Welcome.")), ("/lamps/", &text("All lamps."))]).await;
    stage.make(&[at_once("velvet lantern", 2)]).await;
    let lamp = text("A velvet lantern hangs there.");
    read(&stage, &[("/new/", &lamp, Outcome::New)]).await;
    assert_eq!(taken(&stage).await.len(), 1);
    drop_all(&stage).await;
    let anew = stage.loaded_anew().await;
    // Whoever asks sets going what is still to be done.
    for _ in 0..20 {
        anew.ask(|model| model.totals()).await.unwrap();
        tokio::time::sleep(Duration::from_millis(10)).await;
    }
    assert_eq!(taken(&stage).await, [] as [String; 0]);
    // Another page is another matter.
    read(&stage, &[("/newer/", &lamp, Outcome::New), ("/new/", &lamp, Outcome::Unchanged)]).await;
    assert_eq!(taken(&stage).await, ["4 velvet lantern → /lamps/ by Some(1)"]);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn rules_that_are_off_or_wait_for_an_editor_take_nothing(pool: PgPool) {
    let stage = Stage::set(&pool, &[("/", &text("Welcome.")), ("/lamps/", &text("All lamps."))]).await;
    let ids = stage.make(&[at_once("velvet lantern", 2), leading("silver whistle", 2, |_| {})]).await;
    rule::switch(&pool, stage.site, &ids[..1], Switch::Off).await.unwrap();
    let lamp = text("A velvet lantern hangs there, and a silver whistle.");
    read(&stage, &[("/new/", &lamp, Outcome::New)]).await;
    assert_eq!(taken(&stage).await, [] as [String; 0]);
    // It is not made up for when the rule is on again.
    rule::switch(&pool, stage.site, &ids[..1], Switch::On).await.unwrap();
    read(&stage, &[("/new/", &lamp, Outcome::Unchanged)]).await;
    assert_eq!(taken(&stage).await, [] as [String; 0]);
}
