//! Categories and tags that have archives, for a rule that stands for them.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use serde::Serialize;
use strelm_core::rules::TermArchive;
use utoipa::ToSchema;

/// Terms of a kind that are named.
const NAMED: usize = 3;

/// Terms whose archives are in one folder.
#[derive(Debug, Serialize, ToSchema)]
pub struct Taxonomy {
    /// Such as `/tag/`.
    pub folder: String,
    /// A few of the terms, those that the most pages carry first.
    pub names: Vec<String>,
    /// For each term how many pages carry it, the most first.
    pub carriers: Vec<usize>,
}

impl Taxonomy {
    /// O(terms · log terms).
    pub fn all(terms: &[TermArchive]) -> Vec<Self> {
        let mut by_folder: BTreeMap<&str, Vec<&TermArchive>> = BTreeMap::new();
        for term in terms {
            by_folder.entry(&term.taxonomy).or_default().push(term);
        }
        let taxonomy = |(folder, mut terms): (&str, Vec<&TermArchive>)| {
            terms.sort_by_key(|term| (Reverse(term.carriers.len()), &term.name));
            Self {
                folder: folder.to_owned(),
                names: terms.iter().take(NAMED).map(|term| term.name.clone()).collect(),
                carriers: terms.iter().map(|term| term.carriers.len()).collect(),
            }
        };
        let mut all: Vec<_> = by_folder.into_iter().map(taxonomy).collect();
        all.sort_by_key(|taxonomy| Reverse(taxonomy.carriers.len()));
        all
    }
}
