//! What a site's own links tell of its authors. It is learnt in a model of the site that nobody else sees: links are hidden
//! there and shown again.

use std::collections::HashSet;
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Link;
use strelm_core::language::Stems;
use strelm_core::openings::learning::{BarePage, HiddenLink, Learner};
use strelm_core::openings::{Ensemble, Habits};
use strelm_core::phrases::PageText;
use strelm_core::site::{Address, BlockKey, PageId, Site};
use strelm_store::{PgPool, SiteId, StoreError, furniture, habits, page};

use super::follow::Delta;
use super::model::{Model, PageDelta};
use super::page_deltas::page_deltas;
use super::registry::LiveError;

/// Pages whose texts are in memory at once.
const AT_ONCE: usize = 100;

/// What is known of a site's habits. What was learnt beside another judge than this one says nothing.
///
/// # Errors
/// [`StoreError`].
pub async fn known_habits(pool: &PgPool, site: SiteId, shipped: [u8; 32]) -> Result<Option<Habits>, StoreError> {
    let kept = habits::get(pool, site).await?.filter(|kept| kept.judge == shipped);
    Ok(kept.and_then(|kept| Habits::parse(&kept.learnt?).ok()))
}

/// What the links of a site tell beside what the judge knows; `None` when they are too few. O(bytes of its sources), and
/// as much memory as a model of the site takes. To be called where work may take long.
///
/// # Errors
/// [`LiveError`].
pub async fn learn_habits(
    pool: &PgPool,
    site: SiteId,
    entry: Address,
    shipped: Arc<Ensemble>,
) -> Result<Option<Habits>, LiveError> {
    let mut model = Model::new(entry, Arc::clone(&shipped));
    Delta::load_texts(pool, site, &mut model).await?;
    let furniture = Arc::new(furniture::all(pool, site).await?);
    let mut learner = Learner::of(&model.book);
    while let Some(pages) = learner.next_pages() {
        let (mut all_hidden, mut shown) = (Vec::new(), Vec::new());
        for some in pages.chunks(AT_ONCE) {
            let facts = page::facts(pool, site, Some(some)).await?;
            let deltas = page_deltas(pool, site, facts, Arc::clone(&furniture)).await?;
            for (page, links, text) in hide(&mut model, deltas, &furniture) {
                all_hidden.push((page, links));
                shown.push((page, text));
            }
        }
        model.book.settle();
        learner.look_at(&model.site, &model.book, &all_hidden);
        for (page, text) in shown {
            model.book.exchange(page, text);
        }
        model.book.settle();
    }
    Ok(learner.learnt(&shipped))
}

/// A page with the links that were hidden on it, and its text as it was.
type Hidden = (PageId, Vec<HiddenLink>, Option<PageText>);

/// Puts in pages without the links that tell.
fn hide(model: &mut Model, deltas: Vec<PageDelta>, furniture: &HashSet<BlockKey>) -> Vec<Hidden> {
    let stems = Stems::default();
    let bare = |delta: PageDelta| Some((bare(&model.site, &delta, furniture, &stems)?, delta));
    let bare: Vec<(BarePage, PageDelta)> = deltas.into_par_iter().filter_map(bare).collect();
    let put = |(bare, delta): (BarePage, PageDelta)| {
        let BarePage { document, prose, hidden } = bare;
        let id = delta.known.facts.id;
        let shown = model.book.put_read(id, Some((&document, prose)), |href| delta.hrefs.get(href).cloned());
        (id, hidden, shown)
    };
    bare.into_iter().map(put).collect()
}

fn bare(site: &Site, delta: &PageDelta, furniture: &HashSet<BlockKey>, stems: &Stems) -> Option<BarePage> {
    let PageDelta { known, hrefs, source, .. } = delta;
    let (document, ..) = source.as_ref()?;
    let target = |link: &Link| site.page_at(hrefs.get(&link.href)?).filter(|to| *to != known.facts.id);
    BarePage::of(document, furniture, (stems, known.facts.language), target)
}
