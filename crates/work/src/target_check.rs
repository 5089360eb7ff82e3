//! Whether what a planned link leads to is still there when it goes out.

use strelm_core::site::{Address, PageId, Target};
use strelm_sources::editing::Editor;
use strelm_sources::fetch::{FetchError, FetchLimits, fetch};
use strelm_store::page;

use super::JobError;
use super::read_again::address_of;
use super::release::Round;

const TARGET_GONE: &str = "The page that it leads to is no longer on the site. Drop the link.";
const NOT_YET: &str = "The page that it leads to is not on the site yet. Release the link when it is.";

impl Round<'_> {
    /// Whether a target is still there, a page under its own address; the inner value says what is wrong with it. The outer
    /// error interrupts the release. What is not of the site is not asked for.
    pub(super) async fn target_is_fine(&mut self, target: &Target) -> Result<Result<Option<String>, String>, JobError> {
        if let Some(known) = self.targets.get(target) {
            return Ok(Ok(known.clone()));
        }
        let found = match target {
            Target::Page(page) => self.page_is_fine(*page).await?,
            Target::Place { page, id } => match self.page_is_fine(*page).await? {
                Ok(None) => Ok(self.place_is_fine(*page, id).await?),
                other => other,
            },
            Target::PlannedPage(_) => Ok(Some(NOT_YET.to_owned())),
            Target::File(address) => self.address_is_fine(address).await,
            Target::Outside { .. } | Target::Mail(_) | Target::Phone(_) => Ok(None),
        };
        if let Ok(found) = &found {
            self.targets.insert(target.clone(), found.clone());
        }
        Ok(found)
    }

    async fn page_is_fine(&self, page: PageId) -> Result<Result<Option<String>, String>, JobError> {
        Ok(match address_of(self.tools, self.site, page).await? {
            None => Ok(Some(TARGET_GONE.to_owned())),
            Some(address) => self.address_is_fine(&address).await,
        })
    }

    async fn place_is_fine(&self, page: PageId, id: &str) -> Result<Option<String>, JobError> {
        let marks = page::marks(&self.tools.pool, self.site, &[page]).await?.pop();
        // Of a file nobody knows its places.
        let is_lost = |ids: &[String]| !ids.is_empty() && !ids.iter().any(|known| known == id) && id != "top";
        let lost =
            format!("The page that it leads to has no place called #{id} any more. Drop the link and take it anew.");
        Ok(marks.filter(|marks| is_lost(&marks.ids)).map(|_| lost))
    }

    async fn address_is_fine(&self, address: &Address) -> Result<Option<String>, String> {
        match self.editor {
            Some(editor) => self.look_at(editor, address).await,
            None => Ok(None),
        }
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
