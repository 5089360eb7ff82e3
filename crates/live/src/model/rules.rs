//! The auto-linking rules in a model.

use std::collections::BTreeSet;
use std::sync::Arc;

use strelm_core::language::{Language, Stemmer, words};
use strelm_core::rules::{Phrase, RuleId, TermArchive};
use strelm_core::site::PageId;

use super::Model;
use crate::rules::counts::Tallied;
use crate::rules::site_rules::{LoadedRules, SiteRules};

impl Model {
    /// Replaces the rules.
    pub(crate) fn put_rules(&mut self, rules: LoadedRules) {
        self.rules = Arc::new(self.rules.replaced(rules));
        self.revisions.rules += 1;
    }

    /// Replaces the terms and their archives, which ascend by page.
    pub(crate) fn put_terms(&mut self, terms: Vec<TermArchive>) {
        if self.rules.terms() == terms {
            return;
        }
        self.rules = Arc::new(self.rules.with_terms(terms));
        if self.rules.are_of_terms() {
            self.revisions.rules += 1;
            self.note_passing();
        }
    }

    /// The rules as they are.
    pub fn rules(&self) -> &Arc<SiteRules> {
        &self.rules
    }

    /// Of what the places of rules depend: rules, texts, links and the tray.
    pub(crate) fn tally_revision(&self) -> (u64, u64, u64) {
        (self.revisions.rules, self.texts_changed, self.revisions.figures)
    }

    /// Pages that may have places of some rules, of those that are on: they hold all words of one of their phrases. Ascending.
    /// O(phrases × languages + postings of their rarest words); an expression may stand on any page.
    pub fn pages_of_rules(&self, rules: &SiteRules, which: impl Fn(RuleId) -> bool) -> Vec<PageId> {
        let asked = rules.set.rules().iter().filter(|rule| which(rule.id));
        self.pages_with_phrases(asked.flat_map(|rule| &rule.phrases))
    }

    /// Pages whose prose holds all words of one of some phrases, in whatever form. Ascending.
    /// O(phrases × languages + postings of their rarest words); an expression may stand on any page.
    pub(crate) fn pages_with_phrases<'p>(&self, phrases: impl IntoIterator<Item = &'p Phrase>) -> Vec<PageId> {
        let languages: BTreeSet<Language> = self.site.pages().map(|page| page.language).collect();
        let stemmers: Vec<_> = languages.into_iter().map(Stemmer::new).collect();
        let mut rows: Vec<Vec<String>> = Vec::new();
        for phrase in phrases {
            match phrase {
                Phrase::Words(text) => rows
                    .extend(stemmers.iter().map(|stemmer| words(text).map(|word| stemmer.stem(word.text)).collect())),
                Phrase::Expression(_) => {
                    let mut all: Vec<_> = self.book.pages_with_prose().collect();
                    all.sort_unstable();
                    return all;
                }
            }
        }
        rows.sort_unstable();
        rows.dedup();
        self.book.pages_with_words(&rows)
    }

    /// The places of all rules as they were counted last.
    pub(crate) fn tallied(&self) -> Tallied {
        let now = self.tally_revision();
        match &self.rule_tally {
            Some(kept) => Tallied { tally: Some(Arc::clone(&kept.tally)), is_fresh: kept.of == now },
            None => Tallied { tally: None, is_fresh: false },
        }
    }
}
