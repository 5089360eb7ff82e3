//! What is known of a mention that may tell whether an editor would link it, as numbers, in the five parts of a fit. Each
//! part has a file that names and makes its numbers.

mod forms;
mod grade;
mod names;
pub(in crate::openings) mod need;
mod page;
mod place;
mod position;
mod shares;
mod topic;
mod variety;
mod walk;
mod wording;

use super::part::Part;
use super::portrait::Portraits;
use crate::ids::PageId;
use crate::phrases::{Mention, PhraseBook};
use crate::site::Site;

pub(super) use self::forms::has_form_of;
pub use self::names::{FEATURES, feature_of, name_of};
pub(super) use self::walk::each_mention;

/// What is measured of a place, in the order of the groups of features.
pub type Features = [f32; FEATURES];

/// A mention with what is known of it.
#[derive(Debug, Clone)]
pub struct Judged {
    pub mention: Mention,
    pub features: Features,
}

impl Judged {
    /// The feature of this name, or 0 when there is none.
    pub fn of(&self, name: &str) -> f32 {
        feature_of(name).map_or(0.0, |feature| self.features[feature])
    }

    /// How sure the words mean the page, 0 to 1.
    pub fn sureness(&self) -> f32 {
        wording::sureness(&self.mention, &self.features[Part::Wording.features()])
    }

    /// Whether it is a single word that is common in its language.
    pub fn is_everyday(&self) -> bool {
        wording::is_everyday(&self.mention, &self.features[Part::Wording.features()])
    }
}

/// All mentions of a page with what is known of them. `wanted` narrows to targets that are asked for; ranks are among
/// all. O(tokens + mentions × words of the targets).
pub fn judge(site: &Site, book: &PhraseBook, source: PageId, wanted: impl Fn(PageId) -> bool) -> Vec<Judged> {
    judge_some(site, book, source, wanted, |_| true)
}

/// The same of some of the mentions only.
pub(super) fn judge_some(
    site: &Site,
    book: &PhraseBook,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
    is_drawn: impl Fn(&Mention) -> bool,
) -> Vec<Judged> {
    let mut judged = Vec::new();
    each_mention(&Portraits::new(site, book), book, source, wanted, |walk, at, mention| {
        if is_drawn(mention) {
            judged.push(Judged { mention: *mention, features: walk.features(at, mention) });
        }
    });
    judged
}
