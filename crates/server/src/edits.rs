//! From what is in the tray to edits of a page, on whatever version of it.

use strelm_core::document::{ContentHash, Document, Edit, LinkTarget, Lost, Quote, Refusal, TextSpan, Wording};
use strelm_store::taken::{Change, OwnWording, TakenLink};

/// The edit that a link of the tray means.
///
/// # Errors
/// Why it cannot be made, in words for the editor.
pub fn edit_of(document: &Document, taken: &TakenLink) -> Result<Edit, String> {
    if !taken.link.change.brings_link() {
        return repair_of(document, taken);
    }
    edit_on(document, taken, words_of(document, taken)?)
}

/// The edit of a link that comes to the page, on these words of it.
///
/// # Errors
/// As [`edit_of`].
pub fn edit_on(document: &Document, taken: &TakenLink, words: TextSpan) -> Result<Edit, String> {
    let href = &taken.link.href;
    match &taken.link.change {
        Change::Reword(says) => document.replace_sentence(words, &wording_of(says, href)),
        Change::PutOnPicture(picture) => match document.find_picture(*picture, words.start) {
            Some(ordinal) => document.put_link_on_picture(ordinal, &LinkTarget::to(href.clone())),
            None => Err(Refusal::NotThere),
        },
        _ => document.put_link(words, &LinkTarget::to(href.clone())),
    }
    .map_err(|why| refused(taken, &why))
}

/// An editor's own sentence as it is written into the page.
pub fn wording_of(says: &OwnWording, href: &str) -> Vec<Wording> {
    let text = |text: &str| (!text.is_empty()).then(|| Wording::Text(text.to_owned()));
    let link = Wording::Link(says.anchor.clone(), LinkTarget::to(href));
    [text(&says.before), Some(link), text(&says.after)].into_iter().flatten().collect()
}

/// The edit that changes a link which is on the page.
pub fn repair_of(document: &Document, taken: &TakenLink) -> Result<Edit, String> {
    let link = &taken.link;
    let Some(old) = link.change.old() else { return Err("There is nothing to change.".to_owned()) };
    let found = document.find_link(&quote_of(taken), &old.href).filter(|found| found.in_sentence);
    let found = found.ok_or_else(|| {
        format!("The page was changed meanwhile, and the link on “{}” is no longer there. Drop this.", link.anchor)
    })?;
    let edit = match link.change {
        Change::Unlink(_) => document.take_out_link(found.ordinal),
        _ => document.change_link(found.ordinal, Some(&link.href), &[]),
    };
    edit.map_err(|why| format!("The link on “{}” cannot be changed: {why}. Drop this.", link.anchor))
}

/// Where the words of a link stand on this version of the page; of a picture, how much text is before it.
pub fn words_of(document: &Document, taken: &TakenLink) -> Result<TextSpan, String> {
    let link = &taken.link;
    if link.source_hash == document.hash() {
        return Ok(link.words);
    }
    let place = match link.change {
        Change::PutOnPicture(picture) => place_of_picture(document, picture, link.words.start).map_err(Lost::Refused),
        _ => document.find_again(&quote_of(taken), link.words.start),
    };
    place.map_err(|why| {
        format!("The page was changed meanwhile, and “{}” cannot carry the link any more: {why}. Drop it.", link.anchor)
    })
}

/// Where a picture stands that may carry a link, on this version of the page: the place of no words.
fn place_of_picture(document: &Document, picture: ContentHash, near: usize) -> Result<TextSpan, Refusal> {
    let ordinal = document.find_picture(picture, near).ok_or(Refusal::NotThere)?;
    document.may_link_picture(ordinal)?;
    let at = document.pictures()[ordinal].text_at;
    Ok(TextSpan::new(at, at))
}

/// The sentence as it is on the page before the change.
pub fn quote_of(taken: &TakenLink) -> Quote<'_> {
    Quote { before: &taken.link.before_anchor, anchor: &taken.link.anchor, after: &taken.link.after_anchor }
}

/// The sentence as it is after the change.
pub fn new_quote_of(taken: &TakenLink) -> Quote<'_> {
    match &taken.link.change {
        Change::Reword(says) => Quote { before: &says.before, anchor: &says.anchor, after: &says.after },
        _ => quote_of(taken),
    }
}

pub fn refused(taken: &TakenLink, why: &dyn std::fmt::Display) -> String {
    format!("“{}” cannot carry the link: {why}. Drop it and take other words.", taken.link.anchor)
}
