//! Finding pages by words, beside a plain look at all of them.

use std::collections::BTreeMap;

use sqlx::PgPool;
use strelm_core::document::Document;
use strelm_core::language::{Language, Stemmer, fold, words};
use strelm_core::site::PageId;
use strelm_live::FoundIn;

use super::stage::Stage;

const PAGES: [(&str, &str); 8] = [
    ("/", "<title>Sky</title><main><p>Welcome to the red torches.</p></main>"),
    ("/guides/red-torch/", "<title>The torch</title><main><p>It is red.</p></main>"),
    ("/guides/eyes/", "<title>Red torches and eyes</title><main><p>Nothing else.</p></main>"),
    ("/lamps/", "<title>Lamps of all kinds</title><main><p>A torch that is red, a torch that is dim.</p></main>"),
    ("/uber/", "<title>Über den Mond</title><main><p>Der Mond.</p></main>"),
    ("/moon/", "<title>Moon, red</title><main><p>Red moons are seen twice a year.</p></main>"),
    ("/eclipse/", "<title>Eclipses</title><main><p>The moon turns red. The <a href=\"/moon/\">moon</a>!</p></main>"),
    ("/none/", "<title>None</title><main><p>Tea is brought by whoever comes late.</p></main>"),
];

/// Of each page that holds all words where it is found.
fn plain(text: &str) -> BTreeMap<u32, FoundIn> {
    let wanted: Vec<_> = text.split_whitespace().map(fold).collect();
    let stemmer = Stemmer::new(Language::English);
    let stems: Vec<_> = words(text).map(|word| stemmer.stem(word.text)).collect();
    let found = (1..).zip(PAGES).filter_map(|(number, (path, html))| {
        let document = Document::from_html(html);
        let title = fold(document.head().title.as_deref().unwrap());
        let named = format!("{title} {} page", fold(path));
        let said: Vec<_> = words(document.text().as_str()).map(|word| stemmer.stem(word.text)).collect();
        let place = if title.starts_with(&wanted.join(" ")) {
            FoundIn::TitleBegins
        } else if wanted.iter().all(|word| title.contains(word)) {
            FoundIn::Title
        } else if wanted.iter().all(|word| named.contains(word)) {
            FoundIn::Address
        } else if stems.iter().all(|stem| said.contains(stem)) {
            FoundIn::Text
        } else {
            return None;
        };
        Some((number, place))
    });
    found.collect()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn pages_are_found_by_their_names_first_and_then_by_their_text(pool: PgPool) {
    let stage = Stage::set(&pool, &PAGES).await;
    for text in [
        "red",
        "red torch",
        "torch",
        "Moon",
        "moon red",
        "uber",
        "ÜBER",
        "eclipse",
        "tea",
        "guides red",
        "kinds lamps",
        "xyz",
    ] {
        let asked = text.to_owned();
        let found = stage.ask(move |model| model.find(&asked, 20)).await;
        let places: BTreeMap<u32, FoundIn> = found.iter().map(|(page, place)| (page.0, *place)).collect();
        assert_eq!(places, plain(text), "{text}");
        assert!(found.is_sorted_by_key(|(_, place)| *place), "{text}: {found:?}");
        assert_eq!(found.len(), places.len(), "no page is found twice");
        for most in 0..found.len() {
            let asked = text.to_owned();
            let first = stage.ask(move |model| model.find(&asked, most)).await;
            assert_eq!(first, found[..most], "{text}, at most {most}");
        }
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn of_equals_the_one_to_which_more_pages_link_comes_first_and_changes_are_seen(pool: PgPool) {
    let stage = Stage::set(&pool, &PAGES).await;
    let ask = async |text: &'static str| -> Vec<PageId> {
        let found = stage.ask(move |model| model.find(text, 20)).await;
        found.into_iter().map(|(page, _)| page).collect()
    };
    assert_eq!(ask("").await, []);
    assert_eq!(ask("tea late").await, [PageId(8)]);
    let tea = "<title>Tea</title><main><p>Tea comes late; <a href=\"/eclipse/\">eclipses</a>, <a href=\"/none/\">none</a>.</p></main>";
    stage.put(&[("/tea/", tea)]).await;
    assert_eq!(ask("tea late").await, [PageId(8), PageId(9)], "to the older one leads a link");
    stage.put(&[("/none/", "<title>None</title><main><p>Nothing.</p></main>")]).await;
    assert_eq!(ask("tea late").await, [PageId(9)]);
    assert_eq!(ask("tea").await, [PageId(9)]);
}
