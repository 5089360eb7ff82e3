//! The anchor texts of a site, filtered and sorted.

use std::cmp::Reverse;
use std::sync::Arc;

use strelm_core::anchors::{AnchorFaultKind, AnchorRow};
use strelm_core::destinations::Destinations;
use strelm_core::language::fold;

use super::kept::Revisions;
use super::model::Model;

/// By what anchor texts are sorted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum AnchorSort {
    Text,
    Words,
    #[default]
    Links,
    Pages,
    Targets,
    Repeated,
    Faults,
}

/// Which anchor texts, in which order.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct AnchorQuery {
    /// Words that a text must hold, in any order.
    pub text: String,
    pub fault: Option<AnchorFaultKind>,
    /// So many words at least, and at most.
    pub least_words: usize,
    pub most_words: Option<usize>,
    pub sort: AnchorSort,
    pub descending: bool,
}

/// How many texts have a fault, and how many links these have in content.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AnchorFaultCount {
    pub kind: AnchorFaultKind,
    pub texts: usize,
    pub links: usize,
}

impl AnchorQuery {
    fn takes(&self, row: &AnchorRow, wanted: &[String]) -> bool {
        let has_fault = |kind| row.faults.iter().any(|fault| fault.kind() == kind);
        row.words >= self.least_words
            && self.most_words.is_none_or(|most| row.words <= most)
            && self.fault.is_none_or(has_fault)
            && (wanted.is_empty() || {
                let folded = fold(&row.text);
                wanted.iter().all(|word| folded.contains(word.as_str()))
            })
    }

    fn number(&self, row: &AnchorRow) -> usize {
        match self.sort {
            AnchorSort::Words => row.words,
            AnchorSort::Links => row.links,
            AnchorSort::Pages => row.pages,
            AnchorSort::Targets => row.targets,
            AnchorSort::Repeated => row.repeated,
            AnchorSort::Faults => row.faults.len(),
            AnchorSort::Text => 0,
        }
    }
}

impl Model {
    /// All anchor texts, those with the most links first. O(texts · log texts) when first asked for after a change of
    /// texts, else O(1).
    pub fn anchor_rows(&self) -> Arc<Vec<AnchorRow>> {
        let at = Revisions { texts: self.texts_changed, ..Revisions::default() };
        self.answers.anchors.get(&(), at, || self.anchors.rows())
    }

    /// Where the site sends its readers. O(links) when first asked for after a change of texts, else O(1).
    pub fn destinations(&self) -> Arc<Destinations> {
        let at = Revisions { texts: self.texts_changed, ..Revisions::default() };
        self.answers.destinations.get(&(), at, || Destinations::of(&self.anchors, self.site.entry()))
    }

    /// Those that are asked for, by their places among all. O(texts · log texts).
    pub fn listed_anchors(&self, query: &AnchorQuery) -> Vec<usize> {
        let rows = self.anchor_rows();
        let wanted: Vec<_> = query.text.split_whitespace().map(fold).collect();
        let mut listed: Vec<usize> =
            rows.iter().enumerate().filter(|(_, row)| query.takes(row, &wanted)).map(|(at, _)| at).collect();
        // All are in the order of their links already.
        match (query.sort, query.descending) {
            (AnchorSort::Text, _) => {
                listed.sort_by_cached_key(|at| fold(&rows[*at].text));
                if query.descending {
                    listed.reverse();
                }
            }
            (_, true) => listed.sort_by_key(|at| Reverse(query.number(&rows[*at]))),
            (_, false) => listed.sort_by_key(|at| query.number(&rows[*at])),
        }
        listed
    }

    /// How often each fault is there, the gravest first. O(texts).
    pub fn anchor_faults(&self) -> Vec<AnchorFaultCount> {
        let rows = self.anchor_rows();
        let count = |kind| {
            let with = rows.iter().filter(|row| row.faults.iter().any(|fault| fault.kind() == kind));
            let (texts, links) = with.fold((0, 0), |(texts, links), row| (texts + 1, links + row.links));
            AnchorFaultCount { kind, texts, links }
        };
        AnchorFaultKind::ALL.into_iter().map(count).collect()
    }
}
