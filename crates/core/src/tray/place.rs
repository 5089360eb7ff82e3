//! Where a planned link goes when its page changed: to where its words went, or it tells why it cannot.

use super::edit::words_of;
use super::entry::TrayEntry;
use crate::document::{ContentHash, Document, TextSpan};
use crate::ids::PageId;

const SOURCE_GONE: &str = "The page is no longer on the site. Drop this link.";
const TARGET_GONE: &str = "The page that it leads to is no longer on the site. Drop this link.";
const LINK_GONE: &str = "The page was changed, and this link is no longer on it. Drop this.";

/// What is known of the page that an entry stands on.
#[derive(Debug, Clone, Copy)]
pub enum SourceNow<'k> {
    /// It is not there, or cannot be edited.
    Gone,
    /// It is the version for which the link was taken.
    Same,
    Changed(&'k Document),
}

/// Where a link in the tray stands on a newer version of its page, or why it stands nowhere.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Placed {
    Anew { words: TextSpan, source_hash: ContentHash },
    Lost { message: String },
}

/// `None` when the link is where it was, and nothing was said against it. O(n) where the page changed.
pub fn place_of(entry: &TrayEntry, source: SourceNow<'_>, is_gone: impl Fn(PageId) -> bool) -> Option<Placed> {
    let link = &entry.link;
    let lost = |message: &str| Some(Placed::Lost { message: message.to_owned() });
    if is_gone(link.source) {
        return lost(SOURCE_GONE);
    }
    if link.target_page().is_some_and(is_gone) {
        return lost(TARGET_GONE);
    }
    let document = match source {
        SourceNow::Gone => return lost(SOURCE_GONE),
        SourceNow::Same => {
            let (words, source_hash) = (link.words, link.source_hash);
            return entry.message.is_some().then_some(Placed::Anew { words, source_hash });
        }
        SourceNow::Changed(document) => document,
    };
    if let Some(old) = link.change.old() {
        let found = document.find_link(&link.quote(), &old.href).filter(|found| found.in_sentence);
        let Some(found) = found else { return lost(LINK_GONE) };
        let words = document.links()[found.ordinal].text;
        return Some(Placed::Anew { words, source_hash: document.hash() });
    }
    match words_of(document, entry) {
        Ok(words) => Some(Placed::Anew { words, source_hash: document.hash() }),
        Err(why) => lost(&why.to_string()),
    }
}
