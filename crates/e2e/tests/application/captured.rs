//! Sites from files that hold pages with their addresses, and what pages say of their standing.

use serde_json::{Value, json};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};

const HOST: &str = "https://harbour.example";

fn record(address: &str, head: &str, body: &str) -> String {
    let block = format!("HTTP/1.1 {head}\r\n\r\n{body}");
    format!(
        "WARC/1.1\r\nWARC-Type: response\r\nWARC-Target-URI: {address}\r\nContent-Type: application/http\r\n\
         Content-Length: {}\r\n\r\n{block}\r\n\r\n",
        block.len()
    )
}

/// A made-up site with one of each thing that pages say of themselves.
fn warc() -> Vec<u8> {
    let html = "200 OK\r\nContent-Type: text/html; charset=utf-8";
    let home = "<main><h1>Harbour</h1><p>The <a href=/Tide-tables/>tide tables</a>, the <a href='http://harbour.example/quay'>quay</a>, \
                the <a href=/old-quay>old quay</a>, the <a href='/print/quay#steps'>quay in print</a>, our <a href=/staff>staff</a>, \
                a <a href=/missing>plan</a>, <a href='mailto:a@b.example?subject=Tides'>mail</a>, <a href=/chart.pdf download>chart</a>.</p></main>";
    let tides = "<main><h1>Tide tables</h1><p>When the quay is dry.</p></main>";
    let quay = "<link rel=alternate hreflang=fr href=/fr/quai><main><h1>Quay</h1><p id=steps>The steps of the quay.</p>\
                <p><a href=/>Home</a></p></main>";
    let printed = "<link rel=canonical href=/quay><main><h1>Quay</h1><p id=steps>The steps, for paper.</p></main>";
    // An address that nobody could keep must not break the reading off.
    let long = format!("<link rel=canonical href=/{}>", "x".repeat(3000));
    let staff = "<meta name=robots content=noindex><main><h1>Staff</h1><p>Who is who.</p></main>";
    let quai = "<html lang=fr><link rel=alternate hreflang=en href=/quay><main><h1>Quai</h1><p>Les marches.</p></main>";
    [
        record(&format!("{HOST}/"), html, home),
        record(&format!("{HOST}/tide-tables"), html, tides),
        record(&format!("{HOST}/Tide-tables/"), html, tides),
        record(&format!("{HOST}/quay"), html, quay),
        record(&format!("{HOST}/print/quay"), html, printed),
        record(&format!("{HOST}/staff"), html, &format!("{long}{staff}")),
        record(&format!("{HOST}/fr/quai"), html, quai),
        record(&format!("{HOST}/old-quay"), "301 Moved\r\nLocation: /quay", ""),
        record(&format!("{HOST}/chart.pdf"), "200 OK\r\nContent-Type: application/pdf", "%PDF"),
        record("https://elsewhere.example/", html, "<p>Another site"),
    ]
    .concat()
    .into_bytes()
}

async fn post(stage: &Stage, path: &str, body: Value) -> (u16, Value) {
    let answer = http().unwrap().post(stage.address(path)).json(&body).send().await.unwrap();
    (answer.status().as_u16(), answer.json().await.unwrap_or(Value::Null))
}

/// Adds a site from a file, waits until it is read, and gives its number.
async fn added(stage: &Stage, name: &str, bytes: Vec<u8>) -> (i32, Value) {
    let address = stage.address(&format!("api/uploads?name={name}"));
    let sent = http().unwrap().post(address).body(bytes).send().await.unwrap();
    let (status, sent) = (sent.status(), sent.json::<Value>().await.unwrap());
    assert_eq!(status, 200, "{sent}");
    let source = json!({"kind": "archive", "upload": sent["upload"]});
    let (_, look) = post(stage, "api/sites/look", source.clone()).await;
    assert_eq!(look["problem"], Value::Null, "{look}");
    let (status, added) = post(stage, "api/sites", json!({"name": "Harbour", "source": source})).await;
    assert_eq!(status, 200, "{added}");
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    (site, look)
}

async fn desk_of(stage: &Stage, site: i32, path: &str) -> Value {
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let rows = pages["rows"].as_array().unwrap();
    let row = rows.iter().find(|row| row["path"] == path).unwrap_or_else(|| panic!("{path} in {pages:#}"));
    stage.call_site(site, "GET", &format!("/pages/{}/desk", row["number"]), None).await.unwrap().1
}

#[sqlx::test(migrations = false)]
async fn a_web_archive_is_a_site_and_each_link_says_how_it_stands(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let (site, look) = added(&stage, "harbour.warc", warc()).await;
    assert_eq!(look["entry"], format!("{HOST}/"));
    let (_, pages) = stage.call_site(site, "GET", "/pages?sort=address", None).await.unwrap();
    let paths: Vec<_> = pages["rows"].as_array().unwrap().iter().map(|row| row["path"].as_str().unwrap()).collect();
    // Two addresses of one page are one page; the shorter one stays.
    assert_eq!(paths, ["/", "/chart.pdf", "/fr/quai", "/print/quay", "/quay", "/staff", "/tide-tables"]);

    let home = desk_of(&stage, site, "/").await;
    let links = home["links_out"].as_array().unwrap();
    let told: Vec<_> = links
        .iter()
        .map(|link| {
            let text = |value: &Value| value.as_str().map(str::to_owned);
            let aim = text(&link["standing"]["aim"]).or_else(|| text(&link["notes"][0]));
            (link["anchor"].as_str().unwrap(), text(&link["page"]["path"]), text(&link["fault"]).or(aim))
        })
        .collect();
    let some = |text: &str| Some(text.to_owned());
    let expected = [
        ("tide tables", some("/tide-tables"), some("a detour: the page has moved")),
        ("quay", some("/quay"), some("a detour: http and https are mixed up")),
        ("old quay", some("/quay"), some("a detour: the page has moved")),
        ("quay in print", some("/print/quay"), some("a detour: the page names another one as canonical")),
        ("staff", some("/staff"), some("search engines are asked to leave that page out")),
        ("plan", None, some("broken: nothing there (status 404)")),
        ("mail", None, some("a mail about “Tides”")),
        ("chart", some("/chart.pdf"), None),
    ];
    assert_eq!(told, expected);
    assert_eq!(links[7]["standing"]["says"], json!(["is downloaded"]));
    assert_eq!(links[0]["standing"]["under"], json!(["Harbour"]));
    let shares: Vec<_> = links.iter().map(|link| link["standing"]["share_before"].as_f64().unwrap()).collect();
    assert!(shares.is_sorted() && shares[0] > 0.0 && shares[7] < 1.0, "{shares:?}");
    // Three ways to the same page are one link in.
    let quay = desk_of(&stage, site, "/quay").await;
    assert_eq!((&quay["page"]["links_in"], &quay["page"]["depth"]), (&json!(1), &json!(1)));
    assert_eq!(quay["versions"][0]["page"]["path"], "/fr/quai");
    assert_eq!(desk_of(&stage, site, "/print/quay").await["canonical"]["path"], "/quay");
    assert_eq!(desk_of(&stage, site, "/staff").await["noindex"], true);

    // A detour is mended to the place that it named.
    let repair = &links[3]["repair"];
    let what = json!({
        "kind": "repair", "source": repair["source"], "version": repair["version"], "address": repair["address"],
        "fragment": repair["fragment"], "target": repair["likeliest"]["number"],
    });
    let body = json!({"hand": strelm_e2e::calls::HAND, "key": uuid::Uuid::new_v4(), "what": what});
    let (status, decided) = stage.call_site(site, "POST", "/decisions", Some(body)).await.unwrap();
    assert_eq!(status, 200, "{decided}");
    stage.call_site(site, "POST", "/releases", None).await.unwrap();
    for _ in 0..400 {
        let release = stage.call_site(site, "GET", "/releases", None).await.unwrap().1[0].clone();
        if release["phase"] == "out" {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    let uploads = stage.folder("uploads").unwrap();
    let upload = std::fs::read_dir(uploads).unwrap().flatten().next().unwrap().path();
    let file = std::fs::read_to_string(upload.join("harbour/index.html")).unwrap();
    assert!(file.contains("quay in print</a>") && file.contains("quay#steps"), "{file}");
    assert!(!file.contains("/print/quay"), "{file}");
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn json_lines_are_a_site_and_read_again_they_change_nothing(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let lines = [
        json!({"url": "/", "html": "<h1>Harbour</h1><p>See the <a href=/quay?side=left>quay</a>."}),
        json!({"url": "/quay?side=left", "markdown": "# Quay\n\nThe [home](/) page.", "title": "The quay: left", "tags": ["stone"], "date": "2026-05-01"}),
    ];
    let lines = lines.map(|line| line.to_string()).join("\n");
    let (site, _) = added(&stage, "pages.jsonl", lines.into_bytes()).await;
    let quay = desk_of(&stage, site, "/quay?side=left").await;
    assert_eq!(quay["page"]["title"], "The quay: left");
    assert_eq!((&quay["tags"], &quay["published"]), (&json!(["stone"]), &json!("2026-05-01")));
    assert_eq!(quay["page"]["links_in"], 1);

    let settings = stage.call_site(site, "GET", "/settings", None).await.unwrap().1;
    assert_eq!(settings["read_every"], "never");
    let mut changed = settings.clone();
    changed["read_every"] = json!("day");
    let (status, problem) = stage.call_site(site, "PUT", "/settings", Some(changed)).await.unwrap();
    assert_eq!(status, 204, "{problem}");
    // Nothing is due on the same day.
    tokio::time::sleep(std::time::Duration::from_millis(2500)).await;
    let readings = stage.call_site(site, "GET", "/readings", None).await.unwrap().1;
    assert_eq!(readings.as_array().unwrap().len(), 1, "{readings}");
    sqlx::query("update reading set created_at = now() - interval '25 hours' where site_id = $1")
        .bind(site)
        .execute(&stage.pool)
        .await
        .unwrap();
    for _ in 0..200 {
        let readings = stage.call_site(site, "GET", "/readings", None).await.unwrap().1;
        if readings.as_array().unwrap().len() == 2 && readings[0]["phase"] == "done" {
            assert_eq!((&readings[0]["fresh"], &readings[0]["changed"]), (&json!(0), &json!(0)), "{readings}");
            stage.strike().await;
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    panic!("the reading by schedule did not begin");
}

#[sqlx::test(migrations = false)]
async fn parameters_that_change_nothing_are_heeded_from_the_next_reading(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let about = stage.live_source("/about/").await.unwrap();
    let added = "<p>Come <a href=\"/guides/?ref=about\">to the guides</a>.</p>";
    stage.change_live_page("/about/", &format!("{about}{added}")).await.unwrap();
    stage.read_again().await.unwrap();
    let to = |desk: &Value| {
        let links = desk["links_out"].as_array().unwrap();
        let link = links.iter().find(|link| link["anchor"] == "to the guides").unwrap();
        link["address"].as_str().unwrap().to_owned()
    };
    assert!(to(&stage.desk("/about/").await.unwrap()).ends_with("/guides/?ref=about"));

    let mut settings = stage.get("/settings").await.unwrap();
    settings["ignored_parameters"] = json!(["utm_*, ref"]);
    assert_eq!(stage.call("PUT", "/settings", Some(settings.clone())).await.unwrap().0, 204);
    stage.read_again().await.unwrap();
    assert!(to(&stage.desk("/about/").await.unwrap()).ends_with("/guides/"));
    settings["ignored_parameters"] = json!(["ref*x"]);
    let (status, problem) = stage.call("PUT", "/settings", Some(settings)).await.unwrap();
    assert!(status == 422 && problem["message"].as_str().unwrap().contains("“ref*x”"), "{problem}");
    stage.strike().await;
}
