//! The window itself: filters and sorting kept in the address bar, the keyboard, two windows that follow each other, a
//! server that goes away and comes back.

use fantoccini::Locator;
use fantoccini::key::Key;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::calls::take_of;
use strelm_e2e::stage::Stage;

async fn click(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

async fn first_title(browser: &Browser) -> String {
    browser.client.find(Locator::Css("tbody td a")).await.unwrap().text().await.unwrap()
}

async fn number_of(browser: &Browser, stage: &Stage, title: &str) -> String {
    browser
        .client
        .goto(&stage.address(&format!("{}/pages?text={}", stage.site.0, title.replace(' ', "+"))))
        .await
        .unwrap();
    click(browser, "td a", title).await;
    browser.wait_for("h1", title).await.unwrap();
    browser.client.current_url().await.unwrap().path().to_owned()
}

#[sqlx::test(migrations = false)]
async fn filters_and_sorting_are_kept_in_the_address_bar(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/pages", stage.site.0))).await.unwrap();
    browser.wait_for("[role=status]", "73 pages shown").await.unwrap();
    browser.wait_for("th[aria-sort=descending]", "Depth").await.unwrap();

    click(&browser, "th button", "Words").await;
    browser.wait_for("th[aria-sort=descending]", "Words").await.unwrap();
    browser.wait_for("tbody tr:nth-of-type(1)", "Light pollution").await.unwrap();
    click(&browser, "th button", "Words").await;
    browser.wait_for("th[aria-sort=ascending]", "Words").await.unwrap();
    browser.wait_for("tbody tr:nth-of-type(1)", "moon").await.unwrap();

    let filter = browser.client.find(Locator::Css("input[type=search]")).await.unwrap();
    filter.send_keys("glossary").await.unwrap();
    browser.wait_for("[role=status]", "11 pages shown").await.unwrap();
    let address = browser.client.current_url().await.unwrap();
    assert_eq!(address.query(), Some("text=glossary&sort=words&order=up"));
    browser.client.refresh().await.unwrap();
    browser.wait_for("[role=status]", "11 pages shown").await.unwrap();
    browser.wait_for("th[aria-sort=ascending]", "Words").await.unwrap();

    let filter = browser.client.find(Locator::Css("input[type=search]")).await.unwrap();
    filter.send_keys(" nothing like it").await.unwrap();
    browser.wait_for("main", "No page has “glossary nothing like it”").await.unwrap();
    click(&browser, "header a", "12 unreachable").await;
    browser.wait_for("[role=status]", "12 pages shown").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn only_rows_in_view_are_in_the_document_and_arrows_walk_through_all(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/pages?sort=title&order=up", stage.site.0))).await.unwrap();
    browser.wait_for("[role=status]", "73 pages shown").await.unwrap();
    let rows = browser.client.find_all(Locator::Css("tbody td a")).await.unwrap().len();
    assert!((15..50).contains(&rows), "{rows} rows of 73 are in the document");
    assert_eq!(first_title(&browser).await, "A comet over the reservoir");
    let mut focused = browser.client.find(Locator::Css("tbody td a")).await.unwrap();
    for _ in 0..40 {
        focused.send_keys(&Key::Down.to_string()).await.unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(40)).await;
        focused = browser.client.active_element().await.unwrap();
    }
    assert_eq!(focused.attr("data-index").await.unwrap().as_deref(), Some("40"));
    let title = focused.text().await.unwrap();
    focused.send_keys(&Key::Enter.to_string()).await.unwrap();
    browser.wait_for("section[aria-label='The page'] h1", "").await.unwrap();
    assert!(!title.is_empty());
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn decisions_are_undone_brought_back_and_followed_by_another_window(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let (one, two) = (Browser::start().await.unwrap(), Browser::start().await.unwrap());
    let path = number_of(&one, &stage, "Red torch").await;
    two.client.goto(&stage.address(path.trim_start_matches('/'))).await.unwrap();
    two.wait_for("[data-testid=page-figures]", "0 pages link here").await.unwrap();

    one.wait_for("[aria-current=true]", "red torch").await.unwrap();
    one.press("t").await.unwrap();
    two.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    two.wait_for("[data-testid=page-figures]", "1 page links here, 1 planned").await.unwrap();
    one.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    one.press("u").await.unwrap();
    two.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    two.wait_for("[data-testid=page-figures]", "unreachable").await.unwrap();

    one.wait_for("[role=status]", "Undone").await.unwrap();
    one.press("p").await.unwrap();
    two.wait_for("section[aria-label='Leads in'] li", "Bring back").await.unwrap();
    click(&two, "section[aria-label='Leads in'] button", "Bring back").await;
    one.wait_until_gone("section[aria-label='Leads in'] button", "Bring back").await.unwrap();
    one.press("u").await.unwrap();
    for browser in [one, two] {
        assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
        browser.end().await.unwrap();
    }
    stage.strike().await;
}

/// How many openings lead to a page at its Desk.
async fn offered_in(stage: &Stage, path: &str) -> usize {
    let desk = stage.desk(path).await.unwrap();
    let offered = desk["openings_in"].as_array().unwrap().len();
    assert!(offered > 3, "{offered} openings are too few for what is done with them");
    offered
}

#[sqlx::test(migrations = false)]
async fn keys_pressed_faster_than_the_server_answers_are_all_done_in_order(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    number_of(&browser, &stage, "Red torch").await;
    browser.wait_for("[aria-current=true]", "red torch").await.unwrap();
    let offered = offered_in(&stage, "/guides/red-torch/").await;
    // Three are taken, one is passed, that and the third are undone, and one is passed.
    browser.press("tttpuup").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "2 links on 2 pages").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] h3", "Passed 1").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] h3", &format!("Openings {}", offered - 3)).await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn both_sides_of_the_desk_are_worked_by_keyboard_and_mouse(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    number_of(&browser, &stage, "Sketching at the eyepiece").await;
    browser.press("o").await.unwrap();
    browser.wait_for("section[aria-label='Leads out'] [aria-current=true]", "").await.unwrap();
    browser.wait_for(".reader mark.is-current", "transparency").await.unwrap();
    // What is hardly ever kept is shown, and marked in the text, to those who ask.
    browser.wait_for(".reader mark.is-left-out", "seeing").await.unwrap();
    click(&browser, "section[aria-label='Leads out'] button", "with a fit below 20").await;
    browser.wait_until_gone(".reader mark.is-left-out", "").await.unwrap();
    browser.press("k").await.unwrap();
    browser.wait_for(".reader mark.is-current", "seeing").await.unwrap();
    browser.press("j").await.unwrap();
    browser.wait_until_gone(".reader mark.is-current", "seeing").await.unwrap();
    click(&browser, ".reader mark", "red torch").await;
    browser.wait_for(".reader mark.is-current", "red torch").await.unwrap();
    click(&browser, "[aria-current=true] button", "Take").await;
    browser.wait_for(".reader mark[data-tray]", "red torch").await.unwrap();
    browser.wait_for("section[aria-label='Leads out'] h3", "In the tray").await.unwrap();
    browser.press("i").await.unwrap();
    browser.wait_until_gone(".reader mark.is-current", "").await.unwrap();
    // A link in the text leads to the Desk of its page.
    click(&browser, ".reader a", "Edda Thornby").await;
    browser.wait_for("h1", "Edda Thornby").await.unwrap();
    browser.client.back().await.unwrap();
    browser.wait_for("h1", "Sketching at the eyepiece").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_server_that_goes_away_is_told_and_comes_back(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::read_in(options).await.unwrap();
    stage.wait_for_openings().await.unwrap();
    let browser = Browser::start().await.unwrap();
    number_of(&browser, &stage, "Red torch").await;
    browser.wait_for("[aria-current=true]", "red torch").await.unwrap();
    let offered = offered_in(&stage, "/guides/red-torch/").await;
    stage.stop_server().await;
    browser.wait_for("[role=status]", "The connection to Strelm is lost").await.unwrap();
    // What is decided meanwhile is kept, also through a closed window, and sent in its order.
    browser.press("ttp").await.unwrap();
    browser.wait_for("[role=status]", "3 decisions on the way to the server").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] h3", &format!("Openings {}", offered - 3)).await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    stage.start_server().await.unwrap();
    browser.wait_until_gone("[role=status]", "The connection to Strelm is lost").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "2 links on 2 pages").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] h3", "Passed 1").await.unwrap();
    browser.wait_until_gone("[role=status]", "on the way to the server").await.unwrap();
    // One that somebody else made impossible meanwhile is refused by its name.
    let opening = stage.desk("/guides/red-torch/").await.unwrap()["openings_in"][0].clone();
    stage.stop_server().await;
    browser.wait_for("[role=status]", "The connection to Strelm is lost").await.unwrap();
    browser.press("t").await.unwrap();
    browser.wait_for("[role=status]", "1 decision on the way").await.unwrap();
    browser.client.goto("about:blank").await.unwrap();
    stage.start_server().await.unwrap();
    assert_eq!(stage.decide(take_of(&opening)).await.unwrap().0, 200);
    browser.client.back().await.unwrap();
    browser.wait_for("[role=status]", "was not taken. A link between these two pages").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "3 links on 3 pages").await.unwrap();
    browser.wait_until_gone("[role=status]", "on the way to the server").await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn an_address_without_a_view_or_a_site_says_so(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/nowhere", stage.site.0))).await.unwrap();
    browser.wait_for("main", "There is nothing at this address.").await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/pages/9999", stage.site.0))).await.unwrap();
    browser.wait_for("[role=alert]", "There is no such page").await.unwrap();
    browser.client.goto(&stage.address("77/pages")).await.unwrap();
    browser.wait_for("[role=alert]", "There is no such site").await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/history", stage.site.0))).await.unwrap();
    browser.wait_for("main", "Nothing has been released yet").await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn a_site_on_its_way_into_memory_shows_how_far_it_is(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::read_in(options).await.unwrap();
    stage.restart_server().await.unwrap();
    // The database keeps its links to itself for a while.
    let mut held = stage.pool.begin().await.unwrap();
    sqlx::query("lock table link in access exclusive mode").execute(&mut *held).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    browser.wait_for("h1", "Getting Larkmoor Sky Society ready").await.unwrap();
    browser.wait_for("[data-testid=readiness]", "0 of 73 pages").await.unwrap();
    assert_eq!(browser.axe().await.unwrap(), Vec::<String>::new());
    held.rollback().await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), Vec::<String>::new());
    browser.end().await.unwrap();
    stage.strike().await;
}
