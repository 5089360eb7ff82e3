//! Handing over: each page is worked out as it is to be, and somebody else brings it to the site.

use strelm_core::document::{Document, Edit};
use strelm_store::page;
use strelm_store::release::{self, ReleasePage};
use strelm_store::taken::{TakenLink, TakenState};

use super::JobError;
use super::release::{Round, SOURCE_GONE, Sent, address_of, held_back_all};

const NOT_READ: &str = "The page was not read as a whole yet. Read the site again, then hand over what is in the tray.";

impl Round<'_> {
    /// Notes what a page is, as it was last read, and what it is to be. The site is not asked.
    pub(super) async fn hand_over(&mut self, waiting: &ReleasePage, links: &[&TakenLink]) -> Result<Sent, JobError> {
        let pool = &self.tools.pool;
        let Some(address) = address_of(self.tools, self.site, waiting.page).await? else {
            return Ok(Sent::Ended(held_back_all(links, SOURCE_GONE)));
        };
        let source = page::text(pool, self.site, waiting.page).await?.and_then(|text| text.source);
        let Some(source) = source else { return Ok(Sent::Ended(held_back_all(links, NOT_READ))) };
        let document = Document::read(source.text.as_str(), source.format);
        let (edits, mut ended) = match self.edits(&document, &address, links).await? {
            Ok(edits) => edits,
            Err(why) => return Ok(Sent::Interrupted(why)),
        };
        let edit = Edit::compose(document.hash(), edits).and_then(|edit| edit.apply(&source.text));
        let after = match edit {
            Ok(after) => after,
            Err(error) => {
                let why = format!("The links of this page do not go together: {error}. Drop one of them.");
                return Ok(Sent::Ended(held_back_all(links, &why)));
            }
        };
        release::note_versions(pool, waiting.release, waiting.page, &source.text, &after).await?;
        for link in ended.iter_mut().filter(|link| link.state == TakenState::Out) {
            link.state = TakenState::HandedOver;
        }
        Ok(Sent::Ended(ended))
    }
}
