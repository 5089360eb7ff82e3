//! Auto-linking rules as they are kept, against a real PostgreSQL.

#![allow(clippy::unwrap_used)]

mod common;

use chrono::NaiveDate;
use sqlx::PgPool;
use strelm_core::document::{AlsoIn, LinkSays};
use strelm_core::language::Language;
use strelm_core::rules::{
    BlockKinds, Handling, Leads, Matching, OfTerms, Pace, PathPattern, Phrase, Rule, RuleId, RuleLimits, Scope,
    Selector, Share, Spot, Tracking,
};
use strelm_core::site::{PageId, PageKind, PlannedPageId, Target};
use strelm_core::tray::{ByRule, PlannedLink};
use strelm_store::page::ReadLink;
use strelm_store::rule::{self, KeptRule, RuleException, Switch};
use strelm_store::{page, planned_page, term, tray};

use common::*;

fn plain(target: Target) -> KeptRule {
    let rule = Rule::new(RuleId(0), vec![Phrase::words("red torch").unwrap()], target.clone());
    KeptRule { rule: rule.leading(Leads::To(target)), is_on: true, handling: Handling::Screened }
}

/// A rule of which nothing is as it is at first.
fn special() -> KeptRule {
    let day = |day| NaiveDate::from_ymd_opt(2026, 3, day);
    let rule = Rule {
        id: RuleId(0),
        phrases: vec![Phrase::expression(r"M\d{1,3}").unwrap(), Phrase::expression("NGC [0-9]+").unwrap()],
        matching: Matching {
            forms: false,
            keeps_case: true,
            keeps_accents: true,
            gap: 3,
            not_beside: vec!["Ünder".to_owned()],
        },
        target: Leads::To(Target::outside("https://catalogue.example/list#m").unwrap()),
        says: vec![LinkSays::Follow(false), LinkSays::Attribute("title".to_owned(), Some("“All” of them".to_owned()))],
        tracking: Tracking(vec![("from".to_owned(), "a&b".to_owned())]),
        scope: Scope {
            kinds: vec![PageKind::Post, PageKind::TermArchive],
            any_term: vec!["Größe".to_owned()],
            all_terms: vec!["a".to_owned()],
            no_term: vec!["b".to_owned()],
            shares_term: true,
            paths: vec![PathPattern("/guides/*".to_owned())],
            not_paths: vec![PathPattern("*draft*".to_owned())],
            languages: vec![Language::German, Language::Other],
            since: day(1),
            before: day(9),
            only: [PageId(1), PageId(3)].into(),
            carriers: None,
            never: [PageId(2)].into(),
            within: vec![Selector::parse("main").unwrap(), Selector::parse(".text > p").unwrap()],
            without: vec![Selector::parse("#draft").unwrap()],
            blocks: BlockKinds { headings: true, tables: true, quotes: true, captions: true, code: true },
            first_words_free: 20,
        },
        pace: Pace {
            per_page: 2,
            per_phrase: 3,
            per_sentence: Some(4),
            in_total: Some(500),
            share: Share::new(0.25).unwrap(),
            skips_linked_pages: false,
            counts_other_links: false,
            links_back: false,
        },
        priority: -7,
        fit: 61.5,
    };
    KeptRule { rule, is_on: false, handling: Handling::AtOnce }
}

fn with_number(rule: &KeptRule, number: u32) -> KeptRule {
    KeptRule { rule: Rule { id: RuleId(number), ..rule.rule.clone() }, ..rule.clone() }
}

#[sqlx::test]
async fn all_that_a_rule_says_comes_back_and_it_is_changed_and_switched(pool: PgPool) {
    let site = small_site(&pool).await;
    let (one, two) = (plain(Target::Page(PageId(2))), special());
    let made = rule::make(&pool, site, &[one.clone(), two.clone()]).await.unwrap();
    assert_eq!(made, [RuleId(1), RuleId(2)]);
    assert_eq!(rule::all(&pool, site).await.unwrap(), [with_number(&one, 1), with_number(&two, 2)]);

    assert!(rule::change(&pool, site, &with_number(&two, 1)).await.unwrap());
    assert_eq!(rule::all(&pool, site).await.unwrap()[0], with_number(&two, 1));
    assert!(!rule::change(&pool, site, &with_number(&two, 9)).await.unwrap());

    let both = [RuleId(1), RuleId(2)];
    assert_eq!(rule::switch(&pool, site, &both, Switch::On).await.unwrap(), both);
    assert_eq!(rule::switch(&pool, site, &both, Switch::On).await.unwrap(), []);
    assert_eq!(rule::switch(&pool, site, &[RuleId(2)], Switch::Removed).await.unwrap(), [RuleId(2)]);
    // What is removed is not switched, and its number is not given again.
    assert_eq!(rule::switch(&pool, site, &both, Switch::Off).await.unwrap(), [RuleId(1)]);
    assert_eq!(rule::make(&pool, site, std::slice::from_ref(&one)).await.unwrap(), [RuleId(3)]);
    assert_eq!(rule::switch(&pool, site, &both, Switch::BroughtBack).await.unwrap(), [RuleId(2)]);
    let numbers: Vec<_> = rule::all(&pool, site).await.unwrap().iter().map(|kept| kept.rule.id.0).collect();
    assert_eq!(numbers, [1, 2, 3]);
}

#[sqlx::test]
async fn a_rule_of_terms_comes_back_and_terms_are_named_as_most_links_name_them(pool: PgPool) {
    let site = small_site(&pool).await;
    let of = OfTerms { taxonomy: Some("/tag/".to_owned()), least_pages: 3, only_carriers: true };
    let rule = Rule { phrases: Vec::new(), ..special().rule.leading(Leads::Archives(of)) };
    let kept = KeptRule { rule, ..special() };
    rule::make(&pool, site, std::slice::from_ref(&kept)).await.unwrap();
    assert_eq!(rule::all(&pool, site).await.unwrap(), [with_number(&kept, 1)]);

    assert_eq!(term::archives(&pool, site).await.unwrap(), []);
    let tagged = |path: &str, links: &[(&str, &str)]| {
        let mut page = read(path, "<p>x</p>", &["b"]);
        let named = links.iter().map(|(to, name)| ReadLink { anchor: (*name).to_owned(), ..link(to, true) });
        page.links.extend(named);
        page
    };
    let pages = [
        tagged("tag/moon", &[("tag/moon", "itself")]),
        tagged("e", &[("tag/moon", "Moon"), ("tag/moon", "Moon"), ("tag/gone", "Gone"), ("", "Home")]),
        tagged("f", &[("tag/moon", " the Moon ")]),
        tagged("g", &[("tag/moon", "Moon")]),
    ];
    let boilerplate = known_boilerplate(&pool, site).await;
    let put = page::put_all(&pool, site, None, &pages, &boilerplate).await.unwrap();
    let [archive, e, f, g] = [0, 1, 2, 3].map(|at: usize| put[at].0);
    let found = term::archives(&pool, site).await.unwrap();
    let [moon] = &*found else { panic!("{found:?}") };
    assert_eq!((moon.name.as_str(), moon.taxonomy.as_str()), ("Moon", "/tag/"));
    assert_eq!((moon.page, &*moon.carriers), (archive, &[e, f, g][..]));
}

#[sqlx::test]
async fn exceptions_and_limits_are_kept_and_a_link_names_its_rule(pool: PgPool) {
    let site = small_site(&pool).await;
    rule::make(&pool, site, &[plain(Target::Page(PageId(2)))]).await.unwrap();
    let place = |rule, page, spot| RuleException { rule: RuleId(rule), page: PageId(page), spot: Spot(spot) };
    let passed = [place(1, 1, u64::MAX), place(1, 3, 7), place(8, 1, 1)];
    rule::set_exceptions(&pool, site, &passed, true).await.unwrap();
    rule::set_exceptions(&pool, site, &passed, true).await.unwrap();
    let mut kept = rule::exceptions(&pool, site).await.unwrap();
    kept.sort_by_key(|exception| exception.page);
    assert_eq!(kept, passed[..2], "there is no rule 8");
    rule::set_exceptions(&pool, site, &passed[1..], false).await.unwrap();
    assert_eq!(rule::exceptions(&pool, site).await.unwrap(), passed[..1]);

    assert_eq!(rule::limits(&pool, site).await.unwrap(), RuleLimits::default());
    let limits = RuleLimits { words_per_link: 40, share: Share::new(0.5).unwrap(), ..RuleLimits::default() };
    rule::set_limits(&pool, site, &limits).await.unwrap().unwrap();
    assert_eq!(rule::limits(&pool, site).await.unwrap(), limits);

    let by = ByRule { rule: RuleId(1), also_in: AlsoIn { headings: true, code: false } };
    let link = take(&pool, site, &PlannedLink { by_rule: Some(by), ..new_link(1, 2) }).await.unwrap();
    assert_eq!(tray::by_id(&pool, site, &[link]).await.unwrap()[0].link.by_rule, Some(by));
}

#[sqlx::test]
async fn a_rule_that_leads_to_a_planned_page_follows_it_when_it_is_there(pool: PgPool) {
    let site = small_site(&pool).await;
    let (planned, _) = planned_page::put(&pool, site, &address("d"), "Later").await.unwrap();
    rule::make(&pool, site, &[plain(Target::PlannedPage(planned))]).await.unwrap();
    let boilerplate = known_boilerplate(&pool, site).await;
    page::put_all(&pool, site, None, &[read("d", "<p>d</p>", &[])], &boilerplate).await.unwrap();
    let kept = rule::all(&pool, site).await.unwrap();
    assert_eq!(kept[0].rule.target, Leads::To(Target::Page(PageId(4))));
    let none: [PlannedPageId; 0] = [];
    let left: Vec<_> = planned_page::all(&pool, site).await.unwrap().iter().map(|page| page.id).collect();
    assert_eq!(left, none);
}

#[sqlx::test]
async fn a_rule_links_at_once_what_was_read_since_it_is_what_it_is(pool: PgPool) {
    use strelm_store::reading;
    let site = small_site(&pool).await;
    let begin = async || {
        let mut tx = pool.begin().await.unwrap();
        let (id, _) = reading::begin(&mut tx, site).await.unwrap();
        tx.commit().await.unwrap();
        reading::start_run(&pool, site, id).await.unwrap();
        id
    };
    let end = async |id| reading::end_run(&pool, site, id, reading::ReadingState::Done, None).await.unwrap();
    let at_once = async |reading| {
        let rules = rule::at_once_after(&pool, site, reading).await.unwrap();
        rules.into_iter().map(|rule| rule.0).collect::<Vec<_>>()
    };
    let quick = || KeptRule { handling: Handling::AtOnce, ..plain(Target::Page(PageId(2))) };
    let screened = plain(Target::Page(PageId(3)));
    let first = rule::make(&pool, site, &[quick(), screened.clone()]).await.unwrap();
    let one = begin().await;
    assert_eq!(at_once(one).await, [1], "there was no reading when it was made");
    // One that is made while a reading is under way waits for the next.
    rule::make(&pool, site, &[quick()]).await.unwrap();
    end(one).await;
    assert_eq!(at_once(one).await, [1]);
    let two = begin().await;
    end(two).await;
    assert_eq!(at_once(two).await, [1, 3]);
    // Whatever it becomes, it becomes for what is read from then on.
    let mut changed = quick();
    changed.rule.id = first[0];
    assert!(rule::change(&pool, site, &changed).await.unwrap());
    assert_eq!(at_once(two).await, [3]);
    let mut other = screened;
    (other.rule.id, other.handling) = (first[1], Handling::AtOnce);
    assert!(rule::change(&pool, site, &other).await.unwrap());
    for switch in [Switch::Off, Switch::On, Switch::Removed, Switch::BroughtBack] {
        rule::switch(&pool, site, &[RuleId(3)], switch).await.unwrap();
        assert_eq!(at_once(two).await, [] as [u32; 0], "{switch:?}");
    }
    let three = begin().await;
    end(three).await;
    assert_eq!(at_once(three).await, [1, 2, 3]);
}

#[sqlx::test]
async fn a_text_that_cannot_be_kept_is_told_from_other_trouble(pool: PgPool) {
    let site = small_site(&pool).await;
    let mut rule = plain(Target::Page(PageId(2)));
    rule.rule.says = vec![LinkSays::Attribute("title".to_owned(), Some("a\0b".to_owned()))];
    assert!(rule::make(&pool, site, &[rule]).await.unwrap_err().is_about_a_null());
    let mut rule = plain(Target::Page(PageId(2)));
    rule.rule.phrases = vec![Phrase::words("a\0b").unwrap()];
    assert!(rule::make(&pool, site, &[rule]).await.unwrap_err().is_about_a_null());
    assert_eq!(rule::all(&pool, site).await.unwrap(), []);
    assert!(
        !rule::make(&pool, strelm_store::SiteId(99), &[plain(Target::Page(PageId(2)))])
            .await
            .unwrap_err()
            .is_about_a_null()
    );
}
