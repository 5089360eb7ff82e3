//! What is known of each word of a text, beside what it was written as.

use proptest::prelude::*;
use strelm_core::document::{BlockKind, Document};
use strelm_core::language::Language;
use strelm_core::phrases::{Lexicon, Prose, ReadProse, TokenMarks};

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Dress {
    Plain,
    Emphasised,
    Code,
    Linked,
}

/// A word with how it is written; a paragraph is a row of sentences.
type Piece = (&'static str, Dress);

const WORDS: [&str; 8] = ["moon", "Dust", "glass", "Mirror", "tube", "frost", "Éclat", "map"];

fn paragraphs() -> impl Strategy<Value = Vec<Vec<Vec<Piece>>>> {
    let dress = prop_oneof![
        5 => Just(Dress::Plain),
        1 => Just(Dress::Emphasised),
        1 => Just(Dress::Code),
        1 => Just(Dress::Linked)
    ];
    let sentence = prop::collection::vec((prop::sample::select(WORDS.to_vec()), dress), 1..7);
    prop::collection::vec(prop::collection::vec(sentence, 1..4), 1..4)
}

fn html(paragraphs: &[Vec<Vec<Piece>>]) -> String {
    let word = |(word, dress): &Piece| match dress {
        Dress::Plain => (*word).to_owned(),
        Dress::Emphasised => format!("<em>{word}</em>"),
        Dress::Code => format!("<code>{word}</code>"),
        Dress::Linked => format!("<a href=/x>{word}</a>"),
    };
    let sentence = |words: &Vec<Piece>| words.iter().map(word).collect::<Vec<_>>().join(" ") + ".";
    let paragraph = |sentences: &Vec<Vec<Piece>>| sentences.iter().map(sentence).collect::<Vec<_>>().join(" ");
    paragraphs.iter().map(|sentences| format!("<p>{}</p>", paragraph(sentences))).collect()
}

fn prose_of(html: &str) -> Prose {
    let document = Document::from_html(html);
    ReadProse::of(&document, Language::English).number(&mut Lexicon::default())
}

proptest! {
    #[test]
    fn every_word_is_known_as_it_was_written(paragraphs in paragraphs()) {
        let prose = prose_of(&html(&paragraphs));
        let written: Vec<(usize, bool, Piece)> = paragraphs
            .iter()
            .enumerate()
            .flat_map(|(at, sentences)| {
                sentences.iter().flat_map(move |words| {
                    words.iter().enumerate().map(move |(place, piece)| (at, place == 0, *piece))
                })
            })
            .collect();
        prop_assert_eq!(prose.tokens().len(), written.len());
        prop_assert_eq!(prose.blocks().len(), paragraphs.len());
        for (at, (token, (paragraph, is_first, (word, dress)))) in prose.tokens().iter().zip(&written).enumerate() {
            let shown = &prose.text()[token.span().range()];
            prop_assert_eq!(shown, *word);
            let has = |mark: TokenMarks| token.has(mark);
            prop_assert_eq!(has(TokenMarks::EMPHASISED), *dress == Dress::Emphasised);
            prop_assert_eq!(has(TokenMarks::LINKED), *dress == Dress::Linked);
            prop_assert_eq!(has(TokenMarks::LINKABLE), *dress != Dress::Linked);
            let is_code = *dress == Dress::Code;
            prop_assert_eq!(
                (has(TokenMarks::CODE), has(TokenMarks::CODE_STARTS), has(TokenMarks::CODE_ENDS)),
                (is_code, is_code, is_code)
            );
            let is_capital = word.starts_with(char::is_uppercase) && !is_first;
            prop_assert_eq!(has(TokenMarks::CAPITAL), is_capital, "{} in {}", word, prose.text());
            let block = prose.block_of(at).unwrap();
            prop_assert_eq!(block.kind, BlockKind::Paragraph);
            prop_assert_eq!(prose.blocks().iter().position(|known| known.first == block.first), Some(*paragraph));
            // A linked phrase ends with its paragraph, with its sentence, and at what carries a link.
            let starts = *is_first || *dress == Dress::Linked;
            prop_assert!(!(starts && has(TokenMarks::JOINED)), "{}", shown);
        }
        for (block, sentences) in prose.blocks().iter().zip(&paragraphs) {
            let linked = sentences.iter().flatten().filter(|(_, dress)| *dress == Dress::Linked).count();
            prop_assert_eq!(block.linked as usize, linked);
        }
        // The same words have the same numbers, whatever their case, and the bag counts them.
        let counted: u32 = prose.bag().iter().map(|(_, count)| count).sum();
        prop_assert_eq!(counted as usize, written.len());
        for (one, (.., (word, _))) in prose.tokens().iter().zip(&written) {
            for (other, (.., (same, _))) in prose.tokens().iter().zip(&written) {
                prop_assert_eq!(one.term() == other.term(), word == same);
            }
        }
    }
}

#[test]
fn a_piece_of_code_is_one_whole_of_several_words() {
    let prose = prose_of("<p>Call <code>os.path</code> or <code>--mask</code> now.</p>");
    let shown: Vec<_> = prose.tokens().iter().map(|token| &prose.text()[token.span().range()]).collect();
    assert_eq!(shown, ["Call", "os", "path", "or", "--mask", "now"]);
    let marks = |at: usize| {
        let token = prose.tokens()[at];
        (token.has(TokenMarks::CODE_STARTS), token.has(TokenMarks::CODE_ENDS))
    };
    assert_eq!((marks(1), marks(2), marks(4)), ((true, false), (false, true), (true, true)));
}

#[test]
fn a_word_too_long_for_anybody_parts_what_stands_around_it() {
    let of = |letters: usize| prose_of(&format!("<p>Dark sky {} moon rise.</p>", "é".repeat(letters)));
    let joined = |prose: &Prose| prose.tokens().iter().map(|token| token.has(TokenMarks::JOINED)).collect::<Vec<_>>();
    let (known, long) = (of(127), of(128));
    assert_eq!(joined(&known), [false, true, true, true, true]);
    assert_eq!(joined(&long), [false, true, false, true], "it takes 256 bytes");
    let shown: Vec<_> = long.tokens().iter().map(|token| &long.text()[token.span().range()]).collect();
    assert_eq!(shown, ["Dark", "sky", "moon", "rise"]);
}
