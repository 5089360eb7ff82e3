//! Texts of pages as they are kept, read for a model.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Document;
use strelm_core::language::{Language, Stems};
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Address, BlockKey, PageId};
use strelm_store::{PgPool, SiteId, page};

use super::model::TextDelta;
use super::registry::LiveError;

/// The texts of some pages, each read in its language, side by side. Two queries, O(bytes of the texts).
pub async fn text_deltas(
    pool: &PgPool,
    site: SiteId,
    pages: Vec<(PageId, Language)>,
    furniture: Arc<HashSet<BlockKey>>,
) -> Result<Vec<TextDelta>, LiveError> {
    let which: Vec<PageId> = pages.iter().map(|(page, _)| *page).collect();
    let mut hrefs: BTreeMap<PageId, HashMap<String, Address>> = BTreeMap::new();
    for link in page::content_links(pool, site, &which).await? {
        hrefs.entry(link.page).or_default().insert(link.href, link.to);
    }
    let mut texts: HashMap<PageId, page::PageText> =
        page::texts(pool, site, Some(&which)).await?.into_iter().map(|text| (text.page, text)).collect();
    let with_texts: Vec<_> = pages
        .into_iter()
        .map(|(page, language)| (page, language, texts.remove(&page).and_then(|text| text.source)))
        .collect();
    let parse = move || -> Vec<TextDelta> {
        let stems = Stems::default();
        let parse = |(page, language, source): (PageId, Language, Option<page::Source>)| {
            let source = source.map(|source| {
                let mut document = Document::read(source.text, source.format);
                document.mark_furniture(&furniture);
                let prose = ReadProse::with(&stems, &document, language);
                (document, prose, source.hash)
            });
            TextDelta { page, language, source, hrefs: HashMap::new() }
        };
        with_texts.into_par_iter().map(parse).collect()
    };
    // Parsing is work for a thread of its own. What breaks off there is no page without a text.
    let mut read = tokio::task::spawn_blocking(parse).await.map_err(|_| LiveError::BrokenOff)?;
    for text in &mut read {
        text.hrefs = hrefs.remove(&text.page).unwrap_or_default();
    }
    Ok(read)
}
