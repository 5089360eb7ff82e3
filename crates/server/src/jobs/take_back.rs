//! Taking a release back. A page that is still as the release left it gets its bytes again; on one that was changed
//! since, by a later release or on the site, the release's own links are taken out and all else stays.

use strelm_core::document::{Document, Edit, LinkTarget};
use strelm_core::site::Address;
use strelm_sources::editing::{Editor, PageSource};
use strelm_store::SiteId;
use strelm_store::lock::WorkLock;
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::site::Way;
use strelm_store::taken::{self, Change, Ended, TakenLink, TakenState};

use super::release::{Unsent, address_of, held_back, interrupted, read_again, replace, source_of};
use super::{JobError, Tools};
use crate::edits::quote_of;

const NO_INTERFACE: &str =
    "The site has no editing interface, or its token is missing. Set both in Setup, then try again.";
const GONE: &str = "The page is no longer on the site, and with it the links.";

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
    let links = taken::of_releases(&tools.pool, &[id]).await?;
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
            on_page.filter(|taken| taken.link.source == page.page && taken.state == TakenState::Out).collect();
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

fn ended(taken: &TakenLink, why_not: Option<String>) -> Ended {
    let state = if why_not.is_some() { TakenState::Out } else { TakenState::TakenBack };
    Ended { change: taken.id, state, message: why_not }
}

async fn restore(
    tools: &Tools,
    site: SiteId,
    editor: &Editor,
    address: &Address,
    page: &ReleasePage,
    links: &[&TakenLink],
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
        versions => take_out(&current, versions.as_ref().map(|(before, _)| before.as_str()), links),
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

fn all_left(links: &[&TakenLink], why: &str) -> Restored {
    Restored::Links(links.iter().map(|taken| ended(taken, Some(why.to_owned()))).collect())
}

/// The page without the links, as far as they are still there; and how each link ends.
fn take_out(current: &PageSource, before: Option<&str>, links: &[&TakenLink]) -> (Option<String>, Vec<Ended>) {
    let document = Document::read(current.text.as_str(), current.format);
    let before = before.map(|text| Document::read(text, current.format));
    let mut edits: Vec<Edit> = Vec::new();
    let mut result = Vec::with_capacity(links.len());
    for taken in links {
        let (edit, is_undone) = undoing(&document, before.as_ref(), taken);
        let edit =
            edit.filter(|edit| Edit::compose(document.hash(), edits.iter().cloned().chain([edit.clone()])).is_ok());
        let why_not = match &edit {
            Some(_) => None,
            // Somebody took the link out already.
            None if is_undone => None,
            None if matches!(taken.link.change, Change::Reword(_)) => Some(format!(
                "The page was changed since, so the sentence with “{}” stays as it was reworded. Word it on the page.",
                taken.link.shown_anchor()
            )),
            None if matches!(taken.link.change, Change::PutOnPicture(_)) => Some(format!(
                "The picture “{}” is no longer there as the release left it; if it still carries the link, take it out there.",
                taken.link.anchor
            )),
            None => Some(format!(
                "“{}” is no longer in the sentence of the release; if the link is still on the page, take it out there.",
                taken.link.anchor
            )),
        };
        edits.extend(edit);
        result.push(ended(taken, why_not));
    }
    let edit = Edit::compose(document.hash(), edits);
    (edit.and_then(|edit| edit.apply(&current.text)).ok(), result)
}

/// The edit that undoes a change on this version of the page, and whether somebody undid it already.
fn undoing(document: &Document, before: Option<&Document>, taken: &TakenLink) -> (Option<Edit>, bool) {
    let (quote, href) = (quote_of(taken), taken.link.href.as_str());
    // A link that only looks the same may be the author's own: it counts if there was none before the release.
    let was_there = || before.is_some_and(|before| before.find_link(&quote, href).is_some());
    let found = || document.find_link(&quote, href).filter(|found| found.in_sentence || !was_there());
    match &taken.link.change {
        Change::Put => {
            let found = found();
            let is_undone = found.is_none() && document.find_again(&quote, taken.link.words.start).is_ok();
            (found.and_then(|found| document.take_out_link(found.ordinal).ok()), is_undone)
        }
        Change::PutOnPicture(picture) => {
            let near = taken.link.words.start;
            let found = document.find_link_on_picture(*picture, near, href);
            let is_undone = found.is_none()
                && document.find_picture(*picture, near).is_some_and(|at| document.may_link_picture(at).is_ok());
            (found.and_then(|link| document.take_out_link(link).ok()), is_undone)
        }
        // What else was changed in the sentence since cannot be told from the wording of the release.
        Change::Reword(_) => (None, document.find_again(&quote, taken.link.words.start).is_ok()),
        Change::Retarget(old) => {
            let edit = found().and_then(|found| document.change_link(found.ordinal, Some(&old.href), &[]).ok());
            (edit, document.find_link(&quote, &old.href).is_some_and(|found| found.in_sentence))
        }
        Change::Unlink(old) => {
            let edit = document.put_link_again(&quote, taken.link.words.start, &LinkTarget::to(old.href.clone()));
            (edit.ok(), document.find_link(&quote, &old.href).is_some_and(|found| found.in_sentence))
        }
    }
}
