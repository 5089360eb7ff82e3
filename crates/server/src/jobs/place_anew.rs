//! Links in the tray whose page changed: they go where their words went, or tell why they cannot.

use std::collections::{BTreeMap, BTreeSet};

use strelm_core::document::Document;
use strelm_core::site::PageId;
use strelm_store::page::PageText;
use strelm_store::taken::{self, Place, TakenLink, TakenState};
use strelm_store::{PgPool, SiteId, StoreError, page};

use crate::edits::{quote_of, words_of};

const SOURCE_GONE: &str = "The page is no longer on the site. Drop this link.";
const TARGET_GONE: &str = "The page that it leads to is no longer on the site. Drop this link.";

/// Looks after the links of the tray that stand on, or lead to, some pages. O(bytes of the pages that links stand on).
pub async fn place_anew(pool: &PgPool, site: SiteId, changed: &[PageId]) -> Result<(), StoreError> {
    let changed: BTreeSet<_> = changed.iter().copied().collect();
    let concerned = |taken: &TakenLink| {
        taken.state == TakenState::Tray
            && (changed.contains(&taken.link.source)
                || taken.link.target.is_some_and(|target| changed.contains(&target)))
    };
    let links: Vec<_> = taken::planned(pool, site).await?.into_iter().filter(concerned).collect();
    if links.is_empty() {
        return Ok(());
    }
    let ends: BTreeSet<_> =
        links.iter().flat_map(|taken| [Some(taken.link.source), taken.link.target]).flatten().collect();
    let ends: Vec<_> = ends.into_iter().collect();
    let known = page::facts(pool, site, Some(&ends)).await?;
    let gone: BTreeSet<_> = known.iter().filter(|page| page.gone.is_some()).map(|page| page.facts.id).collect();
    let sources: BTreeSet<_> = links.iter().map(|taken| taken.link.source).collect();
    let sources: Vec<_> = sources.into_iter().collect();
    let texts = page::texts(pool, site, Some(&sources)).await?;
    let texts: BTreeMap<_, _> = texts.into_iter().map(|text| (text.page, text)).collect();
    let places: Vec<_> = links
        .iter()
        .filter_map(|taken| Some((taken.id, place_of(taken, texts.get(&taken.link.source), &gone)?)))
        .collect();
    taken::place(pool, site, &places).await?;
    Ok(())
}

/// `None` when the link is where it was, and nothing was said against it.
fn place_of(taken: &TakenLink, text: Option<&PageText>, gone: &BTreeSet<PageId>) -> Option<Place> {
    let link = &taken.link;
    let lost = |message: &str| Some(Place::Lost { message: message.to_owned() });
    if gone.contains(&link.source) {
        return lost(SOURCE_GONE);
    }
    if link.target.is_some_and(|target| gone.contains(&target)) {
        return lost(TARGET_GONE);
    }
    let Some(source) = text.and_then(|text| text.source.as_ref()) else { return lost(SOURCE_GONE) };
    if source.hash == link.source_hash {
        let (words, source_hash) = (link.words, link.source_hash);
        return taken.message.is_some().then_some(Place::Anew { words, source_hash });
    }
    let document = Document::read(source.text.as_str(), source.format);
    if let Some(old) = link.change.old() {
        return match document.find_link(&quote_of(taken), &old.href).filter(|found| found.in_sentence) {
            Some(found) => {
                let words = document.links()[found.ordinal].text;
                Some(Place::Anew { words, source_hash: source.hash })
            }
            None => lost("The page was changed, and this link is no longer on it. Drop this."),
        };
    }
    match words_of(&document, taken) {
        Ok(words) => Some(Place::Anew { words, source_hash: source.hash }),
        Err(why) => lost(&why),
    }
}
