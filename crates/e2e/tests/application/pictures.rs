//! Links on pictures: chosen on the Desk, in the tray, out on the site, taken back, and on pages that change meanwhile.

use fantoccini::Locator;
use fantoccini::key::Key;
use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

const SOURCE: &str = "/guides/dark-adaptation/";
const TORCH: &str = "/guides/red-torch/";
const PICTURE: &str =
    "<img src=\"/media/dark-adaptation.svg\" alt=\"Curve of the eye's sensitivity over forty minutes in the dark\">";

async fn number(stage: &Stage, path: &str) -> Value {
    stage.page(path).await.unwrap()["number"].clone()
}

async fn around(stage: &Stage) -> Value {
    let source = number(stage, SOURCE).await;
    stage.get(&format!("/openings/around?source={source}&picture=0")).await.unwrap()
}

async fn take(stage: &Stage, target: &str) -> (u16, Value) {
    let found = around(stage).await;
    let link = json!({
        "source": found["source"], "target": number(stage, target).await, "words_start": found["words_start"],
        "words_end": found["words_end"], "version": found["version"], "by_hand": true, "picture": 0,
    });
    stage.decide(json!({"kind": "take", "links": [link]})).await.unwrap()
}

#[sqlx::test(migrations = false)]
async fn a_link_on_a_picture_goes_out_and_is_taken_back(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let before = stage.live_source(SOURCE).await.unwrap();
    let found = around(&stage).await;
    assert_eq!((&found["refusal"], found["targets"].as_array().unwrap().is_empty()), (&Value::Null, false), "{found}");
    let desk = stage.desk(SOURCE).await.unwrap();
    assert!(desk["html"].as_str().unwrap().contains("<span data-picture=\"0\"><img"), "{}", desk["html"]);
    assert_eq!(take(&stage, SOURCE).await.0, 409, "a page does not lead to itself");
    assert_eq!(take(&stage, TORCH).await.0, 200);
    let tray = stage.get("/tray").await.unwrap();
    let link = &tray[0]["links"][0];
    assert_eq!((&link["doing"], &link["warning"]), (&json!("put_on_picture"), &Value::Null), "{link}");
    assert!(link["sentence"]["anchor"].as_str().unwrap().starts_with("Curve of the eye"), "{link}");
    let desk = stage.desk(SOURCE).await.unwrap();
    let marked = desk["html"].as_str().unwrap();
    assert!(marked.contains("\"><img") && marked.contains("<mark data-tray=") && !marked.contains("data-picture"));
    let (status, problem) = take(&stage, "/glossary/airglow/").await;
    assert_eq!(status, 409, "{problem}");
    assert!(problem["message"].as_str().unwrap().contains("carries another link in the tray"), "{problem}");
    assert!(around(&stage).await["refusal"].as_str().unwrap().contains("in the tray"));

    let release = stage.release().await.unwrap();
    let after = stage.live_source(SOURCE).await.unwrap();
    let (start, end) = before.split_once(PICTURE).unwrap();
    assert_eq!(after, format!("{start}<a href=\"{TORCH}\">{PICTURE}</a>{end}"));
    assert!(around(&stage).await["refusal"].as_str().unwrap().contains("already carries a link"));

    // Words that somebody added since stay, and only the link goes.
    let longer = after.replacen("<p>", "<p>Put on a coat first.</p><p>", 1);
    stage.change_live_page(SOURCE, &longer).await.unwrap();
    stage.call("POST", &format!("/releases/{}/take-back", release["release"]), None).await.unwrap();
    stage.release_in(&["taken_back"]).await.unwrap();
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), before.replacen("<p>", "<p>Put on a coat first.</p><p>", 1));
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_picture_of_the_tray_is_found_again_or_its_loss_is_told(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let before = stage.live_source(SOURCE).await.unwrap();
    assert_eq!(take(&stage, TORCH).await.0, 200);
    stage.change_live_page(SOURCE, &before.replace(PICTURE, "")).await.unwrap();
    stage.read_again().await.unwrap();
    let tray = stage.get("/tray").await.unwrap();
    let warning = tray[0]["links"][0]["warning"].as_str().unwrap();
    assert!(warning.contains("no such link, picture or block on the page"), "{warning}");
    let moved = before.replace(PICTURE, "").replacen("<h2", &format!("<p>Here it is: {PICTURE}</p><h2"), 1);
    stage.change_live_page(SOURCE, &moved).await.unwrap();
    stage.read_again().await.unwrap();
    let tray = stage.get("/tray").await.unwrap();
    assert_eq!(tray[0]["links"][0]["warning"], Value::Null, "{tray:#}");
    stage.release().await.unwrap();
    let after = stage.live_source(SOURCE).await.unwrap();
    assert!(after.contains(&format!("Here it is: <a href=\"{TORCH}\">{PICTURE}</a>")), "{after}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_picture_is_linked_by_keyboard_and_undone(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let page = number(&stage, SOURCE).await;
    browser.client.goto(&stage.address(&format!("{}/pages/{page}", stage.site.0))).await.unwrap();
    let picture = browser.wait_for(".reader [data-picture][role=button]", "").await.unwrap();
    assert_eq!(picture.attr("tabindex").await.unwrap().as_deref(), Some("0"));
    picture.send_keys(&Key::Enter.to_string()).await.unwrap();
    browser.wait_for("[data-testid=selected-words] h3", "Where should this picture lead?").await.unwrap();
    browser.wait_for("[data-testid=selected-words] [role=option]", "").await.unwrap();
    let findings = browser.axe().await.unwrap();
    assert!(findings.is_empty(), "{findings:#?}");
    browser.client.active_element().await.unwrap().send_keys("red torch").await.unwrap();
    let torch = browser.wait_for("[data-testid=selected-words] [role=option]", "Red torch").await.unwrap();
    torch.click().await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_for("section[aria-label='Leads out'] li", "Picture: Curve of the eye").await.unwrap();
    browser.client.wait().for_element(Locator::Css(".reader mark[data-tray] img")).await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    browser.wait_for(".reader [data-picture][role=button]", "").await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}
