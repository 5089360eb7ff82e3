//! What is known of a mention that may tell whether an editor would link it, as numbers, in the five parts of a fit.

mod answers;
mod forms;
mod names;
mod page;

use std::ops::Range as Span;

use self::forms::{form, shape};
use self::page::{Page, Pair, Place, Target};
use super::fit::Part;
use super::portrait::Portraits;
use crate::document::BlockKind;
use crate::language::CommonWords;
use crate::logarithms::ln_1p;
use crate::phrases::{Mention, NameSource, PhraseBook, PhraseId, TermId, TokenMarks};
use crate::site::{Figures, PageId, Site};

pub(super) use self::answers::{Answer, answers};
pub(super) use self::forms::has_form_of;
pub use self::names::{FEATURES, NAMES};

pub type Features = [f32; FEATURES];

/// A mention with what is known of it.
#[derive(Debug, Clone)]
pub struct Judged {
    pub mention: Mention,
    pub features: Features,
}

impl Judged {
    /// The feature of this name, or 0 when there is none.
    pub fn of(&self, name: &str) -> f32 {
        NAMES.iter().position(|(known, _)| *known == name).map_or(0.0, |at| self.features[at])
    }

    /// See [`sureness`].
    pub fn sureness(&self) -> f32 {
        sureness(&self.mention, &self.features[WORDING])
    }

    /// Whether it is a single word that is common in its language.
    pub fn is_everyday(&self) -> bool {
        self.mention.len == 1 && self.features[WORDING][LEAST_COMMON] > CommonWords::EVERYDAY
    }
}

/// How sure the words mean the page and not just what they say in everyday language, 0 to 1. Several words do; a
/// single one the less, the more common it is in the language, and half if it is only a part of the page's title or a
/// heading on it, say; but it does where the site makes a link of it now and then.
fn sureness(mention: &Mention, wording: &[f32]) -> f32 {
    let is_own = mention.naming.source.is_some_and(NameSource::is_own);
    let by_itself = (MOST_USED - wording[LEAST_COMMON]).clamp(0.0, 1.0) * if is_own { 1.0 } else { 0.5 };
    let by_links = (NOW_AND_THEN * wording[LINKED].exp()).min(1.0);
    if mention.len > 1 { 1.0 } else { by_itself.max(by_links) }
}

/// All mentions of a page with what is known of them. `wanted` narrows to targets that are asked for; ranks are among
/// all. O(tokens + mentions × words of the targets).
pub fn judge(site: &Site, book: &PhraseBook, source: PageId, wanted: impl Fn(PageId) -> bool) -> Vec<Judged> {
    judge_some(site, book, source, wanted, |_| true)
}

/// The same of some of the mentions only.
pub(super) fn judge_some(
    site: &Site,
    book: &PhraseBook,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
    is_drawn: impl Fn(&Mention) -> bool,
) -> Vec<Judged> {
    let mut judged = Vec::new();
    each_mention(&Portraits::new(site, book), book, source, wanted, |page, at, mention| {
        if is_drawn(mention) {
            judged.push(Judged { mention: *mention, features: page.features(at, mention) });
        }
    });
    judged
}

/// Goes through the mentions of a page that lead to a wanted target, in order; `look` is told the number of each among all.
fn each_mention<'b>(
    portraits: &Portraits<'b>,
    book: &'b PhraseBook,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
    mut look: impl FnMut(&mut Page<'b>, usize, &Mention),
) {
    let mentions = book.mentions_by(source);
    let Some(prose) = book.prose(source).filter(|_| !mentions.is_empty()) else { return };
    let mut page = Page::of(portraits, book, source, prose, &mentions);
    let is_wanted: Vec<bool> = page.targets.iter().map(|target| wanted(target.named.page)).collect();
    for (at, mention) in mentions.iter().enumerate() {
        if is_wanted[page.places[at].target] {
            look(&mut page, at, mention);
        }
        page.pass(at, mention);
    }
}

/// Where the numbers of the parts stand.
const TOPIC: Span<usize> = 0..16;
const WORDING: Span<usize> = 16..39;
const PLACE: Span<usize> = 39..53;
pub(super) const NEED: Span<usize> = 53..56;
const VARIETY: Span<usize> = 56..FEATURES;

impl Part {
    /// Where its numbers stand, which stand together.
    pub(super) const fn features(self) -> Span<usize> {
        match self {
            Self::Topic => TOPIC,
            Self::Wording => WORDING,
            Self::Place => PLACE,
            Self::Need => NEED,
            Self::Variety => VARIETY,
        }
    }
}

/// What the wording tells of words, but for how they are written where they stand.
type Said = [f32; WORDING.end - WORDING.start];

/// Puts in what tells how much a page lacks links: all that hangs on decisions. O(1).
pub fn need_features(book: &PhraseBook, figures: &Figures, target: PageId, into: &mut Features) {
    let depth = figures.depth.map_or(20.0, |depth| depth.min(20) as f32);
    let to_page = book.anchors().to_page(target) as f32;
    into[NEED].copy_from_slice(&[to_page.ln_1p(), depth, (figures.links_in as f32).ln_1p()]);
}

/// Of the numbers of the wording, those that tell how the words are written where they stand, how often they are a link,
/// and how common the least common of them is.
const CAPITAL: usize = 10;
const CODE: usize = 15;
const LINKED: usize = 0;
const LEAST_COMMON: usize = 21;

/// How common a word is said to be in a language of which nothing is known, and how common the most common words are.
const NO_LIST: f32 = 4.4;
const MOST_COMMON: f32 = 8.0;

/// From words that are so common on, nothing tells that they mean a page.
const MOST_USED: f32 = 5.5;

/// Words of which one in so many places is a link mean the page.
const NOW_AND_THEN: f32 = 3.0;

/// From no name of its own to a title.
const GRADES: usize = 9;

/// Which numbers a mention has in common with others of its page: to a part, mentions with the same one are the same.
#[derive(Debug, Clone, Copy)]
struct Shared {
    target: usize,
    /// `None` where no block is known.
    pair: Option<usize>,
    wording: usize,
}

impl<'p> Page<'p> {
    /// `at` is the number of the mention among those of the page.
    fn features(&mut self, at: usize, mention: &Mention) -> Features {
        let shared = self.shared(at, mention);
        let mut all = [0.0; FEATURES];
        Part::ALL.into_iter().for_each(|part| self.put(part, shared, mention, &mut all));
        all
    }

    fn shared(&mut self, at: usize, mention: &Mention) -> Shared {
        let Place { target, pair } = self.places[at];
        let shown = self.shown(mention);
        let key = (mention.phrase, target, shown);
        let wording = match self.wordings.get(&key) {
            Some(known) => *known,
            None => {
                self.said.push(self.wording(mention, &self.targets[target], shown));
                self.wordings.insert(key, self.said.len() - 1);
                self.said.len() - 1
            }
        };
        Shared { target, pair, wording }
    }

    /// Puts in the numbers of a part.
    fn put(&self, part: Part, shared: Shared, mention: &Mention, into: &mut Features) {
        let target = &self.targets[shared.target];
        let pair = || shared.pair.map(|pair| self.pairs[pair]).unwrap_or_default();
        let into = &mut into[part.features()];
        match part {
            Part::Topic => into.copy_from_slice(&self.topic(target, pair())),
            Part::Wording => {
                into.copy_from_slice(&self.said[shared.wording]);
                (into[CAPITAL], into[CODE]) = self.written(mention);
            }
            Part::Place => into.copy_from_slice(&self.place(mention, target, pair())),
            Part::Need => into.copy_from_slice(&target.portrait.need),
            Part::Variety => {
                let share = mention.naming.anchors as f32 / (target.portrait.to_page as f32 + 1.0);
                into.copy_from_slice(&[self.links_a_page, share]);
            }
        }
    }

    /// Whether words begin with a capital where they stand, and whether they are code.
    fn written(&self, mention: &Mention) -> (f32, f32) {
        let token = self.prose.tokens()[mention.first];
        let is = |mark| f32::from(u8::from(token.has(mark)));
        (is(TokenMarks::CAPITAL), is(TokenMarks::CODE))
    }

    fn shown(&self, mention: &Mention) -> &'p str {
        let tokens = self.prose.tokens();
        let (first, last) = (tokens[mention.first].span(), tokens[mention.end() - 1].span());
        self.prose.text().get(first.start..last.end).unwrap_or_default()
    }

    fn topic(&self, target: &Target<'_>, pair: Pair) -> [f32; TOPIC.end - TOPIC.start] {
        [
            pair.likeness,
            target.likeness,
            target.rank,
            pair.rank,
            f32::from(u8::from(target.links_back)),
            target.folder,
            target.from_folder,
            target.through,
            ln_1p(target.named.mentions as usize),
            target.named.names.len() as f32,
            if self.best_likeness > 0.0 { target.likeness / self.best_likeness } else { 0.0 },
            target.folder_share,
            f32::from(u8::from(target.is_listed)),
            target.title_on_page,
            pair.title,
            self.links_a_page,
        ]
    }

    /// But for how the words are written in this place.
    fn wording(&self, mention: &Mention, target: &Target<'_>, shown: &str) -> Said {
        let book = self.book;
        let standing = book.standing(mention.phrase);
        let pages = book.prose_count().max(1) as f32;
        let tokens = &self.prose.tokens()[mention.first..mention.end()];
        let linked = linked(book, mention.phrase);
        let frequency = |token: &crate::phrases::Token| book.document_frequency(token.term()) as f32 / pages;
        let rarest = tokens.iter().map(frequency).fold(1.0, f32::min);
        let commonest = tokens.iter().map(frequency).fold(0.0, f32::max);
        let text = |token: &crate::phrases::Token| self.prose.text().get(token.span().range()).unwrap_or_default();
        let common = tokens.iter().map(|token| book.commonness(mention.source, text(token)).unwrap_or(NO_LIST));
        let (least_common, telling) = common
            .fold((MOST_COMMON, 0.0), |(least, sum): (f32, f32), word| (least.min(word), sum + MOST_COMMON - word));
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
            (book.anchors().prose_to(mention.target()) as f32 + 0.1).ln()
                - (target.portrait.named_on as f32 + 1.0).ln(),
            ln_1p(standing.pages as usize),
            self.links_a_page,
            linked - target.named.linked,
            least_common,
            telling,
        ]
    }

    fn place(&self, mention: &Mention, target: &Target<'_>, pair: Pair) -> [f32; PLACE.end - PLACE.start] {
        let tokens = self.prose.tokens();
        let block = self.prose.block_of(mention.first);
        let (first, end, linked) = block.map_or((0, 1, 0), |block| (block.first, block.end, block.linked));
        let kind = match block.map(|block| block.kind) {
            Some(BlockKind::Paragraph) => 4.0,
            Some(BlockKind::ListItem) => 3.0,
            Some(BlockKind::Quote) => 2.0,
            Some(BlockKind::Cell) => 1.0,
            _ => 0.0,
        };
        let after = tokens.get(mention.first.wrapping_sub(1)).filter(|_| mention.first > first as usize);
        let anchors = self.book.anchors();
        let cue = after.map_or(0.0, |token| {
            let (linked, all) = (anchors.after(token.term()) as f32, self.book.document_frequency(token.term()) as f32);
            ((linked + 0.2) / (linked + all + 10.0)).ln()
        });
        let span = tokens[mention.first].span();
        let mark = match self.prose.text().get(..span.start).and_then(|text| text.chars().next_back()) {
            Some('(' | '[') => 1.0,
            Some('"' | '\'' | '“' | '‘' | '«' | '„') => 2.0,
            Some(c) if !c.is_whitespace() => 3.0,
            _ => 0.0,
        };
        let (cover_first, cover_end) = self.covers[mention.first];
        let grade = grade(mention);
        let before: u32 = target.passed.iter().sum();
        let passed: u32 = target.passed[grade..].iter().sum();
        let is_inside = (cover_end - cover_first) as usize > mention.len;
        [
            ln_1p(before as usize),
            mention.first as f32 / tokens.len().max(1) as f32,
            kind,
            cue,
            f32::from(u8::from(tokens[mention.first].has(TokenMarks::EMPHASISED))),
            f32::from(u8::from(is_inside)),
            linked as f32 / (end - first).max(1) as f32,
            ln_1p((end - first) as usize),
            mark,
            ln_1p(mention.first.saturating_sub(first as usize)),
            ln_1p(self.blocks_with.get(&mention.phrase).copied().unwrap_or_default() as usize),
            ln_1p(passed as usize),
            target.named.grade.saturating_sub(grade) as f32,
            pair.grade.saturating_sub(grade) as f32,
        ]
    }

    /// Takes note that a mention was gone by.
    fn pass(&mut self, at: usize, mention: &Mention) {
        self.targets[self.places[at].target].passed[grade(mention)] += 1;
    }
}

/// How good a name the words of a mention are, from 0 to 8: those of a link to the target stand between its headings and
/// parts of its title.
const fn grade(mention: &Mention) -> usize {
    let own = match mention.naming.source {
        Some(NameSource::Listed | NameSource::Title) => 8,
        Some(NameSource::Heading) => 7,
        Some(NameSource::Part) => 6,
        Some(NameSource::Section) => 4,
        Some(NameSource::Term) => 3,
        Some(NameSource::Slug) => 2,
        Some(NameSource::Telling | NameSource::Word) => 1,
        None => 0,
    };
    if mention.naming.anchors > 0 && own < 5 { 5 } else { own }
}

/// How often words are a link where they stand, as a logarithm.
fn linked(book: &PhraseBook, phrase: PhraseId) -> f32 {
    let standing = book.standing(phrase);
    ((standing.linked as f32 + 0.1) / (standing.linked as f32 + standing.stands as f32 + 1.0)).ln()
}

/// The share of weighed terms that are there.
fn covered(terms: &[(TermId, f32)], is_there: impl Fn(TermId) -> bool) -> f32 {
    let all: f32 = terms.iter().map(|(_, weight)| weight).sum();
    let there: f32 = terms.iter().filter(|(term, _)| is_there(*term)).map(|(_, weight)| weight).sum();
    if all > 0.0 { there / all } else { 0.0 }
}

fn number(count: usize) -> u32 {
    u32::try_from(count).unwrap_or(u32::MAX)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_that_are_asked_for_by_place_stand_there() {
        assert_eq!(NAMES[WORDING][LINKED].0, "how often linked where it stands");
        assert_eq!(NAMES[WORDING][LEAST_COMMON].0, "how common the least common word is in the language");
        assert_eq!(NAMES[WORDING][CAPITAL].0, "capital");
        assert_eq!(NAMES[WORDING][CODE].0, "written as code");
        for part in Part::ALL {
            let numbers: Vec<usize> = (0..FEATURES).filter(|at| NAMES[*at].1 == part).collect();
            assert_eq!(numbers, part.features().collect::<Vec<_>>());
        }
        assert!(NAMES.is_sorted_by_key(|(_, part)| *part), "parts stand together");
    }
}
