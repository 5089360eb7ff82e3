//! Reading a site. What waits to be read is kept, so that a reading that was stopped, or whose worker died, goes on where
//! it was.

use std::collections::BTreeMap;
use std::time::Duration;

use strelm_core::site::Validators;
use strelm_sources::crawl::{CrawlLimits, CrawlStart, crawl};
use strelm_sources::editing::Editor;
use strelm_store::lock::WorkLock;
use strelm_store::page::{self, Version};
use strelm_store::reading::{self, ReadingId, ReadingState};
use strelm_store::site::{self, Site, SiteSource};
use strelm_store::{SiteId, boilerplate, decision, journal, listed};
use tokio::sync::mpsc;

use super::doubles::settle_doubles;
use super::keeper::Keeper;
use super::sight::sight;
use super::{JobError, Tools, learn_habits, read_folder, take_off};

/// Reads a site, or goes on where a reading stopped, until it ends or is stopped.
pub async fn run(tools: &Tools, id: SiteId, reading: ReadingId, lock: &mut WorkLock) -> Result<(), JobError> {
    let (site, editor) = tools.site(id).await?;
    let Some(progress) = reading::start_run(&tools.pool, id, reading).await? else {
        return end_stopped(tools, id, reading).await;
    };
    let mut keeper = Keeper::new(tools, &site, reading, progress).await?;
    let read = match (&site.settings.source, &editor) {
        // All was read before, but for the answer to a question.
        _ if reading::may_take_off(&tools.pool, reading).await? => Ok(Ok(())),
        (SiteSource::Folder { .. }, Some(Editor::Folder(folder))) => {
            read_folder::read(folder.clone(), &site, &mut keeper, lock).await
        }
        _ => from_web(tools, &site, editor.as_ref(), &mut keeper, lock).await,
    };
    let result = match read {
        Err(JobError::LockLost) => return Err(JobError::LockLost),
        other => other?,
    };
    let is_whole = result.is_ok() && !keeper.is_to_stop;
    if is_whole {
        take_off::leave_rest(tools, &site, &keeper).await?;
    }
    let question = if is_whole { take_off::settle(tools, &keeper).await? } else { None };
    page::take_stock(&tools.pool).await?;
    page::mark_term_archives(&tools.pool, id).await?;
    settle_doubles(&tools.pool, id).await?;
    boilerplate::settle(&tools.pool, id).await?;
    if let Some(named) = &keeper.interface {
        site::note_interface(&tools.pool, id, named).await?;
    }
    if is_whole {
        sight(&tools.pool, id, None).await?;
        learn_habits::learn(tools, &site, &mut keeper, lock).await?;
    }
    journal::prune(&tools.pool, id).await?;
    decision::prune(&tools.pool, id).await?;
    let (state, message) = match result {
        _ if keeper.is_to_stop => (ReadingState::Stopped, None),
        Ok(()) if question.is_some() => (ReadingState::Asking, question),
        Ok(()) => (ReadingState::Done, keeper.warning.take()),
        Err(message) => (ReadingState::Failed, Some(message)),
    };
    reading::end_run(&tools.pool, id, reading, state, message.as_deref()).await?;
    Ok(())
}

/// A worker died after somebody asked it to stop.
async fn end_stopped(tools: &Tools, id: SiteId, reading: ReadingId) -> Result<(), JobError> {
    let latest = reading::latest(&tools.pool, id).await?;
    if latest.is_some_and(|latest| latest.id == reading && latest.state == ReadingState::Stopping) {
        reading::end_run(&tools.pool, id, reading, ReadingState::Stopped, None).await?;
    }
    Ok(())
}

/// The inner error says to the editor why the reading did not come to its end.
async fn from_web(
    tools: &Tools,
    site: &Site,
    editor: Option<&Editor>,
    keeper: &mut Keeper<'_>,
    lock: &mut WorkLock,
) -> Result<Result<(), String>, JobError> {
    let (mut waiting, done) = reading::addresses(&tools.pool, keeper.reading).await?;
    if waiting.is_empty() && done.is_empty() {
        // All that is known is looked at, also what nothing leads to any more.
        let by_number: BTreeMap<_, _> =
            keeper.known.values().map(|version| (version.number, &version.address)).collect();
        waiting.extend(by_number.into_values().cloned());
        waiting.extend(page::linked_elsewhere(&tools.pool, site.id).await?);
        waiting.extend(site.settings.entries.iter().cloned());
        waiting.extend(listed::all(&tools.pool, site.id).await?.into_iter().map(|page| page.address));
        let part = &site.settings.part;
        waiting.retain(|address| address.same_origin(&site.entry) && (part.holds(address) || *address == site.entry));
    }
    // What waits is found once more.
    keeper.progress.known = i32::try_from(done.len()).unwrap_or(i32::MAX);
    let has_validators = |version: &&Version| version.is_there() && version.validators != Validators::default();
    let validators = keeper
        .known
        .values()
        .filter(has_validators)
        .map(|version| (version.address.clone(), version.validators.clone()));
    let start = CrawlStart {
        validators: validators.collect(),
        waiting,
        done,
        ignored_parameters: keeper.ignored_parameters.to_vec(),
        part: site.settings.part.clone(),
    };
    let limits = CrawlLimits {
        most_pages: usize::try_from(site.settings.most_pages).unwrap_or_default(),
        apart: Duration::from_millis(u64::try_from(site.settings.delay_ms).unwrap_or_default()),
        patience: tools.patience,
        ..CrawlLimits::default()
    };
    let (sender, events) = mpsc::channel(64);
    let (client, entry) = (tools.client.clone(), site.entry.clone());
    let crawling = tokio::spawn(async move { crawl(&client, &entry, start, limits, sender).await });
    // When keeping fails or is to stop the events are dropped, and the crawl ends by itself.
    let kept = keeper.keep_all(events, editor, lock).await;
    let crawled = match crawling.await {
        Ok(result) => result.map_err(|error| format!("{error}.")),
        Err(_) => Err("The reading broke off.".to_owned()),
    };
    kept?;
    Ok(crawled)
}
