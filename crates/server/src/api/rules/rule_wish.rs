//! A rule as editors send it and get it back.

use std::collections::BTreeSet;

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};
use strelm_core::document::LinkSays;
use strelm_core::rules::{Handling, Leads, PathPattern, Phrase, Rule};
use strelm_core::site::PageId;
use strelm_store::rule::KeptRule;
use utoipa::ToSchema;

use super::terms_wish::TermsWish;
use crate::api::decisions::TargetWish;
use crate::api::pages::Kind;

/// Whenever one of these phrases stands in a page, it leads there. What is left out is as it is at first.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct RuleWish {
    /// None where it stands for all terms.
    pub phrases: Vec<String>,
    /// Where it leads, unless it stands for all terms.
    pub target: Option<TargetWish>,
    /// For which terms it stands: the name of each leads to its archive.
    #[serde(default)]
    pub terms: Option<TermsWish>,
    /// Whether the phrases are regular expressions.
    #[serde(default)]
    pub expressions: bool,
    /// Whether other forms of the words are meant too.
    #[serde(default = "yes")]
    pub forms: bool,
    #[serde(default)]
    pub keeps_case: bool,
    #[serde(default)]
    pub keeps_accents: bool,
    /// So many other words may stand between two of a phrase.
    #[serde(default)]
    pub gap: usize,
    /// Words next to which it means something else.
    #[serde(default)]
    pub not_beside: Vec<String>,
    /// What its links say.
    #[serde(default)]
    pub title: Option<String>,
    #[serde(default)]
    pub nofollow: bool,
    #[serde(default)]
    pub sponsored: bool,
    #[serde(default)]
    pub ugc: bool,
    #[serde(default)]
    pub new_tab: bool,
    #[serde(default)]
    pub class: Option<String>,
    /// A `data-` attribute by which its links are known in the page, as `data-name=value`.
    #[serde(default)]
    pub data: Option<String>,
    /// Parameters that are added to the address of another site, as `name=value`.
    #[serde(default)]
    pub tracking: Vec<String>,
    #[serde(default)]
    pub kinds: Vec<Kind>,
    /// Categories and tags of which a page has one at least, all, or none.
    #[serde(default)]
    pub any_term: Vec<String>,
    #[serde(default)]
    pub all_terms: Vec<String>,
    #[serde(default)]
    pub no_term: Vec<String>,
    #[serde(default)]
    pub shares_term: bool,
    /// Paths, in which a star stands for anything.
    #[serde(default)]
    pub paths: Vec<String>,
    #[serde(default)]
    pub not_paths: Vec<String>,
    /// BCP 47.
    #[serde(default)]
    pub languages: Vec<String>,
    #[serde(default)]
    pub since: Option<NaiveDate>,
    #[serde(default)]
    pub before: Option<NaiveDate>,
    /// Pages by their numbers: only these, and not those.
    #[serde(default)]
    pub only: Vec<u32>,
    #[serde(default)]
    pub never: Vec<u32>,
    #[serde(default)]
    pub headings: bool,
    #[serde(default)]
    pub tables: bool,
    #[serde(default)]
    pub quotes: bool,
    #[serde(default)]
    pub captions: bool,
    #[serde(default)]
    pub code: bool,
    /// CSS selectors: only within elements of one of these at least, and within none of those.
    #[serde(default)]
    pub within: Vec<String>,
    #[serde(default)]
    pub without: Vec<String>,
    #[serde(default)]
    pub first_words_free: usize,
    #[serde(default = "once")]
    pub per_page: usize,
    #[serde(default = "once")]
    pub per_phrase: usize,
    #[serde(default)]
    pub per_sentence: Option<usize>,
    #[serde(default)]
    pub in_total: Option<u32>,
    /// Which share of the places is linked, 0 to 1.
    #[serde(default = "all")]
    pub share: f64,
    #[serde(default = "yes")]
    pub skips_linked_pages: bool,
    #[serde(default = "yes")]
    pub counts_other_links: bool,
    #[serde(default = "yes")]
    pub links_back: bool,
    #[serde(default)]
    pub priority: i32,
    #[serde(default = "yes")]
    pub is_on: bool,
    /// Whether its places on new and changed pages go into the tray as they are found; else somebody looks at them first.
    #[serde(default)]
    pub at_once: bool,
}

const fn yes() -> bool {
    true
}

const fn once() -> usize {
    1
}

const fn all() -> f64 {
    1.0
}

impl RuleWish {
    /// A kept rule as it could be wished for.
    pub fn of(kept: &KeptRule) -> Self {
        let KeptRule { rule, is_on, handling } = kept;
        let Rule { matching, scope, pace, .. } = rule;
        let has = |says: &LinkSays| rule.says.contains(says);
        let attribute = |wanted: &str| {
            rule.says.iter().find_map(|says| match says {
                LinkSays::Attribute(name, value) if name == wanted => value.clone(),
                _ => None,
            })
        };
        let numbers = |pages: &BTreeSet<PageId>| pages.iter().map(|page| page.0).collect();
        let paths = |patterns: &[PathPattern]| patterns.iter().map(|pattern| pattern.0.clone()).collect();
        Self {
            phrases: rule.phrases.iter().map(|phrase| phrase.as_str().to_owned()).collect(),
            target: match &rule.target {
                Leads::To(target) => Some(TargetWish::of(target)),
                Leads::Archives(_) => None,
            },
            terms: match &rule.target {
                Leads::To(_) => None,
                Leads::Archives(terms) => Some(TermsWish::of(terms)),
            },
            expressions: rule.phrases.iter().any(|phrase| matches!(phrase, Phrase::Expression(_))),
            forms: matching.forms,
            keeps_case: matching.keeps_case,
            keeps_accents: matching.keeps_accents,
            gap: matching.gap,
            not_beside: matching.not_beside.clone(),
            title: attribute("title"),
            nofollow: has(&LinkSays::Follow(false)),
            sponsored: has(&LinkSays::Sponsored(true)),
            ugc: has(&LinkSays::UserContent(true)),
            new_tab: has(&LinkSays::NewTab(true)),
            class: attribute("class"),
            data: rule.says.iter().find_map(|says| match says {
                LinkSays::Attribute(name, value) if name.starts_with("data-") => {
                    Some(value.as_ref().map_or_else(|| name.clone(), |value| format!("{name}={value}")))
                }
                _ => None,
            }),
            tracking: rule.tracking.0.iter().map(|(name, value)| format!("{name}={value}")).collect(),
            kinds: scope.kinds.iter().map(|kind| (*kind).into()).collect(),
            any_term: scope.any_term.clone(),
            all_terms: scope.all_terms.clone(),
            no_term: scope.no_term.clone(),
            shares_term: scope.shares_term,
            paths: paths(&scope.paths),
            not_paths: paths(&scope.not_paths),
            languages: scope.languages.iter().map(|language| language.tag().to_owned()).collect(),
            since: scope.since,
            before: scope.before,
            only: numbers(&scope.only),
            never: numbers(&scope.never),
            headings: scope.blocks.headings,
            tables: scope.blocks.tables,
            quotes: scope.blocks.quotes,
            captions: scope.blocks.captions,
            code: scope.blocks.code,
            within: scope.within.iter().map(|selector| selector.as_str().to_owned()).collect(),
            without: scope.without.iter().map(|selector| selector.as_str().to_owned()).collect(),
            first_words_free: scope.first_words_free,
            per_page: pace.per_page,
            per_phrase: pace.per_phrase,
            per_sentence: pace.per_sentence,
            in_total: pace.in_total,
            share: pace.share.part(),
            skips_linked_pages: pace.skips_linked_pages,
            counts_other_links: pace.counts_other_links,
            links_back: pace.links_back,
            priority: rule.priority,
            is_on: *is_on,
            at_once: *handling == Handling::AtOnce,
        }
    }
}
