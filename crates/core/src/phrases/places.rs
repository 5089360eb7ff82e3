//! Where phrases stand in the prose of a page.

use super::lexicon::TermId;
use super::prose::Prose;
use super::token::TokenMarks;
use super::trie::{PhraseId, Trie};

/// Calls back for each place at which a phrase stands: the phrase, its first token, how many tokens, and whether one of
/// them carries a link.
pub(super) fn each_phrase(trie: &Trie, prose: &Prose, mut visit: impl FnMut(PhraseId, usize, usize, bool)) {
    let tokens = prose.tokens();
    for first in 0..tokens.len() {
        let mut node = Trie::START;
        let mut is_linked = false;
        for (len, token) in (1..).zip(&tokens[first..]) {
            // What is linked is joined in its own way; there the words alone count.
            if len > 1 && !token.has(TokenMarks::JOINED) && !(is_linked && token.has(TokenMarks::LINKED)) {
                break;
            }
            let Some(next) = trie.step(node, token.term()) else { break };
            node = next;
            is_linked |= token.has(TokenMarks::LINKED);
            if let Some(phrase) = trie.phrase(node) {
                visit(phrase, first, len, is_linked);
            }
        }
    }
}

/// Where a phrase stands in a page's prose, and whether it carries a link there.
pub(super) fn places_of(terms: &[TermId], prose: &Prose) -> Vec<(usize, bool)> {
    let tokens = prose.tokens();
    let stands_at = |first: usize| {
        let mut is_linked = false;
        for (at, term) in terms.iter().enumerate() {
            let token = tokens.get(first + at)?;
            if token.term() != *term
                || (at > 0 && !token.has(TokenMarks::JOINED) && !(is_linked && token.has(TokenMarks::LINKED)))
            {
                return None;
            }
            is_linked |= token.has(TokenMarks::LINKED);
        }
        Some((first, is_linked))
    };
    (0..tokens.len()).filter_map(stands_at).collect()
}

/// Whether words may carry a link: a piece of code only as a whole, and a number with dots.
pub(super) fn may_carry(prose: &Prose, first: usize, len: usize) -> bool {
    let tokens = &prose.tokens()[first..first + len];
    let starts = !tokens[0].has(TokenMarks::CODE) || tokens[0].has(TokenMarks::CODE_STARTS);
    let ends = !tokens[len - 1].has(TokenMarks::CODE) || tokens[len - 1].has(TokenMarks::CODE_ENDS);
    starts && ends && tokens.iter().all(|token| token.has(TokenMarks::LINKABLE)) && !cuts_a_number(prose, first, len)
}

/// Whether words begin or end in the midst of a number with dots, as those of “version 3.8” do in “version 3.8.10”. O(1).
fn cuts_a_number(prose: &Prose, first: usize, len: usize) -> bool {
    let words = prose.words(first, first + len);
    let is_digit = |c: char| c.is_ascii_digit();
    let is_inside = |at: usize| {
        prose.text().split_at_checked(at).is_some_and(|(before, after)| {
            let goes_on = after.strip_prefix('.').is_some_and(|after| after.starts_with(is_digit));
            let has_begun = before.strip_suffix('.').is_some_and(|before| before.ends_with(is_digit));
            before.ends_with(is_digit) && goes_on || has_begun && after.starts_with(is_digit)
        })
    };
    is_inside(words.start) || is_inside(words.end)
}
