//! The places of rules on the pages of a site: which are wanted, and what holds the others.

use std::sync::Arc;
use std::time::Duration;

use sqlx::PgPool;
use strelm_core::document::Document;
use strelm_core::rules::{PathPattern, RuleLimits};
use strelm_core::site::PageId;
use strelm_live::LiveSite;
use strelm_live::rules::{PlaceState, ReadOfPage, RuleCounts, RuleSweep, RuleTally};
use strelm_store::rule::{self, RuleException, Switch};

use super::stage::{Stage, address, rule};

fn long(words: &str) -> String {
    format!("<main><p>{words}</p><p>{}</p></main>", "Whoever comes late brings the tea. ".repeat(40))
}

async fn site(pool: &PgPool) -> Stage {
    let pages = [
        ("/", long("A red torch is lent. Ask for a dim torch.")),
        ("/torch", long("Our red torch shines.")),
        ("/there", long("See the <a href=\"/torch\">red torch</a> there.")),
        ("/many", long("A red torch here. A red torch there. No torch without red.")),
        ("/none", long("Nothing of it.")),
    ];
    let pages: Vec<_> = pages.iter().map(|(path, html)| (*path, html.as_str())).collect();
    Stage::set(pool, &pages).await
}

#[sqlx::test(migrations = "../store/migrations")]
async fn every_place_is_told_and_an_exception_is_kept_to(pool: PgPool) {
    let stage = site(&pool).await;
    let id = stage.make(&[rule("red torch", 2, |_| ())]).await[0];
    let told = [
        "1 red torch → 2: wanted",
        "2 red torch → 2: the page is the target itself",
        "3 red torch → 2: there",
        "4 red torch → 2: wanted",
        "4 red torch → 2: the rule puts 1 link on a page at most",
    ];
    assert_eq!(stage.told().await, told);
    let places = stage.places().await;
    let spot = places[0].places[0].spot;
    let exception = RuleException { rule: id, page: PageId(1), spot };
    rule::set_exceptions(&stage.pool, stage.site, &[exception], true).await.unwrap();
    assert_eq!(stage.told().await[0], "1 red torch → 2: an editor passed it here");
    // It holds as long as its sentence does, wherever that comes to stand.
    stage.put(&[("/", &long("News first. A red torch is lent. Ask for a dim torch."))]).await;
    assert_eq!(stage.told().await[0], "1 red torch → 2: an editor passed it here");
    stage.put(&[("/", &long("A red torch is lent to all. Ask for a dim torch."))]).await;
    assert_eq!(stage.told().await[0], "1 red torch → 2: wanted");
    rule::set_exceptions(&stage.pool, stage.site, &[exception], false).await.unwrap();
    rule::switch(&stage.pool, stage.site, &[id], Switch::Off).await.unwrap();
    assert_eq!(stage.told().await, [""; 0]);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn of_rules_that_want_the_same_words_one_has_them_whatever_their_order(pool: PgPool) {
    let stage = site(&pool).await;
    let torch = || rule("torch", 1, |_| ());
    let red = || rule("red torch", 2, |_| ());
    let first = || rule("red torch", 5, |rule| rule.priority = 1);
    let taken = "another rule has these words, or some of them";
    for rules in [[torch(), red(), first()], [first(), torch(), red()], [red(), first(), torch()]] {
        let ids = stage.make(&rules).await;
        let mut on_first: Vec<_> = stage.told().await.into_iter().filter(|told| told.starts_with("1 ")).collect();
        on_first.sort();
        assert_eq!(
            on_first,
            [
                format!("1 red torch → 2: {taken}"),
                "1 red torch → 5: wanted".to_owned(),
                "1 torch → 1: the page is the target itself".to_owned(),
                "1 torch → 1: the page is the target itself".to_owned(),
            ]
        );
        rule::switch(&stage.pool, stage.site, &ids, Switch::Removed).await.unwrap();
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn a_limit_for_the_whole_site_holds_over_pages_and_as_they_pass(pool: PgPool) {
    let stage = site(&pool).await;
    let id = stage.make(&[rule("red torch", 2, |rule| rule.pace.in_total = Some(2))]).await[0];
    assert_eq!(
        stage.told().await,
        [
            "1 red torch → 2: wanted",
            "2 red torch → 2: the page is the target itself",
            "3 red torch → 2: there",
            "4 red torch → 2: the rule may make no more links on the site",
            "4 red torch → 2: the rule puts 1 link on a page at most",
        ]
    );
    // A page that passes knows of no other.
    assert_eq!(passing(&stage, "/many").await, 0);
    let mut free = rule("red torch", 2, |_| ());
    free.rule.id = id;
    assert!(rule::change(&stage.pool, stage.site, &free).await.unwrap());
    assert_eq!(passing(&stage, "/many").await, 1);
    assert_eq!(passing(&stage, "/torch").await, 0);
}

/// How many links of rules a page gets as it passes.
async fn passing(stage: &Stage, path: &str) -> usize {
    let live = stage.live().await;
    let at = address(path);
    let page = live.ask(move |model| model.site.page_at(&at)).await.unwrap();
    let read = ReadOfPage::of(&stage.pool, stage.site, page.unwrap()).await.unwrap();
    let document = Document::from_html(read.html.clone().unwrap());
    let page = read.page(&stage.pool, stage.site, (page, address(path)), document).await.unwrap();
    live.ask(move |model| model.links_as_it_passes(&page, None, None).links.len()).await.unwrap()
}

#[sqlx::test(migrations = "../store/migrations")]
async fn what_is_set_for_all_rules_holds_for_each(pool: PgPool) {
    let stage = site(&pool).await;
    stage
        .make(&[rule("red torch", 5, |rule| {
            rule.pace.per_page = 5;
            rule.pace.per_phrase = 5;
        })])
        .await;
    let wanted = async |limits: RuleLimits| {
        rule::set_limits(&stage.pool, stage.site, &limits).await.unwrap();
        let places = stage.places().await;
        places.iter().flat_map(|page| &page.places).filter(|place| place.state == PlaceState::Wanted).count()
    };
    let loose =
        RuleLimits { per_target: 9, per_anchor: 9, per_sentence: 9, words_per_link: 1, ..RuleLimits::default() };
    assert_eq!(wanted(loose).await, 4);
    assert_eq!(wanted(RuleLimits { per_target: 1, ..loose }).await, 3);
    assert_eq!(wanted(RuleLimits { per_anchor: 1, ..loose }).await, 3);
    // One is on a short page, too.
    assert_eq!(wanted(RuleLimits { words_per_link: 10_000, ..loose }).await, 3);
}

async fn counted(live: &Arc<LiveSite>, stage: &Stage) -> RuleTally {
    for _ in 0..200 {
        let tallied = live.rule_tally(&stage.pool, Duration::from_secs(5)).await.unwrap();
        if let Some(tally) = tallied.tally.filter(|_| tallied.is_fresh) {
            return (*tally).clone();
        }
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    panic!("the places are not counted in time");
}

#[sqlx::test(migrations = "../store/migrations")]
async fn places_are_counted_as_they_are_told_and_again_after_each_change(pool: PgPool) {
    let stage = site(&pool).await;
    let ids = stage
        .make(&[
            rule("red torch", 2, |_| ()),
            rule("tea", 1, |rule| rule.scope.paths = vec![PathPattern("/n*".to_owned())]),
        ])
        .await;
    let by_hand = async || {
        let mut tally = RuleTally::default();
        let places = stage.places().await;
        for (page, place) in places.iter().flat_map(|page| page.places.iter().map(move |place| (page.page, place))) {
            let is_first = places
                .iter()
                .find(|other| other.page == page)
                .unwrap()
                .places
                .iter()
                .find(|other| other.rule == place.rule)
                == Some(place);
            let counts = tally.0.entry(place.rule).or_default();
            counts.pages += u32::from(is_first);
            match place.state {
                PlaceState::Wanted => counts.wanted += 1,
                PlaceState::Planned => counts.planned += 1,
                PlaceState::There => counts.there += 1,
                PlaceState::Held(_) => counts.held += 1,
            }
        }
        tally
    };
    let first = counted(&stage.live().await, &stage).await;
    assert_eq!(first, by_hand().await);
    assert_eq!(first.0[&ids[0]], RuleCounts { pages: 4, wanted: 2, planned: 0, there: 1, held: 2 });
    assert_eq!(first.0[&ids[1]].wanted, 1);
    stage.put(&[("/none", &long("A red torch after all."))]).await;
    let second = counted(&stage.live().await, &stage).await;
    assert_eq!((second.0[&ids[0]].pages, second.clone()), (5, by_hand().await));
    rule::switch(&stage.pool, stage.site, &[ids[0]], Switch::Removed).await.unwrap();
    let third = counted(&stage.live().await, &stage).await;
    assert!(!third.0.contains_key(&ids[0]) && third.0[&ids[1]] == second.0[&ids[1]]);
}

#[sqlx::test(migrations = "../store/migrations")]
async fn only_pages_that_may_have_places_are_looked_at_and_only_those_that_are_asked_for(pool: PgPool) {
    let stage = site(&pool).await;
    stage.make(&[rule("dim torch", 2, |_| ())]).await;
    let live = stage.live().await;
    let rules = live.ask(|model| Arc::clone(model.rules())).await.unwrap();
    let looked = live.ask({
        let rules = Arc::clone(&rules);
        move |model| model.pages_of_rules(&rules, |_| true)
    });
    assert_eq!(looked.await.unwrap(), [PageId(1)], "no other page holds both words");
    let mut found = 0;
    let sweep = RuleSweep::of(&live, &stage.pool, Arc::clone(&rules), |_| true).await.unwrap();
    sweep.only(&[PageId(4)].into()).each(|_| found += 1).await.unwrap();
    assert_eq!(found, 0);
    let sweep = RuleSweep::of(&live, &stage.pool, rules, |_| false).await.unwrap();
    sweep.each(|_| found += 1).await.unwrap();
    assert_eq!(found, 0);
}
