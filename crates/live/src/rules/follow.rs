//! Whether a link that a rule made is still one that it would make.

use strelm_core::document::QuotedSentence;
use strelm_core::rules::{Reader, RuleSet, Spot};
use strelm_core::site::PageId;
use strelm_store::rule::RuleException;

use super::around::PageAround;
use super::subject::Subject;
use crate::model::Model;

/// The place of words in their sentence on a page.
pub fn spot_of(path: &str, said: &QuotedSentence) -> Spot {
    Spot::of(path, &said.text(), said.before.len())
}

/// Whether words of a page are a phrase of a rule, which is given alone, on a page where it holds, and not in a place that was
/// passed. O(n) in the words.
pub fn still_links(model: &Model, alone: &RuleSet, page: PageId, tags: &[String], said: &QuotedSentence) -> bool {
    let ([rule], Some(facts)) = (alone.rules(), model.site.page(page)) else { return false };
    let subject = Subject::known(facts, tags);
    let (path, of_page) = (subject.path(), subject.rule_page(&[], None));
    let rules = model.rules();
    let exception = RuleException { rule: rule.id, page, spot: spot_of(path, said) };
    let hrefs = Default::default();
    let around = PageAround { model, rules, subject: &subject, hrefs: &hrefs };
    let whole = said.anchor.trim();
    let is_phrase = || {
        let mentions = Reader::new(alone).mentions(whole, facts.language);
        mentions.iter().any(|mention| mention.words.start == 0 && mention.words.end == whole.len())
    };
    !rules.exceptions.contains(&exception) && rule.scope.takes(&of_page, &rule.target, &around) && is_phrase()
}
