//! Links in the tray whose page changed: they go where their words went, or tell why they cannot.

use std::collections::{BTreeMap, BTreeSet};

use strelm_core::document::Document;
use strelm_core::site::PageId;
use strelm_core::tray::{SourceNow, TrayEntry, TrayState, place_of};
use strelm_store::page::Source;
use strelm_store::{PgPool, SiteId, StoreError, page, tray};

/// Looks after the links of the tray that stand on, or lead to, some pages. O(bytes of the pages that links stand on).
pub async fn place_anew(pool: &PgPool, site: SiteId, changed: &[PageId]) -> Result<(), StoreError> {
    let changed: BTreeSet<_> = changed.iter().copied().collect();
    let concerned = |entry: &TrayEntry| {
        entry.state == TrayState::Tray
            && (changed.contains(&entry.link.source)
                || entry.link.target_page().is_some_and(|target| changed.contains(&target)))
    };
    let entries: Vec<_> = tray::planned(pool, site).await?.into_iter().filter(concerned).collect();
    if entries.is_empty() {
        return Ok(());
    }
    let sources: BTreeSet<_> = entries.iter().map(|entry| entry.link.source).collect();
    let targets = entries.iter().filter_map(|entry| entry.link.target_page());
    let ends: BTreeSet<_> = targets.chain(sources.iter().copied()).collect();
    let known = page::facts(pool, site, Some(&ends.into_iter().collect::<Vec<_>>())).await?;
    let gone: BTreeSet<_> = known.iter().filter(|page| page.gone.is_some()).map(|page| page.facts.id).collect();
    let texts = page::texts(pool, site, Some(&sources.into_iter().collect::<Vec<_>>())).await?;
    let texts: BTreeMap<_, _> = texts.into_iter().filter_map(|text| Some((text.page, text.source?))).collect();
    let mut documents: BTreeMap<PageId, Document> = BTreeMap::new();
    let mut places = Vec::new();
    for entry in &entries {
        let known = match texts.get(&entry.link.source) {
            None => SourceNow::Gone,
            Some(source) if source.hash == entry.link.source_hash => SourceNow::Same,
            Some(source) => SourceNow::Changed(documents.entry(entry.link.source).or_insert_with(|| read(source))),
        };
        let place = place_of(entry, known, |page| gone.contains(&page));
        places.extend(place.map(|place| (entry.id, place)));
    }
    tray::place(pool, site, &places).await?;
    Ok(())
}

fn read(source: &Source) -> Document {
    Document::read(source.text.as_str(), source.format)
}
