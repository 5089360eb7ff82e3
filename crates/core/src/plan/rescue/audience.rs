//! Who waits for a plan.

use super::draft::{Draft, Worth};

/// How a plan comes about: asked now and then whether to go on, and told of each plan that is better than the one before.
pub trait Audience {
    /// Whether to look for something better; asked before each attempt.
    fn goes_on(&mut self) -> bool;

    /// A plan that is better than all before.
    fn hears(&mut self, better: Better<'_>);
}

/// A plan that is better than all before, while a better one is looked for.
#[derive(Debug, Clone, Copy)]
pub struct Better<'d> {
    draft: &'d Draft<'d, 'd>,
}

impl<'d> Better<'d> {
    pub(super) const fn of(draft: &'d Draft<'d, 'd>) -> Self {
        Self { draft }
    }

    /// How good it is. O(wanted pages + chosen links).
    pub fn worth(&self) -> Worth {
        self.draft.worth()
    }

    /// As [`super::Plan::chosen`].
    pub fn chosen(&self) -> Vec<u32> {
        self.draft.chosen()
    }
}

/// Looks as long as it gains something.
#[derive(Debug, Clone, Copy, Default)]
pub struct Patient;

impl Audience for Patient {
    fn goes_on(&mut self) -> bool {
        true
    }

    fn hears(&mut self, _: Better<'_>) {}
}
