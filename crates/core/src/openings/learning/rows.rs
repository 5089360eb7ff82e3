//! The places of a page of which links were hidden, and which of them their author linked.

use super::example::{Example, Listed};
use super::halved::Halved;
use super::hide::HiddenLink;
use crate::openings::features::{Features, Judged, judge_some};
use crate::phrases::{Mention, PhraseBook};
use crate::site::{PageId, Site};

/// Another place with the name of a page that the author linked is not wrong, only not chosen: so much of a link it counts
/// against itself. That the author's place comes first is learnt from their list.
const OTHER_PLACE: f32 = 0.1;

/// A place with its features and the answer that is to be learnt.
#[derive(Debug, Clone)]
pub struct PlaceRow {
    pub source: PageId,
    pub target: PageId,
    /// The first of its words among those of the page.
    pub first: usize,
    pub features: Features,
    /// Whether the author linked these very words.
    pub is_link: bool,
    /// Whether the author linked to the target from this page at all.
    pub is_pair: bool,
}

impl PlaceRow {
    /// What is learnt from it, where a link of its site counts so much. Of rows that are no pair one in so many is drawn,
    /// and stands for the others.
    pub fn example(&self, counts: f32, one_in: usize, list: Listed) -> Example {
        let stands_for = if self.is_pair { 1.0 } else { one_in as f32 };
        Example {
            features: Halved::of(&self.features),
            is_link: self.is_link,
            is_pair: self.is_pair,
            weight: counts * if self.is_pair && !self.is_link { OTHER_PLACE } else { stands_for },
            counts,
            stands_for,
            list,
        }
    }
}

/// Places of a page for targets to which its text does not lead, in text order; `hidden` are the links that are not
/// there any more. Of places for targets to which no hidden link led, those that are drawn. O(what judging costs).
pub fn rows_of(
    site: &Site,
    book: &PhraseBook,
    source: PageId,
    hidden: &[HiddenLink],
    is_drawn: impl Fn(&Mention) -> bool,
) -> Vec<PlaceRow> {
    let is_open = |target| !book.anchors().is_linked_in_prose(source, target);
    let is_pair = |target| hidden.iter().any(|link| link.target == target);
    let is_drawn = |mention: &Mention| is_pair(mention.target()) || is_drawn(mention);
    let Some(prose) = book.prose(source) else { return Vec::new() };
    let row = |Judged { mention, features }| {
        let words = prose.words(mention.first, mention.end());
        let target = mention.target();
        let is_link = hidden.iter().any(|link| link.target == target && link.words.overlaps(words));
        PlaceRow { source, target, first: mention.first, features, is_link, is_pair: is_pair(target) }
    };
    judge_some(site, book, source, is_open, is_drawn).into_iter().map(row).collect()
}
