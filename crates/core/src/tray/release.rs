//! What must hold of planned links when they go out, and how each ends.

use std::collections::HashMap;

use super::edit::{EditRefusal, Fitting, change_of, edit_on, words_of};
use super::entry::{TrayEntry, TrayState};
use super::planned_link::Change;
use crate::document::{Document, Edit, EditError, Region, TextSpan};
use crate::ids::ChangeId;
use crate::limits::{Breach, LinkLimits};
use crate::site::{Address, Destination, Target};

/// How a planned link ended.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ended {
    pub change: ChangeId,
    pub state: TrayState,
    pub message: Option<String>,
}

impl Ended {
    /// A change that is out on the site.
    pub const fn out(change: ChangeId) -> Self {
        Self { change, state: TrayState::Out, message: None }
    }

    /// Back in the tray, for a reason.
    pub const fn held_back(change: ChangeId, why: String) -> Self {
        Self { change, state: TrayState::Tray, message: Some(why) }
    }
}

/// All links of a page, held back for one reason.
pub fn held_back_all(entries: &[&TrayEntry], why: &str) -> Vec<Ended> {
    entries.iter().map(|entry| Ended::held_back(entry.id, why.to_owned())).collect()
}

impl LinkLimits {
    /// The limits of a whole release that some entries would break, those first that were taken last. O(entries).
    pub fn broken_by<'e>(&self, entries: impl IntoIterator<Item = &'e TrayEntry>) -> HashMap<ChangeId, Breach> {
        let brought = |entry: &'e TrayEntry| Some((entry.id, entry.link.brings()?.clone(), entry.link.shown_anchor()));
        let brought: Vec<_> = entries.into_iter().filter_map(brought).collect();
        let breaches = self.check_release(brought.iter().map(|(_, target, anchor)| (target.clone(), *anchor)));
        brought.iter().zip(breaches).filter_map(|((id, ..), breach)| Some((*id, breach?))).collect()
    }
}

/// One page of a release: the version of it that the site has, and what is to be changed on it.
pub struct OnePage<'p> {
    pub document: &'p Document,
    pub address: &'p Address,
    pub limits: LinkLimits,
    /// The entries of the page, each with what was found against it before its page was looked at.
    pub entries: &'p [(&'p TrayEntry, Option<String>)],
}

/// What is to be done for an entry.
enum ToDo {
    /// Counts what is put on words.
    Put(usize),
    Change(Edit),
}

impl OnePage<'_> {
    /// The edit of the page and how each link ends if it goes out; no edit where all links are held back. O(n) for each
    /// link.
    ///
    /// # Errors
    /// [`EditError`] when what was let through one by one does not go together.
    pub fn edit(&self) -> Result<(Option<Edit>, Vec<Ended>), EditError> {
        let mut placed: Vec<(TextSpan, Target)> = Vec::new();
        let mut states: Vec<Result<ToDo, String>> = Vec::new();
        for (entry, against) in self.entries {
            let state = match (against, entry.link.brings()) {
                (Some(why), _) => Err(why.clone()),
                (None, None) => change_of(self.document, entry).map(ToDo::Change).map_err(|why| why.to_string()),
                (None, Some(target)) => words_of(self.document, entry).map_err(|why| why.to_string()).map(|words| {
                    placed.push((words, target.whole()));
                    ToDo::Put(placed.len() - 1)
                }),
            };
            states.push(state);
        }
        let breaches = self.limits.check_page(self.document, &placed, self.is_linked());
        let mut fitting = Fitting::on(self.document.hash());
        let mut ended = Vec::with_capacity(self.entries.len());
        for ((entry, _), state) in self.entries.iter().zip(states) {
            let made = state.and_then(|to_do| {
                let edit = match to_do {
                    ToDo::Change(edit) => Ok(edit),
                    ToDo::Put(at) => match breaches[at] {
                        Some(breach) => Err(EditRefusal::PageLimit(breach)),
                        None => edit_on(self.document, entry, placed[at].0),
                    },
                };
                let clash = |why| EditRefusal::Clash { words: entry.link.said.anchor.clone(), why };
                edit.and_then(|edit| fitting.add(edit).map_err(clash)).map_err(|why| why.to_string())
            });
            ended.push(match made {
                Ok(()) => Ended::out(entry.id),
                Err(why) => Ended::held_back(entry.id, why),
            });
        }
        let edit = if fitting.is_empty() { None } else { Some(fitting.compose()?) };
        Ok((edit, ended))
    }

    /// Whether the content of the page leads to a target already.
    fn is_linked(&self) -> impl Fn(&Target) -> bool {
        let links = || self.document.links().iter().filter(|link| link.region == Region::Content);
        let follow = |href: &str| match self.address.follow(href) {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        };
        let pages: Vec<_> = links().filter_map(|link| follow(&link.href)).collect();
        let hrefs: Vec<_> = links().map(|link| link.href.as_str()).collect();
        let brought =
            self.entries.iter().filter_map(|(entry, _)| Some((entry.link.brings()?.whole(), &entry.link.href)));
        let brought: HashMap<_, _> = brought.collect();
        move |target| {
            brought.get(target).is_some_and(|href| match follow(href) {
                Some(address) => pages.contains(&address),
                None => hrefs.contains(&href.as_str()),
            })
        }
    }
}

/// How a link of a page ended that was out before anybody noted it. O(n).
pub fn as_it_stands(document: &Document, entry: &TrayEntry) -> Ended {
    let link = &entry.link;
    let quote = link.new_quote();
    let is_done = match &link.change {
        Change::Unlink(old) => document.find_link(&quote, &old.href).is_none_or(|found| !found.in_sentence),
        Change::PutOnPicture(picture) => {
            document.find_link_on_picture(*picture, link.words.start, &link.href).is_some()
        }
        Change::Attributes(old) => document.find_link(&quote, &old.href).is_some_and(|found| {
            let there = &document.links()[found.ordinal];
            link.says.iter().all(|says| says.as_on(document, there) == *says)
        }),
        Change::Put | Change::Reword(_) | Change::Retarget(_) => document.find_link(&quote, &link.href).is_some(),
    };
    match is_done {
        true => Ended::out(entry.id),
        false => Ended::held_back(entry.id, "It was held back when the page went out. Release again.".to_owned()),
    }
}
