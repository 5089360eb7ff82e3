//! The whole journey by keyboard alone, and what is announced to those who do not see the window.

use fantoccini::key::Key;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::browser::Browser;
use strelm_e2e::stage::Stage;

const SOURCE: &str = "/guides/dark-adaptation/";

/// Presses a key where the focus is.
async fn key(browser: &Browser, key: &str) {
    browser.client.active_element().await.unwrap().send_keys(key).await.unwrap();
}

/// Moves the focus on until it is on something whose name or text holds `name`.
async fn tab_to(browser: &Browser, name: &str) {
    let mut seen = Vec::new();
    for _ in 0..150 {
        key(browser, &Key::Tab.to_string()).await;
        let element = browser.client.active_element().await.unwrap();
        let tag = element.tag_name().await.unwrap();
        // The whole page holds every name.
        if !["a", "button", "input", "select"].contains(&tag.as_str()) {
            continue;
        }
        let label = element.attr("aria-label").await.unwrap().unwrap_or_default();
        let text = format!("{label} {}", element.text().await.unwrap());
        if text.contains(name) {
            return;
        }
        seen.push(text);
    }
    panic!("the focus never comes to “{name}”: {seen:#?}");
}

#[sqlx::test(migrations = false)]
async fn an_orphan_is_linked_released_and_taken_back_without_a_mouse(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    browser.client.goto(&stage.address("")).await.unwrap();
    browser.wait_for("h1", "Today").await.unwrap();
    let before = stage.live_source(SOURCE).await.unwrap();

    // The first stop leads past the bar.
    tab_to(&browser, "Skip to the view").await;
    // Found by its name, gone to by Enter.
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Pages").await.unwrap();
    key(&browser, "averted").await;
    browser.wait_for("[role=dialog] [role=option]", "Averted vision").await.unwrap();
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("h1", "Averted vision").await.unwrap();
    browser.wait_for("[aria-current=true]", "averted vision").await.unwrap();

    // Reasons, the next one, taken; that is announced.
    browser.press("r").await.unwrap();
    browser.wait_for("[aria-current=true] dd", "No page links to the target").await.unwrap();
    browser.press("r").await.unwrap();
    let mut at = browser.wait_for("[aria-current=true]", "").await.unwrap().text().await.unwrap();
    while !at.contains("Dark adaptation") {
        browser.press("j").await.unwrap();
        at = browser.wait_for("[aria-current=true]", "").await.unwrap().text().await.unwrap();
    }
    browser.press("t").await.unwrap();
    browser.wait_for("[data-testid=announcement]", "Taken: “averted vision” is in the tray.").await.unwrap();
    browser.press("p").await.unwrap();
    browser.wait_for("[data-testid=announcement]", "Passed: “averted vision” is set aside.").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[role=status]", "Undone").await.unwrap();
    browser.press("U").await.unwrap();
    browser.wait_for("[role=status]", "Done again").await.unwrap();
    browser.client.refresh().await.unwrap();
    browser.wait_for("h1", "Averted vision").await.unwrap();
    browser.press("u").await.unwrap();
    browser.wait_for("[role=status]", "Undone: “averted vision” is back among the openings").await.unwrap();
    browser.wait_for("[data-testid=tray-figures]", "1 link on 1 page").await.unwrap();

    // All keys, shown and closed again.
    browser.press("?").await.unwrap();
    browser.wait_for("[role=dialog] h2", "Keys").await.unwrap();
    key(&browser, &Key::Escape.to_string()).await;
    browser.wait_until_gone("[role=dialog] h2", "Keys").await.unwrap();

    // The tray is opened by its name and released.
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Today").await.unwrap();
    key(&browser, "open the tray").await;
    browser.wait_for("[role=dialog] [data-highlighted]", "Open the tray").await.unwrap();
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("#tray-list", "What will change on the site").await.unwrap();
    tab_to(&browser, "Release 1 link").await;
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("[data-testid=tray-figures]", "Nothing taken yet").await.unwrap();
    assert_ne!(stage.live_source(SOURCE).await.unwrap(), before);

    // And back.
    browser.press("/").await.unwrap();
    browser.wait_for("[role=dialog] [role=option]", "Today").await.unwrap();
    key(&browser, "take back").await;
    browser.wait_for("[role=dialog] [data-highlighted]", "History").await.unwrap();
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("[data-testid=release]", "out on the site").await.unwrap();
    tab_to(&browser, "Take back").await;
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("[data-testid=release]", "taken back").await.unwrap();
    browser.wait_until_gone("[data-testid=release] header", "being").await.unwrap();
    assert_eq!(stage.live_source(SOURCE).await.unwrap(), before);
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn pages_are_selected_copied_and_exported_by_keyboard(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let browser = Browser::start().await.unwrap();
    let origin = stage.address("");
    let permissions =
        serde_json::json!({"origin": origin, "permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]});
    browser.devtools("Browser.grantPermissions", permissions).await.unwrap();
    browser.client.goto(&stage.address(&format!("{}/pages?sort=title&order=up", stage.site.0))).await.unwrap();
    browser.wait_for("[role=status]", "73 pages shown").await.unwrap();
    let first = browser.wait_for("tbody td a", "A comet").await.unwrap();
    first.send_keys(" ").await.unwrap();
    browser.wait_for("main p", "1 page selected").await.unwrap();
    let shift_down = format!("{}{}", Key::Shift, Key::Down);
    for _ in 0..3 {
        key(&browser, &shift_down).await;
    }
    browser.wait_for("main p", "4 pages selected").await.unwrap();
    let control_c = format!("{}c", Key::Control);
    key(&browser, &control_c).await;
    browser.wait_for("[role=status]", "Copied 4 pages as a table").await.unwrap();
    let read = "navigator.clipboard.readText().then(arguments[0])";
    let copied = browser.client.execute_async(read, Vec::new()).await.unwrap();
    let lines: Vec<_> = copied.as_str().unwrap().lines().map(|line| line.split('\t').count()).collect();
    assert_eq!(lines, [11; 5], "{copied}");
    key(&browser, &format!("{}a", Key::Control)).await;
    browser.wait_for("main p", "73 pages selected").await.unwrap();

    // A number filter and another column, kept in the address bar.
    browser.client.goto(&stage.address(&format!("{}/pages", stage.site.0))).await.unwrap();
    browser.wait_for("[role=status]", "73 pages shown").await.unwrap();
    tab_to(&browser, "Add a filter").await;
    key(&browser, &Key::Enter.to_string()).await;
    tab_to(&browser, "").await;
    browser.wait_for("form label", "at most").await.unwrap();
    let most = browser.wait_for("form label:last-of-type", "at most").await.unwrap();
    most.click().await.unwrap();
    key(&browser, "100").await;
    key(&browser, &Key::Enter.to_string()).await;
    browser.wait_for("main span", "words at most 100").await.unwrap();
    browser.wait_for("[role=status]", "13 pages shown").await.unwrap();
    tab_to(&browser, "Columns").await;
    key(&browser, &Key::Enter.to_string()).await;
    let broken = browser.wait_for("fieldset label", "Broken").await.unwrap();
    broken.click().await.unwrap();
    browser.wait_for("th", "Broken").await.unwrap();
    let query = browser.client.current_url().await.unwrap().query().unwrap().to_owned();
    assert!(query.contains("bounds=words%3A..100") && query.contains("broken"), "{query}");
    key(&browser, &Key::Escape.to_string()).await;
    tab_to(&browser, "Export").await;
    key(&browser, &Key::Enter.to_string()).await;
    let link = browser.wait_for("[role=menu] a", "CSV").await.unwrap().attr("href").await.unwrap().unwrap();
    let csv = strelm_e2e::stage::http().unwrap().get(stage.address(link.trim_start_matches('/'))).send().await.unwrap();
    let csv = String::from_utf8(csv.bytes().await.unwrap().to_vec()).unwrap();
    assert!(csv.starts_with("\u{feff}Title,Address,Category,"), "{csv}");
    assert_eq!(csv.lines().count(), 14, "{csv}");
    assert_eq!(browser.complaints().await.unwrap(), [] as [String; 0]);
    browser.end().await.unwrap();
    stage.strike().await;
}
