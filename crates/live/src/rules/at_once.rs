//! Taking what rules would link on pages that a reading found new or changed, where the rule says that nobody needs to look first.

use std::collections::BTreeSet;
use std::sync::atomic::Ordering;
use std::sync::{Arc, Weak};

use strelm_core::document::{ContentHash, Document};
use strelm_core::rules::RuleId;
use strelm_core::site::PageId;
use strelm_core::tray::{ByRule, LinkSpot, LinkWish, Taken, Taking};
use strelm_store::decision::{self, Maker, Wish};
use strelm_store::reading::{self, ReadingId};
use strelm_store::{PgPool, journal, page, rule, site};
use uuid::Uuid;

use super::place::{PlaceState, RulePlaces};
use super::sweep::RuleSweep;
use crate::error::LiveError;
use crate::live_site::LiveSite;

/// Links of one decision, at most; the rest waits for somebody who looks.
const MOST: usize = 5000;

/// Starts to take what is to be taken after the latest reading, unless that was done.
pub(crate) fn take_at_once(live: &Arc<LiveSite>, pool: &PgPool) {
    let handled = live.rules_handled.load(Ordering::Acquire);
    let latest = live.latest_done.load(Ordering::Acquire);
    let mine = || live.rules_handled.compare_exchange(handled, latest, Ordering::AcqRel, Ordering::Acquire).is_ok();
    if latest <= handled || !mine() {
        return;
    }
    let (pool, live) = (pool.clone(), Arc::downgrade(live));
    tokio::spawn(async move {
        let Some(live) = Weak::upgrade(&live) else { return };
        match take(&live, &pool, ReadingId(latest)).await {
            Ok(true) => return,
            Ok(false) => {}
            Err(error) => tracing::warn!(%error, "what rules link at once cannot be taken at the moment"),
        }
        // It is tried again when the site is asked for next.
        live.rules_handled.store(handled, Ordering::Release);
    });
}

/// `false` when the model does not know all of the reading yet.
async fn take(live: &Arc<LiveSite>, pool: &PgPool, latest: ReadingId) -> Result<bool, LiveError> {
    // It was handled before this process began.
    if rule::taken_after(pool, live.id).await?.is_some_and(|after| after >= latest) {
        return Ok(true);
    }
    let is_whole = take_after(live, pool, latest).await?;
    if is_whole {
        rule::note_taken_after(pool, live.id, latest).await?;
    }
    Ok(is_whole)
}

async fn take_after(live: &Arc<LiveSite>, pool: &PgPool, latest: ReadingId) -> Result<bool, LiveError> {
    // What was read before a rule was made is left to whoever looks.
    let at_once = rule::at_once_after(pool, live.id, latest).await?;
    if at_once.is_empty() {
        return Ok(true);
    }
    let end = journal::end(pool, live.id).await?.ok_or(LiveError::NoSite)?;
    if live.at.load(Ordering::Acquire) < end.0 || live.lacks_texts.load(Ordering::Acquire) {
        return Ok(false);
    }
    // The decision has the number of the reading: whoever else comes to it finds it made.
    let maker = maker(live.id.0, latest);
    if decision::answered(pool, live.id, maker.key).await?.is_some() {
        return Ok(true);
    }
    let pages: BTreeSet<PageId> = reading::touched_pages(pool, live.id, latest).await?.into_iter().collect();
    let rules = live.ask(|model| Arc::clone(model.rules())).await?;
    let which = at_once.clone();
    let sweep = RuleSweep::of(live, pool, rules, move |rule| which.contains(&rule)).await?.only(&pages);
    let mut found: Vec<RulePlaces> = Vec::new();
    sweep.each(|page| found.push(page)).await?;
    let taken = taken(live, pool, found, at_once).await?;
    if !taken.links.is_empty() {
        decision::make(pool, live.id, maker, &Wish::Take(&taken.links, &[], &taken.refused)).await?;
    }
    Ok(true)
}

/// The links of places that rules would link, held against the tray as though an editor had taken them.
async fn taken(
    live: &Arc<LiveSite>,
    pool: &PgPool,
    found: Vec<RulePlaces>,
    at_once: BTreeSet<RuleId>,
) -> Result<Taken, LiveError> {
    let is_wanted = |place: &super::RulePlace| place.state == PlaceState::Wanted && at_once.contains(&place.rule);
    let places: Vec<(PageId, ContentHash, super::RulePlace)> = found
        .into_iter()
        .flat_map(|of| of.places.into_iter().map(move |place| (of.page, of.version, place)))
        .filter(|(_, _, place)| is_wanted(place))
        .take(MOST)
        .collect();
    let sources: BTreeSet<PageId> = places.iter().map(|(page, ..)| *page).collect();
    let texts = page::texts(pool, live.id, Some(&sources.into_iter().collect::<Vec<_>>())).await?;
    let form = site::get(pool, live.id).await?.and_then(|site| site.form_of_links());
    live.ask(move |model| {
        let read = |text: page::PageText| {
            let source = text.source?;
            Some((text.page, Document::read(source.text, source.format)))
        };
        let wish = |(page, version, place): &(PageId, ContentHash, super::RulePlace)| {
            let rule = model.rules().leading_to(place.rule, Some(&place.target))?;
            Some(LinkWish {
                source: *page,
                target: rule.leads_to(),
                carrier: LinkSpot::Words(place.words),
                version: Some(*version),
                by_hand: true,
                wording: None,
                by_rule: Some(ByRule { rule: rule.id, also_in: rule.scope.blocks.also_in() }),
                says: rule.says,
            })
        };
        let wishes: Vec<LinkWish> = places.iter().filter_map(wish).collect();
        let pages = texts.into_iter().filter_map(read).collect();
        // A single one that is refused is nothing to be taken.
        Taking::new(model.ground(form.as_ref()), pages).take(&wishes).unwrap_or_default()
    })
    .await
}

/// Whoever takes after a reading of a site, and the number of that decision.
fn maker(site: i32, latest: ReadingId) -> Maker {
    let number = |of: u64| Uuid::from_u64_pair(0x7275_6c65_735f_6174, of);
    let reading = u64::try_from(latest.0).unwrap_or_default();
    Maker { hand: number(0), key: Uuid::from_u64_pair(u64::try_from(site).unwrap_or_default() | 1 << 63, reading) }
}
