//! Pages as they are kept, with their links but without their texts, made ready for a model.

use std::collections::{BTreeMap, HashMap};

use strelm_core::site::{Address, OutLink, PageId};
use strelm_store::page::{KnownPage, PageMarks};
use strelm_store::{PgPool, SiteId, StoreError, page};

use super::model::GraphDelta;

/// All but the texts of some pages. Two queries, O(their links).
pub async fn graph_deltas(pool: &PgPool, site: SiteId, known: Vec<KnownPage>) -> Result<Vec<GraphDelta>, StoreError> {
    let which: Vec<PageId> = known.iter().map(|known| known.facts.id).collect();
    let mut links: BTreeMap<PageId, Vec<OutLink>> = BTreeMap::new();
    let mut fragments: BTreeMap<PageId, Vec<(Address, String)>> = BTreeMap::new();
    let (roads, marks) = tokio::try_join!(page::roads(pool, site, &which), page::marks(pool, site, &which))?;
    for road in roads {
        if let Some(fragment) = road.fragment {
            fragments.entry(road.page).or_default().push((road.to.clone(), fragment));
        }
        links.entry(road.page).or_default().push(OutLink { to: road.to, region: road.region, marks: road.marks });
    }
    let mut marks: HashMap<PageId, PageMarks> = marks.into_iter().map(|marks| (marks.page, marks)).collect();
    let delta = |known: KnownPage| {
        let id = known.facts.id;
        let marks = marks.remove(&id);
        GraphDelta {
            links: links.remove(&id).unwrap_or_default(),
            fragments: fragments.remove(&id).unwrap_or_default(),
            version: marks.as_ref().and_then(|marks| marks.version),
            ids: marks.map(|marks| marks.ids).unwrap_or_default(),
            known,
        }
    };
    Ok(known.into_iter().map(delta).collect())
}
