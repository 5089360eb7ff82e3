//! Versions of pages: browsers ask whether theirs still holds.

use std::time::Duration;

use sqlx::PgPool;
use strelm_core::rules::RuleId;
use strelm_store::rule::{self, Switch};

use crate::stage::*;

/// A site that knows the version of its page.
fn versioned(request: &str) -> Vec<Piece> {
    let request = request.to_ascii_lowercase();
    let same = "last-modified: Tue, 01 Dec 2026 00:00:00 GMT\r\netag: \"v1\"\r\n";
    if request.contains("if-none-match: \"v1\"") || request.contains("if-modified-since:") {
        return vec![Piece::Bytes(format!("HTTP/1.1 304 Not Modified\r\n{same}\r\n").into_bytes())];
    }
    html(same, &page())
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_version_holds_as_long_as_page_and_rules_do(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    stage.answers(versioned);
    let first = stage.get("/light").send().await.unwrap();
    let tag = first.headers()["etag"].to_str().unwrap().to_owned();
    assert!(tag.starts_with("W/\"v1~s.") && !first.headers().contains_key("last-modified"), "{tag}");
    assert!(first.text().await.unwrap().contains(LINKED));
    let again = async || {
        let day = "Tue, 01 Dec 2026 00:00:00 GMT";
        stage.get("/light").header("if-none-match", &tag).header("if-modified-since", day).send().await.unwrap()
    };
    let held = again().await;
    assert_eq!((held.status().as_u16(), held.headers()["etag"].to_str().unwrap()), (304, &*tag));
    // Whoever holds the page as it was before there was a rule gets it anew.
    let old = stage.get("/light").header("if-none-match", "\"v1\"").send().await.unwrap();
    assert_eq!(old.status(), 200);
    rule::switch(&stage.pool, stage.site, &[RuleId(1)], Switch::Off).await.unwrap();
    stage.until("/light", PLAIN).await;
    let changed = again().await;
    assert_eq!((changed.status().as_u16(), changed.headers()["etag"].to_str().unwrap()), (200, "\"v1\""));
    assert_eq!(changed.text().await.unwrap(), page());
    let plain = stage.get("/light").header("if-none-match", "\"v1\"").send().await.unwrap();
    assert_eq!(plain.status(), 304);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn rules_that_change_are_in_force_within_two_seconds_and_no_request_is_lost(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    let (http, address) = (stage.http.clone(), stage.address("/light"));
    let asking = tokio::spawn(async move {
        let mut asked = 0;
        loop {
            let got = http.get(&address).send().await.unwrap();
            assert_eq!(got.status(), 200);
            let text = got.text().await.unwrap();
            assert!(text == page() || text == page().replace(PLAIN, LINKED));
            asked += 1;
            if asked == 400 {
                return;
            }
            tokio::time::sleep(Duration::from_millis(10)).await;
        }
    });
    for (switch, said) in [(Switch::Off, PLAIN), (Switch::On, LINKED), (Switch::Off, PLAIN), (Switch::On, LINKED)] {
        rule::switch(&stage.pool, stage.site, &[RuleId(1)], switch).await.unwrap();
        assert!(stage.until("/light", said).await < Duration::from_secs(2));
    }
    asking.await.unwrap();
}
