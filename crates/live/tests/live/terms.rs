//! Rules that stand for categories and tags: what terms there are follows the readings.

use sqlx::PgPool;
use strelm_core::rules::{Leads, OfTerms, TermArchive};
use strelm_core::site::PageId;
use strelm_store::page::{self, Gone};
use strelm_store::rule;

use super::stage::{Stage, rule};

/// Words enough for a link by all limits, in which no term stands.
fn filler() -> String {
    "Whoever comes late brings the tea, and nobody asks for a fee. ".repeat(12)
}

fn tagged(words: &str, tags: &[(&str, &str)]) -> String {
    let tags: String = tags.iter().map(|(to, name)| format!("<a rel=tag href=\"{to}\">{name}</a> ")).collect();
    format!("<main><p>{words} {}</p><p>Filed under: {tags}</p></main>", filler())
}

async fn site(pool: &PgPool) -> Stage {
    let moon = ("/tag/moon/", "moon");
    let pages = [
        ("/", "<main><p>Welcome.</p></main>".to_owned()),
        ("/a/", tagged("The moon is up.", &[moon, ("/tag/red-torch/", "Red torch")])),
        ("/b/", tagged("The moon with a red torch.", &[moon])),
        ("/c/", tagged("Red torches and the moon.", &[("/topics/tea/", "tea")])),
        ("/tag/moon/", format!("<main><p>All about the moon. {}</p></main>", filler())),
        ("/tag/red-torch/", "<main><p>Torches.</p></main>".to_owned()),
        ("/topics/tea/", "<main><p>Tea.</p></main>".to_owned()),
    ];
    let pages: Vec<_> = pages.iter().map(|(path, html)| (*path, html.as_str())).collect();
    let stage = Stage::set(pool, &pages).await;
    stage.read_again().await;
    stage
}

fn of_terms(of: OfTerms) -> rule::KeptRule {
    rule("any", 1, |rule| {
        rule.phrases.clear();
        rule.target = Leads::Archives(of);
    })
}

async fn terms(stage: &Stage) -> Vec<String> {
    let told = |term: &TermArchive| {
        let carriers: Vec<_> = term.carriers.iter().map(|page| page.0).collect();
        format!("{} {} {} {carriers:?}", term.page.0, term.taxonomy, term.name)
    };
    stage.ask(move |model| model.rules().terms().iter().map(told).collect()).await
}

#[sqlx::test(migrations = "../store/migrations")]
async fn names_of_terms_are_linked_on_all_pages_or_on_those_that_carry_them(pool: PgPool) {
    let stage = site(&pool).await;
    assert_eq!(terms(&stage).await, ["5 /tag/ moon [2, 3]", "6 /tag/ Red torch [2]", "7 /topics/ tea [4]"]);
    let taxonomy = Some("/tag/".to_owned());
    let ids = stage.make(&[of_terms(OfTerms { taxonomy, ..OfTerms::default() })]).await;
    // The archive itself says its name, and tea is of another taxonomy.
    assert_eq!(
        stage.told().await,
        [
            "2 moon → 5: wanted",
            "2 moon → 5: the words carry another link",
            "2 Red torch → 6: the words carry another link",
            "3 moon → 5: a sentence gets 1 link of rules at most",
            "3 red torch → 6: wanted",
            "3 moon → 5: the words carry another link",
            "4 Red torches → 6: wanted",
            "4 moon → 5: a sentence gets 1 link of rules at most",
            "5 moon → 5: the page is the target itself",
        ]
    );
    let mut changed = of_terms(OfTerms { only_carriers: true, least_pages: 2, ..OfTerms::default() });
    changed.rule.id = ids[0];
    assert!(rule::change(&stage.pool, stage.site, &changed).await.unwrap());
    let wanted: Vec<_> = stage.told().await.into_iter().filter(|told| told.ends_with("wanted")).collect();
    assert_eq!(wanted, ["2 moon → 5: wanted", "3 moon → 5: wanted"]);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_terms_there_are_is_known_after_each_reading_and_as_when_loaded_anew(pool: PgPool) {
    let stage = site(&pool).await;
    let id = stage.make(&[of_terms(OfTerms::default())]).await[0];
    let laid =
        async |stage: &Stage| stage.ask(move |model| model.rules().laid(model.rules().get(id).unwrap()).len()).await;
    assert_eq!(laid(&stage).await, 3);

    // A page takes on a tag that is new, and the name that most links use is the name of a term.
    let more = tagged("Stars.", &[("/tag/stars/", "stars"), ("/tag/moon/", "The Moon")]);
    let other = tagged("More stars.", &[("/tag/moon/", "The Moon"), ("/topics/tea/", "tea")]);
    let third = tagged("Few stars.", &[("/tag/moon/", "The Moon")]);
    stage.put(&[("/d/", &more), ("/e/", &other), ("/f/", &third), ("/tag/stars/", "<main><p>Stars.</p></main>")]).await;
    assert_eq!(laid(&stage).await, 3, "not while the site is being read");
    stage.read_again().await;
    assert_eq!(laid(&stage).await, 4);
    let known = terms(&stage).await;
    assert_eq!(known[0], "5 /tag/ The Moon [2, 3, 8, 9, 10]");

    // An archive that is gone is none, and a page that is gone carries none.
    page::mark_gone(&stage.pool, stage.site, &[(PageId(6), Gone::Vanished), (PageId(8), Gone::Vanished)])
        .await
        .unwrap();
    stage.read_again().await;
    assert_eq!(
        terms(&stage).await,
        ["5 /tag/ The Moon [2, 3, 9, 10]", "7 /topics/ tea [4, 9]"],
        "nobody carries the stars any more"
    );
    let anew = stage.loaded_anew().await;
    let (followed, anew) = (
        stage.live().await.ask(|model| model.rules().terms().to_vec()).await.unwrap(),
        anew.ask(|model| model.rules().terms().to_vec()).await.unwrap(),
    );
    assert_eq!(followed, anew);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn tags_in_menus_and_names_that_are_sentences_make_no_terms(pool: PgPool) {
    let long = "a ".repeat(80);
    let page = format!(
        "<nav><a rel=tag href=\"/tag/a/\">a</a></nav><main><p>Text.</p><a rel=tag href=\"/tag/b/\">{long}</a> \
         <a rel=tag href=\"/tag/gone/\">gone</a> <a rel=tag href=\"/\">home</a></main>"
    );
    let archive = "<main><p><a rel=tag href=\"/tag/a/\">a</a></p></main>";
    let stage = Stage::set(&pool, &[("/", &page), ("/tag/a/", archive), ("/tag/b/", archive)]).await;
    stage.read_again().await;
    assert_eq!(terms(&stage).await, ["2 /tag/ a [3]"], "and a page carries no term by a link to itself");
}
