//! Finding openings, in both directions.

use std::collections::{HashMap, HashSet};

use super::fit::{self, Fit, Theme};
use crate::document::TextSpan;
use crate::language::sentence_around;
use crate::phrases::{Mention, PhraseBook};
use crate::site::{PageId, Site};

/// Openings of a smaller fit are not shown: no find is forced.
const WEAKEST_SHOWN: f64 = 45.0;

/// A place in a page's text where a link to another page would fit.
#[derive(Debug, Clone)]
pub struct Opening {
    pub source: PageId,
    pub target: PageId,
    /// In the text layer of the source page's document.
    pub words: TextSpan,
    /// The sentence around the words, in the same text.
    pub sentence: TextSpan,
    pub fit: Fit,
}

#[derive(Debug, Clone, Copy)]
pub struct Limits {
    /// Openings to return, the best first.
    pub most: usize,
    /// Pages to read for each name of a target.
    pub most_pages: usize,
}

impl Default for Limits {
    fn default() -> Self {
        Self { most: 50, most_pages: 1000 }
    }
}

/// Openings on other pages that would lead to `target`, the fittest first, one for each page.
///
/// Pages whose text already leads there are left out. `passed` says which pairs the editor has set aside.
/// O(words of the pages that mention the target).
pub fn inbound(
    site: &Site,
    book: &PhraseBook,
    target: PageId,
    passed: impl Fn(PageId, PageId) -> bool,
    limits: Limits,
) -> Vec<Opening> {
    let mentions = book.mentions_of(target, limits.most_pages);
    let mut openings = judge(site, book, mentions, passed);
    openings.truncate(limits.most);
    openings
}

/// Openings in the text of `source`, the fittest first: one for each target, and no words twice.
///
/// O(words of `source` and of the pages that it mentions).
pub fn outbound(
    site: &Site,
    book: &PhraseBook,
    source: PageId,
    passed: impl Fn(PageId, PageId) -> bool,
    limits: Limits,
) -> Vec<Opening> {
    let mentions = book.mentions_by(source);
    let mut used: Vec<TextSpan> = Vec::new();
    let mut openings = judge(site, book, mentions, passed);
    openings.retain(|opening| {
        let free = !used.iter().any(|words| words.overlaps(opening.words));
        if free {
            used.push(opening.words);
        }
        free
    });
    openings.truncate(limits.most);
    openings
}

/// The best opening of each pair of pages, the fittest first.
fn judge(
    site: &Site,
    book: &PhraseBook,
    mentions: Vec<Mention>,
    passed: impl Fn(PageId, PageId) -> bool,
) -> Vec<Opening> {
    let mut themes: HashMap<PageId, Option<Theme>> = HashMap::new();
    let mut named: HashSet<(PageId, PageId)> = HashSet::new();
    let mut open: HashMap<(PageId, PageId), bool> = HashMap::new();
    let mut best: HashMap<(PageId, PageId), Opening> = HashMap::new();
    for mention in mentions {
        let pair = (mention.source, mention.target);
        let first = named.insert(pair);
        let is_open = *open.entry(pair).or_insert_with(|| !passed(pair.0, pair.1) && !site.leads_to(pair.0, pair.1));
        if !is_open {
            continue;
        }
        for page in [mention.source, mention.target] {
            themes.entry(page).or_insert_with(|| Theme::of(book, page));
        }
        let Some(opening) = weigh(site, book, &themes, &mention, first) else { continue };
        let better = best.get(&pair).is_none_or(|known| opening.fit.total() > known.fit.total());
        if better {
            best.insert(pair, opening);
        }
    }
    let mut openings: Vec<_> = best.into_values().filter(|opening| opening.fit.total() >= WEAKEST_SHOWN).collect();
    openings.sort_by(|a, b| {
        let order = b.fit.total().total_cmp(&a.fit.total());
        order.then_with(|| (a.source, a.target, a.words).cmp(&(b.source, b.target, b.words)))
    });
    openings
}

fn weigh(
    site: &Site,
    book: &PhraseBook,
    themes: &HashMap<PageId, Option<Theme>>,
    mention: &Mention,
    first: bool,
) -> Option<Opening> {
    let prose = book.prose(mention.source)?;
    let figures = site.figures(mention.target)?;
    let theme = |page| themes.get(&page).and_then(Option::as_ref);
    let parts = vec![
        fit::topic(theme(mention.source), theme(mention.target)),
        fit::wording(book, prose, mention),
        fit::place(prose, mention, first),
        fit::need(&figures),
        fit::variety(book, mention),
    ];
    let (block, _) = prose.block_around(mention.words)?;
    let in_block = TextSpan::new(mention.words.start - block.start, mention.words.end - block.start);
    let sentence = sentence_around(prose.text().get(block.range())?, in_block);
    Some(Opening {
        source: mention.source,
        target: mention.target,
        words: mention.words,
        sentence: TextSpan::new(block.start + sentence.start, block.start + sentence.end),
        fit: Fit { parts },
    })
}
