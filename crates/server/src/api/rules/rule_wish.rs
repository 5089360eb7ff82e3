//! A rule as editors send it and get it back.

use std::collections::BTreeSet;

use chrono::NaiveDate;
use serde::{Deserialize, Serialize};
use strelm_core::document::LinkSays;
use strelm_core::language::Language;
use strelm_core::rules::{
    BlockKinds, Handling, Leads, Matching, OfTerms, Pace, PathPattern, Phrase, Rule, RuleId, Scope, Selector, Share,
    Tracking,
};
use strelm_core::site::{PageId, Target};
use strelm_store::rule::KeptRule;
use utoipa::ToSchema;

use crate::api::ApiError;
use crate::api::decisions::TargetWish;
use crate::api::pages::Kind;
use strelm_live::Model;

const MOST_PHRASES: usize = 200;
const MOST_NAMED: usize = 500;
const LONGEST: usize = 300;
const MOST_LINKS: usize = 1000;
const MOST_GAP: usize = 10;

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

/// The categories and tags for which a rule stands.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct TermsWish {
    /// The folder in which the archives of a taxonomy are, such as `/tag/`; without it all of them are meant.
    #[serde(default)]
    pub taxonomy: Option<String>,
    /// Terms that fewer pages carry are left out.
    #[serde(default)]
    pub least_pages: usize,
    /// Whether a term is linked only on pages that carry it.
    #[serde(default)]
    pub only_carriers: bool,
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
    /// The rule that is wished for, under this number.
    ///
    /// # Errors
    /// [`ApiError::Unusable`] with what is to be changed.
    pub fn rule(&self, id: RuleId, model: &Model) -> Result<KeptRule, ApiError> {
        let unusable = |why: String| ApiError::Unusable(why);
        let (phrases, target) = match &self.terms {
            Some(terms) => (Vec::new(), Leads::Archives(terms.of_terms()?)),
            None => (self.said_phrases()?, Leads::To(self.said_target(model)?)),
        };
        let share = Share::new(self.share).ok_or_else(|| unusable("A share is from 0 to 1.".to_owned()))?;
        let bounds = [
            (self.gap <= MOST_GAP, format!("At most {MOST_GAP} words can stand between two of a phrase.")),
            ((1..=MOST_LINKS).contains(&self.per_page), format!("A rule puts 1 to {MOST_LINKS} links on a page.")),
            (
                (1..=MOST_LINKS).contains(&self.per_phrase),
                format!("A phrase is linked 1 to {MOST_LINKS} times on a page."),
            ),
            (
                self.per_sentence.is_none_or(|most| (1..=20).contains(&most)),
                "A sentence carries 1 to 20 links.".to_owned(),
            ),
            (self.first_words_free <= 10_000, "At most the first 10,000 words can be kept free.".to_owned()),
            ((-1000..=1000).contains(&self.priority), "A priority is from −1,000 to 1,000.".to_owned()),
            (
                self.since.zip(self.before).is_none_or(|(since, before)| since < before),
                "No page is published after the later day and before the earlier one: change one of them.".to_owned(),
            ),
        ];
        if let Some((_, why)) = bounds.into_iter().find(|(holds, _)| !holds) {
            return Err(unusable(why));
        }
        let pages = |numbers: &[u32]| numbers.iter().map(|number| PageId(*number)).collect();
        let patterns = |paths: &[String]| Ok::<_, ApiError>(lines(paths)?.into_iter().map(PathPattern).collect());
        let scope = Scope {
            kinds: self.kinds.iter().map(|kind| (*kind).into()).collect(),
            any_term: lines(&self.any_term)?,
            all_terms: lines(&self.all_terms)?,
            no_term: lines(&self.no_term)?,
            shares_term: self.shares_term,
            paths: patterns(&self.paths)?,
            not_paths: patterns(&self.not_paths)?,
            languages: lines(&self.languages)?.iter().map(|tag| Language::from_tag(tag)).collect(),
            since: self.since,
            before: self.before,
            only: pages(&self.only),
            never: pages(&self.never),
            blocks: BlockKinds {
                headings: self.headings,
                tables: self.tables,
                quotes: self.quotes,
                captions: self.captions,
                code: self.code,
            },
            within: selectors(&self.within)?,
            without: selectors(&self.without)?,
            first_words_free: self.first_words_free,
        };
        let rule = Rule {
            id,
            phrases,
            matching: Matching {
                forms: self.forms && !self.expressions,
                keeps_case: self.keeps_case,
                keeps_accents: self.keeps_accents,
                gap: self.gap,
                not_beside: lines(&self.not_beside)?,
            },
            target,
            says: self.says()?,
            tracking: self.tracking()?,
            scope,
            pace: Pace {
                per_page: self.per_page,
                per_phrase: self.per_phrase,
                per_sentence: self.per_sentence,
                in_total: self.in_total,
                share,
                skips_linked_pages: self.skips_linked_pages,
                counts_other_links: self.counts_other_links,
                links_back: self.links_back,
            },
            priority: self.priority,
            fit: 0.0,
        };
        let handling = if self.at_once { Handling::AtOnce } else { Handling::Screened };
        Ok(KeptRule { rule, is_on: self.is_on, handling })
    }

    fn said_phrases(&self) -> Result<Vec<Phrase>, ApiError> {
        let unusable = |why: String| ApiError::Unusable(why);
        let phrases: Vec<_> =
            self.phrases.iter().map(|phrase| phrase.trim()).filter(|phrase| !phrase.is_empty()).collect();
        if phrases.is_empty() {
            return Err(unusable("Say which words are to be linked.".to_owned()));
        }
        if phrases.len() > MOST_PHRASES {
            return Err(unusable(format!("A rule has at most {MOST_PHRASES} phrases: make two of it.")));
        }
        let phrase = |text: &&str| if self.expressions { Phrase::expression(text) } else { Phrase::words(text) };
        let mut phrases: Vec<_> =
            phrases.iter().map(phrase).collect::<Result<_, _>>().map_err(|why| unusable(why.to_string()))?;
        let mut known = BTreeSet::new();
        phrases.retain(|phrase: &Phrase| known.insert(phrase.as_str().to_owned()));
        Ok(phrases)
    }

    fn said_target(&self, model: &Model) -> Result<Target, ApiError> {
        let wish = self.target.as_ref().ok_or_else(|| ApiError::Unusable("Say where the words lead.".to_owned()))?;
        let target = wish.target(model)?;
        if let Some(page) = target.page() {
            crate::api::state::page_of(model, page.0)?;
        }
        Ok(target)
    }

    fn says(&self) -> Result<Vec<LinkSays>, ApiError> {
        let attribute = |name: &str, value: &Option<String>| {
            let value = value.as_deref().map(str::trim).filter(|value| !value.is_empty());
            value.map(|value| LinkSays::Attribute(name.to_owned(), Some(value.to_owned())))
        };
        if [&self.title, &self.class].into_iter().flatten().any(|text| text.len() > LONGEST) {
            return Err(ApiError::Unusable(format!("A title or class is at most {LONGEST} letters long.")));
        }
        let data =
            self.data.as_deref().map(str::trim).filter(|data| !data.is_empty()).map(data_attribute).transpose()?;
        let flags = [
            self.nofollow.then_some(LinkSays::Follow(false)),
            self.sponsored.then_some(LinkSays::Sponsored(true)),
            self.ugc.then_some(LinkSays::UserContent(true)),
            self.new_tab.then_some(LinkSays::NewTab(true)),
            attribute("title", &self.title),
            attribute("class", &self.class),
            data,
        ];
        Ok(flags.into_iter().flatten().collect())
    }

    fn tracking(&self) -> Result<Tracking, ApiError> {
        let pair = |line: String| match line.split_once('=') {
            Some((name, value)) if !name.trim().is_empty() => Ok((name.trim().to_owned(), value.trim().to_owned())),
            _ => Err(ApiError::Unusable(format!("“{line}” is no parameter: write it as name=value."))),
        };
        Ok(Tracking(lines(&self.tracking)?.into_iter().map(pair).collect::<Result<_, _>>()?))
    }

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

impl TermsWish {
    fn of_terms(&self) -> Result<OfTerms, ApiError> {
        let taxonomy = self.taxonomy.as_deref().map(str::trim).filter(|folder| !folder.is_empty());
        if taxonomy.is_some_and(|folder| folder.len() > LONGEST || !folder.starts_with('/')) {
            return Err(ApiError::Unusable("A taxonomy is the folder of its archives, such as /tag/.".to_owned()));
        }
        Ok(OfTerms {
            taxonomy: taxonomy.map(str::to_owned),
            least_pages: self.least_pages,
            only_carriers: self.only_carriers,
        })
    }

    fn of(terms: &OfTerms) -> Self {
        let OfTerms { taxonomy, least_pages, only_carriers } = terms.clone();
        Self { taxonomy, least_pages, only_carriers }
    }
}

fn data_attribute(typed: &str) -> Result<LinkSays, ApiError> {
    let (name, value) = typed.split_once('=').map_or((typed, ""), |(name, value)| (name.trim(), value.trim()));
    let is_name = name.strip_prefix("data-").is_some_and(|rest| {
        !rest.is_empty() && rest.bytes().all(|byte| byte.is_ascii_lowercase() || byte.is_ascii_digit() || byte == b'-')
    });
    match is_name && typed.len() <= LONGEST {
        true => Ok(LinkSays::Attribute(name.to_owned(), Some(value.to_owned()))),
        false => Err(ApiError::Unusable(format!(
            "“{typed}” is no attribute that can be used: write it as data-name=value, in small letters."
        ))),
    }
}

fn selectors(typed: &[String]) -> Result<Vec<Selector>, ApiError> {
    let parse = |text: String| Selector::parse(&text).map_err(|why| ApiError::Unusable(format!("{why}.")));
    lines(typed)?.into_iter().map(parse).collect()
}

/// Lines as people type them, without those that are empty.
fn lines(lines: &[String]) -> Result<Vec<String>, ApiError> {
    let tidy: Vec<_> = lines.iter().map(|line| line.trim().to_owned()).filter(|line| !line.is_empty()).collect();
    if tidy.len() > MOST_NAMED || tidy.iter().any(|line| line.len() > LONGEST || line.contains('\0')) {
        return Err(ApiError::Unusable(format!("At most {MOST_NAMED} lines of {LONGEST} letters can be named.")));
    }
    Ok(tidy)
}
