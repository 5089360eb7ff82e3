//! Applying the rules of a site to one of its pages.

use std::collections::HashMap;

use strelm_core::document::{Document, QuotedSentence, TextSpan};
use strelm_core::language::sentence_within;
use strelm_core::rules::{Mention, Readers, Spot, apply};
use strelm_core::site::{Address, PageId, Target};

use super::around::PageAround;
use super::place::{PlaceState, RulePlace, RulePlaces};
use super::site_rules::SiteRules;
use super::subject::Subject;
use crate::model::Model;

/// The text of a page, for rules.
pub struct RulePageText {
    pub page: PageId,
    /// With its boilerplate marked.
    pub document: Document,
    pub tags: Vec<String>,
    /// Where what is written in its content leads.
    pub hrefs: HashMap<String, Address>,
}

/// Applies rules to a page of a site. `None` where the page is not there any more. O(n).
pub fn look_at_rules(
    model: &Model,
    rules: &SiteRules,
    readers: &Readers<'_>,
    text: &RulePageText,
) -> Option<RulePlaces> {
    let facts = model.site.page(text.page)?;
    let document = &text.document;
    let subject = Subject::known(facts, &text.tags);
    let planned: Vec<(TextSpan, Target)> = model
        .tray
        .on(text.page)
        .filter(|entry| entry.link.source_hash == document.hash())
        .filter_map(|entry| Some((entry.link.words, entry.link.brings()?.clone())))
        .collect();
    let (path, page) = (subject.path(), subject.rule_page(&planned, None));
    let around = PageAround { model, rules, subject: &subject, hrefs: &text.hrefs, is_passing: false };
    let limits = (rules.limits, model.limits().links);
    let mut applied = readers.with(|reader| apply(reader, document, &page, limits, &around));
    // What only the edit shows to be impossible is held back. Where the links lead does not matter to it.
    let _ = applied.edit(document, &rules.set, |_| "#".to_owned());
    let place = |mention: &Mention, state: PlaceState| {
        let words = mention.words;
        let block = document.block_of(words).map(|block| document.blocks()[block.0 as usize].text);
        let all = document.text().as_str();
        let sentence = block.map_or(words, |block| sentence_within(all, block, words));
        let rule = &rules.set.rules()[mention.rule];
        RulePlace {
            rule: rule.id,
            target: rule.target.clone(),
            words,
            said: QuotedSentence::of(all, sentence, words),
            spot: Spot::of(path, document.text().slice(sentence), words.start.saturating_sub(sentence.start)),
            state,
        }
    };
    let is_planned = |mention: &Mention| planned.iter().any(|(words, _)| *words == mention.words);
    let wanted = applied.linked.iter().map(|mention| place(mention, PlaceState::Wanted));
    let there = applied
        .there
        .iter()
        .map(|mention| place(mention, if is_planned(mention) { PlaceState::Planned } else { PlaceState::There }));
    let held = applied.held.iter().map(|(mention, why)| place(mention, PlaceState::Held(why.clone())));
    let mut places: Vec<_> = wanted.chain(there).chain(held).collect();
    places.sort_by_key(|place| (place.words, place.rule));
    Some(RulePlaces { page: text.page, version: document.hash(), places })
}
