//! A model that follows the journal is what a model is that is loaded anew.

use std::collections::BTreeMap;
use std::sync::Arc;
use std::time::Duration;

use sqlx::PgPool;
use strelm_core::anchors::AnchorRow;
use strelm_core::mentions::Part;
use strelm_core::rules::{Matching, Phrase, Spot};
use strelm_core::site::{PageId, PageKind};
use strelm_live::mentions::{MentionOrder, MentionQuery, MentionState};
use strelm_live::{Column, LiveSite, Model, Only, PageQuery};
use strelm_store::page::{self, Gone};
use strelm_store::rule::{self, RuleException, Switch};
use strelm_store::{planned_page, redirect, site};

use super::stage::{Stage, address, rule};

const PATHS: [&str; 7] = ["/", "/moon/", "/red-torch/", "/guides/seeing/", "/tag/dark/", "/tag/light/", "/notes"];
const WORDS: [&str; 6] = ["moon", "red torch", "seeing", "dark", "light", "tea"];

/// Numbers that look as though nobody chose them (xorshift, after Marsaglia 2003).
struct Dice(u64);

impl Dice {
    fn below(&mut self, most: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        usize::try_from(self.0 % most as u64).unwrap()
    }

    fn of<T: Copy>(&mut self, all: &[T]) -> T {
        all[self.below(all.len())]
    }

    /// A page that says some words, and links by some of them.
    fn page(&mut self) -> String {
        let mut html = format!("<title>{}</title><main><h1>{0}</h1>", self.of(&WORDS));
        for _ in 0..self.below(5) {
            let (to, words) = (self.of(&PATHS), self.of(&WORDS));
            html.push_str(&match self.below(7) {
                0 => format!("<p>{words} {words}.</p>"),
                1 => format!("<p id={}>About <a href=\"{to}#top\">{words}</a>.</p>", words.replace(' ', "-")),
                2 => format!("<p><a rel=tag href=\"{to}\">{words}</a></p>"),
                3 => format!("<nav><a href=\"{to}\">{words}</a></nav>"),
                4 => format!("<p><a rel=nofollow href=\"{to}\">{words}</a> and {words}.</p>"),
                5 => format!("<p>See <a rel=sponsored href=\"https://optics.example{to}\">{words}</a>.</p>"),
                _ => format!("<p>A <a href=\"{to}\">{words}</a> or <a href=\"/gone\">{words}</a>.</p>"),
            });
        }
        html + "</main>"
    }
}

/// Lists of all kinds, each of which is kept until something changes on which it depends.
fn queries() -> Vec<PageQuery> {
    let only = [Only::Orphans, Only::Unreachable, Only::DeadEnds, Only::Broken, Only::InTray];
    let sorts = [
        Column::Title,
        Column::Kind,
        Column::Words,
        Column::LinksIn,
        Column::ContentLinksIn,
        Column::LinksAway,
        Column::Depth,
    ];
    let by_sort = sorts.map(|sort| PageQuery { sort, descending: sort == Column::Words, ..PageQuery::default() });
    let by_only = only.map(|only| PageQuery { only: Some(only), ..PageQuery::default() });
    let by_text = PageQuery { text: "moon".to_owned(), kind: Some(PageKind::TermArchive), ..PageQuery::default() };
    by_sort.into_iter().chain(by_only).chain([by_text]).collect()
}

/// What its texts and links say. Texts come after all else.
async fn said(live: &Arc<LiveSite>) -> Vec<String> {
    while live.ask(Model::texts_waiting).await.unwrap() > 0 {
        tokio::time::sleep(Duration::from_millis(5)).await;
    }
    live.ask(|model| {
        // Numbers are those of one model.
        let bare = |row: &AnchorRow| format!("{:?}", AnchorRow { number: 0, ..row.clone() });
        let anchors = model.anchor_rows().iter().map(bare).collect::<Vec<_>>();
        let query = MentionQuery {
            phrases: WORDS.iter().map(|word| Phrase::words(word).unwrap()).collect(),
            matching: Matching::default(),
            parts: Part::ALL.into(),
            pages: PageQuery::default(),
            order: MentionOrder::Count,
            state: MentionState::All,
            only: None,
        };
        let found = model.mentions(&query);
        let pages: Vec<_> = found.pages.iter().map(|(page, _)| *page).collect();
        let told = [
            format!("{found:?} {:?}", model.mentions_on(&query, &pages)),
            format!("{:?} {:?}", model.destinations(), model.anchor_faults()),
        ];
        anchors.into_iter().chain(told).collect()
    })
    .await
    .unwrap()
}

/// All that a model says of a site.
async fn digest(live: Arc<LiveSite>) -> Vec<String> {
    let said = said(&live).await;
    live.ask(move |model: &Model| {
        let mut told: BTreeMap<String, String> = BTreeMap::new();
        for page in model.site.pages() {
            let figures = model.site.figures(page.id);
            let rest = (model.broken_on(page.id), model.limits().links, page.kind, &page.title, page.language);
            told.insert(page.address.to_string(), format!("{figures:?} {rest:?}"));
        }
        let rules = model.rules();
        let terms: Vec<_> = rules.terms().iter().map(|term| format!("{term:?}")).collect();
        let pages = model.pages_of_rules(rules, |_| true);
        let mut exceptions: Vec<_> = rules.exceptions.iter().map(|exception| format!("{exception:?}")).collect();
        exceptions.sort();
        let lists: Vec<_> = queries().iter().map(|query| model.listed(query)).collect();
        let found: Vec<_> = WORDS.iter().map(|word| model.find(word, 20).len()).collect();
        let of_site = [
            format!("{:?}", model.totals()),
            format!("{:?}", model.detours()),
            format!("{:?}", rules.kept),
            format!("{pages:?} {found:?}"),
            format!("{:?}", model.planned_pages),
            format!("{lists:?}"),
        ];
        told.into_iter()
            .map(|(address, said)| format!("{address} {said}"))
            .chain(of_site)
            .chain(terms)
            .chain(exceptions)
            .chain(said)
            .collect()
    })
    .await
    .unwrap()
}

async fn edit(stage: &Stage, dice: &mut Dice) {
    let (pool, site) = (&stage.pool, stage.site);
    match dice.below(9) {
        0 | 1 => {
            let (path, html) = (dice.of(&PATHS), dice.page());
            stage.put(&[(path, &html)]).await;
        }
        2 => stage.read_again().await,
        3 => {
            let page = PageId(u32::try_from(dice.below(PATHS.len()) + 1).unwrap());
            let gone = dice.of(&[Gone::Vanished, Gone::Same]);
            page::mark_gone(pool, site, &[(page, gone)]).await.unwrap();
        }
        4 => {
            let page = PageId(u32::try_from(dice.below(PATHS.len()) + 1).unwrap());
            page::mark_there(pool, site, &[page]).await.unwrap();
        }
        5 => {
            let new = rule(dice.of(&WORDS), u32::try_from(dice.below(PATHS.len()) + 1).unwrap(), |rule| {
                rule.priority = 1;
            });
            stage.make(&[new]).await;
        }
        6 => {
            let rules = rule::all(pool, site).await.unwrap();
            if !rules.is_empty() {
                let id = rules[dice.below(rules.len())].rule.id;
                let to = dice.of(&[Switch::On, Switch::Off, Switch::Removed]);
                rule::switch(pool, site, &[id], to).await.unwrap();
                let exception = RuleException { rule: id, page: PageId(1), spot: Spot(7) };
                rule::set_exceptions(pool, site, &[exception], dice.below(2) == 0).await.unwrap();
            }
        }
        7 => {
            let (from, to) = (format!("/old{}", dice.below(3)), dice.of(&PATHS));
            redirect::put_all(pool, site, &[(address(&from), address(to))]).await.unwrap();
        }
        _ => {
            let planned = address(&format!("/planned{}", dice.below(2)));
            planned_page::put(pool, site, &planned, "Planned").await.unwrap();
        }
    }
}

#[sqlx::test(migrations = "../store/migrations")]
async fn whatever_happens_to_a_site_its_model_follows(pool: PgPool) {
    for seed in 1..=6_u64 {
        let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15));
        let pages: Vec<_> = PATHS.iter().map(|path| (*path, dice.page())).collect();
        let pages: Vec<_> = pages.iter().map(|(path, html)| (*path, html.as_str())).collect();
        let stage = Stage::set(&pool, &pages).await;
        stage.read_again().await;
        for step in 0..25 {
            edit(&stage, &mut dice).await;
            // Sometimes more than one change is followed at once.
            if dice.below(3) > 0 {
                // Terms are looked up when a reading has ended.
                stage.read_again().await;
                let (followed, anew) = (digest(stage.live().await).await, digest(stage.loaded_anew().await).await);
                assert_eq!(followed, anew, "seed {seed}, step {step}");
            }
        }
        site::delete(&pool, stage.site).await.unwrap();
    }
}
