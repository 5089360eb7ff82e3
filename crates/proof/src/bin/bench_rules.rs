//! `bench_rules FOLDER...`: phrases of many rules found in the text of manuals, beside one pass of aho-corasick with the same
//! phrases over the same text, as lines of values with tabs between them. All on one core.

use std::collections::BTreeSet;
use std::path::Path;
use std::time::Instant;

use aho_corasick::{AhoCorasick, MatchKind};
use fastrand::Rng;
use strelm_core::document::Document;
use strelm_core::language::{Language, words};
use strelm_core::limits::LinkLimits;
use strelm_core::rules::{Around, Matching, Phrase, Reader, Rule, RuleId, RuleLimits, RulePage, RuleSet, apply};
use strelm_core::site::{PageId, PageKind, Target};
use strelm_proof::documents;

const ROUNDS: usize = 5;
const MOST_PAGES: usize = 4000;

/// Links of the pages lead nowhere: what is measured is the words.
struct Nowhere;

impl Around for Nowhere {
    fn leads(&self, _: &str) -> Option<Target> {
        None
    }
}

fn main() -> anyhow::Result<()> {
    let mut pages = Vec::new();
    for folder in std::env::args_os().skip(1) {
        let sources = documents::read_folder(Path::new(&folder))?;
        let step = sources.len().div_ceil(MOST_PAGES).max(1);
        pages.extend(sources.into_iter().step_by(step).map(Document::from_html));
    }
    let bytes: usize = pages.iter().map(|page| page.text().as_str().len()).sum();
    println!("text\t{}\t{bytes}", pages.len());
    for count in [5_000, 50_000] {
        let phrases = phrases(&pages, count, 11);
        let rules = phrases.iter().zip(1..).map(|(phrase, number)| {
            let phrases = vec![Phrase::words(phrase)?];
            // One in five stands for itself alone.
            let matching = Matching { forms: number % 5 != 0, ..Matching::default() };
            let target = Target::Page(PageId(number));
            Ok(Rule { matching, ..Rule::new(RuleId(number), phrases, target) })
        });
        let rules = rules.collect::<anyhow::Result<Vec<_>>>()?;
        let begun = Instant::now();
        let set = RuleSet::of(rules);
        Reader::new(&set).mentions("One word", Language::English);
        println!("built\t{count}\t{:.1}", begun.elapsed().as_secs_f64() * 1000.0);
        let automaton = AhoCorasick::builder()
            .match_kind(MatchKind::Standard)
            .ascii_case_insensitive(true)
            .build(phrases.iter().map(String::as_str))?;
        timed("aho-corasick", count, || {
            pages.iter().map(|page| automaton.find_overlapping_iter(page.text().as_str()).count()).sum()
        });
        timed("found", count, || {
            let mut reader = Reader::new(&set);
            let of_page = |page: &Document| -> usize {
                let blocks = page.blocks().iter();
                blocks.map(|block| reader.mentions(page.text().slice(block.text), Language::English).len()).sum()
            };
            pages.iter().map(of_page).sum()
        });
        timed("applied", count, || {
            let mut reader = Reader::new(&set);
            let limits = (RuleLimits::default(), LinkLimits::default());
            let linked = |page: &Document| apply(&mut reader, page, &of_page(), limits, &Nowhere).linked.len();
            pages.iter().map(linked).sum()
        });
    }
    Ok(())
}

fn of_page() -> RulePage<'static> {
    RulePage {
        page: Some(PageId(0)),
        path: "/",
        kind: PageKind::Page,
        terms: &[],
        language: Language::English,
        published: None,
        came_from: None,
        planned: &[],
    }
}

/// The best of some rounds in milliseconds, and how much was found.
fn timed(what: &str, rules: usize, work: impl FnMut() -> usize) {
    let mut work = work;
    let mut best = f64::MAX;
    let mut found = 0;
    for _ in 0..ROUNDS {
        let begun = Instant::now();
        found = work();
        best = best.min(begun.elapsed().as_secs_f64() * 1000.0);
    }
    println!("{what}\t{rules}\t{best:.1}\t{found}");
}

/// So many different phrases out of the text, as rules have them: three in ten are a long word, five are two words, two are three.
fn phrases(pages: &[Document], count: usize, seed: u64) -> Vec<String> {
    let mut random = Rng::with_seed(seed);
    let mut found = BTreeSet::new();
    let mut tries = 0;
    while found.len() < count && tries < count * 200 {
        tries += 1;
        let page = &pages[random.usize(..pages.len())];
        let Some(block) = random.choice(page.blocks()) else { continue };
        let row: Vec<_> = words(page.text().slice(block.text)).collect();
        let length = [1, 1, 1, 2, 2, 2, 2, 2, 3, 3][random.usize(..10)];
        if row.len() < length {
            continue;
        }
        let first = random.usize(..=row.len() - length);
        let taken = &row[first..first + length];
        let is_name =
            |text: &str| text.len() >= if length == 1 { 8 } else { 4 } && text.chars().all(char::is_alphabetic);
        if taken.iter().all(|word| is_name(word.text)) && taken[1..].iter().all(|word| word.joined) {
            found.insert(taken.iter().map(|word| word.text.to_lowercase()).collect::<Vec<_>>().join(" "));
        }
    }
    let mut found: Vec<_> = found.into_iter().collect();
    random.shuffle(&mut found);
    found
}
