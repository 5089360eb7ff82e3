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

#[cfg(test)]
mod tests {
    use std::sync::{Arc, LazyLock};

    use chrono::NaiveDate;
    use proptest::prelude::*;
    use serde_json::{Value, json};
    use strelm_core::openings::Ensemble;
    use strelm_core::site::Address;

    use super::*;

    static MODEL: LazyLock<Model> = LazyLock::new(|| {
        Model::new(Address::parse("https://sky.example/").unwrap(), Arc::new(Ensemble::shipped().unwrap()))
    });

    fn wish(wish: Value) -> RuleWish {
        let mut whole = json!({
            "phrases": ["red torch"], "target": { "kind": "outside", "address": "https://maps.example/" }
        });
        whole.as_object_mut().unwrap().extend(wish.as_object().unwrap().clone());
        serde_json::from_value(whole).unwrap()
    }

    fn refusal(of: Value) -> String {
        match wish(of.clone()).rule(RuleId(1), &MODEL) {
            Err(ApiError::Unusable(why)) => why,
            Err(other) => panic!("{of}: {other}"),
            Ok(rule) => panic!("{of} is {rule:?}"),
        }
    }

    /// Some words, none of which has space at its ends.
    fn lines() -> impl Strategy<Value = Vec<String>> {
        prop::collection::vec("[a-zäé/]{1,8}", 0..3)
    }

    fn day() -> impl Strategy<Value = Option<String>> {
        prop::option::of((1..28_u32).prop_map(|day| NaiveDate::from_ymd_opt(2026, 3, day).unwrap().to_string()))
    }

    fn scope() -> impl Strategy<Value = Value> {
        let kinds = prop::sample::subsequence(vec!["page", "post", "product", "collection", "term_archive"], 0..3);
        let terms = (lines(), lines(), lines(), any::<bool>());
        let paths = (lines(), lines(), prop::sample::subsequence(vec!["de", "en", "fr"], 0..3));
        let pages = (prop::collection::btree_set(1..50_u32, 0..4), prop::collection::btree_set(1..50_u32, 0..4));
        let blocks = prop::array::uniform5(any::<bool>());
        let within = prop::sample::subsequence(vec!["main", ".text > p", "#draft", "[lang]"], 0..3);
        let rest = (day(), within.clone(), within, 0..10_000_usize);
        (kinds, terms, paths, pages, blocks, rest).prop_map(
            |(kinds, (any, all, none, shares), (paths, not_paths, languages), (only, never), blocks, rest)| {
                let (since, within, without, free) = rest;
                json!({
                    "kinds": kinds, "any_term": any, "all_terms": all, "no_term": none, "shares_term": shares,
                    "paths": paths, "not_paths": not_paths, "languages": languages, "only": only, "never": never,
                    "headings": blocks[0], "tables": blocks[1], "quotes": blocks[2], "captions": blocks[3],
                    "code": blocks[4], "since": since, "within": within, "without": without, "first_words_free": free,
                })
            },
        )
    }

    fn how() -> impl Strategy<Value = Value> {
        let says = (
            prop::option::of("[A-Za-z “”]{0,8}[a-z]"),
            prop::option::of("[a-z-]{1,8}"),
            prop::array::uniform4(any::<bool>()),
        );
        let data = prop::option::of("data-[a-z0-9-]{1,5}=[a-z]( [a-z]){0,2}");
        let pace =
            (1..=1000_usize, 1..=1000_usize, prop::option::of(1..=20_usize), prop::option::of(any::<u32>()), 0..=4_u8);
        let flags = prop::array::uniform8(any::<bool>());
        (says, data, pace, flags, 0..=10_usize, -1000..=1000_i32, lines()).prop_map(
            |((title, class, rel), data, (page, phrase, sentence, total, share), flags, gap, priority, beside)| {
                json!({
                    "title": title.map(|title| title.trim().to_owned()), "class": class, "nofollow": rel[0], "sponsored": rel[1],
                    "ugc": rel[2], "new_tab": rel[3], "data": data, "per_page": page, "per_phrase": phrase,
                    "per_sentence": sentence, "in_total": total, "share": f64::from(share) / 4.0,
                    "skips_linked_pages": flags[0], "counts_other_links": flags[1], "links_back": flags[2],
                    "is_on": flags[3], "at_once": flags[4], "forms": flags[5], "keeps_case": flags[6],
                    "keeps_accents": flags[7], "gap": gap, "priority": priority, "not_beside": beside,
                    "tracking": ["from=sky", "to=a b"],
                })
            },
        )
    }

    fn what() -> impl Strategy<Value = Value> {
        let mail = json!({ "phrases": ["moon", "full moon"], "target": { "kind": "mail", "to": "mailto:a@b.example?subject=x" } });
        let phone = json!({ "phrases": ["moon"], "target": { "kind": "phone", "number": "+4930123" } });
        let terms = |taxonomy: Option<&str>| {
            let terms = json!({ "taxonomy": taxonomy, "least_pages": 3, "only_carriers": true });
            json!({ "phrases": [], "target": null, "terms": terms })
        };
        prop::sample::select(vec![json!({}), mail, phone, terms(None), terms(Some("/tag/"))])
    }

    proptest! {
        /// What somebody opens and keeps unchanged is what it was.
        #[test]
        fn a_rule_that_is_sent_comes_back_as_it_is(what in what(), scope in scope(), how in how()) {
            let mut sent = serde_json::Map::new();
            for part in [&what, &scope, &how] {
                sent.extend(part.as_object().unwrap().clone());
            }
            let sent = wish(Value::Object(sent));
            let rule = sent.rule(RuleId(7), &MODEL).unwrap();
            prop_assert_eq!(rule.rule.id, RuleId(7));
            let back = RuleWish::of(&rule);
            let told = |wish: &RuleWish| serde_json::to_value(wish).unwrap();
            prop_assert_eq!(told(&back), told(&sent));
            prop_assert_eq!(back.rule(RuleId(7), &MODEL).unwrap(), rule);
        }
    }

    #[test]
    fn what_is_left_out_is_as_it_is_at_first() {
        let rule = wish(json!({})).rule(RuleId(1), &MODEL).unwrap();
        let plain = Rule::new(
            RuleId(1),
            vec![Phrase::words("red torch").unwrap()],
            Leads::To(Target::outside("https://maps.example/").unwrap()),
        );
        assert_eq!((rule.rule, rule.is_on, rule.handling), (plain, true, Handling::Screened));
    }

    #[test]
    fn lines_that_are_empty_and_phrases_that_are_there_twice_are_left_out() {
        let wish = wish(json!({ "phrases": [" red torch ", "", "red torch", "dim  torch"], "paths": ["", " /a/* "] }));
        let rule = wish.rule(RuleId(1), &MODEL).unwrap().rule;
        let phrases: Vec<_> = rule.phrases.iter().map(Phrase::as_str).collect();
        assert_eq!((phrases, rule.scope.paths), (vec!["red torch", "dim torch"], vec![PathPattern("/a/*".to_owned())]));
    }

    #[test]
    fn names_of_terms_are_words_whatever_the_phrases_were() {
        let of = |forms: bool| {
            let terms = json!({ "terms": {}, "expressions": true, "forms": forms });
            wish(terms).rule(RuleId(1), &MODEL).unwrap().rule
        };
        assert!(of(true).matching.forms && !of(false).matching.forms && of(true).phrases.is_empty());
    }

    #[test]
    fn whatever_cannot_be_is_refused_in_words_that_say_what_to_do() {
        let long = "x".repeat(301);
        let many: Vec<_> = (0..201).map(|at| format!("phrase {at}")).collect();
        for (of, says) in [
            (json!({ "phrases": [" "] }), "Say which words"),
            (json!({ "phrases": many }), "at most 200 phrases"),
            (json!({ "phrases": ["("], "expressions": true }), "cannot be read"),
            (json!({ "target": null }), "Say where the words lead"),
            (json!({ "target": { "kind": "outside", "address": "nowhere" } }), ""),
            (json!({ "terms": { "taxonomy": "tags" } }), "such as /tag/"),
            (json!({ "terms": { "taxonomy": format!("/{long}") } }), "such as /tag/"),
            (json!({ "share": 1.01 }), "from 0 to 1"),
            (json!({ "gap": 11 }), "At most 10 words"),
            (json!({ "per_page": 0 }), "1 to 1000 links on a page"),
            (json!({ "per_phrase": 1001 }), "1 to 1000 times"),
            (json!({ "per_sentence": 0 }), "1 to 20 links"),
            (json!({ "first_words_free": 10_001 }), "10,000 words"),
            (json!({ "priority": 1001 }), "from −1,000 to 1,000"),
            (json!({ "since": "2026-03-02", "before": "2026-03-02" }), "No page is published"),
            (json!({ "title": long }), "at most 300 letters"),
            (json!({ "data": "onclick=x" }), "data-name=value"),
            (json!({ "data": "data-Name=x" }), "data-name=value"),
            (json!({ "tracking": ["=x"] }), "name=value"),
            (json!({ "paths": [long] }), "lines of 300 letters"),
            (json!({ "paths": ["/a\0b"] }), "lines of 300 letters"),
            (json!({ "within": ["p >"] }), "."),
        ] {
            let why = refusal(of.clone());
            assert!(why.contains(says) && why.ends_with('.'), "{of}: {why}");
        }
    }
}
