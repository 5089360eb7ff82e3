//! Finds on the demo that were read by eye: what is right is offered, what is wrong is not.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::BTreeMap;

use strelm_core::openings::{AllWanted, Corpus, CorpusPage, Ensemble, Fit, Judge, Limits, Manners, Taste};
use strelm_core::phrases::Prose;
use strelm_core::site::{Address, PageId};

use self::support::{Read, demo, live_site, read_all};

/// An opening as an editor reads it.
#[derive(Debug)]
struct Find {
    source: String,
    sentence: String,
    words: String,
    target: String,
    fit: f64,
}

/// The best openings of all pages, to an editor of whom nothing is known.
fn finds() -> Vec<Find> {
    let state = tempfile::tempdir().unwrap();
    let live = live_site(vec![demo(), demo().join("more")], &state);
    let entry = Address::parse(&live.entry()).unwrap();
    let Read { pages, .. } = read_all(&entry);
    let pages: Vec<_> = pages.into_iter().map(|(address, document)| CorpusPage { address, document }).collect();
    let corpus = Corpus::of(entry, pages);
    let ensemble = Ensemble::shipped().unwrap();
    let judge = Judge { site: &corpus.site, book: &corpus.book, ensemble: &ensemble, taste: Taste::EDITOR };
    let paths: BTreeMap<PageId, String> = corpus.site.pages().map(|page| (page.id, page.address.from_root())).collect();
    let sitting = judge.sit();
    let of_page = |source: &PageId| {
        let text = corpus.book.prose(*source).map_or("", Prose::text);
        let chosen = sitting.both_ways(*source, &AllWanted, Manners::default(), Limits::default()).chosen;
        let find = |(candidate, weighed): &(_, _)| {
            let words = judge.words_of(*source, candidate);
            Find {
                source: paths[source].clone(),
                sentence: text[judge.sentence_of(*source, words).range()].to_owned(),
                words: text[words.range()].to_owned(),
                target: paths[&candidate.target].clone(),
                fit: Fit::of(&ensemble, weighed, judge.taste).total(),
            }
        };
        chosen.iter().map(find).collect::<Vec<_>>()
    };
    paths.keys().flat_map(of_page).collect()
}

/// From which page, on which words, to which page.
const RIGHT: [(&str, &str, &str); 12] = [
    ("/guides/cleaning-a-mirror/", "collimation", "/guides/collimation/"),
    ("/guides/observing-mercury/", "ecliptic", "/glossary/ecliptic/"),
    ("/guides/observing-the-moon/", "earthshine", "/glossary/earthshine/"),
    ("/guides/choosing-eyepieces/", "Barlow lens", "/glossary/barlow-lens/"),
    ("/guides/star-hopping/", "globular cluster", "/glossary/globular-cluster/"),
    ("/people/edda-thornby/", "averted vision", "/guides/averted-vision/"),
    ("/glossary/variable-star/", "Nessa Quill", "/people/nessa-quill/"),
    ("/glossary/culmination/", "meridian", "/glossary/meridian/"),
    ("/shop/star-atlas/", "planisphere", "/shop/planisphere/"),
    ("/de/dunkeladaption/", "Rotlichtlampe", "/de/rotlichtlampe/"),
    ("/de/okulare/", "Doppelsterne", "/de/doppelsterne/"),
    ("/events/pavement-night/", "finderscope", "/guides/finderscope/"),
];

/// Words that say something else than the name of the page, folded.
const WRONG: [(&str, &str); 9] = [
    ("people", "/people/"),
    ("sunday", "/events/sunday-sun/"),
    ("sun", "/events/sunday-sun/"),
    ("market", "/events/equipment-market/"),
    ("course", "/guides/mirror-making-course/"),
    ("contact", "/contact/"),
    ("see", "/glossary/seeing/"),
    ("practise", "/guides/averted-vision/"),
    ("word", "/category/words/"),
];

#[test]
fn what_was_read_by_eye_stays_right() {
    let finds = finds();
    assert!((300..600).contains(&finds.len()), "{} finds", finds.len());
    for (source, words, target) in RIGHT {
        let is_it = |find: &&Find| find.source == source && find.words == words && find.target == target;
        let found = finds.iter().find(is_it);
        assert!(found.is_some_and(|find| find.fit > 60.0), "{source} [{words}] {target}: {found:?}");
    }
    for find in &finds {
        let words = find.words.to_lowercase();
        let is_wrong = WRONG.contains(&(words.as_str(), find.target.as_str()));
        assert!(!is_wrong || find.fit < 60.0, "{find:?}");
    }
}

#[test]
fn the_best_finds_are_names_and_no_two_of_a_page_lead_to_the_same_place() {
    let finds = finds();
    let best: Vec<_> = finds.iter().filter(|find| find.fit >= 80.0).collect();
    assert!(best.len() > 60, "{} finds of 80 and more", best.len());
    assert!(!best.iter().any(|find| find.target.starts_with("/tag/")), "what pages are filed under are common words");
    let mut pairs: Vec<_> = finds.iter().map(|find| (&find.source, &find.target)).collect();
    pairs.sort_unstable();
    let all = pairs.len();
    pairs.dedup();
    assert_eq!(pairs.len(), all);
    for find in &finds {
        assert!(find.sentence.contains(&find.words), "{find:?}");
        assert!(find.source != find.target && (0.0..=100.0).contains(&find.fit), "{find:?}");
    }
}
