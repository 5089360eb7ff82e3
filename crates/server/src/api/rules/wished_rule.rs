//! From what an editor wishes to a rule, as far as there can be such a one.

use std::collections::BTreeSet;

use strelm_core::document::LinkSays;
use strelm_core::language::Language;
use strelm_core::rules::{
    BlockKinds, Handling, Leads, Matching, Pace, PathPattern, Phrase, Rule, RuleId, Scope, Selector, Share, Tracking,
};
use strelm_core::site::{PageId, Target};
use strelm_live::Model;
use strelm_store::rule::KeptRule;

use super::rule_wish::RuleWish;
use crate::api::ApiError;

const MOST_PHRASES: usize = 200;
const MOST_NAMED: usize = 500;
const LONGEST: usize = 300;
const MOST_LINKS: usize = 1000;
const MOST_GAP: usize = 10;

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
            carriers: None,
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
                // Names of terms are words.
                forms: self.forms && (!self.expressions || self.terms.is_some()),
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
