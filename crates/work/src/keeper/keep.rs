//! Keeping what gathered: pages with their sources, redirects, what is gone, and what became of each address.

use std::sync::Arc;
use std::time::Instant;

use futures::future::join_all;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::site::PageId;
use strelm_sources::crawl::CrawledPage;
use strelm_sources::editing::{Editor, PageSource, SourceError};
use strelm_store::lock::WorkLock;
use strelm_store::page::{self, Put};
use strelm_store::reading::{self, Outcome, ReadAddress, ReadingState};
use strelm_store::redirect;

use super::Keeper;
use crate::JobError;
use crate::place_anew::place_anew;
use crate::read_page::read_page;
use crate::sight::sight;

impl Keeper<'_> {
    /// Keeps what came since the last time.
    pub async fn keep(&mut self, editor: Option<&Editor>, lock: &mut WorkLock) -> Result<(), JobError> {
        if !lock.is_held().await {
            return Err(JobError::LockLost);
        }
        let pool = &self.tools.pool;
        reading::add_waiting(pool, self.reading, &std::mem::take(&mut self.found)).await?;
        let touched = self.keep_pages(editor).await?;
        redirect::put_all(pool, self.site, &std::mem::take(&mut self.redirects)).await?;
        let (dead, alive) = (std::mem::take(&mut self.dead), std::mem::take(&mut self.alive));
        if !dead.is_empty() || !alive.is_empty() {
            redirect::put_dead(pool, self.site, &dead, &alive).await?;
        }
        let staying = std::mem::take(&mut self.staying);
        if !staying.is_empty() {
            reading::note_staying(pool, self.reading, &staying).await?;
        }
        let mut leaving = std::mem::take(&mut self.leaving);
        // One may be found again in the same batch.
        leaving.retain(|(page, _)| self.left.contains(page));
        if !leaving.is_empty() {
            reading::note_leaving(pool, self.reading, &leaving).await?;
        }
        if !touched.is_empty() {
            place_anew(pool, self.site, &touched).await?;
            sight(pool, self.site, Some(&touched)).await?;
        }
        // Outcomes last: what breaks off before them is done once more.
        reading::note_outcomes(pool, self.reading, &std::mem::take(&mut self.outcomes)).await?;
        let message = self.waits.as_deref().or(self.warning.as_deref());
        let state = reading::set_progress(pool, self.site, self.reading, self.progress, message).await?;
        self.is_to_stop |= state == ReadingState::Stopping;
        self.last = Instant::now();
        Ok(())
    }

    /// Pages that changed, written; gives their numbers.
    async fn keep_pages(&mut self, editor: Option<&Editor>) -> Result<Vec<PageId>, JobError> {
        let pages = std::mem::take(&mut self.pages);
        let mut read = std::mem::take(&mut self.files);
        let files = read.len();
        let (mut fresh, mut same) = (Vec::new(), Vec::new());
        for page in pages {
            let known = self.known.get(&page.address).filter(|version| version.is_there());
            let is_same = known.is_some_and(|version| {
                let wants_source = editor.is_some() || self.is_handed_over;
                version.crawled_hash == page.document.hash() && (version.has_source || !wants_source)
            });
            if is_same { same.push(page.address) } else { fresh.push(page) }
        }
        let sources = join_all(fresh.iter().map(|page| source_of(editor, page))).await;
        let mut pairs = Vec::with_capacity(fresh.len());
        for (page, source) in fresh.into_iter().zip(sources) {
            let crawled = || PageSource {
                text: page.document.source().to_owned(),
                format: page.document.format(),
                version: None,
            };
            let source = source.unwrap_or_else(|error| {
                self.warning.get_or_insert_with(|| format!("Some pages cannot be edited: {error}."));
                None
            });
            let source = source.or_else(|| self.is_handed_over.then(crawled));
            pairs.push((page, source));
        }
        // Reading pages is work for all cores, and for none of the threads that wait for answers.
        let ignored = Arc::clone(&self.ignored_parameters);
        let pages = tokio::task::spawn_blocking(move || -> Vec<_> {
            pairs.into_par_iter().map(|(page, source)| (read_page(&page, source, &ignored), page.address)).collect()
        });
        for (page, address) in pages.await.map_err(|error| JobError::BrokeOff(error.to_string()))? {
            match page {
                Some(page) => read.push(page),
                None => self.note(address, Outcome::Failed, Some("its address is too long to be kept".to_owned())),
            }
        }
        self.outcomes.extend(same.into_iter().map(|address| ReadAddress {
            address,
            outcome: Outcome::Unchanged,
            note: None,
        }));
        if read.is_empty() {
            return Ok(Vec::new());
        }
        let put = page::put_all(&self.tools.pool, self.site, Some(self.reading), &read, &self.boilerplate).await?;
        let mut touched = Vec::new();
        for (ordinal, (page, (number, what))) in read.iter().zip(put).enumerate() {
            if what != Put::Unchanged {
                touched.push(number);
            }
            if ordinal < files {
                continue;
            }
            let outcome = match what {
                Put::New => Outcome::New,
                Put::Changed => Outcome::Changed,
                Put::Unchanged => Outcome::Unchanged,
            };
            self.progress.fresh += i32::from(what == Put::New);
            self.progress.changed += i32::from(what == Put::Changed);
            self.outcomes.push(ReadAddress { address: page.address.clone(), outcome, note: None });
        }
        Ok(touched)
    }
}

/// A page's source; `None` for a page that has none.
async fn source_of(editor: Option<&Editor>, page: &CrawledPage) -> Result<Option<PageSource>, SourceError> {
    if let Some(source) = &page.source {
        return Ok(Some(source.clone()));
    }
    let Some(editor) = editor else { return Ok(None) };
    match editor.source(&page.address).await {
        Ok(source) => Ok(Some(source)),
        Err(SourceError::NotEditable) => Ok(None),
        Err(error) => Err(error),
    }
}
