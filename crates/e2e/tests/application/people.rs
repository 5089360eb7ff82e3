//! Two people at the same site: they follow each other, and whoever is second is told kindly.

use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

#[sqlx::test(migrations = false)]
async fn two_who_decide_about_the_same_words_do_not_overrun_each_other(_: PgPoolOptions, options: PgConnectOptions) {
    let mut stage = Stage::read_in(options).await.unwrap();
    let (one, two) = (Browser::start().await.unwrap(), Browser::start().await.unwrap());
    let number = stage.page("/guides/red-torch/").await.unwrap()["number"].clone();
    let address = stage.address(&format!("{}/pages/{number}", stage.site.0));
    for browser in [&one, &two] {
        browser.client.goto(&address).await.unwrap();
        browser.wait_for("[aria-current=true]", "red torch").await.unwrap();
    }
    // Both decide while the server is away; it hears them one after the other.
    stage.stop_server().await;
    for browser in [&one, &two] {
        browser.wait_for("[role=status]", "The connection to Strelm is lost").await.unwrap();
        browser.press("t").await.unwrap();
        browser.wait_for("[role=status]", "1 decision on the way to the server").await.unwrap();
    }
    stage.start_server().await.unwrap();
    for browser in [&one, &two] {
        browser.wait_until_gone("[role=status]", "on the way to the server").await.unwrap();
        browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    }
    // Whichever check finds it: the words, or the pair of pages.
    let refusal = "a moment faster";
    let mut told = 0;
    for _ in 0..100 {
        told = 0;
        for browser in [&one, &two] {
            told += usize::from(browser.find_now("[role=status]", refusal).await.unwrap());
        }
        if told > 0 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!(told, 1, "the second is told, the first is not");

    // Each undoes what is their own.
    one.press("j").await.unwrap();
    one.press("t").await.unwrap();
    two.wait_for("[data-testid=tray-figures]", "2 links on 2 pages").await.unwrap();
    two.press("p").await.unwrap();
    one.wait_for("section[aria-label='Leads in'] h3", "Passed 1").await.unwrap();
    one.press("u").await.unwrap();
    two.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    two.wait_for("section[aria-label='Leads in'] h3", "Passed 1").await.unwrap();
    for browser in [one, two] {
        browser.end().await.unwrap();
    }
    stage.strike().await;
}
