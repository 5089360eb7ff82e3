//! Pages as they are kept, made ready for a model.

use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::{Document, Region};
use strelm_core::language::{Language, Stems};
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Address, BlockKey, OutLink, PageId};
use strelm_store::{PgPool, SiteId, page};

use super::model::PageDelta;
use super::registry::LiveError;

/// All that a model takes from some pages; their texts are read side by side. A handful of queries, O(bytes of the texts).
pub async fn page_deltas(
    pool: &PgPool,
    site: SiteId,
    known: Vec<page::KnownPage>,
    furniture: Arc<HashSet<BlockKey>>,
) -> Result<Vec<PageDelta>, LiveError> {
    let which: Vec<PageId> = known.iter().map(|known| known.facts.id).collect();
    let which = Some(which.as_slice());
    let mut links: BTreeMap<PageId, Vec<OutLink>> = BTreeMap::new();
    let mut fragments: BTreeMap<PageId, Vec<(Address, String)>> = BTreeMap::new();
    let mut hrefs: BTreeMap<PageId, HashMap<String, Address>> = BTreeMap::new();
    for link in page::links(pool, site, which).await? {
        if let Some(fragment) = link.fragment {
            fragments.entry(link.page).or_default().push((link.to.clone(), fragment));
        }
        if link.region == Region::Content {
            hrefs.entry(link.page).or_default().insert(link.href, link.to.clone());
        }
        links.entry(link.page).or_default().push(OutLink { to: link.to, region: link.region });
    }
    let texts = page::texts(pool, site, which).await?;
    let languages: HashMap<PageId, Language> =
        known.iter().map(|known| (known.facts.id, known.facts.language)).collect();
    let parse = move || -> BTreeMap<_, _> {
        let stems = Stems::default();
        let parse = |text: page::PageText| {
            let parsed = text.source.map(|source| {
                let mut document = Document::read(source.text, source.format);
                document.mark_furniture(&furniture);
                let language = languages.get(&text.page).copied().unwrap_or(Language::Other);
                let prose = ReadProse::with(&stems, &document, language);
                (document, prose, source.hash)
            });
            (text.page, (parsed, text.ids))
        };
        texts.into_par_iter().map(parse).collect()
    };
    // Parsing is work for a thread of its own. What breaks off there is no page without a text.
    let mut sources = tokio::task::spawn_blocking(parse).await.map_err(|_| LiveError::BrokenOff)?;
    let delta = |known: page::KnownPage| {
        let id = known.facts.id;
        let (source, ids) = sources.remove(&id).unwrap_or_default();
        PageDelta {
            links: links.remove(&id).unwrap_or_default(),
            fragments: fragments.remove(&id).unwrap_or_default(),
            hrefs: hrefs.remove(&id).unwrap_or_default(),
            source,
            ids,
            known,
        }
    };
    Ok(known.into_iter().map(delta).collect())
}
