//! Moving an edit to a newer version of its page: what it changes must still be there, with the same surroundings.

use memchr::memmem;
use thiserror::Error;

use super::edit::{Edit, Splice};
use super::hash::ContentHash;
use super::span::SourceSpan;

/// Bytes on each side by which a place is known again, at first and at most.
const LEAST_AROUND: usize = 24;
const MOST_AROUND: usize = 400;

/// Why an edit does not fit a newer version.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum NoPlace {
    #[error("this is not the version that the edit was made for")]
    OtherVersion,
    #[error("the words or what stands around them changed")]
    Changed,
    #[error("the words and what stands around them are there more than once")]
    Ambiguous,
}

impl Edit {
    /// The same edit for a newer version of the page: wherever it changes something, the bytes that it needs and at
    /// least [`LEAST_AROUND`] bytes on each side must stand in `new` exactly once, in the same order.
    ///
    /// O(n) for each stretch that the edit changes, of few.
    ///
    /// # Errors
    /// [`NoPlace`] says why there is no new place.
    pub fn rebase(&self, old: &str, new: &str) -> Result<Self, NoPlace> {
        if ContentHash::of(old) != self.base() {
            return Err(NoPlace::OtherVersion);
        }
        let moves: Vec<(SourceSpan, usize)> = self
            .stretches()
            .into_iter()
            .map(|stretch| find(old, new, stretch).map(|start| (stretch, start)))
            .collect::<Result<_, _>>()?;
        let in_order = moves.windows(2).all(|pair| pair[0].1 + pair[0].0.len() <= pair[1].1);
        if !in_order {
            return Err(NoPlace::Changed);
        }
        let moved = |at: SourceSpan| {
            let (stretch, start) = moves.iter().find(|(stretch, _)| stretch.contains(at))?;
            Some(SourceSpan::new(start + at.start - stretch.start, start + at.end - stretch.start))
        };
        let end = SourceSpan::new(new.len(), new.len());
        self.moved(ContentHash::of(new), moved, end).ok_or(NoPlace::Changed)
    }
}

impl Edit {
    fn moved(
        &self,
        base: ContentHash,
        moved: impl Fn(SourceSpan) -> Option<SourceSpan>,
        end: SourceSpan,
    ) -> Option<Self> {
        let own = self.own_splices().iter();
        let splices: Option<Vec<_>> =
            own.map(|splice| Some(Splice { at: moved(splice.at)?, with: splice.with.clone() })).collect();
        let edit = Self::new(base, splices?).ok()?;
        let claims: Option<Vec<_>> = self.claims().iter().map(|claim| moved(*claim)).collect();
        let edit = claims?.into_iter().fold(edit, Self::claiming);
        // What is shared stands at the end of the page.
        let shared = self.shared().iter().map(|splice| Splice { at: end, with: splice.with.clone() });
        Some(shared.fold(edit, |edit, splice| edit.sharing(Some(splice))))
    }
}

/// Where a stretch of `old` begins in `new`.
fn find(old: &str, new: &str, stretch: SourceSpan) -> Result<usize, NoPlace> {
    let mut around = LEAST_AROUND;
    loop {
        let start = stretch.start.saturating_sub(around);
        let end = (stretch.end + around).min(old.len());
        let needle = &old.as_bytes()[start..end];
        // At the ends of the old version the new one must begin or end too.
        let fits = |at: &usize| (start > 0 || *at == 0) && (end < old.len() || at + needle.len() == new.len());
        let mut found = memmem::find_iter(new.as_bytes(), needle).filter(fits);
        // Of two that were alike the other may be all that is left.
        let was_alone = (start == 0 && end == old.len()) || memmem::find_iter(old.as_bytes(), needle).nth(1).is_none();
        match (found.next(), found.next()) {
            (None, _) if around == LEAST_AROUND => return Err(NoPlace::Changed),
            // Wider surroundings that changed tell nothing apart.
            (None, _) => return Err(NoPlace::Ambiguous),
            (Some(at), None) if was_alone => return Ok(at + stretch.start - start),
            _ if around >= MOST_AROUND || (start == 0 && end == old.len()) => return Err(NoPlace::Ambiguous),
            _ => around *= 2,
        }
    }
}
