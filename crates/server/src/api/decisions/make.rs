//! Deciding: taking an opening, dropping links from the tray, passing an opening, bringing one back. A decision carries
//! its own number, so that one whose answer was lost can be sent again.

use std::sync::Arc;

use actix_web::{post, web};
use serde::Deserialize;
use strelm_core::rules::RuleId;
use strelm_core::site::{ChangeId, PageId};
use strelm_core::tray::{Decision, LeftOut, TakeRefusal};
use strelm_store::decision::{self, Answered, Made, Maker, Wish};
use strelm_store::{SiteId, passed};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Decided;
use super::follow_rules::following;
use super::mend::{Becomes, LinkOfPage, mended};
use super::pass::PassWish;
use super::repair::RepairOrder;
use super::take::{TakeWish, taken};
use crate::api::{ApiError, Problem, State};
use strelm_live::LiveSite;

/// More links are not dropped at once.
const MOST_DROPPED: usize = 5000;

/// A decision, with the browser that makes it and its key: sent twice, it is made once.
#[derive(Debug, Deserialize, ToSchema)]
pub struct Decide {
    /// The browser's own number: undoing undoes what was decided there.
    hand: Uuid,
    /// The decision's own number.
    key: Uuid,
    what: What,
}

/// What is decided.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum What {
    /// Puts links on words into the tray. Of many those are taken that can be; of one that cannot, nothing is changed.
    Take { links: Vec<TakeWish> },
    /// Takes links out of the tray.
    Drop { changes: Vec<i64> },
    /// Sets openings aside.
    Pass(PassWish),
    /// Brings back what was set aside.
    BringBack { passed: i64 },
    /// Mends the links of a page that lead to an address.
    Repair {
        source: u32,
        /// The version of the source page that the editor saw.
        version: String,
        address: String,
        fragment: Option<String>,
        /// The page that they lead to afterwards; without one they are taken off.
        target: Option<u32>,
    },
    /// Changes links, whatever they lead to, or takes them off their words. Those that can be mended are.
    Mend { links: Vec<LinkOfPage>, becomes: Becomes },
    /// Changes or takes off the links that some rules made, on one page or on all, so that they are as the rules would make
    /// them now.
    FollowRules { rules: Vec<u32>, page: Option<u32> },
    /// Mends the links of many pages that lead to an address. Those that can be mended are.
    RepairAll {
        pages: Vec<OnVersion>,
        address: String,
        fragment: Option<String>,
        /// As of one page.
        target: Option<u32>,
    },
}

/// A page in the version that the editor saw.
#[derive(Debug, Deserialize, ToSchema)]
pub struct OnVersion {
    source: u32,
    version: String,
}

/// Makes a decision.
#[utoipa::path(operation_id = "decisions_make", responses((status = 200, body = Decided), (status = 409, body = Problem), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/decisions")]
pub async fn make(
    state: web::Data<State>,
    path: web::Path<i32>,
    decide: web::Json<Decide>,
) -> Result<web::Json<Decided>, ApiError> {
    let site = SiteId(*path);
    let live = state.site(*path).await?;
    let maker = Maker { hand: decide.hand, key: decide.key };
    // One that comes again is answered as it was, whatever changed since.
    let answered = match decision::answered(&state.pool, site, maker.key).await? {
        Some(answered) => answered,
        None => match carry_out(&state, site, &live, maker, &decide.what).await {
            Ok(decision) => Answered::Done(decision),
            Err(ApiError::Conflict(why)) => decision::refuse(&state.pool, site, maker.key, &why).await?,
            Err(other) => return Err(other),
        },
    };
    live.catch_up(&state.pool).await?;
    match answered {
        Answered::Done(decision) => Ok(web::Json(live.ask(move |model| Decided::of(model, decision)).await?)),
        Answered::Refused(why) => Err(ApiError::Conflict(why)),
        Answered::Nothing => Err(ApiError::Conflict("There was nothing to do.".to_owned())),
    }
}

/// A conflict says why it cannot be done.
async fn carry_out(
    state: &State,
    site: SiteId,
    live: &Arc<LiveSite>,
    maker: Maker,
    what: &What,
) -> Result<Decision, ApiError> {
    let pool = &state.pool;
    let made = match what {
        What::Take { links } => {
            if links.iter().any(|link| !link.by_hand) {
                state.whole_site(site.0).await?;
            }
            let taken = taken(state, site, live, links).await?;
            if taken.links.is_empty() {
                return Err(nothing_of(&taken.refused));
            }
            let wish = Wish::Take(&taken.links, &taken.lessons, &taken.refused);
            decision::make(pool, site, maker, &wish).await
        }
        What::Repair { source, version, address, fragment, target } => {
            let (fragment, pages) = (fragment.as_deref(), vec![(*source, version.as_str())]);
            let (links, refused) =
                RepairOrder { pages, address, fragment, target: *target }.links(state, site, live).await?;
            decision::make(pool, site, maker, &Wish::Repair(&links, &refused)).await
        }
        What::RepairAll { pages, address, fragment, target } => {
            let pages = pages.iter().map(|page| (page.source, page.version.as_str())).collect();
            let wanted = RepairOrder { pages, address, fragment: fragment.as_deref(), target: *target };
            let (links, refused) = wanted.links(state, site, live).await?;
            decision::make(pool, site, maker, &Wish::Repair(&links, &refused)).await
        }
        What::Mend { links, becomes } => {
            let (links, refused) = mended(state, site, live, links, becomes).await?;
            decision::make(pool, site, maker, &Wish::Repair(&links, &refused)).await
        }
        What::FollowRules { rules, page } => {
            let rules: Vec<_> = rules.iter().map(|rule| RuleId(*rule)).collect();
            let (links, refused) = following(state, site, live, &rules, page.map(PageId)).await?;
            decision::make(pool, site, maker, &Wish::Repair(&links, &refused)).await
        }
        What::Drop { changes } => {
            let changes: Vec<_> = changes.iter().take(MOST_DROPPED).map(|change| ChangeId(*change)).collect();
            decision::make(pool, site, maker, &Wish::Drop(&changes)).await
        }
        What::Pass(wish) => {
            let wish = wish.clone();
            let (passed, lesson) = live.ask(move |model| wish.passed(model)).await??;
            let lessons: Vec<_> = lesson.into_iter().collect();
            decision::make(pool, site, maker, &Wish::Pass(&passed, &lessons)).await
        }
        What::BringBack { passed } => {
            let passed = passed::by_id(pool, site, *passed).await?;
            let passed = passed.ok_or_else(|| ApiError::Conflict(too_late(what).to_owned()))?;
            decision::make(pool, site, maker, &Wish::BringBack(&passed)).await
        }
    };
    let made = made.map_err(|error| match &error {
        error if error.is_about_the_same_words() => ApiError::Conflict(
            "Somebody was a moment faster: these words carry another link in the tray now. Look at the tray."
                .to_owned(),
        ),
        error if error.is_conflict() => TakeRefusal::Already.into(),
        _ => error.into(),
    })?;
    match made {
        Made::Done(decision) => Ok(decision),
        Made::Refused(why) => Err(ApiError::Conflict(why)),
        Made::TooLate => Err(ApiError::Conflict(too_late(what).to_owned())),
    }
}

const fn too_late(what: &What) -> &'static str {
    match what {
        What::Drop { .. } => "This link is not in the tray any more: it was dropped or released meanwhile.",
        What::Repair { .. } | What::RepairAll { .. } | What::Mend { .. } | What::FollowRules { .. } => {
            "This link is not on the page any more. Look at the page once more."
        }
        What::BringBack { .. } => "This opening was brought back already.",
        What::Take { .. } | What::Pass(_) => "This was passed already.",
    }
}

fn nothing_of(refused: &[LeftOut]) -> ApiError {
    let why = refused.first().map_or("There was nothing to take.", |refused| refused.why.as_str());
    ApiError::Conflict(format!("None of these links could be taken. {why}"))
}
