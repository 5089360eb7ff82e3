//! Releasing: page by page, every change checked once more, each page sent only if it is still the version that was
//! looked at. What broke off goes on with the pages that wait.

use std::collections::HashMap;

use strelm_core::document::Document;
use strelm_core::limits::{Breach, LinkLimits};
use strelm_core::site::{Address, ChangeId, Target};
use strelm_core::tray::{EditRefusal, Ended, OnePage, TrayEntry, TrayState, as_it_stands, held_back_all};
use strelm_sources::editing::Editor;
use strelm_store::lock::WorkLock;
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::site::Way;
use strelm_store::{SiteId, site_limits, tray};

use super::read_again::{address_of, read_again};
use super::sending::{SOURCE_GONE, Unsent, held_back, interrupted, replace, source_of};
use super::{JobError, Tools};

const NO_INTERFACE: &str = "The site has no editing interface, or its token is missing. Set both in Setup, then go on.";

/// Sends a release out, page after page, until it is out or interrupted.
pub async fn run(tools: &Tools, site: SiteId, id: ReleaseId, lock: &mut WorkLock) -> Result<(), JobError> {
    let (settings, editor) = tools.site(site).await?;
    let is_to_run = |state| matches!(state, ReleaseState::Waiting | ReleaseState::Running);
    let order = release::get(&tools.pool, site, id).await?.filter(|release| is_to_run(release.state));
    let Some(order) = order else { return Ok(()) };
    let editor = editor.filter(|_| order.way == Way::Written && settings.way() == Way::Written);
    if order.way == Way::Written && editor.is_none() {
        return interrupt(tools, site, id, NO_INTERFACE).await;
    }
    release::set_state(&tools.pool, site, id, ReleaseState::Running, None).await?;
    let entries: Vec<_> = tray::of_releases(&tools.pool, &[id]).await?.into_iter().map(|(_, entry)| entry).collect();
    let going: Vec<_> = entries.iter().filter(|entry| entry.state == TrayState::Releasing).collect();
    let limits = site_limits::get(&tools.pool, site).await?.unwrap_or_default().links;
    let breaches = limits.broken_by(going.iter().copied());
    let (entry, targets) = (settings.entry, HashMap::new());
    let mut round = Round { tools, site, entry, editor: editor.as_ref(), limits, breaches, targets };
    for waiting in release::pages(&tools.pool, &[id]).await? {
        if waiting.state != PageState::Waiting {
            continue;
        }
        if !lock.is_held().await {
            return Err(JobError::LockLost);
        }
        let on_page: Vec<_> = going.iter().filter(|entry| entry.link.source == waiting.page).copied().collect();
        let sent = match round.editor {
            Some(editor) => round.send(editor, &waiting, &on_page).await?,
            None => round.hand_over(&waiting, &on_page).await?,
        };
        let ended = match sent {
            Sent::Ended(ended) => ended,
            Sent::Interrupted(why) => return interrupt(tools, site, id, &why).await,
        };
        let is_out = ended.iter().any(|link| link.state != TrayState::Tray);
        let (state, message) = match is_out {
            true => (PageState::Out, None),
            false => (PageState::HeldBack, Some(first_message(&ended))),
        };
        release::finish_page(&tools.pool, site, &ReleasePage { state, message, ..waiting }, &ended).await?;
    }
    release::set_state(&tools.pool, site, id, ReleaseState::Out, None).await?;
    Ok(())
}

async fn interrupt(tools: &Tools, site: SiteId, id: ReleaseId, why: &str) -> Result<(), JobError> {
    release::set_state(&tools.pool, site, id, ReleaseState::Interrupted, Some(why)).await?;
    Ok(())
}

fn first_message(ended: &[Ended]) -> String {
    let message = ended.iter().find_map(|link| link.message.clone());
    message.unwrap_or_else(|| "There was nothing to change on this page.".to_owned())
}

pub(super) enum Sent {
    Ended(Vec<Ended>),
    /// Why no other page would fare better for now.
    Interrupted(String),
}

/// What the pages of one release share.
pub(super) struct Round<'r> {
    pub tools: &'r Tools,
    pub site: SiteId,
    pub entry: Address,
    /// `None` when the release is handed over.
    pub editor: Option<&'r Editor>,
    limits: LinkLimits,
    /// Links that break a limit of the whole release.
    breaches: HashMap<ChangeId, Breach>,
    /// What was found of targets: `None` when they are fine.
    pub targets: HashMap<Target, Option<String>>,
}

impl Round<'_> {
    /// Sends the links of one page out.
    async fn send(&mut self, editor: &Editor, waiting: &ReleasePage, links: &[&TrayEntry]) -> Result<Sent, JobError> {
        let Some(address) = address_of(self.tools, self.site, waiting.page).await? else {
            return Ok(Sent::Ended(held_back_all(links, SOURCE_GONE)));
        };
        let current = match source_of(self.tools, editor, &address).await {
            Ok(source) => source,
            Err(error) if error.concerns_the_whole_site() => return Ok(Sent::Interrupted(interrupted(&error))),
            Err(error) => return Ok(Sent::Ended(held_back_all(links, &held_back(&error)))),
        };
        let document = Document::read(current.text.as_str(), current.format);
        // After a crash the page may be out already.
        let noted = release::versions(&self.tools.pool, waiting.release, waiting.page).await?;
        if noted.is_some_and(|(_, after)| after == current.text) {
            read_again(self.tools, self.site, editor, &address).await?;
            return Ok(Sent::Ended(links.iter().map(|entry| as_it_stands(&document, entry)).collect()));
        }
        let (after, mut ended) = match self.worked_out(&document, &address, links).await? {
            Ok(worked_out) => worked_out,
            Err(why) => return Ok(Sent::Interrupted(why)),
        };
        let Some(after) = after else {
            read_again(self.tools, self.site, editor, &address).await?;
            return Ok(Sent::Ended(ended));
        };
        release::note_versions(&self.tools.pool, waiting.release, waiting.page, &current.text, &after).await?;
        match replace(self.tools, editor, &address, &current, &after).await {
            Ok(()) => read_again(self.tools, self.site, editor, &address).await?,
            Err(Unsent::Interrupted(why)) => return Ok(Sent::Interrupted(why)),
            Err(Unsent::HeldBack(why)) => {
                let out = ended.iter_mut().filter(|link| link.state == TrayState::Out);
                out.for_each(|link| (link.state, link.message) = (TrayState::Tray, Some(why.clone())));
            }
        }
        Ok(Sent::Ended(ended))
    }

    /// One page with its links as far as they can go out, and how each ends then; no page where none can. The inner error
    /// interrupts the release.
    pub(super) async fn worked_out(
        &mut self,
        document: &Document,
        address: &Address,
        links: &[&TrayEntry],
    ) -> Result<Result<(Option<String>, Vec<Ended>), String>, JobError> {
        let mut entries = Vec::with_capacity(links.len());
        for entry in links {
            let against = match (self.breaches.get(&entry.id), &entry.link.target) {
                (Some(breach), _) => Some(EditRefusal::ReleaseLimit(*breach).to_string()),
                (None, None) => None,
                (None, Some(target)) => match self.target_is_fine(target).await? {
                    Ok(against) => against,
                    Err(why) => return Ok(Err(why)),
                },
            };
            entries.push((*entry, against));
        }
        let one_page = OnePage { document, address, limits: self.limits, entries: &entries };
        let after = one_page.edit().and_then(|(edit, ended)| {
            let after = edit.map(|edit| edit.apply(document.source())).transpose()?;
            Ok((after, ended))
        });
        Ok(Ok(after.unwrap_or_else(|error| {
            let why = format!("The links of this page do not go together: {error}. Drop one of them.");
            (None, held_back_all(links, &why))
        })))
    }
}
