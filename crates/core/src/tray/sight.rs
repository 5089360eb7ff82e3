//! Looking whether what was handed over stands on its page now.

use super::edit::words_of;
use super::entry::TrayEntry;
use super::planned_link::Change;
use crate::document::{ContentHash, Document, Leads, Link, Sighting, Sought, TextSpan};
use crate::site::{Address, Target};

/// What a look at its page found of a link that was handed over.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Seen {
    pub sighting: Sighting,
    /// Where its words stand on the version of now, when that is another one and the change is not made.
    pub words: Option<(TextSpan, ContentHash)>,
}

/// `before` is the version for which the link was asked, `target` the address of the page that it is to lead to, and
/// `follow` tells where a link of the page leads. O(text + links × their blocks).
pub fn sight(
    entry: &TrayEntry,
    now: &Document,
    before: &Document,
    target: Option<&Address>,
    follow: impl Fn(&Link) -> Option<Address>,
) -> Seen {
    let link = &entry.link;
    let was = link.quote();
    let old = link.change.old().map(|old| &old.to);
    let target = match &link.target {
        Some(Target::Outside { address, .. } | Target::File(address)) => Some(address),
        _ => target,
    };
    let is_href =
        |other: &Link| matches!(link.target, Some(Target::Mail(_) | Target::Phone(_))) && other.href == link.href;
    let leads = Leads {
        new: |other: &Link| is_href(other) || target.is_some() && follow(other).as_ref() == target,
        old: |other: &Link| old.is_some() && follow(other).as_ref() == old,
    };
    let sought = match &link.change {
        Change::Put | Change::Reword(_) => Sought::Link { was, becomes: link.new_quote() },
        Change::PutOnPicture(picture) => Sought::OnPicture(*picture),
        Change::Retarget(_) => Sought::Elsewhere { was },
        Change::Unlink(_) => Sought::Off { was },
        Change::Attributes(old) => {
            let found = now.find_link(&was, &old.href).filter(|found| found.in_sentence);
            let says = |found: crate::document::FoundLink| {
                let there = &now.links()[found.ordinal];
                link.says.iter().all(|says| says.as_on(now, there) == *says)
            };
            let sighting = match found.map(says) {
                Some(true) => Sighting::There,
                Some(false) => Sighting::NotYet,
                None => Sighting::SentenceGone,
            };
            return Seen { sighting, words: None };
        }
    };
    let sighting = now.sight(&sought, before, &leads);
    let is_elsewhere = !sighting.is_made() && link.source_hash != now.hash() && link.change.brings_link();
    let words = is_elsewhere.then(|| words_of(now, entry).ok()).flatten();
    Seen { sighting, words: words.map(|words| (words, now.hash())) }
}
