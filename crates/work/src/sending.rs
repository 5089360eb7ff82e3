//! Getting a page's source from the site, and giving the site another one, as long as that may help.

use strelm_core::site::Address;
use strelm_sources::editing::{Editor, PageSource, SourceError};

use super::Tools;
use crate::words::sentence;

pub(super) const SOURCE_GONE: &str = "The page is no longer there, or cannot be edited. Drop the link.";

/// Why a page did not get its new content.
pub(super) enum Unsent {
    HeldBack(String),
    Interrupted(String),
}

/// A page's source, asked for again while that may help.
pub(super) async fn source_of(tools: &Tools, editor: &Editor, address: &Address) -> Result<PageSource, SourceError> {
    let mut tried = 0;
    loop {
        match editor.source(address).await {
            Err(error) if error.may_pass() && tried + 1 < tools.patience.tries => {
                let asked = if let SourceError::Busy { wait, .. } = &error { *wait } else { None };
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

fn unsent(error: &SourceError) -> Unsent {
    match error.concerns_the_whole_site() {
        true => Unsent::Interrupted(interrupted(error)),
        false => Unsent::HeldBack(held_back(error)),
    }
}

pub(super) fn interrupted(error: &SourceError) -> String {
    sentence(&error.to_string())
}

pub(super) fn held_back(error: &SourceError) -> String {
    match error {
        SourceError::ChangedMeanwhile => {
            "The page was changed on the site in the moment of the release, so nothing was touched. Release again."
                .to_owned()
        }
        SourceError::NotEditable => SOURCE_GONE.to_owned(),
        other => interrupted(other),
    }
}
