//! The way from words to targets: an editor chose words, and asks where they could lead.

use rustc_hash::{FxHashMap, FxHashSet};

use super::judge::Judge;
use super::opening::Opening;
use super::tf_idf::{Layout, Subject, TfIdf};
use crate::document::TextSpan;
use crate::phrases::{Name, NameSource, TermId, Token};
use crate::site::PageId;

/// Pages that are looked at for one word, at most: those of the rarest words first.
const MOST_PAGES: usize = 3000;

/// Of these, those whose names have most in common with the words are compared with paragraph and page.
const MOST_COMPARED: usize = 800;

/// So many of the most telling words of a paragraph are looked for on other pages.
const MOST_AROUND: usize = 4;

/// What the words, the paragraph and the page say, as shares of the rank.
#[derive(Clone, Copy)]
struct Shares {
    words: f64,
    block: f64,
    page: f64,
}

const OF_CHOSEN_WORDS: Shares = Shares { words: 0.7, block: 0.2, page: 0.1 };

/// A picture is described, not named: what stands beside it tells as much.
const OF_PICTURE: Shares = Shares { words: 0.45, block: 0.35, page: 0.2 };

/// A page to which chosen words could lead.
#[derive(Debug, Clone)]
pub struct Proposal {
    pub target: PageId,
    /// 0 to 1: how well the words and their surroundings go with the page. Only for ordering.
    pub similarity: f64,
    /// The name of the page that has most in common with the words, and where the page has it from.
    pub name: Option<(NameSource, String)>,
    /// Whether that name has all of the words that say something.
    pub has_all: bool,
    /// When the words are a name of the page.
    pub opening: Option<Opening>,
}

impl<'j> Judge<'j> {
    /// Pages to which words of a page could lead, the likeliest first: those that the words name, those whose names have
    /// words in common with them, and those that are about the same as the paragraph. O(words + pages with one of the
    /// words in a name × their names), at most [`MOST_PAGES`] pages.
    pub fn targets_for(self, source: PageId, words: TextSpan, most: usize) -> Vec<Proposal> {
        let Some(prose) = self.book.prose(source) else { return Vec::new() };
        let tokens = prose.tokens();
        let first = tokens.partition_point(|token| token.span().end <= words.start);
        let end = tokens.partition_point(|token| token.span().start < words.end);
        if first >= end {
            return Vec::new();
        }
        let (chosen, block) = (&tokens[first..end], prose.block_of(first));
        let around = block.map_or(chosen, |block| &tokens[block.first as usize..block.end as usize]);
        let text = prose.text().get(chosen[0].span().start..chosen[chosen.len() - 1].span().end).unwrap_or_default();
        let mut wanted = self.book.telling_terms(source, text);
        if wanted.is_empty() {
            wanted = chosen.iter().map(|token| token.term()).collect();
        }
        let mut proposals = self.proposals(source, wanted, around, OF_CHOSEN_WORDS, most);
        let proposed: FxHashSet<PageId> = proposals.iter().map(|proposal| proposal.target).collect();
        let mut places = self.places_for(source, |target| proposed.contains(&target));
        places.retain(|candidate| (candidate.first(), candidate.end()) == (first, end));
        for proposal in &mut proposals {
            let at = places.iter().find(|candidate| candidate.target == proposal.target);
            proposal.opening = at.map(|candidate| self.opening(source, candidate, &self.weigh(source, candidate)));
        }
        proposals
    }

    /// Pages to which a picture could lead that says `says` and stands at text offset `at`, the likeliest first. Its
    /// paragraphs are those before and after it. Cost as [`Judge::targets_for`].
    pub fn targets_for_picture(self, source: PageId, says: &str, at: usize, most: usize) -> Vec<Proposal> {
        let Some(prose) = self.book.prose(source) else { return Vec::new() };
        let tokens = prose.tokens();
        let next = tokens.partition_point(|token| token.span().start < at);
        let first = next.checked_sub(1).and_then(|before| prose.block_of(before)).map_or(next, |b| b.first as usize);
        let end = prose.block_of(next).map_or(next, |block| block.end as usize);
        let around = tokens.get(first..end).unwrap_or_default();
        self.proposals(source, self.book.telling_terms(source, says), around, OF_PICTURE, most)
    }

    fn proposals(
        self,
        source: PageId,
        chosen: Vec<TermId>,
        around: &[Token],
        shares: Shares,
        most: usize,
    ) -> Vec<Proposal> {
        let (mut paragraph, mut page) = (Layout::new(self.book), Layout::new(self.book));
        paragraph.lay(&TfIdf::of_tokens(self.book, around));
        page.lay(&TfIdf::of(self.book, source).unwrap_or_default());
        let wanted = self.weights(chosen);
        let mut named: Vec<(PageId, f64, Option<&Name>)> = self
            .pages_to_weigh(&wanted, around)
            .into_iter()
            .filter(|target| *target != source)
            .map(|target| {
                let (of_words, name) = self.best_name(target, &wanted);
                (target, of_words, name)
            })
            .collect();
        if named.len() > MOST_COMPARED {
            named.select_nth_unstable_by(MOST_COMPARED, |a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
            named.truncate(MOST_COMPARED);
        }
        let mut proposals: Vec<Proposal> = named
            .into_iter()
            .map(|(target, of_words, name)| {
                let subject = Subject::of(self.book, target);
                let like =
                    |layout: &Layout<'_>| subject.as_ref().map_or(0.0, |page| f64::from(layout.similarity(page)));
                let similarity = shares.words * of_words + shares.block * like(&paragraph) + shares.page * like(&page);
                let has_all = name.is_some_and(|name| {
                    let terms = self.book.terms_of(name.phrase);
                    wanted.keys().all(|term| terms.contains(term))
                });
                let name = name.map(|name| (name.source, name.text.to_string()));
                Proposal { target, similarity, name, has_all, opening: None }
            })
            .collect();
        proposals.sort_by(|a, b| b.similarity.total_cmp(&a.similarity).then(a.target.cmp(&b.target)));
        proposals.truncate(most);
        proposals
    }

    /// How telling each of some words is; ordinary words that any sentence has tell next to nothing.
    fn weights(self, terms: impl IntoIterator<Item = TermId>) -> FxHashMap<TermId, f64> {
        let pages = self.book.prose_count() as f64 + 1.0;
        let weight = |term| (pages / (self.book.document_frequency(term) as f64 + 0.5)).ln().max(0.05);
        terms.into_iter().map(|term| (term, weight(term))).collect()
    }

    /// Pages with a name that holds one of the words, those of the most telling words first; and pages in whose text the
    /// most telling words of the paragraph stand.
    fn pages_to_weigh(self, wanted: &FxHashMap<TermId, f64>, around: &[Token]) -> Vec<PageId> {
        let by_weight = |weights: &FxHashMap<TermId, f64>| {
            let mut terms: Vec<_> = weights.iter().map(|(term, weight)| (*term, *weight)).collect();
            terms.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
            terms
        };
        let mut pages = Vec::new();
        for (term, _) in by_weight(wanted) {
            pages.extend(
                self.book.pages_named_with(term).iter().copied().take(MOST_PAGES - pages.len().min(MOST_PAGES)),
            );
        }
        // What stands on this page alone leads nowhere.
        let around = around.iter().map(|token| token.term()).filter(|term| self.book.document_frequency(*term) > 1);
        for (term, _) in by_weight(&self.weights(around)).into_iter().take(MOST_AROUND) {
            pages.extend(self.book.pages_with_term(term).iter().copied().take(MOST_PAGES / 30));
        }
        pages.sort_unstable();
        pages.dedup();
        pages
    }

    /// How much the words and the best name of a page have in common, 0 to 1, and that name.
    fn best_name(self, target: PageId, wanted: &FxHashMap<TermId, f64>) -> (f64, Option<&'j Name>) {
        let pages = self.book.prose_count() as f64 + 1.0;
        let weight = |term: TermId| (pages / (self.book.document_frequency(term) as f64 + 0.5)).ln().max(0.05);
        let all: f64 = wanted.values().sum();
        let mut best: (f64, Option<&Name>) = (0.0, None);
        // A title that has the words says more than each of its words does.
        for name in self.book.names(target).iter().filter(|name| name.source != NameSource::Word) {
            let terms = self.book.terms_of(name.phrase);
            // A word that the name repeats counts once, as it does among those that are wanted.
            let different = terms.iter().enumerate().filter(|(at, term)| !terms[..*at].contains(term));
            let different = different.map(|(_, term)| *term);
            let length: f64 = different.clone().map(weight).sum();
            let shared: f64 = different.filter_map(|term| wanted.get(&term)).sum();
            let own = if name.source.is_own() { 1.0 } else { 0.8 };
            let score = own * shared.min(all) / (all * length).sqrt().max(1e-9);
            if score > best.0 {
                best = (score.min(1.0), Some(name));
            }
        }
        best
    }
}
