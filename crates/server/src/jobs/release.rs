//! Releasing: page by page, every change checked once more, each page sent only if it is still the version that was
//! looked at. What broke off goes on with the pages that wait.

use std::collections::HashMap;

use strelm_core::document::{Document, Edit, Region, TextSpan};
use strelm_core::limits::{Breach, LinkLimits};
use strelm_core::site::{Address, ChangeId, Destination, PageId};
use strelm_sources::crawl::CrawledPage;
use strelm_sources::editing::{EditError, Editor, PageSource};
use strelm_sources::fetch::{FetchError, FetchLimits, fetch};
use strelm_sources::front_matter::FrontMatter;
use strelm_store::lock::WorkLock;
use strelm_store::release::{self, PageState, ReleaseId, ReleasePage, ReleaseState};
use strelm_store::site::Way;
use strelm_store::taken::{self, Change, Ended, TakenLink, TakenState};
use strelm_store::{SiteId, furniture, house_rules, page};

use super::place_anew::place_anew;
use super::read_page::read_page;
use super::{JobError, Tools};
use crate::edits::{edit_on, new_quote_of, refused, repair_of, words_of};
use crate::words::sentence;

const NO_INTERFACE: &str = "The site has no editing interface, or its token is missing. Set both in Setup, then go on.";
pub(super) const SOURCE_GONE: &str = "The page is no longer there, or cannot be edited. Drop the link.";

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
    let links: Vec<_> = taken::of_releases(&tools.pool, &[id]).await?.into_iter().map(|(_, taken)| taken).collect();
    let going: Vec<_> = links.iter().filter(|taken| taken.state == TakenState::Releasing).collect();
    let put: Vec<_> = going.iter().filter(|taken| taken.link.change.brings_link()).collect();
    let to = put.iter().filter_map(|taken| Some((taken.link.target?, taken.link.shown_anchor())));
    let limits = house_rules::get(&tools.pool, site).await?.unwrap_or_default().limits;
    let breaches = limits.check_release(to);
    let breaches = put.iter().zip(breaches).filter_map(|(taken, breach)| Some((taken.id, breach?))).collect();
    let (entry, targets) = (settings.entry, HashMap::new());
    let mut round = Round { tools, site, entry, editor: editor.as_ref(), limits, breaches, targets };
    for waiting in release::pages(&tools.pool, &[id]).await? {
        if waiting.state != PageState::Waiting {
            continue;
        }
        if !lock.is_held().await {
            return Err(JobError::LockLost);
        }
        let on_page: Vec<_> = going.iter().filter(|taken| taken.link.source == waiting.page).copied().collect();
        let sent = match round.editor {
            Some(editor) => round.send(editor, &waiting, &on_page).await?,
            None => round.hand_over(&waiting, &on_page).await?,
        };
        let ended = match sent {
            Sent::Ended(ended) => ended,
            Sent::Interrupted(why) => return interrupt(tools, site, id, &why).await,
        };
        let is_out = ended.iter().any(|link| link.state != TakenState::Tray);
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
    entry: Address,
    /// `None` when the release is handed over.
    editor: Option<&'r Editor>,
    limits: LinkLimits,
    /// Links that break a limit of the whole release.
    breaches: HashMap<ChangeId, Breach>,
    /// What was found of targets: `None` when they are fine.
    targets: HashMap<PageId, Option<String>>,
}

impl Round<'_> {
    /// Sends the links of one page out.
    async fn send(&mut self, editor: &Editor, waiting: &ReleasePage, links: &[&TakenLink]) -> Result<Sent, JobError> {
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
            return Ok(Sent::Ended(links.iter().map(|taken| ended_as_it_stands(&document, taken)).collect()));
        }
        let (edits, mut ended) = match self.edits(&document, &address, links).await? {
            Ok(edits) => edits,
            Err(why) => return Ok(Sent::Interrupted(why)),
        };
        if edits.is_empty() {
            read_again(self.tools, self.site, editor, &address).await?;
            return Ok(Sent::Ended(ended));
        }
        let after = Edit::compose(document.hash(), edits).and_then(|edit| edit.apply(&current.text));
        let after = match after {
            Ok(after) => after,
            Err(error) => {
                let why = format!("The links of this page do not go together: {error}. Drop one of them.");
                return Ok(Sent::Ended(held_back_all(links, &why)));
            }
        };
        release::note_versions(&self.tools.pool, waiting.release, waiting.page, &current.text, &after).await?;
        match replace(self.tools, editor, &address, &current, &after).await {
            Ok(()) => read_again(self.tools, self.site, editor, &address).await?,
            Err(Unsent::Interrupted(why)) => return Ok(Sent::Interrupted(why)),
            Err(Unsent::HeldBack(why)) => {
                let out = ended.iter_mut().filter(|link| link.state == TakenState::Out);
                out.for_each(|link| (link.state, link.message) = (TakenState::Tray, Some(why.clone())));
            }
        }
        Ok(Sent::Ended(ended))
    }

    /// The edits of one page's links, and how each link ends if they go out. The inner error interrupts the release.
    pub(super) async fn edits(
        &mut self,
        document: &Document,
        address: &Address,
        links: &[&TakenLink],
    ) -> Result<Result<(Vec<Edit>, Vec<Ended>), String>, JobError> {
        let mut placed: Vec<(TextSpan, PageId)> = Vec::new();
        let mut states: Vec<Result<Planned, String>> = Vec::new();
        for taken in links {
            if let Some(breach) = self.breaches.get(&taken.id) {
                states.push(Err(format!("A limit would be broken: {breach}. Drop the link, or release it later.")));
                continue;
            }
            if let Some(target) = taken.link.target {
                match self.target_is_fine(target).await? {
                    Err(why) => return Ok(Err(why)),
                    Ok(Some(why)) => {
                        states.push(Err(why));
                        continue;
                    }
                    Ok(None) => {}
                }
            }
            let Some(target) = taken.link.target.filter(|_| taken.link.change.brings_link()) else {
                states.push(repair_of(document, taken).map(Planned::Repair));
                continue;
            };
            match words_of(document, taken) {
                Ok(words) => {
                    states.push(Ok(Planned::Put(placed.len())));
                    placed.push((words, target));
                }
                Err(why) => states.push(Err(why)),
            }
        }
        let linked = linked_pages(document, address);
        let targets: HashMap<_, _> =
            links.iter().filter_map(|taken| Some((taken.link.target?, &taken.link.href))).collect();
        let leads_to = |target: PageId| {
            let to = targets.get(&target).map(|href| address.follow(href));
            matches!(to, Some(Destination::Page { address, .. }) if linked.contains(&address))
        };
        let breaches = self.limits.check_page(document, &placed, leads_to);
        let mut edits: Vec<Edit> = Vec::new();
        let mut ended = Vec::with_capacity(links.len());
        for (taken, state) in links.iter().zip(states) {
            let result = state.and_then(|planned| {
                let edit = match planned {
                    Planned::Repair(edit) => edit,
                    Planned::Put(at) => {
                        if let Some(breach) = breaches[at] {
                            return Err(format!("A limit would be broken: {breach}. Drop the link."));
                        }
                        edit_on(document, taken, placed[at].0)?
                    }
                };
                let together = edits.iter().cloned().chain([edit.clone()]);
                Edit::compose(document.hash(), together).map_err(|why| refused(taken, &why))?;
                Ok(edit)
            });
            let change = taken.id;
            match result {
                Ok(edit) => {
                    edits.push(edit);
                    ended.push(Ended { change, state: TakenState::Out, message: None });
                }
                Err(message) => ended.push(Ended { change, state: TakenState::Tray, message: Some(message) }),
            }
        }
        Ok(Ok((edits, ended)))
    }

    /// Whether a target is still there under its own address; the inner value says what is wrong with it. The outer
    /// error interrupts the release.
    async fn target_is_fine(&mut self, target: PageId) -> Result<Result<Option<String>, String>, JobError> {
        if let Some(known) = self.targets.get(&target) {
            return Ok(Ok(known.clone()));
        }
        let found = match address_of(self.tools, self.site, target).await? {
            None => Some("The page that it leads to is no longer on the site. Drop the link.".to_owned()),
            Some(address) => match self.editor {
                Some(editor) => match self.look_at(editor, &address).await {
                    Ok(found) => found,
                    Err(why) => return Ok(Err(why)),
                },
                None => None,
            },
        };
        self.targets.insert(target, found.clone());
        Ok(Ok(found))
    }

    async fn look_at(&self, editor: &Editor, address: &Address) -> Result<Option<String>, String> {
        if let Editor::Folder(folder) = editor {
            return Ok((!folder.has(address))
                .then(|| "The file that it leads to is no longer there. Drop the link.".to_owned()));
        }
        let mut tried = 0;
        let error = loop {
            let error = match fetch(&self.tools.client, address, FetchLimits::default(), |_| false).await {
                Ok(fetched) if fetched.address == *address => return Ok(None),
                Ok(fetched) => {
                    let to = fetched.address.from_root();
                    return Ok(Some(format!(
                        "The page that it leads to has moved to {to}. Drop the link and take it anew."
                    )));
                }
                Err(error) => error,
            };
            let Some(wait) = self.tools.patience.wait_after(&error, tried) else { break error };
            tried += 1;
            tokio::time::sleep(wait).await;
        };
        match error {
            FetchError::Status { status, .. } if status.is_client_error() && status.as_u16() != 429 => Ok(Some(
                format!("The page that it leads to is not there any more (status {}). Drop the link.", status.as_u16()),
            )),
            FetchError::LeadsAway(to) => {
                Ok(Some(format!("The page that it leads to sends readers away, to {to}. Drop the link.")))
            }
            FetchError::Unreachable(why) => Err(format!("{} cannot be reached ({why}).", self.entry.host())),
            other => Err(format!("{} cannot be read: {other}.", address.from_root())),
        }
    }
}

/// What is to be done for a link of the tray.
enum Planned {
    /// Counts what is put on words.
    Put(usize),
    Repair(Edit),
}

fn linked_pages(document: &Document, address: &Address) -> Vec<Address> {
    let content = document.links().iter().filter(|link| link.region == Region::Content);
    let follow = |link: &strelm_core::document::Link| match address.follow(&link.href) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    };
    content.filter_map(follow).collect()
}

/// A link of a page that was out before anybody noted it.
fn ended_as_it_stands(document: &Document, taken: &TakenLink) -> Ended {
    let quote = new_quote_of(taken);
    let is_done = match &taken.link.change {
        Change::Unlink(old) => document.find_link(&quote, &old.href).is_none_or(|found| !found.in_sentence),
        Change::PutOnPicture(picture) => {
            document.find_link_on_picture(*picture, taken.link.words.start, &taken.link.href).is_some()
        }
        _ => document.find_link(&quote, &taken.link.href).is_some(),
    };
    match is_done.then_some(()) {
        Some(()) => Ended { change: taken.id, state: TakenState::Out, message: None },
        None => {
            let message = Some("It was held back when the page went out. Release again.".to_owned());
            Ended { change: taken.id, state: TakenState::Tray, message }
        }
    }
}

pub(super) fn held_back_all(links: &[&TakenLink], why: &str) -> Vec<Ended> {
    let ended = |taken: &&TakenLink| Ended { change: taken.id, state: TakenState::Tray, message: Some(why.to_owned()) };
    links.iter().map(ended).collect()
}

/// Why a page did not get its new content.
pub(super) enum Unsent {
    HeldBack(String),
    Interrupted(String),
}

/// A page's source, asked for again while that may help.
pub(super) async fn source_of(tools: &Tools, editor: &Editor, address: &Address) -> Result<PageSource, EditError> {
    let mut tried = 0;
    loop {
        match editor.source(address).await {
            Err(error) if error.may_pass() && tried + 1 < tools.patience.tries => {
                let asked = if let EditError::Busy { wait, .. } = &error { *wait } else { None };
                tokio::time::sleep(asked.unwrap_or(tools.patience.backoff(tried)).min(tools.patience.longest_wait))
                    .await;
                tried += 1;
            }
            other => return other,
        }
    }
}

/// Replaces a page's content and looks whether the site now holds exactly that. A change that the site did not take for
/// a passing reason is sent again.
pub(super) async fn replace(
    tools: &Tools,
    editor: &Editor,
    address: &Address,
    current: &PageSource,
    after: &str,
) -> Result<(), Unsent> {
    let mut tried = 0;
    loop {
        let sent = editor.replace(address, current, after).await;
        // When the answer was lost the change may have gone through, so the site itself is asked in any case.
        let now = source_of(tools, editor, address).await.map_err(|error| unsent(&error))?;
        return match sent {
            _ if now.text == after => Ok(()),
            Err(error) if error.may_pass() && now.text == current.text && tried + 1 < tools.patience.tries => {
                tokio::time::sleep(tools.patience.backoff(tried)).await;
                tried += 1;
                continue;
            }
            Err(error) => Err(unsent(&error)),
            Ok(()) if now.text == current.text => Err(Unsent::HeldBack(
                "The site took the change but did not keep it. Ask whoever runs the site, then release again."
                    .to_owned(),
            )),
            Ok(()) => Err(Unsent::HeldBack(
                "The site stored something else than what was sent. Look at the page before you go on.".to_owned(),
            )),
        };
    }
}

fn unsent(error: &EditError) -> Unsent {
    match error.concerns_the_whole_site() {
        true => Unsent::Interrupted(interrupted(error)),
        false => Unsent::HeldBack(held_back(error)),
    }
}

pub(super) fn interrupted(error: &EditError) -> String {
    sentence(&error.to_string())
}

pub(super) fn held_back(error: &EditError) -> String {
    match error {
        EditError::ChangedMeanwhile => {
            "The page was changed on the site in the moment of the release, so nothing was touched. Release again."
                .to_owned()
        }
        EditError::NotEditable => SOURCE_GONE.to_owned(),
        other => interrupted(other),
    }
}

/// The address of a page that is not gone.
pub(super) async fn address_of(tools: &Tools, site: SiteId, page: PageId) -> Result<Option<Address>, JobError> {
    let known = page::facts(&tools.pool, site, Some(&[page])).await?.pop();
    Ok(known.filter(|page| page.gone.is_none()).map(|page| page.facts.address))
}

/// Reads one page anew after it was changed, so that what Strelm shows is what the site holds.
pub(super) async fn read_again(
    tools: &Tools,
    site: SiteId,
    editor: &Editor,
    address: &Address,
) -> Result<(), JobError> {
    let read = match editor {
        Editor::Folder(folder) => {
            let (folder, address) = (folder.clone(), address.clone());
            let read = tokio::task::spawn_blocking(move || folder.read_page(&address)).await;
            read.ok().and_then(Result::ok).map(|page| {
                let source = page.source.clone();
                (page, source)
            })
        }
        Editor::Micropub(_) => {
            let is_html = |media_type: &str| media_type == "text/html";
            let fetched = fetch(&tools.client, address, FetchLimits::default(), is_html).await.ok();
            let fetched = fetched.filter(|fetched| fetched.is_html() && fetched.address == *address);
            match fetched {
                Some(fetched) => {
                    let (validators, address) = (fetched.validators.clone(), address.clone());
                    let source = editor.source(&address).await.ok();
                    let (document, front) = (Document::from_html(fetched.text()), FrontMatter::default());
                    let page = CrawledPage { address, document, validators, source: None, front, destinations: None };
                    Some((page, source))
                }
                None => None,
            }
        }
    };
    let Some((page, source)) = read else { return Ok(()) };
    let ignored =
        strelm_store::site::get(&tools.pool, site).await?.ok_or(JobError::NoSite)?.settings.ignored_parameters;
    let read: Vec<_> = read_page(&page, source, &ignored).into_iter().collect();
    let put = page::put_all(&tools.pool, site, None, &read, &furniture::all(&tools.pool, site).await?).await?;
    page::mark_term_archives(&tools.pool, site).await?;
    let changed: Vec<_> = put.into_iter().map(|(page, _)| page).collect();
    place_anew(&tools.pool, site, &changed).await?;
    Ok(())
}
