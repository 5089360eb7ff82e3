//! What the views are made of: every figure opens the rows behind it, what is looked for is found, and tables leave the
//! house harmless.

use serde_json::Value;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};
use strelm_standins::live_site::Order;

async fn total(stage: &Stage, query: &str) -> i64 {
    stage.get(&format!("/pages?{query}&limit=0")).await.unwrap()["total"].as_i64().unwrap()
}

#[sqlx::test(migrations = false)]
async fn every_figure_of_today_opens_as_many_rows(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let new = "+++\ntitle = \"Lone page\"\ntype = \"page\"\nlisted = false\n+++\n<p>Nobody leads here yet.</p>";
    stage.live.obey(Order::Add { path: "/guides/lone/".to_owned(), source: new.to_owned() }).unwrap();
    stage.read_again().await.unwrap();
    let today = stage.get("/today").await.unwrap();
    let lines = [
        ("unreachable", "only=unreachable"),
        ("orphans", "only=orphans"),
        ("dead_ends", "only=dead_ends"),
        ("fresh_unlinked", "only=fresh_unlinked"),
        ("without_content_links", "ranges=content_links_in:..0,links_in:1..,words:1.."),
    ];
    for (line, query) in lines {
        let shown = &today[line];
        assert_eq!(shown["total"].as_i64().unwrap(), total(&stage, query).await, "{line}");
        assert!(shown["pages"].as_array().unwrap().len() <= 5);
        // The pages that are named are among the rows.
        let rows = stage.get(&format!("/pages?{query}")).await.unwrap();
        for named in shown["pages"].as_array().unwrap() {
            let is_same = |row: &Value| row["number"] == named["page"]["number"];
            assert!(rows["rows"].as_array().unwrap().iter().any(is_same), "{line}: {named}");
        }
    }
    assert_eq!(today["broken"]["pages"].as_i64().unwrap(), total(&stage, "only=broken").await);
    let rows = stage.get("/pages?only=broken").await.unwrap();
    let on_pages: i64 = rows["rows"].as_array().unwrap().iter().map(|row| row["broken"].as_i64().unwrap()).sum();
    let told = today["broken"]["links"].as_i64().unwrap() + today["broken"]["fragments"].as_i64().unwrap();
    assert_eq!((on_pages, told), (7, 7));
    assert_eq!(today["fresh_unlinked"]["pages"][0]["page"]["path"], "/guides/lone/");
    // On the Desk the broken link says why.
    let desk = stage.desk("/guides/collimation/").await.unwrap();
    let faults: Vec<_> =
        desk["links_out"].as_array().unwrap().iter().filter_map(|link| link["fault"].as_str()).collect();
    assert_eq!(faults, ["broken: the page has no place called #cheshire"]);
    stage.strike().await;
}

async fn found(stage: &Stage, text: &str) -> Vec<(String, String)> {
    let rows = stage.get(&format!("/find?text={}", text.replace(' ', "+"))).await.unwrap();
    let row =
        |row: &Value| (row["page"]["title"].as_str().unwrap().to_owned(), row["place"].as_str().unwrap().to_owned());
    rows.as_array().unwrap().iter().map(row).collect()
}

#[sqlx::test(migrations = false)]
async fn pages_of_every_kind_are_found_by_title_address_and_words(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let seeing = found(&stage, "seeing").await;
    assert_eq!(seeing[0], ("Seeing".to_owned(), "title".to_owned()), "{seeing:?}");
    assert!(seeing.iter().any(|(_, place)| place == "text"), "{seeing:?}");
    let first_in_text = seeing.iter().position(|(_, place)| place == "text").unwrap();
    assert!(seeing[first_in_text..].iter().all(|(_, place)| place == "text"), "titles come first: {seeing:?}");
    for (text, title) in [
        ("tag/moon", "moon"),
        ("observing reports term", "Observing reports"),
        ("SOCIETY mug", "Society mug"),
        // Stems: the page says “embroidered” and “initials”.
        ("embroider initial", "Dew heater"),
        ("vision averted", "Averted vision"),
    ] {
        let rows = found(&stage, text).await;
        assert!(rows.iter().any(|(found, _)| found == title), "{text}: {rows:?}");
    }
    assert!(found(&stage, "no such words anywhere").await.is_empty());
    assert!(found(&stage, "   ").await.is_empty());
    assert!(found(&stage, &"x".repeat(5000)).await.is_empty());
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn exported_tables_hold_what_is_shown_and_no_formula(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let title = "=HYPERLINK(\\\"http://evil.example\\\",\\\"Red torch\\\")";
    let page = format!(
        "+++\ntitle = \"{title}\"\ntype = \"page\"\nlisted = false\ncategory = \"@SUM(A1)\"\n+++\n<p>Words.</p>"
    );
    stage.live.obey(Order::Add { path: "/guides/formula/".to_owned(), source: page }).unwrap();
    stage.read_again().await.unwrap();
    let client = http().unwrap();
    let export = |query: &str| {
        let address = stage.address(&format!("api/sites/{}/pages/export?{query}", stage.site.0));
        client.get(address).send()
    };
    let answer = export("format=csv&columns=title,category,depth&text=formula").await.unwrap();
    assert_eq!(answer.headers()["content-disposition"], "attachment; filename=\"pages.csv\"");
    let text = String::from_utf8(answer.bytes().await.unwrap().to_vec()).unwrap();
    let expected = "\u{feff}Title,Category,Depth\r\n\
        \"'=HYPERLINK(\"\"http://evil.example\"\",\"\"Red torch\"\")\",'@SUM(A1),unreachable\r\n";
    assert_eq!(text, expected);
    // All rows that pass the filters, in the order shown, beyond any window.
    let answer = export("format=csv&columns=address,words&sort=words").await.unwrap();
    let text = String::from_utf8(answer.bytes().await.unwrap().to_vec()).unwrap();
    let words: Vec<u32> = text.lines().skip(1).map(|line| line.rsplit(',').next().unwrap().parse().unwrap()).collect();
    assert_eq!(words.len() as i64, total(&stage, "").await);
    assert!(words.is_sorted());
    let answer = export("format=xlsx&columns=title").await.unwrap();
    assert!(answer.headers()["content-type"].to_str().unwrap().ends_with("spreadsheetml.sheet"));
    assert!(answer.bytes().await.unwrap().starts_with(b"PK"));
    for wrong in ["format=csv&columns=title,secret", "format=doc&columns=title", "format=csv"] {
        let status = export(wrong).await.unwrap().status().as_u16();
        assert!(matches!(status, 400 | 422), "{wrong}: {status}");
    }
    stage.strike().await;
}

#[sqlx::test(migrations = false)]
async fn the_tray_tells_links_before_and_after_and_drops_many_at_once(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::read_in(options).await.unwrap();
    let source = "/guides/dark-adaptation/";
    let before = stage.page(source).await.unwrap()["links_out"].as_i64().unwrap();
    for target in ["/guides/red-torch/", "/guides/averted-vision/", "/glossary/limiting-magnitude/"] {
        stage.take(target, source).await.unwrap();
    }
    let tray = stage.get("/tray").await.unwrap();
    assert_eq!(tray.as_array().unwrap().len(), 1, "one page");
    assert_eq!((&tray[0]["links_before"], &tray[0]["links_after"]), (&before.into(), &(before + 3).into()));
    let links = tray[0]["links"].as_array().unwrap();
    let changes: Vec<_> = links.iter().map(|link| link["change"].clone()).collect();
    let (status, dropped) = stage.decide(serde_json::json!({"kind": "drop", "changes": changes})).await.unwrap();
    assert_eq!((status, &dropped["words"]), (200, &"3 links".into()));
    assert_eq!(stage.get("/tray").await.unwrap(), serde_json::json!([]));
    // One press brings them all back.
    stage.turn("undo").await.unwrap();
    assert_eq!(stage.get("/tray").await.unwrap()[0]["links"].as_array().unwrap().len(), 3);
    stage.strike().await;
}
