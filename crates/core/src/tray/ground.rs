//! What a decision about links is held against: the site, what is wanted on it, and what is planned.

use std::collections::BTreeMap;

use super::linkable::Linkable;
use super::planned_link::Change;
use super::take_refusal::TakeRefusal;
use crate::document::{Document, QuotedSentence, TextSpan};
use crate::ids::{PageId, PlannedPageId};
use crate::openings::{Judge, Opening, Unwanted};
use crate::site::{Address, Addresses, Fragments, LinkForm, Target};

/// What a decision about links is held against.
#[derive(Clone, Copy)]
pub struct Ground<'g> {
    pub linkable: Linkable<'g>,
    pub judge: Judge<'g>,
    /// Whether all texts are known, so that openings can be told.
    pub is_whole: bool,
    pub fragments: &'g Fragments,
    pub planned_pages: &'g BTreeMap<PlannedPageId, Address>,
    /// How the site's links are written, where that is known.
    pub form: Option<&'g LinkForm>,
}

impl Addresses for Ground<'_> {
    fn of_page(&self, page: PageId) -> Option<&Address> {
        self.linkable.site.page(page).map(|page| &page.address)
    }

    fn of_planned(&self, page: PlannedPageId) -> Option<&Address> {
        self.planned_pages.get(&page)
    }
}

impl Ground<'_> {
    /// The opening of a pair of pages on just these words, however weak it has become since it was shown; nothing when
    /// it is no longer wanted.
    pub fn opening_on(&self, source: PageId, target: PageId, words: TextSpan) -> Option<Opening> {
        let wanted = &self.linkable;
        let is_used = wanted.planned(source).iter().any(|link| link.overlaps(words));
        if !self.is_whole || is_used || wanted.pair(source, target) || wanted.words(source, target, words) {
            return None;
        }
        self.judge.opening_on(source, target, words)
    }

    /// A sentence of a page with some of its words marked.
    pub(super) fn said(&self, source: PageId, sentence: TextSpan, words: TextSpan) -> QuotedSentence {
        let text = self.linkable.book.prose(source).map(|prose| prose.text()).unwrap_or_default();
        QuotedSentence::of(text, sentence, words)
    }

    /// Why a picture of a page cannot carry a link from here; `None` when it can. `document` is the page's current version.
    pub fn picture_refusal(&self, source: PageId, document: &Document, ordinal: usize) -> Option<TakeRefusal> {
        let at = document.pictures().get(ordinal).map(|picture| picture.text_at);
        let is_used = self.linkable.tray.on(source).any(|entry| match entry.link.change {
            Change::PutOnPicture(_) => entry.picture(document) == Some(ordinal),
            _ => at.is_some_and(|at| entry.link.words.start < at && at < entry.link.words.end),
        });
        match is_used {
            true => Some(TakeRefusal::PictureUsed),
            false => document.may_link_picture(ordinal).err().map(TakeRefusal::Picture),
        }
    }

    pub(super) fn check_target(&self, target: &Target) -> Result<(), TakeRefusal> {
        match target {
            Target::Page(page) => self.of_page(*page).map(|_| ()).ok_or(TakeRefusal::NoPage(*page)),
            Target::Place { page, id } => {
                self.of_page(*page).ok_or(TakeRefusal::NoPage(*page))?;
                match self.fragments.has(*page, id) {
                    true => Ok(()),
                    false => Err(TakeRefusal::NoPlace(id.clone())),
                }
            }
            Target::PlannedPage(page) => self.of_planned(*page).map(|_| ()).ok_or(TakeRefusal::NoPlannedPage),
            Target::Outside { .. } | Target::Mail(_) | Target::Phone(_) | Target::File(_) => Ok(()),
        }
    }

    /// Whether a page may lead to what the editor chose.
    pub(super) fn check_pair(&self, source: PageId, target: &Target) -> Result<(), TakeRefusal> {
        match target {
            Target::Page(page) if *page == source => Err(TakeRefusal::ToItself),
            // From one place of a page to another.
            Target::Place { page, .. } if *page == source => Ok(()),
            Target::Page(page) | Target::Place { page, .. } if self.linkable.site.leads_to(source, *page) => {
                Err(TakeRefusal::LeadsThere)
            }
            _ => Ok(()),
        }
    }
}
