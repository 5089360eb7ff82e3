//! Whether a link that a rule made is still one that it would make.

use strelm_core::document::QuotedSentence;
use strelm_core::rules::{Reader, Rule, RuleSet, Spot};
use strelm_core::site::PageId;
use strelm_store::rule::RuleException;

use super::around::PageAround;
use super::subject::Subject;
use crate::model::Model;

/// The place of words in their sentence on a page.
pub fn spot_of(path: &str, said: &QuotedSentence) -> Spot {
    Spot::of(path, &said.text(), said.before.len())
}

/// The rule that would link words of a page: of those for which one rule stands, which are given alone, the one whose phrase
/// they are, on a page where it holds, and not in a place that was passed. O(n) in the words.
pub fn still_links<'r>(
    model: &Model,
    alone: &'r RuleSet,
    page: PageId,
    tags: &[String],
    said: &QuotedSentence,
) -> Option<&'r Rule> {
    let facts = model.site.page(page)?;
    let subject = Subject::known(facts, tags);
    let (path, of_page) = (subject.path(), subject.rule_page(&[], None));
    let rules = model.rules();
    let spot = spot_of(path, said);
    let is_passed = |rule: &Rule| rules.exceptions.contains(&RuleException { rule: rule.id, page, spot });
    let hrefs = Default::default();
    let around = PageAround { model, rules, subject: &subject, hrefs: &hrefs, is_passing: false };
    let whole = said.anchor.trim();
    let mentions = Reader::new(alone).mentions(whole, facts.language);
    let meant = mentions.iter().filter(|mention| mention.words.start == 0 && mention.words.end == whole.len());
    meant
        .map(|mention| &alone.rules()[mention.rule])
        .find(|rule| !is_passed(rule) && rule.scope.takes(&of_page, &rule.target, &around))
}
