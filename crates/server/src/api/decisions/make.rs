//! Deciding: taking an opening, dropping links from the tray, passing an opening, bringing one back. A decision carries
//! its own number, so that one whose answer was lost can be sent again.

use actix_web::{post, web};
use serde::Deserialize;
use strelm_core::document::Document;
use strelm_core::limits::{Breach, LinkLimits};
use strelm_core::site::{ChangeId, PageId};
use strelm_sources::folder::Folder;
use strelm_store::decision::{self, Made, Maker, Wish};
use strelm_store::site::Source;
use strelm_store::taken::{Change, NewLink};
use strelm_store::{SiteId, page, site};
use utoipa::ToSchema;
use uuid::Uuid;

use super::Decided;
use super::repair::Repair;
use crate::api::pages::Sentence;
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use crate::live::Model;

/// More of the words are not kept.
const LONGEST_ANCHOR: usize = 300;

/// More links are not dropped at once.
const MOST_DROPPED: usize = 5000;

const ALREADY: &str = "A link between these two pages is in the tray already: somebody was a moment faster.";

#[derive(Debug, Deserialize, ToSchema)]
pub struct Decide {
    /// The browser's own number: undoing undoes what was decided there.
    hand: Uuid,
    /// The decision's own number.
    key: Uuid,
    what: What,
}

#[derive(Debug, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum What {
    /// Puts a link on the words of an opening into the tray.
    Take {
        source: u32,
        target: u32,
        words_start: usize,
        words_end: usize,
        /// The version of the source page that the editor saw.
        version: String,
    },
    /// Takes links out of the tray.
    Drop { changes: Vec<i64> },
    /// Sets the openings of a pair of pages aside.
    Pass {
        source: u32,
        target: u32,
        /// The words, to recognise it by.
        anchor: String,
    },
    /// Brings the openings of a pair of pages back.
    BringBack { source: u32, target: u32 },
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
}

#[utoipa::path(operation_id = "decisions_make", responses((status = 200, body = Decided), (status = 409, body = Problem), (status = 404, body = Problem)))]
#[post("/sites/{site}/decisions")]
pub async fn make(
    state: web::Data<State>,
    path: web::Path<i32>,
    decide: web::Json<Decide>,
) -> Result<web::Json<Decided>, ApiError> {
    let site = SiteId(*path);
    let live = state.site(*path).await?;
    let maker = Maker { hand: decide.hand, key: decide.key };
    let made = match &decide.what {
        What::Take { source, target, words_start, words_end, version } => {
            let wish = Take { source: *source, target: *target, words: (*words_start, *words_end), version };
            let link = new_link(&live.read(), &wish);
            // A decision that was made before is answered as it was then, whatever changed since.
            let link = match link {
                Ok(link) => link,
                Err(refusal) => match decision::made_before(&state.pool, site, maker.key).await? {
                    Some(made) => return Ok(web::Json(Decided::of(&live.read(), made))),
                    None => return Err(refusal),
                },
            };
            let link = within_limits(&state, site, link, &live).await?;
            decision::make(&state.pool, site, maker, &Wish::Take(&link)).await
        }
        What::Repair { source, version, address, fragment, target } => {
            let wanted = Repair { source: *source, version, address, fragment: fragment.as_deref(), target: *target };
            let links = match wanted.links(&state, site, &live).await {
                Ok(links) => links,
                Err(refusal) => match decision::made_before(&state.pool, site, maker.key).await? {
                    Some(made) => return Ok(web::Json(Decided::of(&live.read(), made))),
                    None => return Err(refusal),
                },
            };
            decision::make(&state.pool, site, maker, &Wish::Repair(&links)).await
        }
        What::Drop { changes } => {
            let changes: Vec<_> = changes.iter().take(MOST_DROPPED).map(|change| ChangeId(*change)).collect();
            decision::make(&state.pool, site, maker, &Wish::Drop(&changes)).await
        }
        What::Pass { source, target, anchor } => {
            for number in [source, target] {
                page_of(&live.read(), *number)?;
            }
            let anchor: String = anchor.chars().filter(|c| *c != '\0').take(LONGEST_ANCHOR).collect();
            let (source, target) = (PageId(*source), PageId(*target));
            decision::make(&state.pool, site, maker, &Wish::Pass { source, target, anchor: &anchor }).await
        }
        What::BringBack { source, target } => {
            let (source, target) = (PageId(*source), PageId(*target));
            decision::make(&state.pool, site, maker, &Wish::BringBack { source, target }).await
        }
    };
    let made = made.map_err(|error| match &error {
        error if error.is_about_the_same_words() => ApiError::Conflict(
            "Somebody was a moment faster: these words carry another link in the tray now. Look at the tray."
                .to_owned(),
        ),
        error if error.is_conflict() => ApiError::Conflict(ALREADY.to_owned()),
        _ => error.into(),
    })?;
    live.catch_up(&state.pool).await?;
    match made {
        Made::Done(decision) => Ok(web::Json(Decided::of(&live.read(), decision))),
        Made::TooLate => Err(ApiError::Conflict(
            match decide.what {
                What::Drop { .. } => "This link is not in the tray any more: it was dropped or released meanwhile.",
                What::Repair { .. } => "This link is not on the page any more. Look at the page once more.",
                What::BringBack { .. } => "This opening was brought back already.",
                _ => "This was passed already.",
            }
            .to_owned(),
        )),
    }
}

struct Take<'t> {
    source: u32,
    target: u32,
    words: (usize, usize),
    version: &'t str,
}

/// Only what the engine found can be taken, as it is now: nothing is taken on a page that has changed.
fn new_link(model: &Model, wish: &Take<'_>) -> Result<NewLink, ApiError> {
    page_of(model, wish.source)?;
    let target = page_of(model, wish.target)?;
    let source = PageId(wish.source);
    let hash = model.versions.get(&source).copied().filter(|hash| hash.to_string() == wish.version);
    let hash = hash.ok_or_else(|| {
        ApiError::Conflict("The page was read anew meanwhile. Look at its openings once more.".to_owned())
    })?;
    if model.planned_on(source).any(|taken| taken.link.change == Change::Put && taken.link.target == Some(target.id)) {
        return Err(ApiError::Conflict(ALREADY.to_owned()));
    }
    let opening = model.opening_on(source, target.id, wish.words).ok_or_else(|| {
        ApiError::Conflict("This opening is gone: its words were used, or it was passed or taken meanwhile.".to_owned())
    })?;
    let sentence = Sentence::of(model, &opening);
    Ok(NewLink {
        change: Change::Put,
        source,
        target: Some(target.id),
        words: opening.words,
        source_hash: hash,
        anchor: sentence.anchor,
        before_anchor: sentence.before,
        after_anchor: sentence.after,
        href: target.address.from_root(),
        fit: opening.fit.total(),
    })
}

/// The link if it keeps within the limits of its page and of the tray, written as the site writes its links.
async fn within_limits(
    state: &State,
    site: SiteId,
    mut link: NewLink,
    live: &crate::live::LiveSite,
) -> Result<NewLink, ApiError> {
    let text = page::text(&state.pool, site, link.source).await?.and_then(|text| text.source);
    let href = href_for(state, site, live, link.source, link.target).await?;
    link.href = href.unwrap_or(link.href);
    let model = live.read();
    let limits = LinkLimits::default();
    let too_much =
        |breach: &dyn std::fmt::Display| ApiError::Conflict(format!("This would be too much for readers: {breach}."));
    if let Some(source) = text.filter(|source| source.hash == link.source_hash) {
        let document = Document::read(source.text, source.format);
        let planned = model.planned_on(link.source).filter(|taken| taken.link.source_hash == link.source_hash);
        let put = |taken: &strelm_store::taken::TakenLink| match taken.link.change {
            Change::Put => Some((taken.link.words, taken.link.target?)),
            _ => None,
        };
        let mut added: Vec<_> = planned.filter_map(put).collect();
        added.extend(link.target.map(|target| (link.words, target)));
        match limits.check_page(&document, &added, |_| false).pop().flatten() {
            // Somebody took a link between the two pages since this one was looked for.
            Some(Breach::SameTarget) => return Err(ApiError::Conflict(ALREADY.to_owned())),
            Some(breach) => return Err(too_much(&breach)),
            None => {}
        }
    }
    let planned = model.planned.values().filter(|taken| taken.link.change == Change::Put);
    let planned = planned.filter_map(|taken| Some((taken.link.target?, taken.link.anchor.as_str())));
    let with_this = planned.chain(link.target.map(|target| (target, link.anchor.as_str())));
    if let Some(breach) = limits.check_release(with_this).pop().flatten() {
        return Err(too_much(&breach));
    }
    Ok(link)
}

/// What is written for a link between two pages of a folder, which lead to each other by relative paths; `None` where
/// addresses from the root are written.
pub(super) async fn href_for(
    state: &State,
    site: SiteId,
    live: &crate::live::LiveSite,
    source: PageId,
    target: Option<PageId>,
) -> Result<Option<String>, ApiError> {
    let settings = site::get(&state.pool, site).await?;
    let is_folder = settings.is_some_and(|site| matches!(site.settings.source, Source::Folder { .. }));
    let Some(target) = target.filter(|_| is_folder) else { return Ok(None) };
    let model = live.read();
    let (from, to) = (page_of(&model, source.0)?, page_of(&model, target.0)?);
    Ok(Some(Folder::relative_link(&from.address, &to.address)))
}
