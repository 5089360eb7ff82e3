//! Readers for many threads, each of which remembers the words that it met.

use std::sync::{Mutex, PoisonError};

use super::found::Reader;
use super::rule_set::RuleSet;

/// Readers of one set of rules that wait for pages.
pub struct Readers<'r> {
    rules: &'r RuleSet,
    idle: Mutex<Vec<Reader<'r>>>,
}

impl<'r> Readers<'r> {
    /// None yet: as many come to be as are needed at a time.
    pub const fn new(rules: &'r RuleSet) -> Self {
        Self { rules, idle: Mutex::new(Vec::new()) }
    }

    /// Does something with a reader that nobody else has meanwhile.
    pub fn with<T>(&self, work: impl FnOnce(&mut Reader<'r>) -> T) -> T {
        let idle = self.idle.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let mut reader = idle.unwrap_or_else(|| Reader::new(self.rules));
        let done = work(&mut reader);
        self.idle.lock().unwrap_or_else(PoisonError::into_inner).push(reader);
        done
    }
}
