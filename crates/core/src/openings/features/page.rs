//! What the mentions of one page have in common: the pages that they name, and what these have to do with the page and with
//! its blocks.

use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::forms::folder_nearness;
use super::grade::{GRADES, grade};
use super::shares::{covered, linked};
use crate::logarithms::ln_1p;
use crate::openings::portrait::{Portrait, Portraits};
use crate::openings::tf_idf::{Common, Commons, Layout, TfIdf};
use crate::phrases::{Mention, PhraseBook, PhraseId, Prose, TermId};
use crate::site::PageId;

/// What the mentions of one page have in common.
pub(super) struct Page<'p> {
    pub book: &'p PhraseBook,
    pub prose: &'p Prose,
    pub targets: Vec<Target<'p>>,
    /// What targets and blocks have to do with each other, where a block mentions the target.
    pub pairs: Vec<Pair>,
    /// Of the mentions, in their order.
    pub places: Vec<MentionPlace>,
    pub best_similarity: f32,
    /// The longest mention that covers a token: its first token and its end.
    pub covers: Vec<(u32, u32)>,
    pub links_a_page: f32,
    pub blocks_with: FxHashMap<PhraseId, u32>,
}

/// Where a mention belongs: its target and its pair of target and block, by their numbers on the page.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct MentionPlace {
    pub target: usize,
    pub pair: Option<usize>,
}

/// A page that is mentioned, and by which names.
pub(super) struct Named {
    pub page: PageId,
    pub mentions: u32,
    pub names: Vec<PhraseId>,
    /// The best of them.
    pub grade: usize,
    /// How often the words of its names here are links where they stand, at most.
    pub linked: f32,
}

impl Named {
    fn of(page: PageId) -> Self {
        Self { page, mentions: 0, names: Vec::new(), grade: 0, linked: f32::NEG_INFINITY }
    }

    fn add(&mut self, book: &PhraseBook, mention: &Mention) {
        self.mentions += 1;
        self.grade = self.grade.max(grade(mention));
        if !self.names.contains(&mention.phrase) {
            self.linked = self.linked.max(linked(book, mention.phrase));
            self.names.push(mention.phrase);
        }
    }
}

/// What is known of a target from one page.
pub(super) struct Target<'b> {
    pub named: Named,
    pub portrait: Arc<Portrait<'b>>,
    common: Common,
    pub similarity: f32,
    pub rank: f32,
    pub links_back: bool,
    pub folder: f32,
    pub from_folder: f32,
    pub folder_share: f32,
    pub through: f32,
    pub is_listed: bool,
    pub title_on_page: f32,
    /// Its places so far, by the grades of their names.
    pub passed: [u32; GRADES],
}

/// What is known of a target from one block.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Pair {
    pub similarity: f32,
    pub rank: f32,
    /// How much of the target's title stands in the block, weighed by how telling the words are.
    pub title: f32,
    /// The best of the target's names in the block.
    pub grade: usize,
}

impl<'p> Page<'p> {
    /// Of a page whose places are to be judged. O(mentions).
    pub fn of(
        portraits: &Portraits<'p>,
        book: &'p PhraseBook,
        source: PageId,
        prose: &'p Prose,
        mentions: &[Mention],
    ) -> Self {
        let mut named: Vec<Named> = Vec::new();
        let mut numbers: FxHashMap<PageId, usize> = FxHashMap::default();
        let mut places = Vec::with_capacity(mentions.len());
        let mut covers = vec![(0, 0); prose.tokens().len()];
        for mention in mentions {
            let target = *numbers.entry(mention.target()).or_insert_with(|| {
                named.push(Named::of(mention.target()));
                named.len() - 1
            });
            named[target].add(book, mention);
            places.push(MentionPlace { target, pair: None });
            for cover in &mut covers[mention.first..mention.end()] {
                if mention.len > (cover.1 - cover.0) as usize {
                    *cover = (number(mention.first), number(mention.end()));
                }
            }
        }
        let mut layout = Layout::new(book);
        layout.lay(&TfIdf::of(book, source).unwrap_or_default());
        let mut commons = Commons::default();
        let mut targets = Self::targets(named, portraits, book, (source, prose), (&layout, &mut commons));
        let mut order: Vec<usize> = (0..targets.len()).collect();
        order.sort_by(|a, b| {
            let (a, b) = (&targets[*a], &targets[*b]);
            b.similarity.total_cmp(&a.similarity).then(a.named.page.cmp(&b.named.page))
        });
        let best_similarity = order.first().map_or(0.0, |best| targets[*best].similarity);
        for (rank, at) in order.into_iter().enumerate() {
            targets[at].rank = ln_1p(rank);
        }
        let pairs = Self::pairs(book, prose, mentions, &mut places, &targets, (&mut layout, &commons));
        let mut blocks_with: FxHashMap<PhraseId, u32> = FxHashMap::default();
        let mut last: FxHashMap<PhraseId, u32> = FxHashMap::default();
        for mention in mentions {
            let block = prose.block_of(mention.first).map_or(0, |block| block.first + 1);
            if last.insert(mention.phrase, block) != Some(block) {
                *blocks_with.entry(mention.phrase).or_default() += 1;
            }
        }
        let links_a_page = book.anchors().in_prose() as f32 / book.prose_count().max(1) as f32;
        Self { book, prose, targets, pairs, places, best_similarity, covers, links_a_page, blocks_with }
    }

    /// What the pages that are named are to the page as a whole, whose vector is laid out.
    fn targets(
        named: Vec<Named>,
        portraits: &Portraits<'p>,
        book: &PhraseBook,
        (source, prose): (PageId, &Prose),
        (layout, commons): (&Layout<'_>, &mut Commons),
    ) -> Vec<Target<'p>> {
        let out = portraits.out_of(source);
        let next: Vec<_> = out.iter().map(|page| portraits.out_of(*page)).collect();
        let target = |named: Named| {
            let page = named.page;
            let portrait = portraits.of(page);
            let from_folder = book.anchors().from_folder_of(source, page) as f32;
            let common = portrait.subject.as_ref().map(|subject| layout.common(subject, commons)).unwrap_or_default();
            let through = next.iter().filter(|out| out.binary_search(&page).is_ok()).count();
            Target {
                named,
                similarity: layout.similarity_in(commons, common),
                common,
                rank: 0.0,
                links_back: portraits.out_of(page).binary_search(&source).is_ok(),
                folder: folder_nearness(book, source, page),
                from_folder: from_folder / (portrait.to_page as f32 + 1.0),
                folder_share: from_folder.ln_1p(),
                through: through as f32 / (next.len() as f32 + 2.0),
                is_listed: out.binary_search(&page).is_ok(),
                title_on_page: covered(&portrait.title, |term| prose.has_term(term)),
                passed: [0; GRADES],
                portrait,
            }
        };
        named.into_iter().map(target).collect()
    }

    /// Block by block, what it has to do with the targets that it mentions; tells the mentions which pair they belong to.
    fn pairs(
        book: &PhraseBook,
        prose: &Prose,
        mentions: &[Mention],
        places: &mut [MentionPlace],
        targets: &[Target<'_>],
        (layout, commons): (&mut Layout<'_>, &Commons),
    ) -> Vec<Pair> {
        let mut pairs: Vec<Pair> = Vec::new();
        // The pair of each target with the block that is looked at.
        let mut pair_of: Vec<Option<usize>> = vec![None; targets.len()];
        let mut at = 0;
        while at < mentions.len() {
            let Some(block) = prose.block_of(mentions[at].first) else { break };
            let end = at + mentions[at..].iter().take_while(|mention| mention.first < block.end as usize).count();
            let tokens = &prose.tokens()[block.first as usize..block.end as usize];
            let terms: FxHashSet<TermId> = tokens.iter().map(|token| token.term()).collect();
            layout.lay(&TfIdf::of_tokens(book, tokens));
            let mut here: Vec<(usize, usize)> = Vec::new();
            for (mention, place) in mentions[at..end].iter().zip(&mut places[at..end]) {
                let target = &targets[place.target];
                let pair = *pair_of[place.target].get_or_insert_with(|| {
                    let similarity = layout.similarity_in(commons, target.common);
                    let title = covered(&target.portrait.title, |term| terms.contains(&term));
                    pairs.push(Pair { similarity, title, ..Pair::default() });
                    here.push((place.target, pairs.len() - 1));
                    pairs.len() - 1
                });
                place.pair = Some(pair);
                pairs[pair].grade = pairs[pair].grade.max(grade(mention));
            }
            here.sort_by(|(a, of_a), (b, of_b)| {
                let similarity = |pair: &usize| pairs[*pair].similarity;
                similarity(of_b).total_cmp(&similarity(of_a)).then(targets[*a].named.page.cmp(&targets[*b].named.page))
            });
            for (rank, (target, pair)) in here.into_iter().enumerate() {
                pairs[pair].rank = ln_1p(rank);
                pair_of[target] = None;
            }
            at = end.max(at + 1);
        }
        pairs
    }

    /// The words of a mention, as they are written.
    pub fn shown(&self, mention: &Mention) -> &'p str {
        let span = self.prose.words(mention.first, mention.end());
        self.prose.text().get(span.range()).unwrap_or_default()
    }

    /// Takes note that a mention was gone by.
    pub fn pass(&mut self, at: usize, mention: &Mention) {
        self.targets[self.places[at].target].passed[grade(mention)] += 1;
    }
}

fn number(count: usize) -> u32 {
    u32::try_from(count).unwrap_or(u32::MAX)
}
