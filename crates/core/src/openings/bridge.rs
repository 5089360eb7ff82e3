//! Bridges: where a sentence that carries a link would fit, on a page that has no words for it.

use super::judge::Judge;
use super::policy::Unwanted;
use super::tf_idf::TfIdf;
use crate::document::{BlockKind, TextSpan};
use crate::phrases::TokenMarks;
use crate::site::PageId;

/// Words that are named as a reason.
const MOST_SHARED: usize = 5;

/// A bridge carries nothing where paragraph and target have less than this in common.
const LEAST_LIKENESS: f32 = 0.05;

/// The paragraph after which a sentence about another page would fit best.
#[derive(Debug, Clone, PartialEq)]
pub struct Bridge {
    pub source: PageId,
    pub target: PageId,
    /// The paragraph, in the text of the source page.
    pub after: TextSpan,
    /// 0 to 1: how much the paragraph is about what the target is about.
    pub similarity: f64,
    /// Telling words that both have, as they stand in the paragraph.
    pub shared: Vec<String>,
    /// Links that the paragraph has already.
    pub links: usize,
}

/// Pages that are looked at for one that could carry a bridge; some are linked already.
const LOOKED_AT: usize = 25;

/// Less alike pages do not belong together.
const LEAST_ALIKE: f64 = 0.08;

impl<'m> Judge<'m> {
    /// Bridges to a page, or from it, over pages that are about the same: the likest first, worked out one by one as they are
    /// asked for. Left out are pages that cannot be edited and pairs that are not wanted. O(words of the pages).
    pub fn bridges<U: Unwanted>(
        self,
        page: PageId,
        inbound: bool,
        unwanted: &U,
    ) -> impl Iterator<Item = Bridge> + use<'m, '_, U> {
        let alike = self.alike(page, LOOKED_AT).into_iter().take_while(|(_, likeness)| *likeness >= LEAST_ALIKE);
        alike.filter_map(move |(other, _)| {
            let (source, target) = if inbound { (other, page) } else { (page, other) };
            let is_editable = self.site.page(source).is_some_and(|page| page.editable);
            if !is_editable || unwanted.pair(source, target) {
                return None;
            }
            self.bridge(source, target)
        })
    }

    /// The place for a bridge from one page to another; `None` when nothing on the page is about what the other is
    /// about. O(words of both pages).
    pub fn bridge(self, source: PageId, target: PageId) -> Option<Bridge> {
        let prose = self.book.prose(source)?;
        let vector = TfIdf::of(self.book, target)?;
        let paragraphs = prose.blocks().iter().filter(|block| {
            matches!(block.kind, BlockKind::Paragraph | BlockKind::ListItem | BlockKind::Quote)
                && block.end > block.first
        });
        let mut best: Option<(f32, Bridge)> = None;
        for block in paragraphs {
            let tokens = &prose.tokens()[block.first as usize..block.end as usize];
            let here = TfIdf::of_tokens(self.book, tokens);
            let similarity = here.similarity(&vector);
            let is_linked = |at: usize| tokens[at].has(TokenMarks::LINKED);
            let links = (0..tokens.len()).filter(|at| is_linked(*at) && (*at == 0 || !is_linked(at - 1))).count();
            // A paragraph full of links is a worse place, and a sentence does not go into a list.
            let list = if block.kind == BlockKind::ListItem { 0.7 } else { 1.0 };
            let worth = similarity * list / (1.0 + 0.3 * links as f32);
            if similarity < LEAST_LIKENESS || best.as_ref().is_some_and(|(known, _)| *known >= worth) {
                continue;
            }
            let shared = here.words_shared(&vector, self.book, (source, tokens), MOST_SHARED);
            let bridge =
                Bridge { source, target, after: block.text(), similarity: f64::from(similarity), shared, links };
            best = Some((worth, bridge));
        }
        best.map(|(_, bridge)| bridge)
    }
}
