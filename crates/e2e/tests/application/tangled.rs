//! Pages that are made to keep a server busy: their Desk shows their text, and everybody else is answered meanwhile.

use std::time::{Duration, Instant};

use serde_json::json;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use strelm_e2e::stage::{Stage, http};

/// So deep, a page took minutes.
const DEEP: usize = 100_000;

#[sqlx::test(migrations = false)]
async fn a_tangled_page_is_shown_as_its_text_and_holds_nobody_up(_: PgPoolOptions, options: PgConnectOptions) {
    let stage = Stage::set(options).await.unwrap();
    let folder = stage.folder("tangled").unwrap();
    let page = |title: &str, body: &str| format!("<html lang=en><title>{title}</title><main><h1>{title}</h1>{body}");
    let unended: String = (0..2_000).map(|n| format!("<p><font color={n}>")).collect();
    for (file, text) in [
        ("index.html", page("Home", "<p>Read about <a href=deep.html>depth</a>.</p>")),
        ("deep.html", page("Deep", &format!("{}<p>Far down is a star party.", "<div>".repeat(DEEP)))),
        ("unended.html", page("Unended", &format!("{unended}{}", "<p>x".repeat(20_000)))),
        ("star-party.html", page("Star party", "<p>Bring a red torch.</p>")),
    ] {
        std::fs::write(folder.join(file), text).unwrap();
    }
    let source = json!({"kind": "folder", "path": folder, "address": "tangled.example"});
    let body = json!({"name": "Tangled", "source": source});
    let added = http().unwrap().post(stage.address("api/sites")).json(&body).send().await.unwrap();
    let added: serde_json::Value = added.error_for_status().unwrap().json().await.unwrap();
    let site = i32::try_from(added["site"].as_i64().unwrap()).unwrap();
    stage.wait_until_read(site).await.unwrap();
    let desk = async |path: &str| {
        let number = stage.page_of(site, path).await.unwrap()["number"].clone();
        stage.call_site(site, "GET", &format!("/pages/{number}/desk"), None).await.unwrap()
    };
    // The server has two threads; several such pages at once, and whoever asks whether it is alive waits for none.
    let begin = Instant::now();
    let alive = async {
        let mut longest = Duration::ZERO;
        for _ in 0..20 {
            let asked = Instant::now();
            http().unwrap().get(stage.address("healthz")).send().await.unwrap().error_for_status().unwrap();
            longest = longest.max(asked.elapsed());
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
        longest
    };
    let (deep, again, unended, longest) =
        tokio::join!(desk("/deep.html"), desk("/deep.html"), desk("/unended.html"), alive);
    for (status, desk) in [&deep, &again, &unended] {
        assert_eq!((*status, &desk["shown_manner"]), (200, &json!("text")));
    }
    assert!(deep.1["html"].as_str().unwrap().contains("Far down is a"), "{}", deep.1["html"]);
    assert!(begin.elapsed() < Duration::from_secs(60), "{:?}", begin.elapsed());
    assert!(longest < Duration::from_secs(2), "a server that is alive took {longest:?} to say so");
    let (status, ordinary) = desk("/star-party.html").await;
    assert_eq!((status, &ordinary["shown_manner"]), (200, &json!("page")));
    stage.strike().await;
}
