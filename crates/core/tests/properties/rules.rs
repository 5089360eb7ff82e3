//! Auto-linking rules, beside a search word by word and a count by hand.

use proptest::prelude::*;
use strelm_core::document::{Document, Region, TextSpan};
use strelm_core::language::{Language, Stemmer, fold, words};
use strelm_core::limits::LinkLimits;
use strelm_core::rules::{
    Applied, Around, BlockKinds, Held, Matching, Mention, Pace, Phrase, Reader, Rule, RuleId, RuleLimits, RulePage,
    RuleSet, Scope, Share, apply,
};
use strelm_core::site::{PageId, PageKind, Target};

const WORDS: [&str; 14] = [
    "Moon", "moon", "moons", "red", "Red", "torch", "torches", "étoile", "etoile", "dark", "the", "vision", "clear",
    "NIGHT",
];

/// Sentences with everything that stands in the way of a link.
fn page() -> impl Strategy<Value = String> {
    let word = prop::sample::select(&WORDS[..]).prop_map(str::to_owned);
    let phrase = prop::collection::vec(word, 1..4).prop_map(|words| words.join(" "));
    let piece = (phrase, 0..14u8, 1..5u32).prop_map(|(words, dress, target)| match dress {
        0 => format!("<a href=/{target}>{words}</a>"),
        1 => format!("<em>{words}</em>"),
        2 => format!("<code>{words}</code>"),
        3 => format!("<b>{words}"),
        4 => format!("{words}, "),
        5 => format!("{words}. And "),
        6 => format!("<button>{words}</button>"),
        _ => words,
    });
    let text = prop::collection::vec(piece, 1..6).prop_map(|pieces| pieces.join(" "));
    let block = (text, 0..9u8).prop_map(|(text, kind)| match kind {
        0 => format!("<h2>{text}</h2>"),
        1 => format!("<ul><li>{text}</ul>"),
        2 => format!("<table><tr><td>{text}</table>"),
        3 => format!("<blockquote>{text}</blockquote>"),
        4 => format!("<nav>{text}</nav>"),
        5 => format!("<pre>{text}</pre>"),
        _ => format!("<p>{text}</p>"),
    });
    prop::collection::vec(block, 1..7).prop_map(|blocks| blocks.concat())
}

fn matching() -> impl Strategy<Value = Matching> {
    let beside = prop::collection::vec(prop::sample::select(&["the", "dark", "clear"][..]), 0..2);
    (any::<bool>(), any::<bool>(), any::<bool>(), 0..3usize, beside).prop_map(
        |(forms, keeps_case, keeps_accents, gap, beside)| Matching {
            forms,
            keeps_case,
            keeps_accents,
            gap,
            not_beside: beside.into_iter().map(str::to_owned).collect(),
        },
    )
}

fn rule(id: u32) -> impl Strategy<Value = Rule> {
    let words = prop::collection::vec(prop::sample::select(&WORDS[..]), 1..4).prop_map(|words| words.join(" "));
    let blocks = (any::<bool>(), any::<bool>(), any::<bool>(), any::<bool>())
        .prop_map(|(headings, tables, quotes, code)| BlockKinds { headings, tables, quotes, captions: false, code });
    let pace = (1..4usize, 1..3usize, prop::option::of(1..3usize), any::<bool>(), any::<bool>(), 0..3u8).prop_map(
        |(per_page, per_phrase, per_sentence, skips_linked_pages, counts_other_links, share)| Pace {
            per_page,
            per_phrase,
            per_sentence,
            skips_linked_pages,
            counts_other_links,
            share: Share::new([1.0, 1.0, 0.6][share as usize]).unwrap(),
            ..Pace::default()
        },
    );
    let how = (prop::collection::vec(words, 1..4), matching(), blocks, pace);
    (how, 1..5u32, 0..3i32, 0..3u8, 0..4usize).prop_map(
        move |((phrases, matching, blocks, pace), to, priority, fit, free)| Rule {
            phrases: phrases.iter().map(|words| Phrase::words(words).unwrap()).collect(),
            matching,
            scope: Scope { blocks, first_words_free: free, ..Scope::default() },
            pace,
            priority,
            fit: f64::from(fit),
            ..Rule::new(RuleId(id), Vec::new(), Target::Page(PageId(to)))
        },
    )
}

fn rules() -> impl Strategy<Value = Vec<Rule>> {
    (1..6usize).prop_flat_map(|count| (1..=u32::try_from(count).unwrap()).map(rule).collect::<Vec<_>>())
}

fn limits() -> impl Strategy<Value = (RuleLimits, LinkLimits)> {
    (1..12usize, 1..3usize, 1..3usize, 1..3usize, 1..4usize, 1..8usize, 0..3usize).prop_map(
        |(words_per_link, per_target, per_anchor, per_sentence, site_sentence, site_words, free)| {
            let of_rules = RuleLimits { words_per_link, per_target, per_anchor, per_sentence, ..RuleLimits::default() };
            let of_site = LinkLimits {
                per_sentence: site_sentence,
                words_per_link: site_words,
                per_page_at_least: 2,
                first_words_free: free,
                ..LinkLimits::default()
            };
            (of_rules, of_site)
        },
    )
}

struct Numbered;

impl Around for Numbered {
    fn leads(&self, href: &str) -> Option<Target> {
        href.strip_prefix('/')?.parse().ok().map(|number| Target::Page(PageId(number)))
    }
}

fn of_page() -> RulePage<'static> {
    RulePage {
        page: Some(PageId(4)),
        path: "/4",
        kind: PageKind::Page,
        terms: &[],
        language: Language::English,
        published: None,
        came_from: None,
        planned: &[],
    }
}

fn applied(rules: &RuleSet, document: &Document, limits: (RuleLimits, LinkLimits)) -> Applied {
    apply(&mut Reader::new(rules), document, &of_page(), limits, &Numbered)
}

/// The page with its new links.
fn linked(rules: &RuleSet, document: &Document, applied: &mut Applied) -> Document {
    let href = |rule: &Rule| format!("/{}", rule.target.page().unwrap().0);
    let edit = applied.edit(document, rules, href).unwrap();
    Document::from_html(edit.apply(document.source()).unwrap())
}

/// Whether a word is one of a phrase, after what a rule says of it.
fn is_same(wanted: &str, word: &str, matching: &Matching, stemmer: &Stemmer) -> bool {
    // None of the words here has accents but on its first letter, or in capitals.
    let accents = |text: &str| text.chars().filter(|c| !c.is_ascii()).count();
    if matching.keeps_accents && accents(wanted) != accents(word) {
        return false;
    }
    let alike = match matching.forms {
        true => stemmer.stem(wanted) == stemmer.stem(word),
        false => fold(wanted) == fold(word),
    };
    let case = |text: &str| text.chars().map(char::is_uppercase).collect::<Vec<_>>();
    let (one, other) = (case(wanted), case(word));
    let common = one.len().min(other.len());
    alike && (!matching.keeps_case || one[..common] == other[..common])
}

/// All places of a phrase in a text by trying all of them: where its words begin, and the shortest that begins there.
fn places(phrase: &str, matching: &Matching, text: &str) -> Vec<TextSpan> {
    let stemmer = Stemmer::new(Language::English);
    let all: Vec<_> = words(text).collect();
    let wanted: Vec<_> = words(phrase).map(|word| word.text.to_owned()).collect();
    let is = |number: usize, at: usize| is_same(&wanted[number], all[at].text, matching, &stemmer);
    let between = |at: usize| &text[all[at - 1].span.end..all[at].span.start];
    let goes_on = |at: usize| between(at) == " " || (matching.gap > 0 && wanted.len() > 1 && between(at).trim() == ",");
    let mut found = Vec::new();
    for start in 0..all.len() {
        let reach = |end: usize| (start + 1..=end).all(goes_on);
        let ends = (start..all.len()).filter(|end| reach(*end));
        let fits = |end: &usize| can_end(&is, start, *end, wanted.len() - 1, matching.gap);
        if let Some(end) = ends.into_iter().find(fits) {
            found.push(TextSpan::new(all[start].span.start, all[end].span.end));
        }
    }
    found
}

/// Whether the words up to one of a phrase can stand so that the last is at `end`.
fn can_end(is: &impl Fn(usize, usize) -> bool, start: usize, end: usize, last: usize, gap: usize) -> bool {
    if !is(last, end) {
        return false;
    }
    match last {
        0 => start == end,
        _ => (start..end).any(|before| end - before <= gap + 1 && can_end(is, start, before, last - 1, gap)),
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 600, ..ProptestConfig::default() })]

    #[test]
    fn phrases_are_found_where_a_search_word_by_word_finds_them(
        text in prop::collection::vec((prop::sample::select(&WORDS[..]), prop::sample::select(&[" ", " ", " ", ", ", ". ", " ("][..])), 1..14),
        rules in rules(),
    ) {
        let text: String = text.iter().flat_map(|(word, between)| [*word, *between]).collect();
        let set = RuleSet::of(rules.clone());
        let mut found: Vec<_> =
            Reader::new(&set).mentions(&text, Language::English).iter().map(|m| (m.rule, m.phrase, m.words)).collect();
        let mut expected = Vec::new();
        for (at, rule) in set.rules().iter().enumerate() {
            for (number, phrase) in rule.phrases.iter().enumerate() {
                expected.extend(places(phrase.as_str(), &rule.matching, &text).into_iter().map(|words| (at, number, words)));
            }
        }
        found.sort_unstable();
        expected.sort_unstable();
        prop_assert_eq!(found, expected, "{}", text);
    }

    #[test]
    fn what_comes_out_hangs_on_no_order_and_applying_twice_is_applying_once(
        html in page(), rules in rules(), limits in limits(),
    ) {
        let document = Document::from_html(html);
        let set = RuleSet::of(rules.clone());
        let mut first = applied(&set, &document, limits);
        let backwards = RuleSet::of(rules.into_iter().rev().collect());
        prop_assert_eq!(&first, &applied(&backwards, &document, limits));
        let after = linked(&set, &document, &mut first);
        prop_assert_eq!(after.text().as_str(), document.text().as_str());
        prop_assert_eq!(after.links().len(), document.links().len() + first.linked.len());
        let again = applied(&set, &after, limits);
        prop_assert_eq!(&again.linked, &[], "{}", after.source());
        // A list of little more than links is a menu, and what links it may be a rule.
        let is_content = |words: TextSpan| {
            after.block_of(words).is_some_and(|block| after.blocks()[block.0 as usize].region == Region::Content)
        };
        for mention in first.linked.iter().chain(&first.there).filter(|mention| is_content(mention.words)) {
            prop_assert!(again.there.iter().any(|there| (there.rule, there.words) == (mention.rule, mention.words)));
        }
    }

    #[test]
    fn links_that_are_planned_count_as_though_they_stood_on_the_page(
        html in page(), rules in rules(), limits in limits(),
    ) {
        let document = Document::from_html(html);
        let set = RuleSet::of(rules);
        let mut first = applied(&set, &document, limits);
        let there = linked(&set, &document, &mut first);
        let planned: Vec<_> = first.links(&set).map(|link| (link.words, link.rule.target.clone())).collect();
        let page = RulePage { planned: &planned, ..of_page() };
        let with_tray = apply(&mut Reader::new(&set), &document, &page, limits, &Numbered);
        let on_page = applied(&set, &there, limits);
        // A list of little more than links is a menu, and no content any more.
        let regions = |document: &Document| document.blocks().iter().map(|block| block.region).collect::<Vec<_>>();
        prop_assume!(regions(&document) == regions(&there));
        // The text of both is the same, so places are, too.
        prop_assert_eq!(document.text().as_str(), there.text().as_str());
        let sides = |applied: &Applied| {
            let held: Vec<_> = applied.held.iter().map(|(mention, why)| (mention.rule, mention.words, why.clone())).collect();
            let places = |all: &[strelm_core::rules::Mention]| all.iter().map(|one| (one.rule, one.words)).collect::<Vec<_>>();
            (places(&applied.linked), places(&applied.there), held)
        };
        prop_assert_eq!(sides(&with_tray), sides(&on_page));
    }

    #[test]
    fn a_rule_of_lower_priority_takes_nothing_from_the_others(
        html in page(), rules in rules(), more in rule(99), limits in limits(),
    ) {
        // Links that stand there count from the beginning, also those of which the new rule would make the same.
        let document = Document::from_html(html.replace("<a ", "<i ").replace("</a>", "</i>"));
        let before = applied(&RuleSet::of(rules.clone()), &document, limits);
        // It is the youngest, and so the last in the set.
        let (more, count) = (Rule { priority: -1, ..more }, rules.len());
        let after = applied(&RuleSet::of(rules.into_iter().chain([more]).collect()), &document, limits);
        let of_others: Vec<_> = after.linked.into_iter().filter(|mention| mention.rule < count).collect();
        prop_assert_eq!(of_others, before.linked);
    }

    #[test]
    fn all_limits_hold_and_whoever_is_held_is_told_why(html in page(), rules in rules(), limits in limits()) {
        let document = Document::from_html(html);
        let set = RuleSet::of(rules);
        let mut first = applied(&set, &document, limits);
        let after = linked(&set, &document, &mut first);
        let (of_rules, of_site) = limits;
        let text = document.text();
        let count = |test: &dyn Fn(&Mention) -> bool| first.linked.iter().filter(|mention| test(mention)).count();
        let content: Vec<_> = after.links().iter().filter(|link| link.region == Region::Content).collect();
        let blocks = document.blocks().iter().filter(|block| block.region == Region::Content);
        let in_all: usize = blocks.map(|block| words(text.slice(block.text)).count()).sum();
        prop_assert!(first.linked.len() <= of_rules.of_page(in_all));
        prop_assert!(first.linked.is_empty() || content.len() <= of_site.of_page(in_all));
        for mention in &first.linked {
            let rule = &set.rules()[mention.rule];
            let here = |other: &Mention| other.rule == mention.rule;
            let sentence = document.sentence_around(mention.words).unwrap();
            let in_sentence = |other: &Mention| other.words.overlaps(sentence);
            let anchor = |words: TextSpan| fold(&text.slice(words).split_whitespace().collect::<Vec<_>>().join(" "));
            prop_assert!(count(&here) <= rule.pace.per_page);
            prop_assert!(count(&|other| here(other) && other.phrase == mention.phrase) <= rule.pace.per_phrase);
            prop_assert!(count(&|other| set.rules()[other.rule].target == rule.target) <= of_rules.per_target);
            prop_assert!(count(&|other| anchor(other.words) == anchor(mention.words)) <= of_rules.per_anchor);
            prop_assert!(content.iter().filter(|link| link.text.overlaps(sentence)).count() <= of_site.per_sentence);
            // A rule that may put more into a sentence comes when others have put theirs.
            let others = first.linked.iter().filter(|other| in_sentence(other));
            let most = others.map(|other| set.rules()[other.rule].pace.per_sentence.unwrap_or(of_rules.per_sentence)).max();
            prop_assert!(count(&in_sentence) <= most.unwrap_or(0));
            prop_assert!(rule.target.page() != of_page().page);
            let kind = document.blocks()[document.block_of(mention.words).unwrap().0 as usize].kind;
            prop_assert!(rule.scope.blocks.takes(kind));
            prop_assert!(mention.first >= rule.scope.first_words_free.max(of_site.first_words_free));
            prop_assert!(after.links().iter().any(|link| link.text == mention.words));
            let beside = [mention.first.wrapping_sub(1), mention.end];
            let all: Vec<_> = document
                .blocks().iter().enumerate().filter(|(_, block)| block.region == Region::Content)
                .flat_map(|(at, block)| words(text.slice(block.text)).map(move |word| (at, word.text)))
                .collect();
            for near in beside.iter().filter_map(|at| all.get(*at)) {
                let is_here = near.0 == document.block_of(mention.words).unwrap().0 as usize;
                prop_assert!(!is_here || !rule.matching.not_beside.contains(&fold(near.1)));
            }
        }
        for (mention, why) in &first.held {
            let rule = &set.rules()[mention.rule];
            let at = mention.words;
            match why {
                Held::Taken { by } => prop_assert!(
                    first.linked.iter().any(|other| other.words.overlaps(at) && set.rules()[other.rule].id == *by)
                        || first.held.iter().any(|(other, why)| other.words.overlaps(at) && matches!(why, Held::Markup(_)))
                ),
                Held::ItsOwnPage => prop_assert_eq!(rule.target.page(), of_page().page),
                Held::Linked => prop_assert!(document.links().iter().any(|link| link.text.overlaps(at))),
                Held::LeadsThere => prop_assert!(document.links().iter().any(|link| Numbered.leads(&link.href).as_ref() == Some(&rule.target))),
                Held::PerPage { most } => prop_assert_eq!(*most, rule.pace.per_page),
                Held::Thinned => prop_assert!(rule.pace.share < Share::ALL),
                Held::WayBack | Held::CameFrom | Held::Exception | Held::InTotal => prop_assert!(false, "{why}"),
                _ => {}
            }
        }
    }
}

#[test]
fn a_rule_keeps_to_the_elements_that_it_names() {
    use strelm_core::rules::Selector;
    let page = "<div class=text><p>A red torch.</p><div id=n><p>No red torch.</p></div></div><p>Another red torch.</p>";
    let document = Document::from_html(page);
    let linked = |within: &[&str], without: &[&str]| {
        let selectors = |all: &[&str]| all.iter().map(|one| Selector::parse(one).unwrap()).collect();
        let mut rule = Rule::new(RuleId(1), vec![Phrase::words("red torch").unwrap()], Target::Page(PageId(2)));
        rule.scope = Scope { within: selectors(within), without: selectors(without), ..Scope::default() };
        rule.pace = Pace { per_page: 9, per_phrase: 9, ..Pace::default() };
        let rules = RuleSet::of(vec![rule]);
        let of_rules = RuleLimits { words_per_link: 1, per_target: 9, per_anchor: 9, ..RuleLimits::default() };
        let of_site = LinkLimits { words_per_link: 1, first_words_free: 0, ..LinkLimits::default() };
        let applied = apply(&mut Reader::new(&rules), &document, &of_page(), (of_rules, of_site), &Numbered);
        let starts = applied
            .linked
            .iter()
            .map(|mention| document.text().as_str()[..mention.words.start].matches("torch").count());
        (starts.collect::<Vec<_>>(), applied.held.into_iter().map(|(_, why)| why.to_string()).collect::<Vec<_>>())
    };
    assert_eq!((linked(&[], &[]).0.len(), linked(&["div, p"], &["table"]).0.len()), (3, 3));
    let (in_text, held) = linked(&[".text"], &["#n, table"]);
    assert!(in_text == [0] && held.contains(&"it does not stand in .text".to_owned()), "{in_text:?} {held:?}");
    assert!(linked(&["body p"], &[]).0.is_empty(), "there is no body in what is read");
}

#[test]
fn what_a_page_is_filed_under_is_no_link_of_its_text() {
    use strelm_core::document::LinkSays;
    let page = "<p>A red torch.</p><p><a rel=tag href=/2>red torch</a></p>";
    let document = Document::from_html(page);
    let outcome = |says: Vec<LinkSays>| {
        let rule = Rule::new(RuleId(1), vec![Phrase::words("red torch").unwrap()], Target::Page(PageId(2)));
        let rules = RuleSet::of(vec![Rule { says, ..rule }]);
        let of_site = LinkLimits { words_per_link: 1, first_words_free: 0, ..LinkLimits::default() };
        let applied = applied(&rules, &document, (RuleLimits::default(), of_site));
        (applied.linked.len(), applied.there.len(), applied.held.into_iter().map(|(_, why)| why).collect::<Vec<_>>())
    };
    assert_eq!(outcome(Vec::new()), (1, 0, vec![Held::Linked]));
    // A rule that files pages knows its own links.
    let (linked, there, held) = outcome(vec![LinkSays::Rel("tag".to_owned(), true)]);
    assert_eq!((linked, there, held), (0, 1, vec![Held::PerPage { most: 1 }]));
}
