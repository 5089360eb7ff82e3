//! Readers for many threads, each of which remembers the words that it met.

use std::sync::{Mutex, PoisonError};

use super::found::Reader;
use super::rule_set::RuleSet;
use crate::site::Target;

/// Readers of one set of rules that wait for pages.
pub struct Readers<'r, T = Target> {
    rules: &'r RuleSet<T>,
    idle: Mutex<Vec<Reader<'r, T>>>,
}

impl<'r, T> Readers<'r, T> {
    /// None yet: as many come to be as are needed at a time.
    pub const fn new(rules: &'r RuleSet<T>) -> Self {
        Self { rules, idle: Mutex::new(Vec::new()) }
    }

    /// Does something with a reader that nobody else has meanwhile.
    pub fn with<W>(&self, work: impl FnOnce(&mut Reader<'r, T>) -> W) -> W {
        let idle = self.idle.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let mut reader = idle.unwrap_or_else(|| Reader::new(self.rules));
        let done = work(&mut reader);
        self.idle.lock().unwrap_or_else(PoisonError::into_inner).push(reader);
        done
    }
}
