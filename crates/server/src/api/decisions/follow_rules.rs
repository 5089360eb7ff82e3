//! Letting the links that rules made follow these: of rules that were changed, switched off or removed.

use std::collections::HashMap;
use std::sync::Arc;

use strelm_core::document::Document;
use strelm_core::rules::{RuleId, RuleSet};
use strelm_core::site::{Address, PageId, Target};
use strelm_core::tray::{FollowRefusal, Following, LeftOut, PlannedLink, TrayEntry, follow_rule};
use strelm_live::rules::still_links;
use strelm_live::{LiveSite, Model};
use strelm_store::page::{self, PageText};
use strelm_store::{SiteId, rule, site};

use crate::api::{ApiError, State};

/// More links do not follow at once.
const MOST_AT_ONCE: usize = 5000;

/// A link that is to change, with the address to which it leads until then.
struct Step {
    made: TrayEntry,
    to: Option<Address>,
    becomes: Following,
}

/// What goes into the tray: each link of the rules that is not as its rule would make it now, and what could not follow and
/// why. O(bytes of the pages), and a handful of queries.
pub async fn following(
    state: &State,
    id: SiteId,
    live: &Arc<LiveSite>,
    rules: &[RuleId],
    page: Option<PageId>,
) -> Result<(Vec<PlannedLink>, Vec<LeftOut>), ApiError> {
    let mut made = rule::made_links(&state.pool, id, Some(rules), page).await?;
    made.truncate(MOST_AT_ONCE);
    let form = site::get(&state.pool, id).await?.and_then(|site| site.form_of_links());
    let mut sources: Vec<PageId> = made.iter().map(|entry| entry.link.source).collect();
    sources.sort_unstable();
    sources.dedup();
    let texts = page::texts(&state.pool, id, Some(&sources)).await?;
    let tags: HashMap<PageId, Vec<String>> = texts.iter().map(|text| (text.page, text.says.tags.clone())).collect();
    let asked = rules.to_vec();
    let steps = live
        .ask(move |model| {
            let ground = model.ground(form.as_ref());
            let on = asked.iter().filter_map(|rule| model.rules().get(*rule)).filter(|kept| kept.is_on);
            let alone = on.map(|kept| (kept.rule.id, RuleSet::of(model.rules().laid(kept)))).collect();
            let step = |made: TrayEntry| {
                let from = model.site.page(made.link.source)?;
                let tags = tags.get(&made.link.source).map_or(&[][..], Vec::as_slice);
                let becomes = becomes(model, &alone, &made, tags, |target: &Target| {
                    target.href(&from.address, form.as_ref(), &ground)
                })?;
                let to = address_of(model, made.link.target.as_ref()?);
                Some(Step { made, to, becomes })
            };
            made.into_iter().filter_map(step).collect::<Vec<_>>()
        })
        .await?;
    let followed = move || -> Vec<_> {
        let documents: HashMap<PageId, Document> = texts
            .into_iter()
            .filter_map(|text: PageText| Some((text.page, text.source?)))
            .map(|(page, source)| (page, Document::read(source.text, source.format)))
            .collect();
        let follow = |step: &Step| {
            let document = documents.get(&step.made.link.source).ok_or(FollowRefusal::NotEditable)?;
            follow_rule(document, &step.made, step.to.as_ref(), &step.becomes)
        };
        steps.iter().map(|step| follow(step).map_err(|why| left_out(&step.made, why))).collect()
    };
    let (mut links, mut refused) = (Vec::new(), Vec::new());
    for one in state.aside(followed).await? {
        match one {
            Ok(link) => links.push(link),
            Err(left) => refused.push(left),
        }
    }
    match links.is_empty() {
        true => Err(ApiError::Conflict(refused.first().map_or_else(
            || "All links of these rules are as the rules make them.".to_owned(),
            |refused| refused.why.clone(),
        ))),
        false => Ok((links, refused)),
    }
}

/// What becomes of a link; `None` where it is as its rule makes it. `alone` are the rules that are on, each by itself, as those for
/// which it stands.
fn becomes(
    model: &Model,
    alone: &HashMap<RuleId, RuleSet>,
    made: &TrayEntry,
    tags: &[String],
    href: impl Fn(&Target) -> Option<String>,
) -> Option<Following> {
    let link = &made.link;
    let alone = link.by_rule.and_then(|by| alone.get(&by.rule));
    let rule = alone.and_then(|alone| still_links(model, alone, link.source, tags, &link.said));
    let Some(rule) = rule else { return Some(Following::Off) };
    let target = rule.leads_to();
    if target == Target::Page(link.source) {
        return Some(Following::Off);
    }
    if rule.makes(link.target.as_ref(), &link.says) {
        return None;
    }
    Some(Following::Leads { href: href(&target)?, target, says: rule.says.clone() })
}

fn address_of(model: &Model, target: &Target) -> Option<Address> {
    match target {
        Target::Page(page) | Target::Place { page, .. } => {
            let gone = || model.gone.get(page).map(|known| known.facts.address.clone());
            model.site.page(*page).map(|facts| facts.address.clone()).or_else(gone)
        }
        Target::PlannedPage(planned) => model.planned_pages.get(planned).cloned(),
        Target::Outside { address, .. } | Target::File(address) => Some(address.clone()),
        Target::Mail(_) | Target::Phone(_) => None,
    }
}

fn left_out(made: &TrayEntry, why: FollowRefusal) -> LeftOut {
    LeftOut {
        source: made.link.source.0,
        target: made.link.target_page().map(|page| page.0),
        words: made.link.said.anchor.clone(),
        why: why.to_string(),
    }
}
