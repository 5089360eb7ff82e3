//! Categories and tags that have an archive: a page to which others link with `rel=tag`.

use std::collections::BTreeMap;
use std::sync::Arc;

use sqlx::PgPool;
use strelm_core::rules::TermArchive;
use strelm_core::site::{Address, PageId};

use crate::{SiteId, StoreError, page_id};

/// Longer texts of links, in letters, are no names.
const LONGEST_NAME: usize = 100;

/// The archives of a site, ascending by page. A term is called what most links call it. O(links that name a term).
///
/// # Errors
/// [`StoreError::Database`].
pub async fn archives(pool: &PgPool, site: SiteId) -> Result<Vec<TermArchive>, StoreError> {
    let rows = sqlx::query!(
        "select archive.number, archive.address, link.anchor, array_agg(distinct link.page_number) as \"carriers!\"
         from link join page as carrier on carrier.site_id = link.site_id and carrier.number = link.page_number
              join page as archive on archive.site_id = link.site_id and archive.address = link.to_address
         where link.site_id = $1 and link.is_tag and link.region <> 'menu' and link.page_number <> archive.number
               and carrier.gone is null and archive.gone is null
         group by archive.number, archive.address, link.anchor order by archive.number, count(*) desc, link.anchor",
        site.0,
    );
    let mut archives: BTreeMap<PageId, (TermArchive, Vec<PageId>)> = BTreeMap::new();
    for row in rows.fetch_all(pool).await? {
        let (page, name) = (page_id(row.number), row.anchor.trim());
        let Some(address) = Address::parse(&row.address).ok() else { continue };
        let Some(taxonomy) = TermArchive::taxonomy_of(&address) else { continue };
        let (archive, carriers) = archives.entry(page).or_insert_with(|| {
            let (taxonomy, name) = (taxonomy.to_owned(), String::new());
            (TermArchive { page, taxonomy, name, carriers: Arc::default() }, Vec::new())
        });
        if archive.name.is_empty() && name.chars().count() <= LONGEST_NAME {
            archive.name = name.to_owned();
        }
        carriers.extend(row.carriers.into_iter().map(page_id));
    }
    let settled = archives.into_values().map(|(archive, mut carriers)| {
        carriers.sort_unstable();
        carriers.dedup();
        TermArchive { carriers: carriers.into(), ..archive }
    });
    Ok(settled.filter(|archive| !archive.name.is_empty()).collect())
}
