//! Releasing: page by page, each only if it is still the version that was read.

use strelm_core::document::{ContentHash, Document, Edit, LinkTarget};
use strelm_core::site::{Address, PageId};
use strelm_sources::crawl::CrawledPage;
use strelm_sources::fetch::{FetchLimits, fetch};
use strelm_sources::micropub::{Micropub, MicropubError, PageSource};
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::taken::{self, TakenLink};
use strelm_store::{SiteId, page};

use super::read_page::read_page;
use super::{JobError, Tools};

const NO_INTERFACE: &str = "The site has no editing interface, or its token is missing. Set both, then release again.";
const CHANGED: &str = "The page was changed on the site after it was read, so nothing was touched. Drop this link, read \
    the site again, and take it anew.";

pub async fn run(tools: &Tools, site: SiteId, id: ReleaseId) -> Result<(), JobError> {
    let (_, micropub) = tools.site(site).await?;
    release::set_state(&tools.pool, site, id, ReleaseState::Running).await?;
    let links = taken::of_releases(&tools.pool, &[id]).await?;
    for waiting in release::pages(&tools.pool, &[id]).await? {
        if waiting.state != PageState::Waiting {
            continue;
        }
        let on_page: Vec<_> =
            links.iter().map(|(_, taken)| taken).filter(|taken| taken.link.source == waiting.page).collect();
        let address = address_of(tools, site, waiting.page).await?;
        let result = match &micropub {
            Some(micropub) => send(tools, micropub, &address, &waiting, &on_page).await?,
            None => Err(NO_INTERFACE.to_owned()),
        };
        let (state, message) = match result {
            Ok(()) => {
                read_again(tools, site, micropub.as_ref(), &address).await?;
                (PageState::Out, None)
            }
            Err(message) => (PageState::HeldBack, Some(message)),
        };
        release::finish_page(&tools.pool, site, id, waiting.page, state, message.as_deref()).await?;
    }
    release::set_state(&tools.pool, site, id, ReleaseState::Out).await?;
    Ok(())
}

/// Holds back what has not gone out yet, so that nothing is stuck half way.
pub async fn break_off(tools: &Tools, site: SiteId, id: ReleaseId, message: &str) -> Result<(), JobError> {
    for page in release::pages(&tools.pool, &[id]).await?.into_iter().filter(|page| page.state == PageState::Waiting) {
        release::finish_page(&tools.pool, site, id, page.page, PageState::HeldBack, Some(message)).await?;
    }
    release::set_state(&tools.pool, site, id, ReleaseState::Out).await?;
    Ok(())
}

/// Sends the links of one page out. The inner error says to the editor why they were held back.
async fn send(
    tools: &Tools,
    micropub: &Micropub,
    address: &Address,
    waiting: &ReleasePage,
    links: &[&TakenLink],
) -> Result<Result<(), String>, JobError> {
    let current = match micropub.source(address).await {
        Ok(source) => source,
        Err(error) => return Ok(Err(held_back(&error))),
    };
    // After a crash the page may be out already.
    let noted = release::versions(&tools.pool, waiting.release, waiting.page).await?;
    if noted.is_some_and(|(_, after)| after == current.html) {
        return Ok(Ok(()));
    }
    let after = match edited(&current.html, links) {
        Ok(after) => after,
        Err(message) => return Ok(Err(message)),
    };
    release::note_versions(&tools.pool, waiting.release, waiting.page, &current.html, &after).await?;
    Ok(replace(micropub, address, &current, &after).await)
}

/// The page's source with all its links, in one pass.
fn edited(source: &str, links: &[&TakenLink]) -> Result<String, String> {
    let hash = ContentHash::of(source);
    if links.iter().any(|taken| taken.link.source_hash != hash) {
        return Err(CHANGED.to_owned());
    }
    let document = Document::from_html(source);
    let refused = |taken: &TakenLink, why: &dyn std::fmt::Display| {
        format!("“{}” cannot carry the link: {why}. Drop it and take other words.", taken.link.anchor)
    };
    let mut edits = Vec::with_capacity(links.len());
    for taken in links {
        let target = LinkTarget { href: taken.link.href.clone() };
        edits.push(document.put_link(taken.link.words, &target).map_err(|why| refused(taken, &why))?);
    }
    let edit = Edit::compose(hash, edits).and_then(|edit| edit.apply(source));
    edit.map_err(|error| format!("The links of this page do not go together: {error}. Drop one of them."))
}

/// Replaces a page's content and looks whether the site now holds exactly that.
pub(super) async fn replace(
    micropub: &Micropub,
    address: &Address,
    current: &PageSource,
    after: &str,
) -> Result<(), String> {
    let sent = micropub.replace_content(address, after, current.version.as_deref()).await;
    // When the answer was lost the change may have gone through, so the site itself is asked in any case.
    let now = micropub.source(address).await.map_err(|error| held_back(&error))?;
    match sent {
        _ if now.html == after => Ok(()),
        Err(error) => Err(held_back(&error)),
        Ok(()) if now.html == current.html => {
            Err("The site took the change but did not keep it. Ask whoever runs the site, then release again."
                .to_owned())
        }
        Ok(()) => {
            Err("The site stored something else than what was sent. Look at the page before you go on.".to_owned())
        }
    }
}

pub(super) fn held_back(error: &MicropubError) -> String {
    match error {
        MicropubError::ChangedMeanwhile => CHANGED.to_owned(),
        MicropubError::Unreachable(why) => format!("The site cannot be reached ({why}). Release again later."),
        MicropubError::NotEditable => "The page is no longer there, or cannot be edited. Drop the link.".to_owned(),
        other => format!("{}.", capitalised(&other.to_string())),
    }
}

fn capitalised(text: &str) -> String {
    let mut characters = text.chars();
    characters.next().map(|first| first.to_uppercase().chain(characters).collect()).unwrap_or_default()
}

pub(super) async fn address_of(tools: &Tools, site: SiteId, page: PageId) -> Result<Address, JobError> {
    let facts = page::facts(&tools.pool, site, Some(&[page])).await?.pop().ok_or(JobError::NoSite)?;
    Ok(facts.address)
}

/// Reads one page anew after it was changed, so that what Strelm shows is what the site holds.
pub(super) async fn read_again(
    tools: &Tools,
    site: SiteId,
    micropub: Option<&Micropub>,
    address: &Address,
) -> Result<(), JobError> {
    let is_html = |media_type: &str| media_type == "text/html";
    let Ok(fetched) = fetch(&tools.client, address, FetchLimits::default(), is_html).await else { return Ok(()) };
    if !fetched.is_html() || fetched.address != *address {
        return Ok(());
    }
    let source = match micropub {
        Some(micropub) => micropub.source(address).await.ok().map(|source| source.html),
        None => None,
    };
    let crawled = CrawledPage { address: address.clone(), document: Document::from_html(fetched.text()) };
    let read: Vec<_> = read_page(&crawled, source).into_iter().collect();
    page::put_all(&tools.pool, site, &read).await?;
    page::mark_term_archives(&tools.pool, site).await?;
    Ok(())
}
