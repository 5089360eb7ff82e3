//! Taking a release back. A page that is still as the release left it gets its bytes again; on one that was changed
//! since, by a later release or on the site, the release's own links are taken out and all else stays.

use strelm_core::document::Document;
use strelm_core::site::Address;
use strelm_core::tray::{Ended, TrayEntry, TrayState, take_out};
use strelm_sources::editing::Editor;
use strelm_store::lock::WorkLock;
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::site::Way;
use strelm_store::{SiteId, tray};

use super::read_again::{address_of, read_again};
use super::sending::{Unsent, held_back, interrupted, replace, source_of};
use super::{JobError, Tools};

const NO_INTERFACE: &str =
    "The site has no editing interface, or its token is missing. Set both in Setup, then try again.";
const GONE: &str = "The page is no longer on the site, and with it the links.";

/// Takes a release back, page after page.
pub async fn run(tools: &Tools, site: SiteId, id: ReleaseId, lock: &mut WorkLock) -> Result<(), JobError> {
    let is_to_run = |state| state == ReleaseState::TakingBack;
    if !release::get(&tools.pool, site, id).await?.is_some_and(|release| is_to_run(release.state)) {
        return Ok(());
    }
    let (settings, editor) = tools.site(site).await?;
    let Some(editor) = editor.filter(|_| settings.way() == Way::Written) else {
        release::set_state(&tools.pool, site, id, ReleaseState::Out, Some(NO_INTERFACE)).await?;
        return Ok(());
    };
    let links = tray::of_releases(&tools.pool, &[id]).await?;
    let mut left = false;
    for page in release::pages(&tools.pool, &[id]).await? {
        if !matches!(page.state, PageState::Out | PageState::NotTakenBack) {
            left |= page.state == PageState::NotTakenBack;
            continue;
        }
        if !lock.is_held().await {
            return Err(JobError::LockLost);
        }
        let on_page = links.iter().map(|(_, taken)| taken);
        let on_page: Vec<_> =
            on_page.filter(|taken| taken.link.source == page.page && taken.state == TrayState::Out).collect();
        let restored = match address_of(tools, site, page.page).await? {
            Some(address) => restore(tools, site, &editor, &address, &page, &on_page).await?,
            None => Restored::Links(on_page.iter().map(|taken| ended(taken, Some(GONE.to_owned()))).collect()),
        };
        let ended = match restored {
            Restored::Links(ended) => ended,
            // Nothing else will fare better for now; it can be tried again.
            Restored::Interrupted(why) => {
                release::set_state(&tools.pool, site, id, ReleaseState::Out, Some(&why)).await?;
                return Ok(());
            }
        };
        let lost: Vec<_> = ended.iter().filter_map(|link| link.message.clone()).collect();
        let (state, message) = match lost.is_empty() {
            true => (PageState::TakenBack, None),
            false => (PageState::NotTakenBack, Some(lost.join(" "))),
        };
        left |= state == PageState::NotTakenBack;
        release::finish_page(&tools.pool, site, &ReleasePage { state, message, ..page }, &ended).await?;
    }
    // What could not be taken back can be tried again.
    let state = if left { ReleaseState::Out } else { ReleaseState::TakenBack };
    release::set_state(&tools.pool, site, id, state, None).await?;
    Ok(())
}

enum Restored {
    /// How each link ended; a message says why one is still there.
    Links(Vec<Ended>),
    Interrupted(String),
}

fn ended(taken: &TrayEntry, why_not: Option<String>) -> Ended {
    let state = if why_not.is_some() { TrayState::Out } else { TrayState::TakenBack };
    Ended { change: taken.id, state, message: why_not }
}

async fn restore(
    tools: &Tools,
    site: SiteId,
    editor: &Editor,
    address: &Address,
    page: &ReleasePage,
    links: &[&TrayEntry],
) -> Result<Restored, JobError> {
    let current = match source_of(tools, editor, address).await {
        Ok(source) => source,
        Err(error) if error.concerns_the_whole_site() => return Ok(Restored::Interrupted(interrupted(&error))),
        Err(error) => return Ok(all_left(links, &held_back(&error))),
    };
    let versions = release::versions(&tools.pool, page.release, page.page).await?;
    let all_back = || links.iter().map(|taken| ended(taken, None)).collect::<Vec<_>>();
    let (target, result) = match versions {
        Some((before, _)) if before == current.text => (None, all_back()),
        Some((before, after)) if after == current.text => (Some(before), all_back()),
        versions => {
            let document = Document::read(current.text.as_str(), current.format);
            let before = versions.map(|(before, _)| Document::read(before, current.format));
            take_out(&document, before.as_ref(), links)
        }
    };
    if let Some(target) = target.filter(|target| *target != current.text) {
        match replace(tools, editor, address, &current, &target).await {
            Ok(()) => {}
            Err(Unsent::Interrupted(why)) => return Ok(Restored::Interrupted(why)),
            Err(Unsent::HeldBack(why)) => return Ok(all_left(links, &why)),
        }
    }
    read_again(tools, site, editor, address).await?;
    Ok(Restored::Links(result))
}

fn all_left(links: &[&TrayEntry], why: &str) -> Restored {
    Restored::Links(links.iter().map(|taken| ended(taken, Some(why.to_owned()))).collect())
}
