//! Links on pictures.

use strelm_core::document::{Document, Picture, TextSpan};
use strelm_core::site::{PageFacts, PageId};
use strelm_store::taken::{Change, NewLink, TakenLink};

use crate::api::ApiError;
use crate::live::Model;

/// A picture of a document by its ordinal.
pub fn at(document: &Document, ordinal: usize) -> Result<&Picture, ApiError> {
    let gone = "This picture is not on the page any more. Look at it once more.";
    document.pictures().get(ordinal).ok_or_else(|| ApiError::Conflict(gone.to_owned()))
}

/// A link on a picture of a page, as it goes into the tray. `ordinal` counts the pictures of the document, which is that of
/// the page's current version.
pub fn link(
    model: &Model,
    source: PageId,
    target: &PageFacts,
    document: &Document,
    ordinal: usize,
) -> Result<NewLink, ApiError> {
    let picture = at(document, ordinal)?;
    if let Some(why) = refusal(model, source, document, ordinal) {
        return Err(ApiError::Conflict(why));
    }
    Ok(NewLink {
        change: Change::PutOnPicture(document.hash_of(picture)),
        source,
        target: Some(target.id),
        words: TextSpan::new(picture.text_at, picture.text_at),
        source_hash: document.hash(),
        anchor: said_by(picture),
        before_anchor: String::new(),
        after_anchor: String::new(),
        href: target.address.from_root(),
        fit: None,
    })
}

/// Why a picture of a page cannot carry a link from here; `None` when it can.
pub fn refusal(model: &Model, source: PageId, document: &Document, ordinal: usize) -> Option<String> {
    let at = document.pictures().get(ordinal).map(|picture| picture.text_at);
    let is_used = |taken: &TakenLink| match taken.link.change {
        Change::PutOnPicture(_) => planned_on(document, taken) == Some(ordinal),
        _ => at.is_some_and(|at| taken.link.words.start < at && at < taken.link.words.end),
    };
    if model.planned_on(source).any(is_used) {
        return Some("This picture carries another link in the tray. Drop that one first.".to_owned());
    }
    document.may_link_picture(ordinal).err().map(|why| format!("This picture cannot carry a link: {why}."))
}

/// The picture on which a link of the tray is to come, by its ordinal; `None` for links on words.
pub fn planned_on(document: &Document, taken: &TakenLink) -> Option<usize> {
    match taken.link.change {
        Change::PutOnPicture(written) => document.find_picture(written, taken.link.words.start),
        _ => None,
    }
}

/// What a picture says, or that it says nothing.
pub fn said_by(picture: &Picture) -> String {
    picture.says().unwrap_or_else(|| "a picture without words".to_owned())
}
