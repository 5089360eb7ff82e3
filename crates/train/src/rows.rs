//! Mentions of hidden sites as rows to learn from.

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::document::TextSpan;
use strelm_core::openings::{Features, judge};
use strelm_core::site::PageId;

use crate::hidden::HiddenSite;

#[derive(Debug, Clone)]
pub struct Row {
    pub source: PageId,
    pub target: PageId,
    pub features: Features,
    /// Whether the author linked these very words.
    pub is_link: bool,
    /// Whether the author linked to the target from this page at all.
    pub is_pair: bool,
}

/// All mentions on the pages of which links were hidden. O(what judging costs).
pub fn rows(site: &HiddenSite) -> Vec<Row> {
    let corpus = &site.corpus;
    let of_page = |source: &PageId| -> Vec<Row> {
        let source = *source;
        let is_open = |target| !corpus.book.anchors().is_linked_in_prose(source, target);
        let prose = corpus.book.prose(source);
        judge(&corpus.site, &corpus.book, source, is_open)
            .into_iter()
            .filter_map(|judged| {
                let mention = &judged.mention;
                let tokens = prose?.tokens();
                let words = TextSpan::new(tokens[mention.first].span().start, tokens[mention.end() - 1].span().end);
                let spans = site.hidden.get(&(source, mention.target()));
                let is_link = spans.is_some_and(|spans| spans.iter().any(|span| span.overlaps(words)));
                Some(Row {
                    source,
                    target: mention.target(),
                    features: judged.features,
                    is_link,
                    is_pair: spans.is_some(),
                })
            })
            .collect()
    };
    site.sources.par_iter().flat_map_iter(of_page).collect()
}
