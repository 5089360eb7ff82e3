//! Rules put together, so that all are found at once.

use std::sync::OnceLock;

use regex::RegexSet;
use rustc_hash::FxHashSet;

use super::phrase::Phrase;
use super::rule::Rule;
use super::vocabulary::{PhraseAt, Vocabulary};
use crate::language::{Language, Stemmer, fold, words};
use crate::site::Target;

/// The rules of a site, or phrases that are looked for and lead nowhere (`T` is then `()`). It never changes: whoever changes a rule
/// makes a new one.
#[derive(Debug)]
pub struct RuleSet<T = Target> {
    /// The oldest first.
    rules: Vec<Rule<T>>,
    /// Of each phrase of each rule, in words and bytes.
    lengths: Vec<Vec<(usize, usize)>>,
    /// Words that must not stand beside those of a rule, folded.
    not_beside: Vec<FxHashSet<String>>,
    /// Phrases that stand for themselves alone.
    exact: Vocabulary,
    /// Phrases that stand for other forms too, after each language.
    forms: [OnceLock<Vocabulary>; Language::ALL.len() + 1],
    expressions: RegexSet,
    expressions_at: Vec<PhraseAt>,
}

impl<T> RuleSet<T> {
    /// O(words of all phrases). Expressions that are too large together are left out, each by itself being small enough.
    pub fn of(mut rules: Vec<Rule<T>>) -> Self {
        rules.sort_by_key(|rule| rule.id);
        rules.iter_mut().for_each(|rule| rule.scope.fold_terms());
        let mut exact = Vocabulary::default();
        let (mut patterns, mut expressions_at) = (Vec::new(), Vec::new());
        for (at, rule) in rules.iter().enumerate() {
            for (number, phrase) in rule.phrases.iter().enumerate() {
                match phrase {
                    Phrase::Words(text) if !rule.matching.forms => {
                        exact.add((at, number), words(text).map(|word| fold(word.text)), rule.matching.gap);
                    }
                    Phrase::Words(_) => {}
                    Phrase::Expression(expression) => {
                        patterns.push(expression.as_str());
                        expressions_at.push((at, number));
                    }
                }
            }
        }
        let not_beside = |rule: &Rule<T>| rule.matching.not_beside.iter().map(|word| fold(word.trim())).collect();
        Self {
            lengths: rules.iter().map(|rule| rule.phrases.iter().map(Phrase::length).collect()).collect(),
            not_beside: rules.iter().map(not_beside).collect(),
            exact,
            forms: Default::default(),
            expressions: RegexSet::new(&patterns).unwrap_or_default(),
            expressions_at,
            rules,
        }
    }

    /// All of them, the oldest first.
    pub fn rules(&self) -> &[Rule<T>] {
        &self.rules
    }

    pub(super) fn length(&self, (rule, phrase): PhraseAt) -> (usize, usize) {
        self.lengths[rule][phrase]
    }

    pub(super) fn not_beside(&self, rule: usize) -> &FxHashSet<String> {
        &self.not_beside[rule]
    }

    pub(super) const fn exact(&self) -> &Vocabulary {
        &self.exact
    }

    /// The phrases whose words are stemmed after a language. O(words of these phrases) when it is asked for first.
    pub(super) fn forms(&self, language: Language) -> &Vocabulary {
        let at = Language::ALL.iter().position(|known| *known == language).unwrap_or(Language::ALL.len());
        self.forms[at].get_or_init(|| {
            let stemmer = Stemmer::new(language);
            let mut vocabulary = Vocabulary::default();
            for (at, rule) in self.rules.iter().enumerate().filter(|(_, rule)| rule.matching.forms) {
                for (number, phrase) in rule.phrases.iter().enumerate() {
                    if let Phrase::Words(text) = phrase {
                        let stems = words(text).map(|word| stemmer.stem(word.text));
                        vocabulary.add((at, number), stems, rule.matching.gap);
                    }
                }
            }
            vocabulary
        })
    }

    /// The expressions that stand somewhere in a text. O(n).
    pub(super) fn expressions_in(&self, text: &str) -> Vec<PhraseAt> {
        match self.expressions_at.is_empty() {
            true => Vec::new(),
            false => self.expressions.matches(text).into_iter().map(|at| self.expressions_at[at]).collect(),
        }
    }
}
