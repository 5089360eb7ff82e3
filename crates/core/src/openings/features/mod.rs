//! What is known of a mention that may tell whether an editor would link it, as numbers, in the five parts of a fit.

mod forms;
mod names;

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use self::forms::{folder_likeness, form, shape};
use super::portrait::{Portrait, Portraits};
use super::theme::{Layout, Theme};
use crate::document::BlockKind;
use crate::phrases::{Mention, NameSource, PhraseBook, PhraseId, Prose, TermId, TokenMarks};
use crate::site::{Figures, PageId, Site};

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
}

/// All mentions of a page with what is known of them. `wanted` narrows to targets that are asked for; ranks are among
/// all. O(tokens + mentions × words of the targets).
pub fn judge(site: &Site, book: &PhraseBook, source: PageId, wanted: impl Fn(PageId) -> bool) -> Vec<Judged> {
    judge_with(&Portraits::new(site, book), book, source, wanted)
}

/// The same with what was found out of targets before.
pub(super) fn judge_with<'b>(
    portraits: &Portraits<'b>,
    book: &'b PhraseBook,
    source: PageId,
    wanted: impl Fn(PageId) -> bool,
) -> Vec<Judged> {
    let mentions = book.mentions_by(source);
    let Some(prose) = book.prose(source).filter(|_| !mentions.is_empty()) else { return Vec::new() };
    let mut page = Page::of(portraits, book, source, prose, &mentions);
    let mut seen: FxHashMap<PageId, (u32, bool)> = FxHashMap::default();
    let mut judged = Vec::with_capacity(mentions.len());
    for mention in &mentions {
        let (before, is_wanted) = seen.entry(mention.target()).or_insert_with(|| (0, wanted(mention.target())));
        if *is_wanted {
            judged.push(Judged { mention: *mention, features: page.features(mention, *before) });
        }
        *before += 1;
        page.pass(mention);
    }
    judged
}

/// Where the numbers of the need stand.
pub(super) const NEED: std::ops::Range<usize> = 51..54;

/// Puts in what tells how much a page lacks links: all that hangs on decisions. O(1).
pub fn need_features(book: &PhraseBook, figures: &Figures, target: PageId, into: &mut Features) {
    let depth = figures.depth.map_or(20.0, |depth| depth.min(20) as f32);
    let to_page = book.anchors().to_page(target) as f32;
    into[NEED].copy_from_slice(&[to_page.ln_1p(), depth, (figures.links_in as f32).ln_1p()]);
}

/// How many numbers the wording has, and which of them tell how the words are written where they stand.
const WORDING: usize = 21;
const CAPITAL: usize = 10;
const CODE: usize = 15;

/// How many numbers the place has.
const PLACE: usize = 14;

/// From no name of its own to a title.
const GRADES: usize = 9;

/// What the mentions of one page have in common.
struct Page<'p> {
    book: &'p PhraseBook,
    prose: &'p Prose,
    targets: FxHashMap<PageId, Target<'p>>,
    /// What blocks and targets have to do with each other, by the block's first token.
    blocks: FxHashMap<(u32, PageId), Block>,
    /// How many pages the phrases of the page name.
    named: FxHashMap<PhraseId, f32>,
    best_likeness: f32,
    /// The longest mention that covers a token: its first token and its end.
    covers: Vec<(u32, u32)>,
    links_a_page: f32,
    blocks_with: FxHashMap<PhraseId, u32>,
    /// What the wording tells of words of the page that name a target, wherever they stand.
    wordings: FxHashMap<(PhraseId, PageId, &'p str), [f32; WORDING]>,
}

/// What is known of a target from one page.
#[derive(Default)]
struct Target<'b> {
    portrait: Arc<Portrait<'b>>,
    likeness: f32,
    rank: f32,
    mentions: u32,
    names: u32,
    links_back: bool,
    folder: f32,
    from_folder: f32,
    folder_share: f32,
    through: f32,
    is_listed: bool,
    title_on_page: f32,
    /// The best of its names on the page.
    grade: usize,
    /// How often the words of its names here are links where they stand, at most.
    linked: f32,
    /// Its places so far, by the grades of their names.
    passed: [u32; GRADES],
}

/// What is known of a target from one block.
#[derive(Debug, Clone, Copy, Default)]
struct Block {
    likeness: f32,
    rank: f32,
    /// How much of the target's title stands in the block, weighed by how telling the words are.
    title: f32,
    /// The best of the target's names in the block.
    grade: usize,
}

impl<'p> Page<'p> {
    fn of(
        portraits: &Portraits<'p>,
        book: &'p PhraseBook,
        source: PageId,
        prose: &'p Prose,
        mentions: &[Mention],
    ) -> Self {
        let out = portraits.out_of(source);
        let mut layout = Layout::new(book);
        let own = Theme::of(book, source).unwrap_or_default();
        layout.lay(&own);
        let mut targets: FxHashMap<PageId, Target<'_>> = FxHashMap::default();
        let mut named: FxHashMap<PageId, Vec<PhraseId>> = FxHashMap::default();
        let mut covers = vec![(0, 0); prose.tokens().len()];
        for mention in mentions {
            let target = targets.entry(mention.target()).or_default();
            target.mentions += 1;
            target.grade = target.grade.max(grade(mention));
            let phrases = named.entry(mention.target()).or_default();
            if !phrases.contains(&mention.phrase) {
                target.linked = if phrases.is_empty() {
                    linked(book, mention.phrase)
                } else {
                    target.linked.max(linked(book, mention.phrase))
                };
                phrases.push(mention.phrase);
            }
            for cover in &mut covers[mention.first..mention.end()] {
                if mention.len > (cover.1 - cover.0) as usize {
                    *cover = (number(mention.first), number(mention.end()));
                }
            }
        }
        let next: Vec<_> = out.iter().map(|page| portraits.out_of(*page)).collect();
        for (id, target) in &mut targets {
            let portrait = portraits.of(*id);
            target.names = number(named[id].len());
            target.likeness = portrait.subject.as_ref().map_or(0.0, |subject| layout.likeness(subject));
            target.links_back = portraits.out_of(*id).binary_search(&source).is_ok();
            target.folder = folder_likeness(book, source, *id);
            let from_folder = book.anchors().from_folder_of(source, *id);
            target.from_folder = from_folder as f32 / (portrait.to_page as f32 + 1.0);
            target.folder_share = (from_folder as f32).ln_1p();
            target.through =
                next.iter().filter(|out| out.binary_search(id).is_ok()).count() as f32 / (next.len() as f32 + 2.0);
            target.title_on_page = covered(&portrait.title, |term| prose.has_term(term));
            target.is_listed = out.binary_search(id).is_ok();
            target.portrait = portrait;
        }
        let mut order: Vec<_> = targets.iter().map(|(id, target)| (target.likeness, *id)).collect();
        order.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        let best_likeness = order.first().map_or(0.0, |(likeness, _)| *likeness);
        for (rank, (_, id)) in order.iter().enumerate() {
            if let Some(target) = targets.get_mut(id) {
                target.rank = (rank as f32).ln_1p();
            }
        }
        let blocks = Self::blocks(book, prose, mentions, &targets, &mut layout);
        let mut pages_named: FxHashMap<PhraseId, f32> = FxHashMap::default();
        for mention in mentions {
            let count = || (book.named_by(mention.phrase).len() as f32).ln_1p();
            pages_named.entry(mention.phrase).or_insert_with(count);
        }
        let mut blocks_with: FxHashMap<PhraseId, u32> = FxHashMap::default();
        let mut last: FxHashMap<PhraseId, u32> = FxHashMap::default();
        for mention in mentions {
            let block = prose.block_of(mention.first).map_or(0, |block| block.first + 1);
            if last.insert(mention.phrase, block) != Some(block) {
                *blocks_with.entry(mention.phrase).or_default() += 1;
            }
        }
        let links_a_page = book.anchors().in_prose() as f32 / book.prose_count().max(1) as f32;
        Self {
            book,
            prose,
            targets,
            blocks,
            named: pages_named,
            best_likeness,
            covers,
            links_a_page,
            blocks_with,
            wordings: FxHashMap::default(),
        }
    }

    fn blocks(
        book: &PhraseBook,
        prose: &Prose,
        mentions: &[Mention],
        targets: &FxHashMap<PageId, Target<'_>>,
        layout: &mut Layout<'_>,
    ) -> FxHashMap<(u32, PageId), Block> {
        let mut blocks = FxHashMap::default();
        let mut at = 0;
        while at < mentions.len() {
            let Some(block) = prose.block_of(mentions[at].first) else { break };
            let end = at + mentions[at..].iter().take_while(|mention| mention.first < block.end as usize).count();
            let tokens = &prose.tokens()[block.first as usize..block.end as usize];
            let terms: FxHashSet<TermId> = tokens.iter().map(|token| token.term).collect();
            layout.lay(&Theme::of_tokens(book, tokens));
            let mut here: Vec<(f32, PageId)> = Vec::new();
            let mut known: Vec<PageId> = mentions[at..end].iter().map(Mention::target).collect();
            known.sort_unstable();
            known.dedup();
            for target in known {
                let subject = targets.get(&target).and_then(|target| target.portrait.subject.as_ref());
                let likeness = subject.map_or(0.0, |subject| layout.likeness(subject));
                here.push((likeness, target));
            }
            here.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
            let mut grades: FxHashMap<PageId, usize> = FxHashMap::default();
            for mention in &mentions[at..end] {
                let best = grades.entry(mention.target()).or_default();
                *best = grade(mention).max(*best);
            }
            for (rank, (likeness, target)) in here.into_iter().enumerate() {
                let title = targets
                    .get(&target)
                    .map_or(0.0, |target| covered(&target.portrait.title, |term| terms.contains(&term)));
                let grade = grades.get(&target).copied().unwrap_or_default();
                blocks.insert((block.first, target), Block { likeness, rank: (rank as f32).ln_1p(), title, grade });
            }
            at = end.max(at + 1);
        }
        blocks
    }

    fn features(&mut self, mention: &Mention, before: u32) -> Features {
        let mut all = [0.0; FEATURES];
        let (topic, rest) = all.split_at_mut(16);
        let (wording, rest) = rest.split_at_mut(WORDING);
        let (place, rest) = rest.split_at_mut(PLACE);
        let (need, variety) = rest.split_at_mut(3);
        let shown = self.shown(mention);
        let key = (mention.phrase, mention.target(), shown);
        let Some(target) = self.targets.get(&mention.target()) else { return all };
        self.topic(mention, target, topic);
        match self.wordings.get(&key) {
            Some(known) => wording.copy_from_slice(known),
            None => {
                let found = self.wording(mention, target, shown);
                wording.copy_from_slice(&found);
                self.wordings.insert(key, found);
            }
        }
        let token = self.prose.tokens()[mention.first];
        wording[CAPITAL] = f32::from(u8::from(token.has(TokenMarks::CAPITAL)));
        wording[CODE] = f32::from(u8::from(token.has(TokenMarks::CODE)));
        self.place(mention, target, before, place);
        need.copy_from_slice(&target.portrait.need);
        let share = mention.naming.anchors as f32 / (target.portrait.to_page as f32 + 1.0);
        variety.copy_from_slice(&[self.links_a_page, share]);
        all
    }

    fn shown(&self, mention: &Mention) -> &'p str {
        let tokens = self.prose.tokens();
        let (first, last) = (tokens[mention.first].span(), tokens[mention.end() - 1].span());
        self.prose.text().get(first.start..last.end).unwrap_or_default()
    }

    fn topic(&self, mention: &Mention, target: &Target<'_>, into: &mut [f32]) {
        let block = self.prose.block_of(mention.first).map_or(0, |block| block.first);
        let block = self.blocks.get(&(block, mention.target())).copied().unwrap_or_default();
        into.copy_from_slice(&[
            block.likeness,
            target.likeness,
            target.rank,
            block.rank,
            f32::from(u8::from(target.links_back)),
            target.folder,
            target.from_folder,
            target.through,
            (target.mentions as f32).ln_1p(),
            target.names as f32,
            if self.best_likeness > 0.0 { target.likeness / self.best_likeness } else { 0.0 },
            target.folder_share,
            f32::from(u8::from(target.is_listed)),
            target.title_on_page,
            block.title,
            self.links_a_page,
        ]);
    }

    /// But for how the words are written in this place.
    fn wording(&self, mention: &Mention, target: &Target<'_>, shown: &str) -> [f32; WORDING] {
        let book = self.book;
        let standing = book.standing(mention.phrase);
        let pages = book.prose_count().max(1) as f32;
        let tokens = &self.prose.tokens()[mention.first..mention.end()];
        let linked = linked(book, mention.phrase);
        let frequency = |token: &crate::phrases::Token| book.document_frequency(token.term) as f32 / pages;
        let rarest = tokens.iter().map(frequency).fold(1.0, f32::min);
        let commonest = tokens.iter().map(frequency).fold(0.0, f32::max);
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
            (standing.linked as f32).ln_1p(),
            mention.share as f32,
            (mention.naming.anchors as f32).ln_1p(),
            (pages / standing.pages.max(1) as f32).ln(),
            mention.len as f32,
            shown.chars().count() as f32,
            source,
            self.named.get(&mention.phrase).copied().unwrap_or_default(),
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
            (standing.pages as f32).ln_1p(),
            self.links_a_page,
            linked - target.linked,
        ]
    }

    fn place(&self, mention: &Mention, target: &Target<'_>, before: u32, into: &mut [f32]) {
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
            let (linked, all) = (anchors.after(token.term) as f32, self.book.document_frequency(token.term) as f32);
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
        let of_block = self.blocks.get(&(first, mention.target())).map_or(grade, |block| block.grade);
        let passed: u32 = target.passed[grade..].iter().sum();
        let is_inside = (cover_end - cover_first) as usize > mention.len;
        into.copy_from_slice(&[
            (before as f32).ln_1p(),
            mention.first as f32 / tokens.len().max(1) as f32,
            kind,
            cue,
            f32::from(u8::from(tokens[mention.first].has(TokenMarks::EMPHASISED))),
            f32::from(u8::from(is_inside)),
            linked as f32 / (end - first).max(1) as f32,
            ((end - first) as f32).ln_1p(),
            mark,
            ((mention.first as u32).saturating_sub(first) as f32).ln_1p(),
            (self.blocks_with.get(&mention.phrase).copied().unwrap_or_default() as f32).ln_1p(),
            (passed as f32).ln_1p(),
            target.grade.saturating_sub(grade) as f32,
            of_block.saturating_sub(grade) as f32,
        ]);
    }

    /// Takes note that a mention was gone by.
    fn pass(&mut self, mention: &Mention) {
        if let Some(target) = self.targets.get_mut(&mention.target()) {
            target.passed[grade(mention)] += 1;
        }
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
