//! Reading a site: crawled pages and their sources, kept in batches, so that results appear while it goes on.

use std::time::{Duration, Instant};

use futures::future::join_all;
use strelm_core::site::Address;
use strelm_sources::crawl::{CrawlEvent, CrawlLimits, CrawledPage, crawl};
use strelm_sources::micropub::{Micropub, MicropubError};
use strelm_store::page::{self, ReadPage};
use strelm_store::reading::{self, Progress, ReadingId, ReadingState};
use strelm_store::{SiteId, redirect};
use tokio::sync::mpsc;

use super::read_page::{read_file, read_page};
use super::{JobError, Tools};

/// Pages kept at once, and the longest time that read pages wait to be kept.
const BATCH: usize = 50;
const LONGEST_WAIT: Duration = Duration::from_millis(400);

pub async fn run(tools: &Tools, site_id: SiteId, reading: ReadingId) -> Result<(), JobError> {
    let (site, micropub) = tools.site(site_id).await?;
    let entry = Address::parse(&site.entry).map_err(|_| JobError::BadEntry)?;
    reading::set_state(&tools.pool, site_id, reading, ReadingState::Running, None).await?;
    let mut keeper = Keeper::new(tools, site_id, reading, micropub);
    let (sender, events) = mpsc::channel(64);
    let client = tools.client.clone();
    let crawling = tokio::spawn(async move { crawl(&client, &entry, CrawlLimits::default(), sender).await });
    // When keeping fails the events are dropped, and the crawl ends by itself.
    let kept = keeper.keep_all(events).await;
    let crawled = match crawling.await {
        Ok(result) => result.map_err(|error| error.to_string()),
        Err(_) => Err("the reading broke off".to_owned()),
    };
    kept?;
    page::mark_term_archives(&tools.pool, site_id).await?;
    let (state, message) = match crawled {
        Ok(()) => (ReadingState::Done, keeper.warning.take()),
        Err(message) => (ReadingState::Failed, Some(message)),
    };
    reading::set_state(&tools.pool, site_id, reading, state, message.as_deref()).await?;
    Ok(())
}

struct Keeper<'t> {
    tools: &'t Tools,
    site: SiteId,
    reading: ReadingId,
    micropub: Option<Micropub>,
    progress: Progress,
    pages: Vec<CrawledPage>,
    files: Vec<ReadPage>,
    redirects: Vec<(Address, Address)>,
    last: Instant,
    /// Something that the editor should know although the reading went through.
    warning: Option<String>,
}

impl<'t> Keeper<'t> {
    fn new(tools: &'t Tools, site: SiteId, reading: ReadingId, micropub: Option<Micropub>) -> Self {
        let (pages, files, redirects) = (Vec::new(), Vec::new(), Vec::new());
        let progress = Progress::default();
        let last = Instant::now();
        Self { tools, site, reading, micropub, progress, pages, files, redirects, last, warning: None }
    }

    async fn keep_all(&mut self, mut events: mpsc::Receiver<CrawlEvent>) -> Result<(), JobError> {
        loop {
            let wait = LONGEST_WAIT.saturating_sub(self.last.elapsed());
            match tokio::time::timeout(wait, events.recv()).await {
                Ok(Some(event)) => self.take(event),
                Ok(None) => return self.keep().await,
                Err(_) => self.keep().await?,
            }
            if self.pages.len() + self.files.len() >= BATCH {
                self.keep().await?;
            }
        }
    }

    fn take(&mut self, event: CrawlEvent) {
        match event {
            CrawlEvent::Known(known) => self.progress.known = i32::try_from(known).unwrap_or(i32::MAX),
            CrawlEvent::Page(page) => {
                self.progress.pages += 1;
                self.pages.push(*page);
            }
            CrawlEvent::File { address, media_type } => {
                self.progress.files += 1;
                self.files.extend(read_file(&address, &media_type));
            }
            CrawlEvent::Redirect { from, to } => self.redirects.push((from, to)),
            CrawlEvent::Failed { address, error } => {
                tracing::info!(%address, %error, "an address gave nothing");
                self.progress.failures += 1;
            }
            CrawlEvent::Disallowed(address) => tracing::info!(%address, "left out, as robots.txt asks"),
        }
    }

    async fn keep(&mut self) -> Result<(), JobError> {
        self.last = Instant::now();
        let pages = std::mem::take(&mut self.pages);
        let sources = join_all(pages.iter().map(|page| source_of(self.micropub.as_ref(), &page.address))).await;
        let mut read = std::mem::take(&mut self.files);
        for (page, source) in pages.iter().zip(sources) {
            let source = source.unwrap_or_else(|error| {
                self.warning.get_or_insert_with(|| format!("Some pages cannot be edited: {error}."));
                None
            });
            read.extend(read_page(page, source));
        }
        if !read.is_empty() {
            page::put_all(&self.tools.pool, self.site, &read).await?;
        }
        redirect::put_all(&self.tools.pool, self.site, &std::mem::take(&mut self.redirects)).await?;
        reading::set_progress(&self.tools.pool, self.site, self.reading, self.progress).await?;
        Ok(())
    }
}

/// A page's source; `None` for a page that has none.
async fn source_of(micropub: Option<&Micropub>, page: &Address) -> Result<Option<String>, MicropubError> {
    let Some(micropub) = micropub else { return Ok(None) };
    match micropub.source(page).await {
        Ok(source) => Ok(Some(source.html)),
        Err(MicropubError::NotEditable) => Ok(None),
        Err(error) => Err(error),
    }
}
