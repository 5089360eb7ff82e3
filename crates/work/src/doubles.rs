//! Pages that are one page under several addresses: one of them stays, the others lead to it.

use std::collections::{HashMap, HashSet};

use strelm_core::site::{Address, PageId, doubles};
use strelm_store::page::{self, Gone, Version};
use strelm_store::{PgPool, SiteId, StoreError, redirect};

/// Finds them anew among all pages; what is no double any more is a page of its own again. O(pages × log pages), and a
/// handful of statements.
pub(super) async fn settle_doubles(pool: &PgPool, site: SiteId) -> Result<(), StoreError> {
    let versions = page::all_versions(pool, site).await?;
    let there: Vec<_> = versions.iter().filter(|version| version.is_there()).collect();
    let known = there.iter().map(|v| (v.number, &v.address, v.crawled_hash, v.canonical.as_ref()));
    let found = doubles(known);
    let by_number: HashMap<PageId, &Version> = there.iter().map(|version| (version.number, *version)).collect();
    let is_double: HashSet<PageId> = found.iter().map(|double| double.page).collect();

    let pairs = found.iter().filter_map(|double| Some((by_number.get(&double.page)?, by_number.get(&double.main)?)));
    let before: HashMap<Address, Address> = redirect::all(pool, site).await?.into_iter().collect();
    let redirects: Vec<_> = pairs
        .map(|(page, main)| (page.address.clone(), main.address.clone()))
        .filter(|(from, to)| before.get(from) != Some(to))
        .collect();
    let ended: Vec<_> = there
        .iter()
        .filter(|version| !is_double.contains(&version.number) && before.contains_key(&version.address))
        .map(|version| version.address.clone())
        .collect();
    redirect::put_all(pool, site, &redirects).await?;
    if !ended.is_empty() {
        redirect::put_dead(pool, site, &[], &ended).await?;
    }
    let new: Vec<_> = found.iter().map(|double| (double.page, Gone::Same)).collect();
    page::mark_gone(pool, site, &new).await?;
    let again = there.iter().filter(|v| v.gone == Some(Gone::Same) && !is_double.contains(&v.number));
    page::mark_there(pool, site, &again.map(|version| version.number).collect::<Vec<_>>()).await?;
    Ok(())
}
