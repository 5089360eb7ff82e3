//! What the words tell: how often they are a link, whose name they are, how they are written.

use super::forms::{form, shape};
use super::page::{Page, Target};
use super::position::place_of;
use super::shares::linked;
use crate::language::CommonWords;
use crate::logarithms::ln_1p;
use crate::phrases::{Mention, NameSource, TokenMarks};

pub(super) const NAMES: [&str; 23] = [
    "how often linked where it stands",
    "links with these words",
    "share of the target among what the words name",
    "links with these words to the target",
    "rarity of the words",
    "words",
    "letters",
    "source of the name",
    "pages that the words name",
    "form",
    "capital",
    "shape",
    "rarest word",
    "most common word",
    "part of the title",
    "written as code",
    "places per page",
    "how often the target is linked where it is named",
    "pages with the words beside those that link",
    "links of the site in prose for wording",
    "how often linked beside the target's best words here",
    "how common the least common word is in the language",
    "how telling the words are in the language",
];

/// Numbers of the words wherever they stand on the page, but for how they are written where they stand.
pub(super) type Said = [f32; NAMES.len()];

/// Where some of the numbers stand.
const CAPITAL: usize = place_of(&NAMES, "capital");
const CODE: usize = place_of(&NAMES, "written as code");
const LINKED: usize = place_of(&NAMES, "how often linked where it stands");
const LEAST_COMMON: usize = place_of(&NAMES, "how common the least common word is in the language");

/// How common a word is said to be in a language of which nothing is known, and how common the most common words are.
const NO_LIST: f32 = 4.4;
const MOST_COMMON: f32 = 8.0;

/// From words that are so common on, nothing tells that they mean a page.
const MOST_USED: f32 = 5.5;

/// Words of which one in so many places is a link mean the page.
const NOW_AND_THEN: f32 = 3.0;

/// How sure the words mean the page and not just what they say in everyday language, 0 to 1. Several words do; a
/// single one the less, the more common it is in the language, and half if it is only a part of the page's title or a
/// heading on it, say; but it does where the site makes a link of it now and then.
pub(super) fn sureness(mention: &Mention, wording: &[f32]) -> f32 {
    let is_own = mention.naming.source.is_some_and(NameSource::is_own);
    let by_itself = (MOST_USED - wording[LEAST_COMMON]).clamp(0.0, 1.0) * if is_own { 1.0 } else { 0.5 };
    let by_links = (NOW_AND_THEN * wording[LINKED].exp()).min(1.0);
    if mention.len > 1 { 1.0 } else { by_itself.max(by_links) }
}

/// Whether it is a single word that is common in its language.
pub(super) fn is_everyday(mention: &Mention, wording: &[f32]) -> bool {
    mention.len == 1 && wording[LEAST_COMMON] > CommonWords::EVERYDAY
}

/// Whether words begin with a capital where they stand, and whether they are code.
pub(super) fn written(page: &Page<'_>, mention: &Mention) -> (f32, f32) {
    let token = page.prose.tokens()[mention.first];
    let is = |mark| f32::from(u8::from(token.has(mark)));
    (is(TokenMarks::CAPITAL), is(TokenMarks::CODE))
}

/// Puts in how the words are written where they stand.
pub(super) fn put_written(page: &Page<'_>, mention: &Mention, into: &mut [f32]) {
    (into[CAPITAL], into[CODE]) = written(page, mention);
}

/// In the order of [`NAMES`], but for how the words are written in this place. O(words of the names of the target).
pub(super) fn of(page: &Page<'_>, mention: &Mention, target: &Target<'_>, shown: &str) -> Said {
    let book = page.book;
    let standing = book.standing(mention.phrase);
    let pages = book.prose_count().max(1) as f32;
    let tokens = &page.prose.tokens()[mention.first..mention.end()];
    let linked = linked(book, mention.phrase);
    let frequency = |token: &crate::phrases::Token| book.document_frequency(token.term()) as f32 / pages;
    let rarest = tokens.iter().map(frequency).fold(1.0, f32::min);
    let commonest = tokens.iter().map(frequency).fold(0.0, f32::max);
    let text = |token: &crate::phrases::Token| page.prose.text().get(token.span().range()).unwrap_or_default();
    let common = tokens.iter().map(|token| book.commonness(mention.source, text(token)).unwrap_or(NO_LIST));
    let (least_common, telling) =
        common.fold((MOST_COMMON, 0.0), |(least, sum): (f32, f32), word| (least.min(word), sum + MOST_COMMON - word));
    let source = match mention.naming.source {
        Some(NameSource::Listed | NameSource::Title) => 6.0,
        Some(NameSource::Heading) => 5.0,
        Some(NameSource::Part) => 4.0,
        Some(NameSource::Section) => 3.0,
        Some(NameSource::Term) => 2.0,
        Some(NameSource::Slug) => 1.0,
        Some(NameSource::Telling) => 0.5,
        Some(NameSource::Word) => 0.25,
        None => 0.0,
    };
    [
        linked,
        ln_1p(standing.linked as usize),
        mention.share as f32,
        ln_1p(mention.naming.anchors as usize),
        (pages / standing.pages.max(1) as f32).ln(),
        mention.len as f32,
        shown.chars().count() as f32,
        source,
        ln_1p(mention.named as usize),
        form(book, mention, shown),
        0.0,
        shape(shown),
        rarest.max(1e-6).ln(),
        commonest,
        mention.len as f32 / target.portrait.title_words.max(1) as f32,
        0.0,
        standing.stands as f32 / standing.pages.max(1) as f32,
        (book.anchors().prose_to(mention.target()) as f32 + 0.1).ln() - (target.portrait.named_on as f32 + 1.0).ln(),
        ln_1p(standing.pages as usize),
        page.links_a_page,
        linked - target.named.linked,
        least_common,
        telling,
    ]
}
