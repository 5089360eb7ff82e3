//! Going through the mentions of a page, with what is the same to several of them made once.

use rustc_hash::FxHashMap;

use super::names::FEATURES;
use super::page::{MentionPlace, Page};
use super::{place, topic, variety, wording};
use crate::ids::PageId;
use crate::openings::part::Part;
use crate::openings::portrait::Portraits;
use crate::phrases::{Mention, PhraseBook, PhraseId};

/// Which numbers a mention has in common with others of its page: to a part, mentions with the same one are the same.
#[derive(Debug, Clone, Copy)]
pub(in crate::openings) struct Shared {
    target: usize,
    /// `None` where no block is known.
    pair: Option<usize>,
    wording: usize,
}

/// A page whose mentions are gone through in order.
pub(in crate::openings) struct Walk<'p> {
    page: Page<'p>,
    /// What the wording tells of words of the page that name a target, wherever they stand, and which of it is told of which.
    said: Vec<wording::Said>,
    wordings: FxHashMap<(PhraseId, usize, &'p str), usize>,
}

/// Goes through the mentions of a page that lead to a wanted target, in order; `look` is told the number of each among all.
pub(in crate::openings) fn each_mention<'b>(
    portraits: &Portraits<'b>,
    book: &'b PhraseBook,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
    mut look: impl FnMut(&mut Walk<'b>, usize, &Mention),
) {
    let mentions = book.mentions_by(source);
    let Some(prose) = book.prose(source).filter(|_| !mentions.is_empty()) else { return };
    let page = Page::of(portraits, book, source, prose, &mentions);
    let is_wanted: Vec<bool> = page.targets.iter().map(|target| wanted(target.named.page)).collect();
    let mut walk = Walk { page, said: Vec::new(), wordings: FxHashMap::default() };
    for (at, mention) in mentions.iter().enumerate() {
        if is_wanted[walk.page.places[at].target] {
            look(&mut walk, at, mention);
        }
        walk.page.pass(at, mention);
    }
}

impl<'p> Walk<'p> {
    /// `at` is the number of the mention among those of the page.
    pub(super) fn features(&mut self, at: usize, mention: &Mention) -> [f32; FEATURES] {
        let shared = self.shared(at, mention);
        let mut all = [0.0; FEATURES];
        Part::ALL.into_iter().for_each(|part| self.put(part, shared, mention, &mut all));
        all
    }

    pub(in crate::openings) fn shared(&mut self, at: usize, mention: &Mention) -> Shared {
        let MentionPlace { target, pair } = self.page.places[at];
        let shown = self.page.shown(mention);
        let key = (mention.phrase, target, shown);
        let wording = match self.wordings.get(&key) {
            Some(known) => *known,
            None => {
                self.said.push(wording::of(&self.page, mention, &self.page.targets[target], shown));
                self.wordings.insert(key, self.said.len() - 1);
                self.said.len() - 1
            }
        };
        Shared { target, pair, wording }
    }

    /// Puts in the numbers of a part.
    pub(in crate::openings) fn put(&self, part: Part, shared: Shared, mention: &Mention, into: &mut [f32; FEATURES]) {
        let page = &self.page;
        let target = &page.targets[shared.target];
        let pair = || shared.pair.map(|pair| page.pairs[pair]).unwrap_or_default();
        let into = &mut into[part.features()];
        match part {
            Part::Topic => into.copy_from_slice(&topic::of(page, target, pair())),
            Part::Wording => {
                into.copy_from_slice(&self.said[shared.wording]);
                wording::put_written(page, mention, into);
            }
            Part::Place => into.copy_from_slice(&place::of(page, mention, target, pair())),
            Part::Need => into.copy_from_slice(&target.portrait.need),
            Part::Variety => into.copy_from_slice(&variety::of(page, mention, target)),
        }
    }

    /// How sure the words mean the page, 0 to 1.
    pub(in crate::openings) fn sureness(&self, shared: Shared, mention: &Mention) -> f32 {
        wording::sureness(mention, &self.said[shared.wording])
    }

    /// The number of what a mention shares with those that are the same to a part.
    pub(in crate::openings) fn shared_to(&self, part: Part, shared: Shared, mention: &Mention) -> Option<usize> {
        match part {
            Part::Topic => shared.pair,
            Part::Wording => {
                let (capital, code) = wording::written(&self.page, mention);
                Some(shared.wording * 4 + usize::from(capital > 0.0) * 2 + usize::from(code > 0.0))
            }
            Part::Place => None,
            Part::Need => Some(shared.target),
            // Most words are no link to the page anywhere.
            Part::Variety if mention.naming.anchors == 0 => Some(0),
            Part::Variety => Some(shared.wording + 1),
        }
    }
}
