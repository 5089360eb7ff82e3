//! Limits of links, beside a count by hand.

use proptest::prelude::*;
use strelm_core::document::{Document, TextSpan};
use strelm_core::limits::{Breach, LinkLimits};
use strelm_core::site::PageId;

/// Sentences of numbered words, some of which carry links already.
fn paragraphs() -> impl Strategy<Value = Vec<Vec<Vec<bool>>>> {
    let sentence = prop::collection::vec(prop::bool::weighted(0.15), 2..8);
    prop::collection::vec(prop::collection::vec(sentence, 1..4), 1..4)
}

/// A word: its name, its sentence, and whether it carries a link.
struct Written {
    name: String,
    sentence: usize,
    is_linked: bool,
}

fn write(paragraphs: &[Vec<Vec<bool>>]) -> (String, Vec<Written>) {
    let (mut html, mut all, mut sentence) = (String::new(), Vec::new(), 0);
    for sentences in paragraphs {
        html.push_str("<p>");
        for words in sentences {
            for (at, is_linked) in words.iter().enumerate() {
                let name = format!("{}{:03}x", if at == 0 { 'W' } else { 'w' }, all.len());
                html.push_str(if at == 0 { "" } else { " " });
                html.push_str(&if *is_linked { format!("<a href=/old>{name}</a>") } else { name.clone() });
                all.push(Written { name, sentence, is_linked: *is_linked });
            }
            html.push_str(". ");
            sentence += 1;
        }
        html.push_str("</p>");
    }
    (html, all)
}

proptest! {
    #[test]
    fn what_is_let_through_keeps_all_limits_and_what_is_not_would_break_one(
        paragraphs in paragraphs(),
        wanted in prop::collection::vec((0.0..1.0f64, 1u32..6), 1..12),
        (per_sentence, words_per_link, at_least, free) in (1usize..4, 1usize..8, 0usize..4, 0usize..10),
    ) {
        let (html, words) = write(&paragraphs);
        let document = Document::from_html(html);
        let limits = LinkLimits {
            per_sentence,
            words_per_link,
            per_page_at_least: at_least,
            first_words_free: free,
            ..LinkLimits::default()
        };
        let text = document.text().as_str();
        let chosen: Vec<_> = wanted
            .iter()
            .map(|(at, target)| ((*at * words.len() as f64) as usize, PageId(*target)))
            .filter(|(at, _)| !words[*at].is_linked)
            .collect();
        let spans: Vec<_> = chosen
            .iter()
            .map(|(at, target)| {
                let start = text.find(&words[*at].name).unwrap();
                (TextSpan::new(start, start + words[*at].name.len()), *target)
            })
            .collect();
        let is_linked = |target: PageId| target == PageId(5);
        let breaches = limits.check_page(&document, &spans, |target| is_linked(*target));
        prop_assert_eq!(breaches.len(), chosen.len());
        let mut links: Vec<usize> = (0..words.len()).filter(|at| words[*at].is_linked).collect();
        let mut targets: Vec<PageId> = Vec::new();
        let most = (words.len() / words_per_link).max(at_least);
        for ((at, target), breach) in chosen.iter().zip(&breaches) {
            let here = links.iter().filter(|link| words[**link].sentence == words[*at].sentence).count() + 1;
            let expected = if targets.contains(target) || is_linked(*target) {
                Some(Breach::SameTarget)
            } else if *at < free {
                Some(Breach::TooEarly { words: free })
            } else if here > per_sentence {
                Some(Breach::Sentence { links: here, most: per_sentence })
            } else if links.len() >= most {
                Some(Breach::Page { links: links.len() + 1, most })
            } else {
                None
            };
            prop_assert_eq!(breach, &expected);
            if breach.is_none() {
                links.push(*at);
                targets.push(*target);
            }
        }
    }

    #[test]
    fn a_release_brings_no_page_and_no_words_too_often(
        links in prop::collection::vec((1u32..4, prop::sample::select(vec!["Moon", "moon", "MOON", "star"])), 0..40),
        (per_target, per_phrase) in (1usize..12, 1usize..6),
    ) {
        let limits = LinkLimits { per_target, per_phrase, ..LinkLimits::default() };
        let breaches = limits.check_release(links.iter().map(|(target, words)| (PageId(*target), *words)));
        let kept: Vec<_> = links.iter().zip(&breaches).filter(|(_, breach)| breach.is_none()).map(|(link, _)| link).collect();
        for target in 1..4 {
            let to: Vec<_> = kept.iter().filter(|(to, _)| *to == target).collect();
            prop_assert!(to.len() <= per_target);
            for words in ["moon", "star"] {
                prop_assert!(to.iter().filter(|(_, known)| known.to_lowercase() == words).count() <= per_phrase);
            }
        }
        // The first of each page always goes out.
        for target in 1..4 {
            let first = links.iter().position(|(to, _)| *to == target);
            prop_assert!(first.is_none_or(|at| breaches[at].is_none()));
        }
        for breach in breaches.into_iter().flatten() {
            prop_assert!(breach.to_string().contains("more than"), "{}", breach);
        }
    }
}
