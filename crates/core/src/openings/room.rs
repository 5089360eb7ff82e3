//! How many more links a page may carry, and where.

use super::judge::Judge;
use super::opening::Opening;
use crate::document::TextSpan;
use crate::ids::PageId;
use crate::limits::{Carried, LinkLimits};
use crate::phrases::Prose;

/// What a page carries, links in the tray included, beside what it may.
#[derive(Debug)]
pub struct Room<'p> {
    prose: &'p Prose,
    carried: Carried,
    limits: LinkLimits,
}

impl<'m> Judge<'m> {
    /// The room on a page, on which links are planned on these words; `None` where its text is not known. O(links).
    pub fn room_on(self, page: PageId, planned: &[TextSpan], limits: LinkLimits) -> Option<Room<'m>> {
        let prose = self.book.prose(page)?;
        let mut carried = prose.carried();
        carried.links.extend(planned);
        Some(Room { prose, carried, limits })
    }
}

impl Room<'_> {
    /// How many more links keep within the limit of the page.
    pub fn left(&self) -> usize {
        self.limits.of_page(self.carried.words).saturating_sub(self.carried.links.len())
    }

    /// Whether one link more, on the words of an opening of the page, keeps within the limits. O(links).
    pub fn takes(&self, opening: &Opening) -> bool {
        let before = || self.prose.tokens().partition_point(|token| token.span().start < opening.words.start);
        let is_free = !self.carried.links.iter().any(|link| link.overlaps(opening.words));
        is_free && self.limits.one_more(&self.carried, before, Some(opening.sentence)).is_ok()
    }
}
