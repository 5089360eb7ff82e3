//! The Desk in a real browser: twenty openings by keyboard, other words, another target, a wording of one's own, passing
//! for all pages, words that are selected, and the best of five pages at once; and all of it undone.

use fantoccini::Locator;
use serde_json::Value;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

const TORCH: &str = "/guides/red-torch/";
const SOURCE: &str = "/guides/dark-adaptation/";

async fn click(browser: &Browser, css: &str, text: &str) {
    browser.wait_for(css, text).await.unwrap().click().await.unwrap();
}

async fn open(browser: &Browser, stage: &Stage, path: &str) {
    let number = stage.page(path).await.unwrap()["number"].clone();
    browser.client.goto(&stage.address(&format!("{}/pages/{number}", stage.site.0))).await.unwrap();
    browser.wait_for("h1", "").await.unwrap();
}

/// Goes on to the opening on, or to, a page by its title.
async fn go_to(browser: &Browser, title: &str) {
    for _ in 0..40 {
        let at = browser.wait_for("[aria-current=true] a", "").await.unwrap().text().await.unwrap();
        if at.contains(title) {
            return;
        }
        browser.press("j").await.unwrap();
    }
    unreachable!("no opening is called {title}");
}

async fn no_finding(browser: &Browser, view: &str) {
    let findings = browser.axe().await.unwrap();
    assert!(findings.is_empty(), "axe in {view}: {findings:#?}");
}

async fn tray_links(stage: &Stage) -> u64 {
    stage.get("").await.unwrap()["tray"]["links"].as_u64().unwrap()
}

#[sqlx::test(migrations = false)]
async fn twenty_openings_are_gone_through_by_keyboard_from_page_to_page(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    open(&browser, &stage, "/guides/averted-vision/").await;
    browser.wait_for("[aria-current=true]", "").await.unwrap();
    let (mut decided, mut taken) = (0, 0);
    // After a few of each page the next in the queue.
    for _ in 0..6 {
        let page = browser.client.current_url().await.unwrap();
        for _ in 0..4 {
            let current = browser.client.find_all(Locator::Css("[aria-current=true] a")).await.unwrap();
            let Some(current) = current.first().filter(|_| decided < 20) else { break };
            let title = current.text().await.unwrap();
            let key = if decided % 3 == 2 { "p" } else { "t" };
            browser.press(key).await.unwrap();
            browser.wait_until_gone("[aria-current=true] a", &title).await.unwrap();
            decided += 1;
            taken += u64::from(key == "t");
        }
        browser.press("n").await.unwrap();
        for _ in 0..100 {
            if browser.client.current_url().await.unwrap() != page {
                break;
            }
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        assert_ne!(browser.client.current_url().await.unwrap(), page, "N leads on");
        browser.wait_for("[data-testid=opening]", "").await.unwrap();
    }
    assert_eq!(decided, 20);
    browser.wait_for("[data-testid=tray-figures]", "links on").await.unwrap();
    for _ in 0..200 {
        if tray_links(&stage).await >= taken.min(10) {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    // A limit may have refused one; what was passed is passed.
    assert!(tray_links(&stage).await + 3 >= taken, "{} of {taken}", tray_links(&stage).await);
    for _ in 0..decided {
        browser.press("u").await.unwrap();
    }
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    let passed = stage.desk("/guides/averted-vision/").await.unwrap()["passed"].clone();
    assert_eq!(passed.as_array().unwrap().len(), 0, "all is undone");
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn an_anchor_is_widened_a_target_changed_and_a_sentence_reworded(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    open(&browser, &stage, TORCH).await;
    go_to(&browser, "Dark adaptation").await;

    // Wider by the words before.
    browser.press("w").await.unwrap();
    browser.wait_for("[data-testid=bench-words] button[aria-pressed=true]", "red").await.unwrap();
    no_finding(&browser, "other words").await;
    click(&browser, "[data-testid=bench-words] button[aria-pressed=false]", "light").await;
    browser.wait_for("[data-testid=bench-words] b", "light of a red torch").await.unwrap();
    click(&browser, "[data-testid=bench-words] button[aria-pressed=true]", "light").await;
    browser.wait_for("[data-testid=bench-words] b", "of a red torch").await.unwrap();
    click(&browser, "[data-testid=bench-words] button[aria-pressed=false]", "light").await;
    browser.wait_for("[data-testid=bench-words] b", "light of a red torch").await.unwrap();
    click(&browser, "[data-testid=bench-words] button", "Take on these words").await;
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] li", "light of a red torch").await.unwrap();

    // Another target for the words of another opening.
    open(&browser, &stage, SOURCE).await;
    browser.press("o").await.unwrap();
    go_to(&browser, "Averted vision").await;
    browser.press("g").await.unwrap();
    browser.wait_for("[data-testid=bench-target] input", "").await.unwrap().click().await.unwrap();
    browser.client.active_element().await.unwrap().send_keys("airglow").await.unwrap();
    no_finding(&browser, "other target").await;
    click(&browser, "[data-testid=bench-target] [role=option]", "Airglow").await;
    browser.wait_for("[data-testid=tray-figures]", "2 links on 1 page").await.unwrap();
    browser.wait_for("section[aria-label='Leads out'] li", "Airglow").await.unwrap();

    // A sentence of one's own.
    open(&browser, &stage, "/glossary/limiting-magnitude/").await;
    browser.press("i").await.unwrap();
    browser.press("e").await.unwrap();
    let sentence = browser.wait_for("[data-testid=bench-wording] textarea", "").await.unwrap();
    no_finding(&browser, "own wording").await;
    browser.wait_for("[data-testid=bench-wording]", "This changes the author").await.unwrap();
    sentence.send_keys(" It is worth it.").await.unwrap();
    browser.wait_for("[data-testid=bench-wording] ins", "worth").await.unwrap();
    click(&browser, "[data-testid=bench-wording] button", "Take with this wording").await;
    browser.wait_for("[data-testid=tray-figures]", "3 links on").await.unwrap();
    click(&browser, "section[aria-label=Tray] button", "Review and release").await;
    browser.wait_for("#tray-list", "The wording changes too").await.unwrap();
    no_finding(&browser, "the tray").await;
    for left in ["2 links", "1 link", "Nothing taken yet"] {
        browser.press("u").await.unwrap();
        browser.wait_for("[data-testid=tray-figures]", left).await.unwrap();
    }
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn words_are_selected_and_a_target_is_passed_for_all_pages(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    open(&browser, &stage, SOURCE).await;
    browser.wait_for(".reader p", "").await.unwrap();
    let select = "const mark = [...document.querySelectorAll('.reader mark')].find(m => /red\\s+torch/.test(m.textContent));\
                  const range = document.createRange();\
                  range.selectNodeContents(mark);\
                  getSelection().removeAllRanges();\
                  getSelection().addRange(range);\
                  mark.dispatchEvent(new MouseEvent('mouseup', {bubbles: true}));";
    browser.client.execute(select, Vec::new()).await.unwrap();
    browser.wait_for("[data-testid=selected-words] [role=option]", "Red torch").await.unwrap();
    no_finding(&browser, "selected words").await;
    click(&browser, "[data-testid=selected-words] [role=option]", "Red torch").await;
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    browser.wait_until_gone("[data-testid=selected-words]", "").await.unwrap();

    open(&browser, &stage, "/guides/averted-vision/").await;
    browser.wait_for("[aria-current=true]", "").await.unwrap();
    browser.press("P").await.unwrap();
    browser.wait_for("[data-testid=pass-scopes]", "nothing more to “Averted vision”").await.unwrap();
    no_finding(&browser, "how much is passed").await;
    browser.client.active_element().await.unwrap().send_keys("3").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] li", "all pages").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] li", "was passed, or is left out by the limits").await.unwrap();
    assert!(!browser.find_now("section[aria-label='Leads in'] [data-testid=opening]", "").await.unwrap());
    browser.press("u").await.unwrap();
    browser.wait_for("section[aria-label='Leads in'] [data-testid=opening]", "").await.unwrap();
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn filters_leave_out_rows_and_marks_and_go_along_to_the_next_page(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    open(&browser, &stage, SOURCE).await;
    let desk = stage.desk(SOURCE).await.unwrap();
    let openings = |side: &str| desk[side].as_array().unwrap().clone();
    let all = [("Leads in", openings("openings_in")), ("Leads out", openings("openings_out"))];
    // What stands beside and in the text of what passes.
    let shows = async |passes: &dyn Fn(&Value) -> bool| {
        for (side, all) in &all {
            let passing = all.iter().filter(|opening| passes(opening)).count();
            let of = if passing == all.len() { String::new() } else { format!(" of {}", all.len()) };
            let title = format!("section[aria-label='{side}'] h3");
            browser.wait_for(&title, &format!("Openings {passing}{of}")).await.unwrap();
            let rows = format!("section[aria-label='{side}'] [data-testid=opening]");
            assert_eq!(browser.client.find_all(Locator::Css(&rows)).await.unwrap().len(), passing, "{side}");
        }
        let marks = Locator::Css(".reader mark[data-opening]:not(.is-left-out)");
        let marked = all[1].1.iter().filter(|opening| passes(opening)).count();
        assert_eq!(browser.client.find_all(marks).await.unwrap().len(), marked);
    };
    let at_least = async |fit: &str| {
        let select = browser.wait_for("section[aria-label='Leads out'] select", "").await.unwrap();
        select.select_by_value(fit).await.unwrap();
    };
    let asked = async || browser.client.current_url().await.unwrap().query().unwrap_or_default().to_owned();
    let fit = |opening: &Value| opening["fit"].as_f64().unwrap();
    let is_orphan = |opening: &Value| opening["page"]["is_orphan"] == true;
    let likely = desk["likely"].as_f64().unwrap();

    shows(&|opening| fit(opening) >= likely).await;
    assert_eq!(asked().await, "");
    at_least("60").await;
    shows(&|opening| fit(opening) >= 60.0).await;
    click(&browser, "section[aria-label='Leads out'] button", "orphans").await;
    shows(&|opening| fit(opening) >= 60.0 && is_orphan(opening)).await;
    no_finding(&browser, "the Desk with filters").await;
    // They are kept in the address.
    browser.client.refresh().await.unwrap();
    browser.wait_for("h1", "").await.unwrap();
    shows(&|opening| fit(opening) >= 60.0 && is_orphan(opening)).await;
    click(&browser, "section[aria-label='Leads in'] button", "that the filters leave out").await;
    shows(&|_| true).await;
    at_least("40").await;
    shows(&|opening| fit(opening) >= 40.0).await;
    browser.press("n").await.unwrap();
    browser.wait_until_gone("h1", desk["page"]["title"].as_str().unwrap()).await.unwrap();
    assert_eq!(asked().await, "fit=40");
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn where_nothing_is_likely_that_is_said_and_pages_about_the_same_are_offered(
    _: PgPoolOptions,
    options: PgConnectOptions,
) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let rows = stage.get("/pages?ranges=openings_in:..0,words:50..").await.unwrap();
    // A page to which nothing but weak openings lead.
    let mut weak = None;
    for row in rows["rows"].as_array().unwrap() {
        let desk = stage.desk(row["path"].as_str().unwrap()).await.unwrap();
        if desk["openings_in"].as_array().unwrap().len() > 1 {
            weak = Some(desk);
            break;
        }
    }
    let desk = weak.unwrap();
    let count = desk["openings_in"].as_array().unwrap().len();
    open(&browser, &stage, desk["page"]["path"].as_str().unwrap()).await;
    let column = "section[aria-label='Leads in']";
    browser.wait_for(&format!("{column} h3"), &format!("Openings 0 of {count}")).await.unwrap();
    browser.wait_for(&format!("{column} li"), "Nothing that is likely to be kept").await.unwrap();
    browser.wait_for(&format!("{column} details summary"), "about the same").await.unwrap();
    no_finding(&browser, "a Desk without likely openings").await;
    // What is asked for stays when something of it was passed.
    click(&browser, &format!("{column} button"), "with a fit below 20").await;
    browser.wait_for(&format!("{column} h3"), &format!("Openings {count}")).await.unwrap();
    browser.press("i").await.unwrap();
    browser.press("p").await.unwrap();
    browser.wait_for(&format!("{column} h3"), &format!("Openings {}", count - 1)).await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for(&format!("{column} h3"), &format!("Openings {count}")).await.unwrap();
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_best_three_of_five_pages_are_taken_and_undone(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let address = stage.address(&format!("{}/pages?only=orphans&sort=attention", stage.site.0));
    browser.client.goto(&address).await.unwrap();
    browser.wait_for("[role=status]", "9 pages shown").await.unwrap();
    let boxes = browser.client.find_all(Locator::Css("tbody input[type=checkbox]")).await.unwrap();
    boxes[0].click().await.unwrap();
    let fifth = "const box = document.querySelectorAll('tbody input[type=checkbox]')[4];\
                 box.dispatchEvent(new MouseEvent('click', {bubbles: true, cancelable: true, shiftKey: true}));";
    browser.client.execute(fifth, Vec::new()).await.unwrap();
    browser.wait_for("main p", "5 pages selected").await.unwrap();
    click(&browser, "main p button", "Take the best for all of them").await;
    browser.wait_for("[role=dialog] [role=status]", "links chosen").await.unwrap();
    no_finding(&browser, "the best of five pages").await;
    let first = browser.wait_for("[role=dialog] li input[type=checkbox]", "").await.unwrap();
    let before = browser.wait_for("[role=dialog] footer button", "Take ").await.unwrap().text().await.unwrap();
    first.click().await.unwrap();
    let after = browser.wait_for("[role=dialog] footer button", "Take ").await.unwrap();
    let count = |text: &str| text.split(' ').nth(1).and_then(|word| word.parse::<u64>().ok()).unwrap();
    let chosen = count(&after.text().await.unwrap());
    assert_eq!(chosen + 1, count(&before), "one is left out");
    after.click().await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", &format!("{chosen} links on")).await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();

    // Today's best can be taken where they stand.
    browser.client.goto(&stage.address(&format!("{}/today", stage.site.0))).await.unwrap();
    click(&browser, "[data-testid=best-opening] button", "Take").await;
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();
    no_finding(&browser, "Today").await;
    browser.end().await.unwrap();
    stage.strike().await;
}
