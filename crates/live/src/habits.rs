//! What a site's own links tell of its authors. It is learnt in a model of the site that nobody else sees: links are hidden
//! there and shown again.

use std::collections::HashSet;
use std::sync::Arc;

use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Link;
use strelm_core::language::Stems;
use strelm_core::openings::learning::{BarePage, HiddenLink, Learner};
use strelm_core::openings::{Ensemble, Habits};
use strelm_core::phrases::BookText;
use strelm_core::site::{Address, BlockKey, PageId, Site};
use strelm_store::page::KnownPage;
use strelm_store::{PgPool, SiteId, boilerplate, page};

use super::error::LiveError;
use super::follow::Delta;
use super::model::{Model, TextDelta};
use super::text_deltas::text_deltas;

/// Pages whose texts are in memory at once.
const AT_ONCE: usize = 100;

/// Pages of a large site that tell of its authors: as many stretches of pages that were read one after the other, since
/// such pages link to each other.
const MOST_PAGES: usize = 10_000;
const STRETCHES: usize = 10;

/// What the links of a site tell beside what the judge knows; `None` when they are too few. O(bytes of the sources of
/// [`MOST_PAGES`] pages at most), and as much memory as a model of these takes. To be called where work may take long.
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
    let pages: Vec<KnownPage> = page::facts(pool, site, None).await?;
    let there = pages.into_iter().filter(|page| page.gone.is_none()).collect();
    Delta::load_some(pool, site, stretches(there), &mut model).await?;
    let boilerplate = Arc::new(boilerplate::all(pool, site).await?);
    let mut learner = Learner::of(&model.book);
    while let Some(pages) = learner.next_pages() {
        let (mut all_hidden, mut shown) = (Vec::new(), Vec::new());
        for some in pages.chunks(AT_ONCE) {
            let known = some.iter().filter_map(|page| Some((*page, model.site.page(*page)?.language))).collect();
            let deltas = text_deltas(pool, site, known, Arc::clone(&boilerplate)).await?;
            for (page, links, text) in hide(&mut model, deltas, &boilerplate) {
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

/// The pages of a site that is not too large, else stretches of them, evenly apart.
fn stretches<T>(pages: Vec<T>) -> Vec<T> {
    if pages.len() <= MOST_PAGES {
        return pages;
    }
    let (every, kept) = (pages.len() / STRETCHES, MOST_PAGES / STRETCHES);
    let is_kept = |at: usize| at % every < kept && at / every < STRETCHES;
    pages.into_iter().enumerate().filter(|(at, _)| is_kept(*at)).map(|(_, page)| page).collect()
}

/// A page with the links that were hidden on it, and its text as it was.
type Hidden = (PageId, Vec<HiddenLink>, Option<BookText>);

/// Puts in pages without the links that tell.
fn hide(model: &mut Model, deltas: Vec<TextDelta>, boilerplate: &HashSet<BlockKey>) -> Vec<Hidden> {
    let stems = Stems::default();
    let bare = |delta: TextDelta| Some((bare(&model.site, &delta, boilerplate, &stems)?, delta));
    let bare: Vec<(BarePage, TextDelta)> = deltas.into_par_iter().filter_map(bare).collect();
    let put = |(bare, delta): (BarePage, TextDelta)| {
        let BarePage { document, prose, hidden } = bare;
        let id = delta.page;
        let shown = model.book.put_read(id, Some((&document, prose)), |href| delta.hrefs.get(href).cloned());
        (id, hidden, shown)
    };
    bare.into_iter().map(put).collect()
}

fn bare(site: &Site, delta: &TextDelta, boilerplate: &HashSet<BlockKey>, stems: &Stems) -> Option<BarePage> {
    let TextDelta { page, language, hrefs, source, .. } = delta;
    let (document, ..) = source.as_ref()?;
    let target = |link: &Link| site.page_at(hrefs.get(&link.href)?).filter(|to| to != page);
    BarePage::of(document, boilerplate, (stems, *language), target)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_large_site_is_told_by_stretches_of_it_and_a_small_one_by_all() {
        assert_eq!(stretches((0..MOST_PAGES).collect()).len(), MOST_PAGES);
        for all in [MOST_PAGES + 1, 10_999, 99_999, 1_234_567] {
            let kept = stretches((0..all).collect::<Vec<usize>>());
            assert_eq!(kept.len(), MOST_PAGES, "{all}");
            let jumps = kept.windows(2).filter(|two| two[1] != two[0] + 1).count();
            assert!(jumps < STRETCHES, "{jumps} of {all}");
            assert!(kept[MOST_PAGES - 1] >= all - all / STRETCHES - STRETCHES, "up to the end of {all}");
        }
    }
}
