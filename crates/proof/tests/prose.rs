//! Words of generated documents: what is said of them in passing is what the document says of each when it is asked.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::Language;
use strelm_core::phrases::{Lexicon, ReadProse, TokenMarks};
use strelm_proof::documents::generated;
use strelm_proof::hostile::Hostile;

fn check(document: &Document) -> Result<(), TestCaseError> {
    let prose = ReadProse::of(document, Language::English).number(&mut Lexicon::default());
    for block in prose.blocks() {
        let tokens = &prose.tokens()[block.first as usize..block.end as usize];
        for (at, token) in tokens.iter().enumerate() {
            // Of code, a link goes around the whole.
            if token.has(TokenMarks::CODE) {
                continue;
            }
            let may = block.kind.is_prose() && document.may_link(token.span()).is_ok();
            prop_assert_eq!(token.has(TokenMarks::LINKABLE), may, "{}", document.source());
            let Some(before) = at.checked_sub(1).map(|at| tokens[at]).filter(|before| !before.has(TokenMarks::CODE))
            else {
                prop_assert!(at > 0 || !token.has(TokenMarks::JOINED));
                continue;
            };
            let pair = TextSpan::new(before.span().start, token.span().end);
            let between = document.text().slice(TextSpan::new(before.span().end, token.span().start));
            let is_joined = may && document.may_link(pair).is_ok() && matches!(between, " " | "-");
            prop_assert!(!is_joined || token.has(TokenMarks::JOINED), "“{between}” {}", document.source());
            prop_assert!(!token.has(TokenMarks::JOINED) || document.may_link(pair).is_ok(), "{}", document.source());
        }
    }
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn words_are_linkable_where_the_document_says_so(seed in any::<u64>()) {
        let mut random = fastrand::Rng::with_seed(seed);
        let html: String = (0..8).map(|_| format!("<p>{}</p>", generated(&mut random))).collect();
        check(&Document::from_html(html))?;
    }
}

#[test]
fn hostile_pages_are_no_exception() {
    for hostile in Hostile::ALL {
        check(&Document::from_html(hostile.page(20_000))).unwrap();
    }
    for hostile in Hostile::MARKDOWN {
        check(&Document::from_markdown(hostile.page(5_000))).unwrap();
    }
}
