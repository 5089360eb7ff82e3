//! Pages that are not as they were read, or were never read.

use sqlx::PgPool;
use strelm_core::passing::{FooterLink, FooterLinks, FooterTarget};
use strelm_core::rules::RuleLimits;
use strelm_core::site::PageId;
use strelm_store::edge::{self, EdgeSettings};
use strelm_store::rule;
use strelm_store::site::SiteSource;

use crate::stage::*;

#[sqlx::test(migrations = "../store/migrations")]
async fn a_page_that_has_changed_or_is_unknown_gets_its_links_from_the_next_visit_on(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    let changed = page().replace(PLAIN, "Use a red torch when it is dark.");
    let linked = changed.replace("red torch", "<a href=\"/torch\">red torch</a>");
    let body = changed.clone();
    stage.answers(move |_| html("", &body));
    assert_eq!(stage.text("/light").await, changed);
    stage.until("/light", "Use a <a href").await;
    assert_eq!(stage.text("/light").await, linked);
    // Packed pages are learnt as well, on addresses that nobody read; and what is not to be kept is not.
    let body = changed.clone();
    stage.answers(move |request| {
        let private = if request.contains("/mine") { "cache-control: private\r\n" } else { "" };
        answer(&format!("content-type: text/html\r\ncontent-encoding: gzip\r\n{private}"), &gzip(body.as_bytes()))
    });
    let text = async |path: &str| {
        let packed = stage.get(path).send().await.unwrap().bytes().await.unwrap();
        std::io::read_to_string(flate2::read::MultiGzDecoder::new(&*packed)).unwrap()
    };
    for _ in 0..20 {
        assert_eq!(text("/mine").await, changed);
        if text("/new?page=2").await == linked {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!(text("/new?page=2").await, linked);
    assert_eq!(text("/mine").await, changed);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_footer_comes_to_every_page_and_no_reader_is_led_back(pool: PgPool) {
    let stage = Stage::set(&pool).await;
    let link = |text: &str, target| FooterLink { text: text.to_owned(), target };
    let links = vec![
        link("Torches", FooterTarget::Page(PageId(2))),
        link("Maps", FooterTarget::Outside("https://maps.example/".into())),
    ];
    let footer = FooterLinks { is_on: true, links, ..FooterLinks::default() };
    edge::set(&stage.pool, stage.site, &EdgeSettings { carries: false, footer }).await.unwrap();
    let foot = "<p><a href=\"/torch\">Torches</a> · <a href=\"https://maps.example/\">Maps</a></p></body>";
    stage.until("/light", foot).await;
    assert_eq!(stage.text("/light").await, page().replace(PLAIN, LINKED).replace("</body>", foot));
    stage.until("/unheard-of", foot).await;
    // Back to where the reader came from leads no link of a rule, where that is wanted.
    let from_torch =
        async || stage.get("/light").header("referer", stage.address("/torch?utm_source=x")).send().await.unwrap();
    assert!(from_torch().await.text().await.unwrap().contains(LINKED));
    let limits = RuleLimits { heeds_referrer: true, ..RuleLimits::default() };
    rule::set_limits(&stage.pool, stage.site, &limits).await.unwrap();
    let begun = std::time::Instant::now();
    while from_torch().await.text().await.unwrap().contains(LINKED) {
        assert!(begun.elapsed().as_secs() < 5);
    }
    let led = from_torch().await;
    assert!(led.text().await.unwrap().contains(PLAIN));
    let from_elsewhere = stage.get("/light").header("referer", "https://elsewhere.example/torch").send().await.unwrap();
    assert_eq!(from_elsewhere.headers()["vary"], "Referer");
    assert!(from_elsewhere.text().await.unwrap().contains(LINKED));
}

#[sqlx::test(migrations = "../store/migrations")]
async fn links_in_pages_of_a_folder_lead_from_where_they_stand(pool: PgPool) {
    let stage = Stage::read_from(&pool, SiteSource::Folder { path: "sky".into(), writes: false }).await;
    let torch = FooterLink { text: "Torches".to_owned(), target: FooterTarget::Page(PageId(2)) };
    let footer = FooterLinks { is_on: true, links: vec![torch], ..FooterLinks::default() };
    edge::set(&stage.pool, stage.site, &EdgeSettings { carries: false, footer }).await.unwrap();
    for (path, href) in [("/light", "torch"), ("/guides/light", "../torch"), ("/guides/old/light", "../../torch")] {
        let linked = PLAIN.replace("red torch", &format!("<a href=\"{href}\">red torch</a>"));
        let expected =
            page().replace(PLAIN, &linked).replace("</body>", &format!("<p><a href=\"{href}\">Torches</a></p></body>"));
        stage.until(path, &expected).await;
    }
}
