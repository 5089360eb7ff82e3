//! Who waits for a plan.

use super::draft::Worth;

/// How a plan comes about: asked now and then whether to go on, and told of each plan that is better than the one before.
pub trait Audience {
    /// Whether to look for something better; asked before each attempt.
    fn goes_on(&mut self) -> bool;

    /// A plan that is better than all before.
    fn hears(&mut self, worth: &Worth);
}

/// Looks as long as it gains something.
#[derive(Debug, Clone, Copy, Default)]
pub struct Patient;

impl Audience for Patient {
    fn goes_on(&mut self) -> bool {
        true
    }

    fn hears(&mut self, _: &Worth) {}
}
