//! The places of rules on the site: of one while it is written, of some before their links are taken.

use std::collections::{BTreeMap, BTreeSet};
use std::convert::Infallible;
use std::sync::Arc;

use actix_web::http::header::{CACHE_CONTROL, ContentEncoding};
use actix_web::web::Bytes;
use actix_web::{HttpResponse, post, web};
use futures::StreamExt;
use serde::Deserialize;
use strelm_core::rules::{Held, RuleId};
use strelm_core::site::PageId;
use strelm_live::rules::{PlaceState, RulePlaces, RuleSweep, RuleSweepNews, SiteRules};
use strelm_live::{LiveSite, Model};
use tokio::sync::mpsc;
use tokio_stream::wrappers::ReceiverStream;
use utoipa::ToSchema;

use super::place_rows::{HeldReason, PageWithPlaces, PlaceNews, PlacesOfPages, PlacesSummed, RuleRival};
use super::rule_wish::RuleWish;
use super::{MOST_AT_ONCE, NOT_KEPT};
use crate::api::{ApiError, Problem, State};

/// Lines that wait for whoever reads slowly.
const MOST_WAITING: usize = 4;

/// Places that are told one by one: links that can be taken at once, and others beside.
const MOST_WANTED: u32 = 5000;
const MOST_OTHERS: u32 = 2000;

/// Of which rules the places are asked.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PlacesWish {
    /// Rules by their numbers; none for all that are on.
    #[serde(default)]
    rules: Vec<u32>,
    /// A rule as it is being written; it stands in the place of the first of `rules`, or beside all. Only its places are told.
    draft: Option<RuleWish>,
    /// Only on these pages.
    pages: Option<Vec<u32>>,
}

/// Each line is a [`PlaceNews`] as JSON; whoever goes away stops it. All rules that are on are applied, and those that are
/// asked for told. O(bytes of the pages on which their words stand).
#[utoipa::path(operation_id = "rules_places", responses(
    (status = 200, content_type = "application/x-ndjson", body = PlaceNews),
    (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)
))]
#[post("/sites/{site}/rules/places")]
pub async fn places(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<PlacesWish>,
) -> Result<HttpResponse, ApiError> {
    if wish.rules.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Ask for at most {MOST_AT_ONCE} rules at once.")));
    }
    if wish.pages.as_ref().is_some_and(|pages| pages.len() > MOST_AT_ONCE) {
        return Err(ApiError::Unusable(format!("Ask for at most {MOST_AT_ONCE} pages at once.")));
    }
    let live = state.whole_site(*path).await?;
    let pages: Option<BTreeSet<PageId>> =
        wish.pages.as_ref().map(|pages| pages.iter().map(|page| PageId(*page)).collect());
    let wish = wish.into_inner();
    let (rules, told) = live.ask(move |model| asked(model, &wish)).await??;
    let which = Arc::clone(&told);
    let sweep = RuleSweep::of(&live, &state.pool, rules, move |rule| which.includes(rule)).await?;
    let sweep = match pages {
        Some(pages) => sweep.only(&pages),
        None => sweep,
    };
    let (news, lines) = mpsc::channel(MOST_WAITING);
    tokio::spawn(async move {
        if let Err(error) = tell_all(&live, sweep, &told, &news).await {
            let _ = news.send(line(&PlaceNews::Failed(Problem { message: error.to_string() }))).await;
        }
    });
    Ok(HttpResponse::Ok()
        .content_type("application/x-ndjson")
        .insert_header((CACHE_CONTROL, "no-store"))
        .insert_header(ContentEncoding::Identity)
        .streaming(ReceiverStream::new(lines).map(Ok::<_, Infallible>)))
}

/// Of which rules places are told.
struct ToldRules(Option<BTreeSet<RuleId>>);

impl ToldRules {
    fn includes(&self, rule: RuleId) -> bool {
        self.0.as_ref().is_none_or(|rules| rules.contains(&rule))
    }
}

fn asked(model: &Model, wish: &PlacesWish) -> Result<(Arc<SiteRules>, Arc<ToldRules>), ApiError> {
    let rules = model.rules();
    if let Some(draft) = &wish.draft {
        let id = wish.rules.first().map_or(NOT_KEPT, |number| RuleId(*number));
        let mut draft = draft.rule(id, model)?;
        // Whoever writes a rule wants to see what it would do.
        draft.is_on = true;
        return Ok((Arc::new(rules.with(draft)), Arc::new(ToldRules(Some([id].into())))));
    }
    let numbers: BTreeSet<_> = wish.rules.iter().map(|number| RuleId(*number)).collect();
    Ok((Arc::clone(rules), Arc::new(ToldRules((!numbers.is_empty()).then_some(numbers)))))
}

/// What was found so far.
#[derive(Default)]
struct Sum {
    summed: PlacesSummed,
    reasons: BTreeMap<String, u32>,
    rivals: BTreeMap<u32, u32>,
    others: u32,
}

impl Sum {
    /// Counts the places of a page and leaves those that are told.
    fn add(&mut self, page: &mut RulePlaces, told: &ToldRules) {
        let mut is_crowded = false;
        page.places.retain(|place| told.includes(place.rule));
        self.summed.counts.pages += u32::from(!page.places.is_empty());
        page.places.retain(|place| {
            self.summed.counts.add(&place.state);
            let is_told = match &place.state {
                PlaceState::Wanted => self.summed.counts.wanted <= MOST_WANTED,
                state => {
                    if let PlaceState::Held(why) = state {
                        *self.reasons.entry(why.to_string()).or_default() += 1;
                        is_crowded |= matches!(why, Held::Crowded { .. });
                        if let Some(by) = rival(why, place.rule) {
                            *self.rivals.entry(by.0).or_default() += 1;
                        }
                    }
                    self.others += 1;
                    self.others <= MOST_OTHERS
                }
            };
            self.summed.is_cut |= !is_told;
            is_told
        });
        self.summed.crowded += u32::from(is_crowded);
    }

    fn done(self) -> PlacesSummed {
        let mut reasons: Vec<_> = self.reasons.into_iter().map(|(why, count)| HeldReason { why, count }).collect();
        reasons.sort_by_key(|reason| std::cmp::Reverse(reason.count));
        let mut rivals: Vec<_> = self.rivals.into_iter().map(|(rule, count)| RuleRival { rule, count }).collect();
        rivals.sort_by_key(|rival| std::cmp::Reverse(rival.count));
        PlacesSummed { reasons, rivals, ..self.summed }
    }
}

/// The other rule that has the words.
fn rival(why: &Held, of: RuleId) -> Option<RuleId> {
    match why {
        // Names of terms may stand in one another.
        Held::Taken { by } if *by != of => Some(*by),
        _ => None,
    }
}

async fn tell_all(
    live: &Arc<LiveSite>,
    sweep: RuleSweep,
    told: &ToldRules,
    news: &mpsc::Sender<Bytes>,
) -> Result<(), ApiError> {
    let (found, mut stretches) = mpsc::channel::<RuleSweepNews>(1);
    let looking = sweep.run(found);
    let telling = async {
        let mut sum = Sum::default();
        while let Some(stretch) = stretches.recv().await {
            let RuleSweepNews { done, of, mut found } = stretch;
            found.iter_mut().for_each(|page| sum.add(page, told));
            found.retain(|page| !page.places.is_empty());
            let pages = live
                .ask(move |model| {
                    found.iter().map(|page| PageWithPlaces::of(model, page)).collect::<Result<Vec<_>, _>>()
                })
                .await??;
            let pages = PlacesOfPages { done, of, pages };
            if news.send(line(&PlaceNews::Pages(pages))).await.is_err() {
                return Ok(());
            }
        }
        let _ = news.send(line(&PlaceNews::Done(sum.done()))).await;
        Ok::<_, ApiError>(())
    };
    let (looked, said) = tokio::join!(looking, telling);
    looked?;
    said
}

fn line(news: &PlaceNews) -> Bytes {
    let mut line = serde_json::to_vec(news).unwrap_or_default();
    line.push(b'\n');
    Bytes::from(line)
}
