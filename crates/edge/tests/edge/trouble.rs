//! A site that does not answer, or breaks off.

use sqlx::PgPool;

use crate::stage::*;

#[sqlx::test(migrations = "../store/migrations")]
async fn a_site_that_is_down_or_breaks_off_is_told_and_the_edge_goes_on(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    // It promises more than it sends.
    stage.answers(|_| {
        vec![Piece::Bytes(
            format!("HTTP/1.1 200 OK\r\ncontent-type: text/html\r\ncontent-length: 9999\r\n\r\n{}", page())
                .into_bytes(),
        )]
    });
    assert!(stage.get("/light").send().await.unwrap().text().await.is_err());
    stage.answers(|_| vec![Piece::Bytes(b"nonsense\r\n\r\n".to_vec())]);
    assert_eq!(stage.get("/light").send().await.unwrap().status(), 502);
    stage.answers(|_| html("", &page()));
    assert!(stage.text("/light").await.contains(LINKED));
    stage.lose_site();
    let begun = std::time::Instant::now();
    while begun.elapsed().as_secs() < 5 {
        let got = stage.get("/light").send().await.unwrap();
        if got.status() == 502 {
            assert!(got.text().await.unwrap().contains("does not answer"));
            return;
        }
    }
    panic!("the site still answers");
}

#[sqlx::test(migrations = "../store/migrations")]
async fn pages_pass_with_what_is_known_when_the_database_is_gone(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    sqlx::query("alter table rule_exception rename to lost").execute(&pool).await.unwrap();
    sqlx::query("alter table journal rename to lost_journal").execute(&pool).await.unwrap();
    tokio::time::sleep(std::time::Duration::from_millis(1200)).await;
    assert!(stage.text("/light").await.contains(LINKED));
    assert_eq!(stage.text("/unheard-of").await, page());
}
