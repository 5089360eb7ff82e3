//! Taking released links back from a page that was changed since: they are taken out and all else stays.

use super::edit::Fitting;
use super::entry::{TrayEntry, TrayState};
use super::planned_link::Change;
use super::release::Ended;
use crate::document::{Document, Edit, LinkSays, LinkTarget};

/// The edit that undoes a change on a version of its page, if there is one, and whether somebody undid it already.
#[derive(Debug)]
struct Undone {
    edit: Option<Edit>,
    is_undone: bool,
}

/// The page without some links, as far as they are still there; and how each link ends: a message says why one is still
/// out. `before` is the page as it was before the release. O(n) for each link.
pub fn take_out(
    document: &Document,
    before: Option<&Document>,
    entries: &[&TrayEntry],
) -> (Option<String>, Vec<Ended>) {
    let mut fitting = Fitting::on(document.hash());
    let mut ended = Vec::with_capacity(entries.len());
    for entry in entries {
        let Undone { edit, is_undone } = undoing(document, before, entry);
        let is_taken_out = edit.is_some_and(|edit| fitting.add(edit).is_ok());
        let why_not = (!is_taken_out && !is_undone).then(|| still_there(entry));
        let state = if why_not.is_some() { TrayState::Out } else { TrayState::TakenBack };
        ended.push(Ended { change: entry.id, state, message: why_not });
    }
    let after = fitting.compose().and_then(|edit| edit.apply(document.source()));
    (after.ok(), ended)
}

fn still_there(entry: &TrayEntry) -> String {
    let link = &entry.link;
    match link.change {
        Change::Reword(_) => format!(
            "The page was changed since, so the sentence with “{}” stays as it was reworded. Word it on the page.",
            link.shown_anchor()
        ),
        Change::PutOnPicture(_) => format!(
            "The picture “{}” is no longer there as the release left it; if it still carries the link, take it out there.",
            link.said.anchor
        ),
        _ => format!(
            "“{}” is no longer in the sentence of the release; if the link is still on the page, take it out there.",
            link.said.anchor
        ),
    }
}

fn undoing(document: &Document, before: Option<&Document>, entry: &TrayEntry) -> Undone {
    let link = &entry.link;
    let (quote, href) = (link.quote(), link.href.as_str());
    // A link that only looks the same may be the author's own: it counts if there was none before the release.
    let was_there = || before.is_some_and(|before| before.find_link(&quote, href).is_some());
    let found = || document.find_link(&quote, href).filter(|found| found.in_sentence || !was_there());
    let leads = |href: &str| document.find_link(&quote, href).is_some_and(|found| found.in_sentence);
    let (edit, is_undone) = match &link.change {
        Change::Put => {
            let found = found();
            let is_undone = found.is_none() && document.find_again(&quote, link.words.start).is_ok();
            (found.and_then(|found| document.take_out_link(found.ordinal).ok()), is_undone)
        }
        Change::PutOnPicture(picture) => {
            let near = link.words.start;
            let found = document.find_link_on_picture(*picture, near, href);
            let is_undone = found.is_none()
                && document.find_picture(*picture, near).is_some_and(|at| document.may_link_picture(at).is_ok());
            (found.and_then(|link| document.take_out_link(link).ok()), is_undone)
        }
        // What else was changed in the sentence since cannot be told from the wording of the release.
        Change::Reword(_) => (None, document.find_again(&quote, link.words.start).is_ok()),
        Change::Retarget(old) => {
            let said = said_before(before, entry, &old.href);
            let back = |ordinal| document.change_link(ordinal, Some(&old.href), &said).ok();
            (found().and_then(|found| back(found.ordinal)), leads(&old.href))
        }
        Change::Unlink(old) => {
            let found = before.and_then(|before| Some((before, before.find_link(&quote, &old.href)?)));
            let says = found.map(|(before, found)| LinkSays::all_of(before, &before.links()[found.ordinal]));
            let target = LinkTarget { href: old.href.clone(), says: says.unwrap_or_default() };
            let edit = document.put_link_again(&quote, link.words.start, &target);
            (edit.ok(), leads(&old.href))
        }
        Change::Attributes(old) => {
            let said = said_before(before, entry, &old.href);
            let found = document.find_link(&quote, &old.href).filter(|found| found.in_sentence);
            // Without the version of before nobody knows what the link said then.
            let back = |ordinal| document.change_link(ordinal, None, &said).ok();
            (found.filter(|_| !said.is_empty()).and_then(|found| back(found.ordinal)), false)
        }
    };
    Undone { edit, is_undone }
}

/// What a link said before the release, of all that the release made it say.
fn said_before(before: Option<&Document>, entry: &TrayEntry, href: &str) -> Vec<LinkSays> {
    let found = before.and_then(|before| Some((before, before.find_link(&entry.link.quote(), href)?)));
    let Some((before, found)) = found else { return Vec::new() };
    let was = &before.links()[found.ordinal];
    entry.link.says.iter().map(|says| says.as_on(before, was)).collect()
}
