//! Whether words that name a page mean it, as far as the words and their place tell.

use rustc_hash::FxHashMap;

use super::mention::{Mention, Naming};
use super::names::{MOST_IDEOGRAPHS, NameSource};
use super::prose::Prose;
use super::token::TokenMarks;
use crate::site::PageId;

/// Whether two forms of a word differ in their last few letters alone.
pub(super) fn is_near(one: &str, other: &str) -> bool {
    let (one_letters, other_letters) = (one.chars().count(), other.chars().count());
    let common = one.chars().zip(other.chars()).take_while(|(a, b)| a == b).count();
    let longest = one_letters.max(other_letters);
    longest - common <= (longest / 3).clamp(2, 3) && one_letters.abs_diff(other_letters) <= (longest / 4).max(2)
}

/// Whether a single word is the name of a page only by the way: as a heading of one of its sections, say, which any word
/// may be. It names the page where it stands out, or where links say so.
pub(super) fn is_ordinary(naming: &Naming) -> bool {
    use NameSource::{Part, Section, Slug, Term, Word};
    naming.anchors == 0 && matches!(naming.source, Some(Section | Term | Slug | Part | Word))
}

/// Whether a word is only one of those of the page's title.
pub(super) fn is_mere_word(naming: &Naming) -> bool {
    naming.anchors == 0 && naming.source == Some(NameSource::Word)
}

/// Whether one link alone says that words mean a page. Where they hold little that tells, as “this page” or “our guide” do,
/// they led there from that very sentence and mean another page in every other.
pub(super) fn is_once_used(naming: &Naming) -> bool {
    naming.source.is_none() && naming.anchors < 2
}

/// Whether a word is written as a name: with a capital, as code, emphasised, or with marks and digits in it.
pub(super) fn stands_out(prose: &Prose, token: usize) -> bool {
    let token = prose.tokens()[token];
    let shown = prose.text().get(token.span().range()).unwrap_or_default();
    [TokenMarks::CAPITAL, TokenMarks::CODE, TokenMarks::EMPHASISED].into_iter().any(|mark| token.has(mark))
        || shown.chars().skip(1).any(|c| c.is_uppercase() || c.is_numeric() || c == '_')
}

/// Without the mentions that are a part of the whole name of the same page, and without words of titles that are a part of
/// any name of several words, which stand at `wholes`, in order: “double” of “double star” means no other page. O(n).
pub(super) fn without_parts(mentions: Vec<Mention>, wholes: &[(usize, usize)]) -> Vec<Mention> {
    let is_whole = |mention: &&Mention| mention.naming.source.is_some_and(NameSource::is_own) && mention.len > 1;
    let mut of_pages: FxHashMap<PageId, Vec<(usize, usize)>> = FxHashMap::default();
    for mention in mentions.iter().filter(is_whole) {
        of_pages.entry(mention.target()).or_default().push((mention.first, mention.end()));
    }
    let is_part = |mention: &Mention| {
        let of_page = of_pages.get(&mention.target()).map_or(&[][..], Vec::as_slice);
        stands_in(mention, of_page) || is_mere_word(&mention.naming) && stands_in(mention, wholes)
    };
    mentions.iter().filter(|mention| !is_part(mention)).copied().collect()
}

/// Whether a mention stands in one of some longer stretches of words, which are in order.
fn stands_in(mention: &Mention, stretches: &[(usize, usize)]) -> bool {
    // Names are short, so what covers a mention begins shortly before it.
    let end = stretches.partition_point(|(first, _)| *first <= mention.first);
    let near = stretches[..end].iter().rev().take(MOST_IDEOGRAPHS);
    near.into_iter().any(|(first, end)| *end >= mention.end() && end - first > mention.len)
}
