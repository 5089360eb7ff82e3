//! What was tried, and what did not hold.

use std::collections::BTreeMap;

/// Violations that are kept in words; all are counted.
const MOST_KEPT: usize = 50;

/// What was tried, and what did not hold.
#[derive(Debug, Default)]
pub struct Report {
    pub documents: usize,
    /// Documents that two oracles read in different ways, which nothing can be proved about.
    pub left_out: usize,
    /// Edits that were made and checked, by kind.
    pub edits: BTreeMap<&'static str, usize>,
    /// Edits that were refused, by kind.
    pub refused: BTreeMap<&'static str, usize>,
    pub violations: usize,
    pub kept: Vec<String>,
}

impl Report {
    /// Counts an edit that was made.
    pub fn made(&mut self, kind: &'static str) {
        *self.edits.entry(kind).or_default() += 1;
    }

    /// Counts an edit that was refused.
    pub fn refused(&mut self, kind: &'static str) {
        *self.refused.entry(kind).or_default() += 1;
    }

    /// Notes a failure unless something holds.
    pub fn check(&mut self, holds: bool, what: impl FnOnce() -> String) {
        if !holds {
            self.violations += 1;
            if self.kept.len() < MOST_KEPT {
                self.kept.push(what());
            }
        }
    }

    /// How many edits were made, of all kinds.
    pub fn total(&self) -> usize {
        self.edits.values().sum()
    }

    /// This report and another as one.
    #[must_use]
    pub fn and(mut self, other: Self) -> Self {
        self.documents += other.documents;
        self.left_out += other.left_out;
        self.violations += other.violations;
        other.edits.into_iter().for_each(|(kind, count)| *self.edits.entry(kind).or_default() += count);
        other.refused.into_iter().for_each(|(kind, count)| *self.refused.entry(kind).or_default() += count);
        self.kept.extend(other.kept);
        self.kept.truncate(MOST_KEPT);
        self
    }

    /// Prints the counts, and the failures in full.
    pub fn print(&self) {
        println!("{:>9}  documents, {} left out", self.documents, self.left_out);
        println!("{:>9}  edits made and checked", self.total());
        for (kind, count) in &self.edits {
            println!("{count:>9}    {kind}, {} refused", self.refused.get(kind).copied().unwrap_or_default());
        }
        println!("{:>9}  violations", self.violations);
        self.kept.iter().for_each(|text| println!("\n{text}"));
    }
}
