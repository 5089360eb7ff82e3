//! Finding openings, in both directions.

use rustc_hash::FxHashSet;

use super::ensemble::Ensemble;
use super::features::{Judged, judge};
use super::fit::{Fit, Part, Wish};
use super::reasons::reasons;
use crate::document::TextSpan;
use crate::language::sentence_around;
use crate::phrases::PhraseBook;
use crate::site::{PageId, Site};

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
    /// Openings whose fit would be smaller without regard to what the target needs are not shown: no find is forced.
    pub least_fit: f64,
    /// Whether words may carry links to several pages, for whoever only looks.
    pub words_twice: bool,
}

impl Default for Limits {
    fn default() -> Self {
        Self { most: 50, most_pages: 1000, least_fit: 2.0, words_twice: false }
    }
}

/// What judges openings, and on what.
#[derive(Debug, Clone, Copy)]
pub struct Judge<'j> {
    pub site: &'j Site,
    pub book: &'j PhraseBook,
    pub ensemble: &'j Ensemble,
    pub wants: Wants,
}

/// Whose choice is foretold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wants {
    /// An author's, who links what comes to mind.
    Author,
    /// An editor's, who is asked, and wants every page to be reached.
    Editor,
}

impl Judge<'_> {
    /// Openings on other pages that would lead to `target`, the fittest first, one for each page.
    ///
    /// Pages whose running text already leads there are left out. `passed` says which pairs the editor has set aside, or
    /// does not want for other reasons. O(words of the pages that mention the target).
    pub fn inbound(self, target: PageId, passed: impl Fn(PageId, PageId) -> bool, limits: Limits) -> Vec<Opening> {
        let sources = self.book.pages_that_may_mention(target, limits.most_pages);
        let mut openings: Vec<_> = sources
            .into_iter()
            .filter(|source| !passed(*source, target) && self.is_open(*source, target))
            .filter_map(|source| {
                let judged = judge(self.site, self.book, source, |page| page == target);
                self.fittest(judged, limits, true).into_iter().next()
            })
            .map(|judged| self.opening(&judged))
            .collect();
        sort(&mut openings);
        openings.truncate(limits.most);
        openings
    }

    /// Openings in the text of `source`, the fittest first: one for each target, and no words twice.
    ///
    /// O(words of `source` and of the pages that it mentions).
    pub fn outbound(self, source: PageId, passed: impl Fn(PageId, PageId) -> bool, limits: Limits) -> Vec<Opening> {
        let is_open = |target| !passed(source, target) && self.is_open(source, target);
        let judged = judge(self.site, self.book, source, is_open);
        let chosen = self.fittest(judged, limits, limits.words_twice);
        chosen.into_iter().take(limits.most).map(|judged| self.opening(&judged)).collect()
    }

    /// Whether neither running text nor the tray leads from one page to the other.
    fn is_open(self, source: PageId, target: PageId) -> bool {
        !self.book.anchors().is_linked_in_prose(source, target) && !self.site.is_planned(source, target)
    }

    /// The fittest mention of each target that is fit enough, the fittest first. Unless words may be used twice, a target
    /// whose best words are taken gets its next best ones. O(n log n).
    fn fittest(self, judged: Vec<Judged>, limits: Limits, words_twice: bool) -> Vec<Judged> {
        let least = (limits.least_fit / (100.0 - limits.least_fit).max(1e-9)).max(1e-9).ln() as f32;
        let odds = judged.into_iter().map(|judged| {
            let wish = self.wish(judged.mention.target());
            let parts = self.ensemble.parts(&judged.features);
            let odds = self.ensemble.bias + parts.iter().sum::<f32>() + wish.log_odds();
            (odds, odds - parts[Part::Need as usize] - wish.need(), judged)
        });
        // A find does not become better because the target lacks links, nor goes from sight when it got one.
        let fit_enough = odds.filter(|(_, without_need, _)| *without_need >= least);
        let mut ranked: Vec<_> = fit_enough.map(|(odds, _, judged)| (odds, judged)).collect();
        ranked.sort_by(|a, b| {
            let place = |judged: &Judged| (judged.mention.target(), judged.mention.first, judged.mention.len);
            b.0.total_cmp(&a.0).then_with(|| place(&a.1).cmp(&place(&b.1)))
        });
        let mut targets: FxHashSet<PageId> = FxHashSet::default();
        let mut used: Vec<(usize, usize)> = Vec::new();
        let mut chosen = Vec::new();
        for (_, judged) in ranked {
            let mention = &judged.mention;
            let is_free =
                words_twice || !used.iter().any(|(first, end)| mention.first < *end && *first < mention.end());
            if is_free && targets.insert(mention.target()) {
                used.push((mention.first, mention.end()));
                chosen.push(judged);
            }
        }
        chosen
    }

    fn wish(self, target: PageId) -> Wish {
        match self.wants {
            Wants::Author => Wish::NONE,
            Wants::Editor => Wish::of_editor(&self.site.figures(target).unwrap_or_default()),
        }
    }

    fn opening(self, judged: &Judged) -> Opening {
        let mention = &judged.mention;
        let (words, sentence) = self.words_of(judged);
        let mut fit = Fit::of(self.ensemble, &judged.features, self.wish(mention.target()));
        for part in &mut fit.parts {
            part.reasons = reasons(self.site, self.book, judged, part.part);
        }
        Opening { source: mention.source, target: mention.target(), words, sentence, fit }
    }

    fn words_of(self, judged: &Judged) -> (TextSpan, TextSpan) {
        let mention = &judged.mention;
        let Some(prose) = self.book.prose(mention.source) else {
            let nowhere = TextSpan::new(0, 0);
            return (nowhere, nowhere);
        };
        let (first, last) = (prose.tokens()[mention.first], prose.tokens()[mention.end() - 1]);
        let words = TextSpan::new(first.span().start, last.span().end);
        let Some((block, _)) = prose.block_around(words) else { return (words, words) };
        let in_block = TextSpan::new(words.start - block.start, words.end - block.start);
        let sentence = prose.text().get(block.range()).map(|text| sentence_around(text, in_block)).unwrap_or(in_block);
        (words, TextSpan::new(block.start + sentence.start, block.start + sentence.end))
    }
}

fn sort(openings: &mut [Opening]) {
    openings.sort_by(|a, b| {
        let order = b.fit.log_odds().total_cmp(&a.fit.log_odds());
        order.then_with(|| (a.source, a.target, a.words).cmp(&(b.source, b.target, b.words)))
    });
}
