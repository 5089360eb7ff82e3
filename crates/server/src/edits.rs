//! From what is in the tray to edits of a page, on whatever version of it.

use strelm_core::document::{Document, Edit, LinkTarget, Quote, TextSpan};
use strelm_store::taken::{Change, TakenLink};

/// The edit that a link of the tray means.
///
/// # Errors
/// Why it cannot be made, in words for the editor.
pub fn edit_of(document: &Document, taken: &TakenLink) -> Result<Edit, String> {
    if taken.link.change != Change::Put {
        return repair_of(document, taken);
    }
    let words = words_of(document, taken)?;
    document.put_link(words, &LinkTarget::to(taken.link.href.clone())).map_err(|why| refused(taken, &why))
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

/// Where the words of a link stand on this version of the page.
pub fn words_of(document: &Document, taken: &TakenLink) -> Result<TextSpan, String> {
    let link = &taken.link;
    if link.source_hash == document.hash() {
        return Ok(link.words);
    }
    document.find_again(&quote_of(taken), link.words.start).map_err(|why| {
        format!("The page was changed meanwhile, and “{}” cannot carry the link any more: {why}. Drop it.", link.anchor)
    })
}

pub fn quote_of(taken: &TakenLink) -> Quote<'_> {
    Quote { before: &taken.link.before_anchor, anchor: &taken.link.anchor, after: &taken.link.after_anchor }
}

pub fn refused(taken: &TakenLink, why: &dyn std::fmt::Display) -> String {
    format!("“{}” cannot carry the link: {why}. Drop it and take other words.", taken.link.anchor)
}
