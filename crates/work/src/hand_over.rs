//! Handing over: each page is worked out as it is to be, and somebody else brings it to the site.

use strelm_core::document::Document;
use strelm_core::tray::{TrayEntry, TrayState, held_back_all};
use strelm_store::page;
use strelm_store::release::{self, ReleasePage};

use super::JobError;
use super::read_again::address_of;
use super::release::{Round, Sent};
use super::sending::SOURCE_GONE;

const NOT_READ: &str = "The page was not read as a whole yet. Read the site again, then hand over what is in the tray.";

impl Round<'_> {
    /// Notes what a page is, as it was last read, and what it is to be. The site is not asked.
    pub(super) async fn hand_over(&mut self, waiting: &ReleasePage, links: &[&TrayEntry]) -> Result<Sent, JobError> {
        let pool = &self.tools.pool;
        let Some(address) = address_of(self.tools, self.site, waiting.page).await? else {
            return Ok(Sent::Ended(held_back_all(links, SOURCE_GONE)));
        };
        let source = page::text(pool, self.site, waiting.page).await?.and_then(|text| text.source);
        let Some(source) = source else { return Ok(Sent::Ended(held_back_all(links, NOT_READ))) };
        let document = Document::read(source.text.as_str(), source.format);
        let (after, mut ended) = match self.worked_out(&document, &address, links).await? {
            Ok(worked_out) => worked_out,
            Err(why) => return Ok(Sent::Interrupted(why)),
        };
        let after = after.unwrap_or_else(|| source.text.clone());
        release::note_versions(pool, waiting.release, waiting.page, &source.text, &after).await?;
        for link in ended.iter_mut().filter(|link| link.state == TrayState::Out) {
            link.state = TrayState::HandedOver;
        }
        Ok(Sent::Ended(ended))
    }
}
