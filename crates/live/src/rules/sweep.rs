//! Looking at many pages for the places of rules, in stretches, while nobody waits for the model.

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Document;
use strelm_core::rules::{Held, Readers, RuleId};
use strelm_core::site::PageId;
use strelm_store::{PgPool, SiteId, boilerplate, page};
use tokio::sync::mpsc;

use super::look::{RulePageText, look_at_rules};
use super::place::{PlaceState, RulePlaces};
use super::site_rules::SiteRules;
use crate::error::LiveError;
use crate::live_site::LiveSite;

/// Pages of which the first are looked at together, so that somebody sees them soon, and pages of each stretch after.
const FIRST: usize = 64;
const AT_ONCE: usize = 256;

/// Pages with longer texts, in bytes, come last: whoever waits sees the others first.
const LARGE: usize = 200_000;

/// A look at pages for the places of rules.
pub struct RuleSweep {
    live: Arc<LiveSite>,
    pool: PgPool,
    site: SiteId,
    rules: Arc<SiteRules>,
    pages: Vec<PageId>,
}

/// How far a look at pages has come.
#[derive(Debug, Clone, PartialEq)]
pub struct RuleSweepNews {
    /// Pages that were looked at, of how many.
    pub done: usize,
    pub of: usize,
    /// Those of them with places, in the order of their numbers.
    pub found: Vec<RulePlaces>,
}

impl RuleSweep {
    /// A look at the pages that may have places of some of the rules.
    ///
    /// # Errors
    /// [`LiveError::BrokenOff`].
    pub async fn of(
        live: &Arc<LiveSite>,
        pool: &PgPool,
        rules: Arc<SiteRules>,
        which: impl Fn(RuleId) -> bool + Send + 'static,
    ) -> Result<Self, LiveError> {
        let asked = Arc::clone(&rules);
        let pages = live.ask(move |model| {
            let is_large = |page: &PageId| model.book.prose(*page).is_some_and(|prose| prose.text().len() > LARGE);
            let pages = model.pages_of_rules(&asked, which);
            let (large, mut pages): (Vec<_>, Vec<_>) = pages.into_iter().partition(is_large);
            pages.extend(large);
            pages
        });
        let pages = pages.await?;
        Ok(Self { live: Arc::clone(live), pool: pool.clone(), site: live.id, rules, pages })
    }

    /// Only these of the pages.
    #[must_use]
    pub fn only(mut self, pages: &BTreeSet<PageId>) -> Self {
        self.pages.retain(|page| pages.contains(page));
        self
    }

    /// The same for whoever wants all pages with places and no news.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn each(self, mut see: impl FnMut(RulePlaces)) -> Result<(), LiveError> {
        let (news, mut stretches) = mpsc::channel::<RuleSweepNews>(1);
        let seeing = async {
            while let Some(stretch) = stretches.recv().await {
                stretch.found.into_iter().for_each(&mut see);
            }
        };
        tokio::join!(self.run(news), seeing).0
    }

    /// Looks at all of them, and tells of each stretch as long as somebody listens. Two queries for each stretch, O(bytes of its
    /// pages). Places beyond what a rule may link on the whole site are held back, the first pages first.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn run(self, news: mpsc::Sender<RuleSweepNews>) -> Result<(), LiveError> {
        let boilerplate = Arc::new(boilerplate::all(&self.pool, self.site).await?);
        let mut totals = Totals::of(&self.rules);
        let (mut done, of) = (0, self.pages.len());
        let mut rest = self.pages.as_slice();
        let mut size = FIRST;
        while !rest.is_empty() {
            let (some, others) = rest.split_at(size.min(rest.len()));
            (rest, size) = (others, AT_ONCE);
            let mut hrefs: BTreeMap<PageId, HashMap<_, _>> = BTreeMap::new();
            for link in page::content_links(&self.pool, self.site, some).await? {
                hrefs.entry(link.page).or_default().insert(link.href, link.to);
            }
            let texts = page::texts(&self.pool, self.site, Some(some)).await?;
            let texts: Vec<_> = texts
                .into_iter()
                .map(|text| {
                    let hrefs = hrefs.remove(&text.page).unwrap_or_default();
                    (text, hrefs)
                })
                .collect();
            let (live, rules, boilerplate) =
                (Arc::clone(&self.live), Arc::clone(&self.rules), Arc::clone(&boilerplate));
            let look = move || -> Vec<RulePlaces> {
                let read = |(text, hrefs): (page::PageText, HashMap<_, _>)| {
                    let source = text.source?;
                    let mut document = Document::read(source.text, source.format);
                    document.mark_boilerplate(&boilerplate);
                    Some(RulePageText { page: text.page, document, tags: text.says.tags, hrefs })
                };
                let texts: Vec<_> = texts.into_par_iter().filter_map(read).collect();
                let readers = Readers::new(&rules.set);
                live.look(|model| {
                    texts.into_par_iter().filter_map(|text| look_at_rules(model, &rules, &readers, &text)).collect()
                })
            };
            let mut found = tokio::task::spawn_blocking(look).await.map_err(|_| LiveError::BrokenOff)?;
            found.retain(|page| !page.places.is_empty());
            found.sort_by_key(|page| page.page);
            found.iter_mut().for_each(|page| totals.keep(page));
            done += some.len();
            if news.send(RuleSweepNews { done, of, found }).await.is_err() {
                return Ok(());
            }
        }
        Ok(())
    }
}

/// How many links rules may still make on the whole site.
struct Totals(HashMap<RuleId, u32>);

impl Totals {
    fn of(rules: &SiteRules) -> Self {
        let limited = rules.set.rules().iter().filter_map(|rule| Some((rule.id, rule.pace.in_total?)));
        Self(limited.collect())
    }

    fn keep(&mut self, page: &mut RulePlaces) {
        for place in &mut page.places {
            let Some(left) = self.0.get_mut(&place.rule) else { continue };
            match place.state {
                PlaceState::Held(_) => {}
                PlaceState::Wanted if *left == 0 => place.state = PlaceState::Held(Held::InTotal),
                _ => *left = left.saturating_sub(1),
            }
        }
    }
}
