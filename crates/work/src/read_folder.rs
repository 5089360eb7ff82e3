//! Reading a folder as a site: all at once, kept in the same way as what is crawled.

use std::collections::HashSet;

use strelm_core::site::Address;
use strelm_sources::crawl::CrawledPage;
use strelm_sources::folder::Folder;
use strelm_sources::folder_reading::{FolderRead, FolderReading};
use strelm_store::lock::WorkLock;
use strelm_store::page::Version;
use strelm_store::site::Site;
use tokio::sync::mpsc;
use tokio::task::JoinHandle;

use super::JobError;
use super::keeper::Keeper;

/// Pages kept at once.
const BATCH: usize = 200;

/// The inner error says to the editor why nothing was read. What was known of a part that cannot be read stays.
pub(super) async fn read(
    folder: Folder,
    site: &Site,
    keeper: &mut Keeper<'_>,
    lock: &mut WorkLock,
) -> Result<Result<(), String>, JobError> {
    // A folder is read from its beginning each time: that is quick, and files may have changed meanwhile.
    keeper.look_anew();
    let entry = site.entry.clone();
    let looked = tokio::task::spawn_blocking(move || folder.reading(Some(&entry))).await;
    let mut read = looked.map_err(|error| JobError::BrokeOff(error.to_string()))?;
    if read.is_empty() && keeper.known.values().any(|known| known.is_there()) {
        let why = "The folder is empty. Everything that was known of it is kept: is the disk that it is on mounted? Then \
                   read it again.";
        return Ok(Err(why.to_owned()));
    }
    let is_wanted = |address: &Address| site.settings.part.holds(address) || *address == site.entry;
    let there: HashSet<Address> = read.pages().filter(|page| is_wanted(page)).cloned().collect();
    there.iter().for_each(|address| keeper.find(address.clone()));
    for (address, why) in std::mem::take(&mut read.doubles).into_iter().filter(|(address, _)| is_wanted(address)) {
        keeper.progress.known += 1;
        keeper.leave_out(address, &why);
    }
    let drafts: HashSet<Address> = std::mem::take(&mut read.drafts).into_iter().filter(is_wanted).collect();
    for address in &drafts {
        keeper.take_draft(address.clone());
    }
    if let Some(first) = read.again.first() {
        keeper.warning = Some(format!(
            "{} more than once in the file, such as {}. The last text of each counts.",
            match read.again.len() {
                1 => "One address stands".to_owned(),
                all => format!("{all} addresses stand"),
            },
            first.from_root()
        ));
    }
    let redirects = std::mem::take(&mut read.redirects);
    let mut sent_on: HashSet<Address> = redirects.iter().map(|(from, _)| from.clone()).collect();
    for (from, to) in redirects {
        keeper.progress.known += 1;
        keeper.take_redirect(from, to);
    }
    let (mut stretches, reading) = read_on(read);
    while let Some(pages) = stretches.recv().await {
        pages.into_iter().filter(|page| is_wanted(&page.address)).for_each(|page| keeper.take_page(page));
        keeper.keep(None, lock).await?;
        if keeper.is_to_stop {
            return Ok(Ok(()));
        }
    }
    let mut read = reading.await.map_err(|error| JobError::BrokeOff(error.to_string()))?;
    read.unread.retain(|unread| is_wanted(&unread.address));
    // Parts of pages that earlier readings took for files stay what they were.
    let parts = std::mem::take(&mut read.parts).into_iter();
    read.files.extend(parts.filter(|(address, _)| keeper.known.get(address).is_some_and(Version::is_there)));
    let files: HashSet<Address> = read.files.iter().map(|(address, _)| address.clone()).collect();
    let is_unread = |address: &Address| read.unread.iter().any(|unread| unread.covers(address));
    let is_known = |known: &&Address| !there.contains(known) && !files.contains(known) && !is_unread(known);
    let before: Vec<_> = keeper.known.keys().filter(is_known).filter(|known| is_wanted(known)).cloned().collect();
    for unread in read.unread {
        keeper.progress.known += 1;
        keeper.fail(unread.address, unread.why);
    }
    for (from, to) in std::mem::take(&mut read.redirects).into_iter().filter(|(from, _)| is_wanted(from)) {
        sent_on.insert(from.clone());
        keeper.take_redirect(from, to);
    }
    keeper.note_link_form(read.link_form.as_ref()).await?;
    for (address, media_type) in read.files.into_iter().filter(|(address, _)| is_wanted(address)) {
        keeper.find(address.clone());
        keeper.take_file(&address, &media_type);
    }
    let dead: HashSet<Address> = read.dead.into_iter().filter(is_wanted).chain(before).collect();
    for address in dead.into_iter().filter(|dead| !drafts.contains(dead) && !sent_on.contains(dead)) {
        keeper.progress.known += 1;
        keeper.take_dead(address, 404);
    }
    keeper.keep(None, lock).await.map(Ok)
}

/// Reads the pages of a folder in stretches, each while the one before is kept; then gives all else. Ends when nobody takes
/// them any more.
fn read_on(mut reading: FolderReading) -> (mpsc::Receiver<Vec<CrawledPage>>, JoinHandle<FolderRead>) {
    let (send, stretches) = mpsc::channel(1);
    let reading = tokio::task::spawn_blocking(move || {
        loop {
            let pages = reading.read_next(BATCH);
            if pages.is_empty() || send.blocking_send(pages).is_err() {
                return reading.end();
            }
        }
    });
    (stretches, reading)
}
