//! From what is in the tray to edits of a page, on whatever version of it.

use thiserror::Error;

use super::entry::TrayEntry;
use super::planned_link::Change;
use crate::document::{ContentHash, Document, Edit, EditError, Lost, Refusal, TextSpan};
use crate::limits::Breach;

/// Why a planned link is not made on a version of its page, in words for the editor.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum EditRefusal {
    #[error("There is nothing to change.")]
    Nothing,
    #[error("The page was changed meanwhile, and the link on “{0}” is no longer there. Drop this.")]
    LinkGone(String),
    #[error("The link on “{words}” cannot be changed: {why}. Drop this.")]
    Fixed { words: String, why: Refusal },
    #[error("The page was changed meanwhile, and “{words}” cannot carry the link any more: {why}. Drop it.")]
    Lost { words: String, why: Lost },
    #[error("“{words}” cannot carry the link: {why}. Drop it and take other words.")]
    Refused { words: String, why: Refusal },
    #[error("“{words}” cannot carry the link: {why}. Drop it and take other words.")]
    Clash { words: String, why: EditError },
    #[error("A limit would be broken: {0}. Drop the link, or release it later.")]
    ReleaseLimit(Breach),
    #[error("A limit would be broken: {0}. Drop the link.")]
    PageLimit(Breach),
}

/// The edit that an entry of the tray means. O(n).
///
/// # Errors
/// [`EditRefusal`].
pub fn edit_of(document: &Document, entry: &TrayEntry) -> Result<Edit, EditRefusal> {
    if !entry.link.change.brings_link() {
        return change_of(document, entry);
    }
    edit_on(document, entry, words_of(document, entry)?)
}

/// The edit of a link that comes to the page, on these words of it.
pub(super) fn edit_on(document: &Document, entry: &TrayEntry, words: TextSpan) -> Result<Edit, EditRefusal> {
    let link = &entry.link;
    match &link.change {
        Change::Reword(says) => document.replace_sentence(words, &link.wording(says)),
        Change::PutOnPicture(picture) => match document.find_picture(*picture, words.start) {
            Some(ordinal) => document.put_link_on_picture(ordinal, &link.as_written()),
            None => Err(Refusal::NotThere),
        },
        _ => document.put_link_in(words, &link.as_written(), link.also_in()),
    }
    .map_err(|why| EditRefusal::Refused { words: link.said.anchor.clone(), why })
}

/// The edit that changes a link which is on the page.
pub(super) fn change_of(document: &Document, entry: &TrayEntry) -> Result<Edit, EditRefusal> {
    let link = &entry.link;
    let old = link.change.old().ok_or(EditRefusal::Nothing)?;
    let found = document.find_link(&link.quote(), &old.href).filter(|found| found.in_sentence);
    let found = found.ok_or_else(|| EditRefusal::LinkGone(link.said.anchor.clone()))?;
    let edit = match link.change {
        Change::Unlink(_) => document.take_out_link(found.ordinal),
        Change::Attributes(_) => document.change_link(found.ordinal, None, &link.says),
        _ => document.change_link(found.ordinal, Some(&link.href), &link.says),
    };
    edit.map_err(|why| EditRefusal::Fixed { words: link.said.anchor.clone(), why })
}

/// Where the words of a link stand on this version of the page; of a picture, how much text is before it. O(n) on
/// another version than the one for which it was taken.
///
/// # Errors
/// [`EditRefusal`].
pub fn words_of(document: &Document, entry: &TrayEntry) -> Result<TextSpan, EditRefusal> {
    let link = &entry.link;
    if link.source_hash == document.hash() {
        return Ok(link.words);
    }
    let place = match link.change {
        Change::PutOnPicture(picture) => place_of_picture(document, picture, link.words.start).map_err(Lost::Refused),
        _ => document.find_again(&link.quote(), link.words.start),
    };
    place.map_err(|why| EditRefusal::Lost { words: link.said.anchor.clone(), why })
}

/// Where an entry's words, or the link that it changes, stand on a version of the page. O(n).
pub fn held_in_source(document: &Document, entry: &TrayEntry) -> Option<TextSpan> {
    match entry.link.change.old() {
        Some(old) => Some(document.links()[document.find_link(&entry.link.quote(), &old.href)?.ordinal].text),
        None => words_of(document, entry).ok(),
    }
}

/// Where a picture stands that may carry a link, on this version of the page: the place of no words.
fn place_of_picture(document: &Document, picture: ContentHash, near: usize) -> Result<TextSpan, Refusal> {
    let ordinal = document.find_picture(picture, near).ok_or(Refusal::NotThere)?;
    document.may_link_picture(ordinal)?;
    let at = document.pictures()[ordinal].text_at;
    Ok(TextSpan::new(at, at))
}

/// As many edits of one version of a page as go together, in the order in which they come.
#[derive(Debug, Clone)]
pub struct Fitting {
    base: ContentHash,
    edits: Vec<Edit>,
}

impl Fitting {
    /// No edits yet, of this version of a page.
    pub const fn on(base: ContentHash) -> Self {
        Self { base, edits: Vec::new() }
    }

    /// One edit more, if it goes together with those before. O(splices of all).
    ///
    /// # Errors
    /// Why it does not; then those before stay as they are.
    pub fn add(&mut self, edit: Edit) -> Result<(), EditError> {
        self.edits.push(edit);
        match Edit::compose(self.base, self.edits.iter().cloned()) {
            Ok(_) => Ok(()),
            Err(why) => {
                self.edits.pop();
                Err(why)
            }
        }
    }

    /// Whether it changes nothing.
    pub const fn is_empty(&self) -> bool {
        self.edits.is_empty()
    }

    /// All of them as one.
    ///
    /// # Errors
    /// [`EditError`], though [`Fitting::add`] let none through that would clash.
    pub fn compose(self) -> Result<Edit, EditError> {
        Edit::compose(self.base, self.edits)
    }
}

/// A page with all changes of the tray that can be made on it; the others are left out. `None` when nothing changes. O(n)
/// for each.
pub fn apply_all(document: &Document, entries: &[TrayEntry]) -> Option<String> {
    let mut fitting = Fitting::on(document.hash());
    for edit in entries.iter().filter_map(|entry| edit_of(document, entry).ok()) {
        // What does not go together with the rest would be held back by a release.
        let _ = fitting.add(edit);
    }
    let after = fitting.compose().ok()?.apply(document.source()).ok()?;
    (after != document.source()).then_some(after)
}
