//! Where on a site and on its pages a rule holds.

use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::Arc;

use chrono::NaiveDate;

use super::page::{Around, RulePage};
use super::selector::Selector;
use crate::document::{AlsoIn, BlockKind};
use crate::ids::PageId;
use crate::language::{Language, fold};
use crate::site::{PageKind, Target};

/// Pages, and the blocks on them. What is empty leaves nothing out.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct Scope {
    pub kinds: Vec<PageKind>,
    /// Categories and tags, of which a page has one at least, all, or none, in any case: a [`super::RuleSet`] folds them.
    pub any_term: Vec<String>,
    pub all_terms: Vec<String>,
    pub no_term: Vec<String>,
    /// Only pages that have a term in common with the target.
    pub shares_term: bool,
    pub paths: Vec<PathPattern>,
    pub not_paths: Vec<PathPattern>,
    pub languages: Vec<Language>,
    /// Published on this day or later; and before this day. Pages without a day are left out by both.
    pub since: Option<NaiveDate>,
    pub before: Option<NaiveDate>,
    /// Only these pages; and not those.
    pub only: BTreeSet<PageId>,
    /// Of a rule for the name of a term that is linked on pages that carry it alone: those pages, ascending.
    #[serde(skip)]
    pub carriers: Option<Arc<[PageId]>>,
    pub never: BTreeSet<PageId>,
    pub blocks: BlockKinds,
    /// Only within elements of one of these at least, and within none of those.
    pub within: Vec<Selector>,
    pub without: Vec<Selector>,
    /// The first words of a page's content, which carry none of its links.
    pub first_words_free: usize,
}

/// Which kinds of blocks carry the links of a rule, beside paragraphs and lists.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct BlockKinds {
    pub headings: bool,
    pub tables: bool,
    pub quotes: bool,
    pub captions: bool,
    pub code: bool,
}

/// A path in which a star stands for anything, such as `/guides/*`.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(transparent)]
pub struct PathPattern(pub String);

impl Scope {
    pub(super) fn fold_terms(&mut self) {
        for terms in [&mut self.any_term, &mut self.all_terms, &mut self.no_term] {
            terms.iter_mut().for_each(|term| *term = fold(term));
        }
    }

    /// Whether it holds on a page. O(terms + patterns × path).
    pub fn takes(&self, page: &RulePage<'_>, target: &Target, around: &impl Around) -> bool {
        let has = |term: &String| page.terms.iter().any(|own| own == term);
        let is_published = |test: &dyn Fn(NaiveDate) -> bool| page.published.is_some_and(test);
        (self.kinds.is_empty() || self.kinds.contains(&page.kind))
            && (self.any_term.is_empty() || self.any_term.iter().any(has))
            && self.all_terms.iter().all(has)
            && !self.no_term.iter().any(has)
            && (!self.shares_term || around.shares_term(target))
            && (self.paths.is_empty() || self.paths.iter().any(|pattern| pattern.takes(page.path)))
            && !self.not_paths.iter().any(|pattern| pattern.takes(page.path))
            && (self.languages.is_empty() || self.languages.contains(&page.language))
            && self.since.is_none_or(|since| is_published(&|day| day >= since))
            && self.before.is_none_or(|before| is_published(&|day| day < before))
            && (self.only.is_empty() || page.page.is_some_and(|page| self.only.contains(&page)))
            && self
                .carriers
                .as_ref()
                .is_none_or(|carriers| page.page.is_some_and(|page| carriers.binary_search(&page).is_ok()))
            && !page.page.is_some_and(|page| self.never.contains(&page))
    }
}

impl BlockKinds {
    /// Whether blocks of a kind carry links of the rule.
    pub const fn takes(self, kind: BlockKind) -> bool {
        match kind {
            BlockKind::Paragraph | BlockKind::ListItem | BlockKind::Term => true,
            BlockKind::Heading(_) => self.headings,
            BlockKind::Cell => self.tables,
            BlockKind::Quote => self.quotes,
            BlockKind::Caption => self.captions,
            BlockKind::Code => self.code,
            // It is pressed to open what it sums up.
            BlockKind::Summary => false,
        }
    }

    /// Where else than in running text its links stand.
    pub const fn also_in(self) -> AlsoIn {
        AlsoIn { headings: self.headings, code: self.code }
    }
}

impl PathPattern {
    /// O(path × stars).
    pub fn takes(&self, path: &str) -> bool {
        let mut pieces = self.0.split('*');
        let Some(mut rest) = pieces.next().and_then(|first| path.strip_prefix(first)) else { return false };
        let Some(last) = pieces.next_back() else { return rest.is_empty() };
        // Each piece as early as it can stand leaves most to those behind.
        for piece in pieces {
            match rest.find(piece) {
                Some(at) => rest = &rest[at + piece.len()..],
                None => return false,
            }
        }
        rest.ends_with(last)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_star_stands_for_anything() {
        let takes = |pattern: &str, path: &str| PathPattern(pattern.to_owned()).takes(path);
        for (pattern, path, is) in [
            ("/guides/*", "/guides/red-torch/", true),
            ("/guides/*", "/guides/", true),
            ("/guides/*", "/guide", false),
            ("/guides/", "/guides/", true),
            ("/guides", "/guides/", false),
            ("*/torch*", "/a/torches", true),
            ("/a*b*b", "/ab", false),
            ("/a*b*b", "/axbb", true),
            ("*", "", true),
            ("/*/c", "/c", false),
        ] {
            assert_eq!(takes(pattern, path), is, "{pattern} {path}");
        }
    }
}
