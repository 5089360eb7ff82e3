//! Reading a folder as a site: all at once, kept in the same way as what is crawled.

use std::collections::HashSet;

use strelm_core::site::Address;
use strelm_sources::folder::Folder;
use strelm_store::lock::WorkLock;
use strelm_store::page::Version;
use strelm_store::site::Site;

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
    let read = tokio::task::spawn_blocking(move || folder.read()).await;
    let read = read.map_err(|error| JobError::BrokeOff(error.to_string()))?;
    if read.is_empty() && keeper.known.values().any(|known| known.is_there()) {
        let why = "The folder is empty. Everything that was known of it is kept: is the disk that it is on mounted? Then \
                   read it again.";
        return Ok(Err(why.to_owned()));
    }
    let mut read = read;
    let is_wanted = |address: &Address| site.settings.part.holds(address) || *address == site.entry;
    read.pages.retain(|page| is_wanted(&page.address));
    read.files.retain(|(address, _)| is_wanted(address));
    read.dead.retain(&is_wanted);
    read.drafts.retain(&is_wanted);
    read.unread.retain(|unread| is_wanted(&unread.address));
    read.doubles.retain(|(address, _)| is_wanted(address));
    // Parts of pages that earlier readings took for files stay what they were.
    let parts = std::mem::take(&mut read.parts).into_iter();
    read.files.extend(parts.filter(|(address, _)| keeper.known.get(address).is_some_and(Version::is_there)));
    let there: HashSet<Address> = read.pages.iter().map(|page| page.address.clone()).collect();
    let files: HashSet<Address> = read.files.iter().map(|(address, _)| address.clone()).collect();
    for address in there.iter().chain(&files) {
        keeper.find(address.clone());
    }
    let is_known = |known: &&Address| !there.contains(known) && !files.contains(known) && !read.is_unread(known);
    let before: Vec<_> = keeper.known.keys().filter(is_known).filter(|known| is_wanted(known)).cloned().collect();
    for (address, why) in read.doubles {
        keeper.progress.known += 1;
        keeper.leave_out(address, &why);
    }
    for unread in read.unread {
        keeper.progress.known += 1;
        keeper.fail(unread.address, unread.why);
    }
    keeper.note_link_form(read.link_form.as_ref()).await?;
    let drafts: HashSet<Address> = read.drafts.into_iter().collect();
    for address in &drafts {
        keeper.take_draft(address.clone());
    }
    for (address, media_type) in read.files {
        keeper.take_file(&address, &media_type);
    }
    let sent_on: HashSet<Address> = read.redirects.iter().map(|(from, _)| from.clone()).collect();
    for (from, to) in read.redirects {
        keeper.progress.known += 1;
        keeper.take_redirect(from, to);
    }
    let dead: HashSet<Address> = read.dead.into_iter().chain(before).collect();
    for address in dead.into_iter().filter(|dead| !drafts.contains(dead) && !sent_on.contains(dead)) {
        keeper.progress.known += 1;
        keeper.take_dead(address, 404);
    }
    for (ordinal, page) in (1..).zip(read.pages) {
        keeper.take_page(page);
        if ordinal % BATCH == 0 {
            keeper.keep(None, lock).await?;
            if keeper.is_to_stop {
                return Ok(Ok(()));
            }
        }
    }
    keeper.keep(None, lock).await.map(Ok)
}
