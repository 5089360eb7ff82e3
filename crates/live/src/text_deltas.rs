//! Texts of pages as they are kept, read for a model.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::{Document, Region};
use strelm_core::language::{Language, Stems};
use strelm_core::phrases::ReadProse;
use strelm_core::site::{BlockKey, PageId};
use strelm_store::looked::{self, LookedPage};
use strelm_store::page::StoredLink;
use strelm_store::{PgPool, SiteId, boilerplate, page};

use super::error::LiveError;
use super::model::TextDelta;
use super::said::looked_links;

/// Pages of which is read in one go what was found on them.
const LOOKED_AT_ONCE: usize = 1000;

/// Reads texts in stretches that `next` names, until it names none, each while the one before is put in: no more of them
/// are in memory at a time than it takes to read some. To be called where work may take long.
pub async fn each_text(
    pool: &PgPool,
    site: SiteId,
    mut next: impl FnMut() -> Result<Vec<(PageId, Language)>, LiveError>,
    mut put: impl FnMut(Vec<TextDelta>) -> Result<(), LiveError>,
) -> Result<(), LiveError> {
    let boilerplate = Arc::new(boilerplate::all(pool, site).await?);
    let mut read_next = || {
        let (some, pool, boilerplate) = (next()?, pool.clone(), Arc::clone(&boilerplate));
        Ok::<_, LiveError>(tokio::spawn(async move { text_deltas(&pool, site, some, boilerplate).await }))
    };
    let mut ready = read_next()?.await.map_err(|_| LiveError::BrokenOff)??;
    while !ready.is_empty() {
        let next = read_next()?;
        put(ready)?;
        ready = next.await.map_err(|_| LiveError::BrokenOff)??;
    }
    Ok(())
}

/// What was found on pages in an earlier run, in stretches. O(bytes of it).
pub async fn each_looked(
    pool: &PgPool,
    site: SiteId,
    judge: [u8; 32],
    pages: Vec<PageId>,
    mut put: impl FnMut(Vec<LookedPage>) -> Result<(), LiveError>,
) -> Result<(), LiveError> {
    for some in pages.chunks(LOOKED_AT_ONCE) {
        put(looked::of(pool, site, &judge, some).await?)?;
    }
    Ok(())
}

/// The texts of some pages, each read in its language, side by side. Two queries, O(bytes of the texts).
pub async fn text_deltas(
    pool: &PgPool,
    site: SiteId,
    pages: Vec<(PageId, Language)>,
    boilerplate: Arc<HashSet<BlockKey>>,
) -> Result<Vec<TextDelta>, LiveError> {
    let which: Vec<PageId> = pages.iter().map(|(page, _)| *page).collect();
    let mut stored: BTreeMap<PageId, Vec<StoredLink>> = BTreeMap::new();
    for link in page::links(pool, site, Some(&which)).await? {
        stored.entry(link.page).or_default().push(link);
    }
    let mut texts: HashMap<PageId, page::PageText> =
        page::texts(pool, site, Some(&which)).await?.into_iter().map(|text| (text.page, text)).collect();
    let with_texts: Vec<_> = pages
        .into_iter()
        .map(|(page, language)| {
            let source = texts.remove(&page).and_then(|text| text.source);
            (page, language, source, stored.remove(&page).unwrap_or_default())
        })
        .collect();
    let parse = move || -> Vec<TextDelta> {
        let stems = Stems::default();
        let parse = |(page, language, source, stored): (PageId, Language, Option<page::Source>, Vec<StoredLink>)| {
            let source = source.map(|source| {
                let mut document = Document::read(source.text, source.format);
                document.mark_boilerplate(&boilerplate);
                let prose = ReadProse::with(&stems, &document, language);
                (document, prose, source.hash)
            });
            let said = looked_links(source.as_ref().map(|(document, ..)| document), &stored, language);
            let content = stored.into_iter().filter(|link| link.region == Region::Content);
            let hrefs = content.map(|link| (link.href, link.to)).collect();
            TextDelta { page, language, source, hrefs, said }
        };
        with_texts.into_par_iter().map(parse).collect()
    };
    // Parsing is work for a thread of its own. What breaks off there is no page without a text.
    tokio::task::spawn_blocking(parse).await.map_err(|_| LiveError::BrokenOff)
}
