//! What a reading finds: crawled pages and their sources, kept in batches, so that results appear while it goes on.

mod keep;

use std::collections::{HashMap, HashSet};
use std::sync::Arc;
use std::time::{Duration, Instant};

use strelm_core::document::Entrance;
use strelm_core::site::Absence;
use strelm_core::site::{Address, BlockKey, LinkForm, PageId};
use strelm_sources::crawl::{CrawlEvent, CrawledPage};
use strelm_sources::editing::Editor;
use strelm_sources::fetch::FetchError;
use strelm_store::SiteId;
use strelm_store::boilerplate;
use strelm_store::lock::WorkLock;
use strelm_store::page::{self, Gone, ReadPage, Version};
use strelm_store::reading::{self, Left, Outcome, Progress, ReadAddress, ReadingId};
use strelm_store::redirect;
use strelm_store::site::{self, Site, Way};
use tokio::sync::mpsc;

use super::read_page::{LONGEST_ADDRESS, is_short_enough, read_file};
use super::{JobError, Tools};

/// Pages kept at once, and the longest time that read pages wait to be kept.
const BATCH: usize = 50;
const LONGEST_WAIT: Duration = Duration::from_millis(400);

/// Keeps what a reading gives, and tells how it goes on.
pub(super) struct Keeper<'t> {
    tools: &'t Tools,
    pub site: SiteId,
    pub reading: ReadingId,
    pub progress: Progress,
    /// All pages as they were known before this run, gone ones too.
    pub known: HashMap<Address, Version>,
    /// Addresses at which there was nothing, or something that sent on.
    was_empty: HashSet<Address>,
    /// Addresses of this run that send on.
    sent_on: HashSet<Address>,
    pub ignored_parameters: Arc<[String]>,
    /// Whether what is planned for pages is made on what was crawled, since they have no other source.
    is_handed_over: bool,
    /// Blocks that were no content of their pages when the site was last read.
    boilerplate: HashSet<BlockKey>,
    found: Vec<Address>,
    pages: Vec<CrawledPage>,
    files: Vec<ReadPage>,
    redirects: Vec<(Address, Address)>,
    dead: Vec<(Address, Absence)>,
    alive: Vec<Address>,
    /// Pages that are not found any more, and those of them that were noted so far and are found after all.
    leaving: Vec<(PageId, Left)>,
    left: HashSet<PageId>,
    staying: Vec<PageId>,
    outcomes: Vec<ReadAddress>,
    last: Instant,
    /// The editing interface that the entry page names.
    pub interface: Option<Address>,
    /// What the editor should know although the reading goes on.
    pub warning: Option<String>,
    waits: Option<String>,
    pub is_to_stop: bool,
}

impl<'t> Keeper<'t> {
    /// A keeper for a reading that begins or goes on.
    pub async fn new(
        tools: &'t Tools,
        settings: &Site,
        reading: ReadingId,
        progress: Progress,
    ) -> Result<Self, JobError> {
        let site = settings.id;
        let known = page::all_versions(&tools.pool, site).await?;
        // What is another address of a page sends on here, and is there on the site.
        let same = known.iter().filter(|version| version.gone == Some(Gone::Same));
        let same: HashSet<_> = same.map(|version| version.address.clone()).collect();
        let dead = redirect::dead(&tools.pool, site).await?.into_iter().map(|(address, _)| address);
        let redirects = redirect::all(&tools.pool, site).await?.into_iter().map(|(from, _)| from);
        let redirects = redirects.filter(|from| !same.contains(from));
        let left = reading::leaving(&tools.pool, reading).await?;
        Ok(Self {
            ignored_parameters: settings.settings.ignored_parameters.clone().into(),
            is_handed_over: settings.way() == Way::HandedOver,
            tools,
            site,
            reading,
            progress,
            known: known.into_iter().map(|version| (version.address.clone(), version)).collect(),
            boilerplate: boilerplate::all(&tools.pool, site).await?,
            was_empty: dead.chain(redirects).collect(),
            sent_on: HashSet::new(),
            found: Vec::new(),
            pages: Vec::new(),
            files: Vec::new(),
            redirects: Vec::new(),
            dead: Vec::new(),
            alive: Vec::new(),
            leaving: Vec::new(),
            left: left.into_iter().map(|(page, _)| page).collect(),
            staying: Vec::new(),
            outcomes: Vec::new(),
            last: Instant::now(),
            interface: None,
            warning: None,
            waits: None,
            is_to_stop: false,
        })
    }

    /// Writes all that it was given. O(bytes of it), in batches.
    pub async fn keep_all(
        &mut self,
        mut events: mpsc::Receiver<CrawlEvent>,
        editor: Option<&Editor>,
        lock: &mut WorkLock,
    ) -> Result<(), JobError> {
        loop {
            let wait = LONGEST_WAIT.saturating_sub(self.last.elapsed());
            let event = tokio::time::timeout(wait, events.recv()).await;
            let is_over = matches!(event, Ok(None));
            let is_time = event.is_err();
            if let Ok(Some(event)) = event {
                self.take(event);
            }
            if is_over || is_time || self.pages.len() + self.files.len() >= BATCH {
                self.keep(editor, lock).await?;
            }
            if is_over {
                return Ok(());
            }
            if self.is_to_stop {
                // What was fetched already is kept; only what is on its way is asked for again.
                events.close();
                while let Some(event) = events.recv().await {
                    self.take(event);
                }
                return self.keep(editor, lock).await;
            }
        }
    }

    fn take(&mut self, event: CrawlEvent) {
        match event {
            CrawlEvent::NamesInterface(address) => self.interface = Some(address),
            CrawlEvent::Found(address) => self.find(address),
            CrawlEvent::Page(page) => {
                self.waits = None;
                self.take_page(*page);
            }
            CrawlEvent::Unchanged(address) => {
                self.waits = None;
                self.progress.pages += 1;
                self.note_alive(&address);
                self.note(address, Outcome::Unchanged, None);
            }
            CrawlEvent::File { address, media_type } => self.take_file(&address, &media_type),
            CrawlEvent::Redirect { from, to } => self.take_redirect(from, to),
            CrawlEvent::Failed { address, error } => {
                let status = match &error {
                    FetchError::Status { status, .. } => Some(status.as_u16()),
                    _ => None,
                };
                match status {
                    Some(status @ (404 | 410)) => self.take_dead(address, status.cast_signed()),
                    _ => self.fail(address, error.to_string()),
                }
            }
            CrawlEvent::LeftOut { address, why } => {
                self.progress.known += 1;
                self.leave_out(address, why);
            }
            CrawlEvent::Waits(wait) => {
                let seconds = wait.as_secs().max(1);
                self.waits = Some(format!("The site asks for patience: waiting {seconds} s before going on."));
            }
            CrawlEvent::Full(most) => {
                self.warning = Some(format!(
                    "The site has more than {most} addresses, and the reading looked at no more. Raise the limit in \
                     Setup to read them all."
                ));
            }
        }
    }

    /// Notes how the links of a folder are written.
    pub async fn note_link_form(&self, form: Option<&LinkForm>) -> Result<(), JobError> {
        Ok(site::set_link_form(&self.tools.pool, self.site, form).await?)
    }

    /// Notes an address that is still to be read.
    pub fn find(&mut self, address: Address) {
        self.progress.known += 1;
        self.found.extend(Some(address).filter(is_short_enough));
    }

    /// Takes a page that was read.
    pub fn take_page(&mut self, page: CrawledPage) {
        if page.document.entrance() == Some(Entrance::Listing) {
            self.note_alive(&page.address);
            return self.leave_out(page.address, "it is a listing of files that the server made");
        }
        self.progress.pages += 1;
        self.note_alive(&page.address);
        self.pages.push(page);
    }

    /// Takes a file that is no page.
    pub fn take_file(&mut self, address: &Address, media_type: &str) {
        self.progress.files += 1;
        self.note_alive(address);
        self.files.extend(read_file(address, media_type));
        self.note(address.clone(), Outcome::File, None);
    }

    /// Notes an address that was not read, and why.
    pub fn leave_out(&mut self, address: Address, why: &str) {
        self.progress.others += 1;
        self.note(address, Outcome::LeftOut, Some(why.to_owned()));
    }

    /// Something that may be there could not be read.
    pub fn fail(&mut self, address: Address, why: String) {
        self.progress.failures += 1;
        self.progress.unread += 1;
        self.note(address, Outcome::Failed, Some(why));
    }

    /// Notes an address that sends on.
    pub fn take_redirect(&mut self, from: Address, to: Address) {
        // One in the middle of a chain is met more than once.
        if !self.sent_on.insert(from.clone()) {
            return;
        }
        self.progress.others += 1;
        if !is_short_enough(&from) || !is_short_enough(&to) {
            return self.warn_of_length();
        }
        let was_page = self.known.get(&from).filter(|version| version.gone != Some(Gone::Moved));
        match was_page.map(|version| version.number) {
            Some(number) => {
                self.progress.moved += 1;
                self.note(from, Outcome::Moved, Some(to.to_string()));
                self.leave(number, Left::Moved(to));
            }
            None => {
                self.note(from.clone(), Outcome::Redirect, None);
                self.redirects.push((from, to));
            }
        }
    }

    /// There is nothing at an address.
    pub fn take_dead(&mut self, address: Address, status: i16) {
        if !is_short_enough(&address) {
            self.progress.failures += 1;
            return self.warn_of_length();
        }
        let absence = Absence::Status(status);
        match self.known.get(&address).map(|version| (version.number, version.gone)) {
            Some((_, Some(Gone::Vanished))) => {
                self.progress.others += 1;
                self.dead.push((address.clone(), absence));
                self.note(address, Outcome::Unchanged, None);
            }
            Some((number, before)) => {
                self.progress.failures += 1;
                self.progress.vanished += i32::from(before.is_none());
                self.leave(number, Left::Absent(absence));
                self.note(address, Outcome::Vanished, Some(format!("status {status}")));
            }
            None => {
                self.progress.failures += 1;
                self.dead.push((address.clone(), absence));
                self.note(address, Outcome::Failed, Some(format!("nothing there (status {status})")));
            }
        }
    }

    /// A page that is not published yet. One that was is gone.
    pub fn take_draft(&mut self, address: Address) {
        self.progress.known += 1;
        let was = self.known.get(&address).filter(|version| version.gone != Some(Gone::Vanished));
        match was.map(|version| version.number) {
            Some(number) => self.leave(number, Left::Absent(Absence::Draft)),
            None => self.dead.extend(is_short_enough(&address).then(|| (address.clone(), Absence::Draft))),
        }
        self.leave_out(address, "it is a draft");
    }

    /// What an earlier run of this reading did not find is looked for anew.
    pub fn look_anew(&mut self) {
        self.progress = Progress::default();
        self.staying.extend(self.left.drain());
    }

    /// A page is not found any more. It stays until the end of the reading.
    fn leave(&mut self, page: PageId, left: Left) {
        self.left.insert(page);
        self.leaving.push((page, left));
    }

    fn note_alive(&mut self, address: &Address) {
        if let Some(version) = self.known.get(address).filter(|version| self.left.remove(&version.number)) {
            self.staying.push(version.number);
        }
        if self.was_empty.contains(address) {
            self.alive.push(address.clone());
        }
    }

    fn note(&mut self, address: Address, outcome: Outcome, note: Option<String>) {
        match is_short_enough(&address) {
            true => self.outcomes.push(ReadAddress { address, outcome, note }),
            false => self.warn_of_length(),
        }
    }

    /// Says what is going on while no page is read.
    pub fn tell(&mut self, what: &str) {
        self.waits = Some(what.to_owned());
    }

    fn warn_of_length(&mut self) {
        let warning = || format!("Addresses of more than {LONGEST_ADDRESS} bytes were left out.");
        self.warning.get_or_insert_with(warning);
    }
}
