//! Which places of a page become links.

use rustc_hash::{FxHashMap, FxHashSet};

use super::found::{FoundWord, Reader};
use super::held::Held;
use super::mention::Mention;
use super::old_link::OldLink;
use super::order::turn_of;
use super::pace::RuleLimits;
use super::page::{Around, RulePage};
use super::rule::Rule;
use super::rule_set::RuleSet;
use super::scope::Scope;
use super::selector::{Selected, Selector};
use super::spot::Spot;
use crate::document::{Document, Region, TextSpan};
use crate::language::{Language, fold, sentences};
use crate::limits::{Carried, LinkLimits};
use crate::site::Target;

/// What becomes of the places of rules on a page.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Applied {
    /// Words that are to carry a link, in text order.
    pub linked: Vec<Mention>,
    /// Words that carry the link of their rule already.
    pub there: Vec<Mention>,
    /// Words that carry none, and what holds each back.
    pub held: Vec<(Mention, Held)>,
}

/// A link that a rule makes.
#[derive(Debug, Clone, Copy)]
pub struct RuleLink<'r> {
    pub rule: &'r Rule,
    pub words: TextSpan,
}

impl Applied {
    /// The links to be made, with their rules.
    pub fn links<'r>(&self, rules: &'r RuleSet) -> impl Iterator<Item = RuleLink<'r>> {
        self.linked.iter().map(|mention| RuleLink { rule: &rules.rules()[mention.rule], words: mention.words })
    }
}

/// Applies rules to a page. Places come in turn, see [`super`]; each is linked unless something that came before it is in the
/// way. Links that stand on the page count from the beginning, so that applying twice is applying once. The page's words are
/// looked at once; then O(m log m + m × links that are made) in the mentions, and [`Document::may_link`] for those that would be linked.
pub fn apply(
    reader: &mut Reader<'_>,
    document: &Document,
    page: &RulePage<'_>,
    limits: (RuleLimits, LinkLimits),
    around: &impl Around,
) -> Applied {
    let rules = reader.rules();
    let (mut words, mut mentions) = (Vec::new(), Vec::new());
    for block in document.blocks().iter().filter(|block| block.region == Region::Content) {
        let language = document.language_of(block).map_or(page.language, Language::from_tag);
        reader.read(document.text().as_str(), block.text, language, &mut words, &mut mentions);
    }
    let mut takes: FxHashMap<usize, bool> = FxHashMap::default();
    mentions.retain(|mention| {
        let rule = &rules.rules()[mention.rule];
        *takes.entry(mention.rule).or_insert_with(|| rule.scope.takes(page, &rule.target, around))
    });
    // Of two phrases of a rule on the same words the first one counts.
    mentions.sort_unstable_by_key(|mention| (mention.rule, mention.words, mention.phrase));
    mentions.dedup_by_key(|mention| (mention.rule, mention.words));
    mentions.sort_by_cached_key(|mention| turn_of(rules, mention));
    let mut way = Way::of(rules, document, page, limits, around, &words, &mentions);
    let mut applied = Applied::default();
    for mention in mentions {
        match way.verdict(&mention) {
            Verdict::Linked => {
                way.count(&mention);
                way.new.push(mention);
                applied.linked.push(mention);
            }
            Verdict::There => applied.there.push(mention),
            Verdict::Held(why) => applied.held.push((mention, why)),
        }
    }
    // A phrase within one of the same rule that has its link is no place of its own.
    let has_link: Vec<Mention> = applied.linked.iter().chain(&applied.there).copied().collect();
    applied.held.retain(|(held, _)| {
        !has_link.iter().any(|linked| linked.rule == held.rule && linked.words.overlaps(held.words))
    });
    applied.linked.sort_unstable_by_key(|mention| mention.words);
    applied.there.sort_unstable_by_key(|mention| mention.words);
    applied.held.sort_by_key(|(mention, _)| (mention.words, mention.rule));
    applied
}

enum Verdict {
    Linked,
    There,
    Held(Held),
}

/// What is the same for all places of a rule on a page.
#[derive(Clone)]
struct OfRule {
    /// What keeps all of them back.
    held: Option<Held>,
    /// Links to its target that no rule would make, as far as they count.
    other_links: usize,
}

/// How far the page has come.
struct Way<'a, A> {
    rules: &'a RuleSet,
    document: &'a Document,
    page: &'a RulePage<'a>,
    limits: RuleLimits,
    site: LinkLimits,
    around: &'a A,
    words: &'a [FoundWord],
    old: Vec<OldLink>,
    new: Vec<Mention>,
    /// Words and links of the page, those that come included.
    carried: Carried,
    /// The sentences of blocks, by where these begin.
    sentences: FxHashMap<usize, Vec<TextSpan>>,
    /// Which elements the selectors of rules mean that have places here.
    selected: Selected<'a>,
    /// What is the same for all places of a rule, for those that came to their turn.
    of_rule: FxHashMap<usize, OfRule>,
    by_rule: FxHashMap<usize, usize>,
    by_phrase: FxHashMap<(usize, usize), usize>,
    by_target: FxHashMap<Target, usize>,
    by_anchor: FxHashMap<String, usize>,
    /// Words that carry links of rules.
    of_rules: Vec<TextSpan>,
}

impl<'a, A: Around> Way<'a, A> {
    fn of(
        rules: &'a RuleSet,
        document: &'a Document,
        page: &'a RulePage<'a>,
        (limits, site): (RuleLimits, LinkLimits),
        around: &'a A,
        words: &'a [FoundWord],
        mentions: &[Mention],
    ) -> Self {
        let mut way = Self {
            rules,
            document,
            page,
            limits,
            site,
            around,
            words,
            old: Vec::new(),
            new: Vec::new(),
            carried: Carried::default(),
            sentences: FxHashMap::default(),
            selected: Selected::default(),
            of_rule: FxHashMap::default(),
            by_rule: FxHashMap::default(),
            by_phrase: FxHashMap::default(),
            by_target: FxHashMap::default(),
            by_anchor: FxHashMap::default(),
            of_rules: Vec::new(),
        };
        if mentions.is_empty() {
            return way;
        }
        let selectors = mentions.iter().map(|mention| &rules.rules()[mention.rule].scope);
        let selectors = selectors.flat_map(|scope| scope.within.iter().chain(&scope.without));
        way.selected = Selected::on(document, selectors);
        let links = document.links().iter().filter(|link| link.region == Region::Content);
        let there = links.map(|link| OldLink::of(link, around.leads(&link.href)));
        let planned = page.planned.iter().map(|(words, target)| OldLink::planned(*words, target));
        way.old = there.chain(planned).collect();
        way.old.sort_by_key(|old| old.words);
        way.carried = Carried { words: words.len(), links: way.old.iter().map(|old| old.words).collect() };
        let mut counted = FxHashSet::default();
        for mention in mentions {
            let Some(at) = way.old_link_of(mention) else { continue };
            way.old[at].of_rules.push(mention.rule);
            // Two rules may know themselves in one link: it is one link to its target all the same.
            match counted.insert(at) {
                true => way.count(mention),
                false => way.count_for_rule(mention),
            }
        }
        way
    }

    /// The link that its rule would make of a mention, if it is there.
    fn old_link_of(&self, mention: &Mention) -> Option<usize> {
        let rule = &self.rules.rules()[mention.rule];
        let target = rule.target.whole();
        let first = self.old.partition_point(|old| old.words.start < mention.words.start);
        let here = self.old[first..].iter().take_while(|old| old.words.start == mention.words.start);
        let is_its_own = |old: &OldLink| old.words == mention.words && old.is_to(rule, &target);
        (first..).zip(here).find(|(_, old)| is_its_own(old)).map(|(at, _)| at)
    }

    fn count_for_rule(&mut self, mention: &Mention) {
        *self.by_rule.entry(mention.rule).or_default() += 1;
        *self.by_phrase.entry((mention.rule, mention.phrase)).or_default() += 1;
    }

    fn count(&mut self, mention: &Mention) {
        self.count_for_rule(mention);
        let target = self.rules.rules()[mention.rule].target.whole();
        *self.by_target.entry(target).or_default() += 1;
        let anchor = self.anchor(mention);
        *self.by_anchor.entry(anchor).or_default() += 1;
        self.of_rules.push(mention.words);
        if !self.carried.links.contains(&mention.words) {
            self.carried.links.push(mention.words);
        }
    }

    /// The words as readers tell them apart.
    fn anchor(&self, mention: &Mention) -> String {
        let words = self.document.text().slice(mention.words).split_whitespace();
        fold(&words.collect::<Vec<_>>().join(" "))
    }

    /// The sentence around words, in the text of the page.
    fn sentence(&mut self, words: TextSpan) -> TextSpan {
        let Some(block) = self.document.block_of(words) else { return words };
        let block = self.document.blocks()[block.0 as usize].text;
        let within = |span: &TextSpan| TextSpan::new(block.start + span.start, block.start + span.end);
        let text = self.document.text().slice(block);
        let all = self.sentences.entry(block.start).or_insert_with(|| sentences(text).iter().map(within).collect());
        let first = all.partition_point(|sentence| sentence.end <= words.start);
        let end = all.partition_point(|sentence| sentence.start < words.end);
        match all.get(first..end) {
            Some([first, .., last]) => TextSpan::new(first.start, last.end),
            Some([only]) => *only,
            _ => words,
        }
    }

    /// What becomes of a mention whose turn it is.
    fn verdict(&mut self, mention: &Mention) -> Verdict {
        if self.old_link_of(mention).is_some() {
            return Verdict::There;
        }
        match self.is_free(mention) {
            Ok(()) => Verdict::Linked,
            Err(why) => Verdict::Held(why),
        }
    }

    fn is_free(&mut self, mention: &Mention) -> Result<(), Held> {
        let rule = &self.rules.rules()[mention.rule];
        let OfRule { held, other_links } = self.of_rule(rule, mention.rule);
        held.map_or(Ok(()), Err)?;
        self.may_stand_there(rule, mention)?;
        if let Some(by) = self.new.iter().find(|new| new.words.overlaps(mention.words)) {
            return Err(Held::Taken { by: self.rules.rules()[by.rule].id });
        }
        let sentence = self.sentence(mention.words);
        let shown = self.document.text().slice(sentence);
        let spot = Spot::of(self.page.path, shown, mention.words.start - sentence.start);
        if self.around.is_exception(rule.id, spot) {
            return Err(Held::Exception);
        }
        if !(spot.is_among(self.limits.share) && spot.for_rule(rule.id).is_among(rule.pace.share)) {
            return Err(Held::Thinned);
        }
        self.keeps_pace(rule, mention, sentence, other_links)?;
        self.site.one_more(&self.carried, || mention.first, Some(sentence)).map_err(Held::Limit)?;
        self.document.may_link_in(mention.words, rule.scope.blocks.also_in()).map_err(Held::Markup)?;
        Ok(())
    }

    fn of_rule(&mut self, rule: &Rule, at: usize) -> OfRule {
        if let Some(known) = self.of_rule.get(&at) {
            return known.clone();
        }
        let is_of_none = |old: &OldLink| old.of_rules.is_empty();
        let counts = rule.pace.counts_other_links;
        let other_links = if counts { self.links_to(rule, &rule.target.whole(), is_of_none) } else { 0 };
        let known = OfRule { held: self.may_lead_there(rule, at).err(), other_links };
        self.of_rule.insert(at, known.clone());
        known
    }

    /// Whether a page may lead to the target of a rule at all.
    fn may_lead_there(&self, rule: &Rule, at: usize) -> Result<(), Held> {
        let target = rule.target.whole();
        if target.page().is_some() && target.page() == self.page.page {
            return Err(Held::ItsOwnPage);
        }
        if target.page().is_some() && target.page() == self.page.came_from {
            return Err(Held::CameFrom);
        }
        if !rule.pace.links_back && self.around.links_here(&target) {
            return Err(Held::WayBack);
        }
        let is_other = |old: &OldLink| !old.of_rules.contains(&at);
        match rule.pace.skips_linked_pages && self.links_to(rule, &target, is_other) > 0 {
            true => Err(Held::LeadsThere),
            false => Ok(()),
        }
    }

    /// Such links of the page to a target.
    fn links_to(&self, rule: &Rule, target: &Target, such: impl Fn(&OldLink) -> bool) -> usize {
        self.old.iter().filter(|old| such(old) && old.is_to(rule, target)).count()
    }

    /// Whether the words are in a place where the rule links.
    fn may_stand_there(&self, rule: &Rule, mention: &Mention) -> Result<(), Held> {
        if let Some(block) = self.document.block_of(mention.words) {
            let kind = self.document.blocks()[block.0 as usize].kind;
            if !rule.scope.blocks.takes(kind) {
                return Err(Held::Block(kind));
            }
        }
        let stands = |selector: &Selector| self.selected.holds(selector, self.document, mention.words);
        let Scope { within, without, .. } = &rule.scope;
        if !(within.is_empty() || within.iter().any(stands)) {
            let all: Vec<_> = within.iter().map(Selector::as_str).collect();
            return Err(Held::NotWithin(all.join(" or ")));
        }
        if let Some(selector) = without.iter().find(|selector| stands(selector)) {
            return Err(Held::Within(selector.as_str().to_owned()));
        }
        if mention.first < rule.scope.first_words_free {
            return Err(Held::TooEarly { words: rule.scope.first_words_free });
        }
        let text = self.document.text();
        let block = self.document.block_of(mention.words);
        let beside = [mention.first.checked_sub(1), Some(mention.end)].into_iter().flatten();
        let beside =
            beside.filter_map(|at| self.words.get(at)).filter(|word| self.document.block_of(word.span) == block);
        for word in beside.map(|word| text.slice(word.span)) {
            if self.rules.not_beside(mention.rule).contains(&fold(word)) {
                return Err(Held::Beside(word.to_owned()));
            }
        }
        let first = self.old.partition_point(|old| old.words.end <= mention.words.start);
        match self.old[first..].iter().take_while(|old| old.words.start < mention.words.end).next() {
            Some(_) => Err(Held::Linked),
            None => Ok(()),
        }
    }

    /// Whether one link more of a rule keeps within what is set for it, and for all rules.
    fn keeps_pace(&self, rule: &Rule, mention: &Mention, sentence: TextSpan, other_links: usize) -> Result<(), Held> {
        let pace = &rule.pace;
        let of_rule = self.by_rule.get(&mention.rule).copied().unwrap_or(0);
        if of_rule >= pace.per_page {
            return Err(Held::PerPage { most: pace.per_page });
        }
        if self.by_phrase.get(&(mention.rule, mention.phrase)).copied().unwrap_or(0) >= pace.per_phrase {
            return Err(Held::PerPhrase { most: pace.per_phrase });
        }
        let target = rule.target.whole();
        if self.by_target.get(&target).copied().unwrap_or(0) + other_links >= self.limits.per_target {
            return Err(Held::PerTarget { most: self.limits.per_target });
        }
        if self.by_anchor.get(&self.anchor(mention)).copied().unwrap_or(0) >= self.limits.per_anchor {
            return Err(Held::PerAnchor { most: self.limits.per_anchor });
        }
        let per_sentence = pace.per_sentence.unwrap_or(self.limits.per_sentence);
        if self.of_rules.iter().filter(|words| words.overlaps(sentence)).count() >= per_sentence {
            return Err(Held::PerSentence { most: per_sentence });
        }
        let most = self.limits.of_page(self.words.len());
        if self.of_rules.len() >= most {
            return Err(Held::Crowded { most });
        }
        match pace.in_total.is_some() && !self.around.knows_of_other_pages() {
            true => Err(Held::InTotal),
            false => Ok(()),
        }
    }
}
