//! Taking a release back: each page gets the bytes again that it had before, if it is still as the release left it.

use strelm_core::site::Address;
use strelm_sources::micropub::Micropub;
use strelm_store::SiteId;
use strelm_store::release::{self, PageState, ReleaseId, ReleaseState};

use super::release::{address_of, held_back, read_again, replace};
use super::{JobError, Tools};

const NO_INTERFACE: &str = "The site has no editing interface, or its token is missing. Set both, then try again.";
const CHANGED: &str = "The page was changed on the site after the release, so it was left as it is. Take the links out \
    on the site by hand.";

pub async fn run(tools: &Tools, site: SiteId, id: ReleaseId) -> Result<(), JobError> {
    let (_, micropub) = tools.site(site).await?;
    let mut left = false;
    for page in release::pages(&tools.pool, &[id]).await? {
        if !matches!(page.state, PageState::Out | PageState::NotTakenBack) {
            continue;
        }
        let Some((before, after)) = release::versions(&tools.pool, id, page.page).await? else { continue };
        let address = address_of(tools, site, page.page).await?;
        let result = match &micropub {
            Some(micropub) => restore(micropub, &address, &before, &after).await,
            None => Err(NO_INTERFACE.to_owned()),
        };
        let (state, message) = match result {
            Ok(()) => {
                read_again(tools, site, micropub.as_ref(), &address).await?;
                (PageState::TakenBack, None)
            }
            Err(message) => (PageState::NotTakenBack, Some(message)),
        };
        left |= state == PageState::NotTakenBack;
        release::finish_page(&tools.pool, site, id, page.page, state, message.as_deref()).await?;
    }
    // What could not be taken back can be tried again.
    let state = if left { ReleaseState::Out } else { ReleaseState::TakenBack };
    release::set_state(&tools.pool, site, id, state).await?;
    Ok(())
}

async fn restore(micropub: &Micropub, address: &Address, before: &str, after: &str) -> Result<(), String> {
    let current = micropub.source(address).await.map_err(|error| held_back(&error))?;
    match current.html.as_str() {
        html if html == before => Ok(()),
        html if html == after => replace(micropub, address, &current, before).await,
        _ => Err(CHANGED.to_owned()),
    }
}
