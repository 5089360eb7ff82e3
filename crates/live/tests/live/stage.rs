//! A site in a database, and the model that follows it.

use std::sync::Arc;

use sqlx::PgPool;
use strelm_core::document::{ContentHash, Document, Format};
use strelm_core::language::words;
use strelm_core::rules::{Handling, Leads, Phrase, Rule, RuleId};
use strelm_core::site::{Address, Destination, PageId, PageKind, Standing, Target, Validators};
use strelm_live::rules::{PlaceState, RulePlaces, RuleSweep};
use strelm_live::{LiveSite, LiveSites, Model, Purpose};
use strelm_store::page::{self, ReadLink, ReadPage, Says, Source};
use strelm_store::reading::{self, ReadingState};
use strelm_store::rule::{self, KeptRule};
use strelm_store::site::{Settings, SiteSource};
use strelm_store::{SiteId, site};

/// What a test works with.
pub struct Stage {
    pub pool: PgPool,
    pub site: SiteId,
    sites: Arc<LiveSites>,
}

pub fn address(path: &str) -> Address {
    Address::parse(&format!("https://sky.example{path}")).unwrap()
}

/// A page as it is read from its HTML.
pub fn read(path: &str, html: &str) -> ReadPage {
    let (address, document) = (address(path), Document::from_html(html));
    let links = document.links().iter().filter_map(|link| match address.follow(&link.href) {
        Destination::Page { address: to, fragment } => Some(ReadLink {
            href: link.href.clone(),
            to,
            fragment,
            anchor: document.anchor(link),
            region: link.region,
            block: None,
            is_tag: link.has_rel("tag"),
            attributes: document.link_attributes(link),
        }),
        _ => None,
    });
    ReadPage {
        kind: PageKind::Page,
        title: document.head().title.clone().unwrap_or_else(|| path.to_owned()),
        heading: None,
        category: None,
        language: "en".to_owned(),
        words: u32::try_from(words(document.text().as_str()).count()).unwrap(),
        crawled_hash: ContentHash::of(html),
        main_html: html.to_owned(),
        source: Some(Source { text: html.to_owned(), format: Format::Html, hash: ContentHash::of(html) }),
        blocks: Vec::new(),
        links: links.collect(),
        ids: document.ids().map(str::to_owned).collect(),
        validators: Validators::default(),
        says: Says::default(),
        standing: Standing::default(),
        address,
    }
}

/// A rule that leads from a phrase to a page, and more that is to be so of it.
pub fn rule(phrase: &str, target: u32, set: impl FnOnce(&mut Rule<Leads>)) -> KeptRule {
    let phrases = vec![Phrase::words(phrase).unwrap()];
    let mut rule = Rule::new(RuleId(0), phrases, Leads::To(Target::Page(PageId(target))));
    set(&mut rule);
    KeptRule { rule, is_on: true, handling: Handling::Screened }
}

impl Stage {
    /// A site of these pages, which are numbered from 1 in their order.
    pub async fn set(pool: &PgPool, pages: &[(&str, &str)]) -> Self {
        let settings = Settings::new("Sky", SiteSource::Web { micropub: None });
        let (site, _) = site::add(pool, &address("/"), &settings).await.unwrap();
        let sites = Arc::new(LiveSites::new(usize::MAX, Purpose::Editing).unwrap());
        let stage = Self { pool: pool.clone(), site, sites };
        stage.put(pages).await;
        stage
    }

    pub async fn put(&self, pages: &[(&str, &str)]) {
        let pages: Vec<_> = pages.iter().map(|(path, html)| read(path, html)).collect();
        page::put_all(&self.pool, self.site, None, &pages, &Default::default()).await.unwrap();
    }

    /// A reading begins and ends, which found nothing.
    pub async fn read_again(&self) {
        let mut tx = self.pool.begin().await.unwrap();
        let (reading, _) = reading::begin(&mut tx, self.site).await.unwrap();
        tx.commit().await.unwrap();
        reading::start_run(&self.pool, self.site, reading).await.unwrap();
        page::mark_term_archives(&self.pool, self.site).await.unwrap();
        reading::end_run(&self.pool, self.site, reading, ReadingState::Done, None).await.unwrap();
    }

    pub async fn make(&self, rules: &[KeptRule]) -> Vec<RuleId> {
        rule::make(&self.pool, self.site, rules).await.unwrap()
    }

    /// The model, as far as the journal goes by now.
    pub async fn live(&self) -> Arc<LiveSite> {
        self.sites.get(&self.pool, self.site).await.unwrap()
    }

    pub async fn ask<T: Send + 'static>(&self, question: impl FnOnce(&Model) -> T + Send + 'static) -> T {
        self.live().await.ask(question).await.unwrap()
    }

    /// A model of the same site that is loaded anew.
    pub async fn loaded_anew(&self) -> Arc<LiveSite> {
        let sites = Arc::new(LiveSites::new(usize::MAX, Purpose::Editing).unwrap());
        sites.get(&self.pool, self.site).await.unwrap()
    }

    /// The places of all rules, in the order of their pages.
    pub async fn places(&self) -> Vec<RulePlaces> {
        let live = self.live().await;
        let rules = live.ask(|model| Arc::clone(model.rules())).await.unwrap();
        let mut found = Vec::new();
        let sweep = RuleSweep::of(&live, &self.pool, rules, |_| true).await.unwrap();
        sweep.each(|page| found.push(page)).await.unwrap();
        found.sort_by_key(|page| page.page);
        found
    }

    /// The same in words.
    pub async fn told(&self) -> Vec<String> {
        let places = self.places().await;
        let told = places.iter().flat_map(|page| page.places.iter().map(move |place| (page.page, place)));
        told.map(|(page, place)| {
            let state = match &place.state {
                PlaceState::Wanted => "wanted".to_owned(),
                PlaceState::Planned => "planned".to_owned(),
                PlaceState::There => "there".to_owned(),
                PlaceState::Held(why) => why.to_string(),
            };
            let to = place.target.page().map(|page| page.0.to_string()).unwrap_or_default();
            format!("{} {} → {to}: {state}", page.0, place.said.anchor)
        })
        .collect()
    }
}
