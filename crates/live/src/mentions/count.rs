//! Counting the mentions of phrases on all pages that are asked for.

use std::cmp::Reverse;

use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::document::ContentHash;
use strelm_core::mentions::{Part, ProseMention, Searcher};
use strelm_core::site::PageId;

use super::query::{MentionOrder, MentionQuery};
use crate::model::Model;

/// What was found on a site.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MentionsFound {
    /// Of each phrase in its order, whatever of it is told.
    pub phrases: Vec<MentionCount>,
    /// Pages with mentions that are told, and how many those are, in the order that was asked for.
    pub pages: Vec<(PageId, usize)>,
}

/// What is counted of a phrase.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct MentionCount {
    pub mentions: usize,
    pub linked: usize,
    pub pages: usize,
}

/// The mentions of a page that are told.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PageMentions {
    pub page: PageId,
    /// The version of its text in which they stand; `None` when its text is not known yet.
    pub version: Option<ContentHash>,
    pub mentions: Vec<ProseMention>,
}

/// Pages that may hold phrases.
struct Candidates {
    /// Ascending.
    in_text: Vec<PageId>,
    /// What is in no text is looked at on all pages.
    beside_text: bool,
}

impl Candidates {
    fn of(model: &Model, query: &MentionQuery) -> Self {
        let is_asked = |part: &Part| query.parts.contains(part);
        let in_text = Part::IN_PROSE.iter().any(|part| is_asked(part) && *part != Part::Alt);
        Self {
            in_text: if in_text { model.pages_with_phrases(&query.phrases) } else { Vec::new() },
            beside_text: is_asked(&Part::Alt) || is_asked(&Part::Title),
        }
    }

    fn includes(&self, page: PageId) -> bool {
        self.beside_text || self.in_text.binary_search(&page).is_ok()
    }
}

impl Model {
    /// Counts mentions on the pages that are asked for. Pages whose texts are still to be read count for what is known of
    /// them. O(pages + words of the pages that may hold a phrase), on all processors.
    pub fn mentions(&self, query: &MentionQuery) -> MentionsFound {
        let wanted = query.wanted();
        let searcher = wanted.searcher();
        let candidates = Candidates::of(self, query);
        let listed = self.listed(&query.pages);
        let looked: Vec<(PageId, Vec<ProseMention>)> = listed
            .par_iter()
            .filter(|page| candidates.includes(**page))
            .map(|page| (*page, self.mentions_in(&searcher, *page)))
            .filter(|(_, mentions)| !mentions.is_empty())
            .collect();
        let mut found = MentionsFound {
            phrases: vec![MentionCount::default(); query.phrases.len()],
            pages: Vec::with_capacity(looked.len()),
        };
        for (page, mentions) in &looked {
            let mut before = vec![false; query.phrases.len()];
            for mention in mentions {
                let Some(count) = found.phrases.get_mut(mention.phrase) else { continue };
                count.mentions += 1;
                count.linked += usize::from(mention.is_linked);
                count.pages += usize::from(!std::mem::replace(&mut before[mention.phrase], true));
            }
            let told = mentions.iter().filter(|mention| query.tells(mention)).count();
            if told > 0 {
                found.pages.push((*page, told));
            }
        }
        if query.order == MentionOrder::Count {
            found.pages.sort_by_key(|(_, told)| Reverse(*told));
        }
        found
    }

    /// The mentions of some pages that are told. O(words of the pages).
    pub fn mentions_on(&self, query: &MentionQuery, pages: &[PageId]) -> Vec<PageMentions> {
        let wanted = query.wanted();
        let searcher = wanted.searcher();
        let of_page = |page: &PageId| {
            let mut mentions = self.mentions_in(&searcher, *page);
            mentions.retain(|mention| query.tells(mention));
            PageMentions { page: *page, version: self.versions.get(page).copied(), mentions }
        };
        pages.iter().map(of_page).collect()
    }

    fn mentions_in(&self, searcher: &Searcher<'_>, page: PageId) -> Vec<ProseMention> {
        let Some(facts) = self.site.page(page) else { return Vec::new() };
        let mut found = searcher.in_title(self.book.own_title(&facts.title), facts.language);
        if let Some(prose) = self.book.prose(page) {
            found.extend(searcher.in_prose(prose, facts.language));
        }
        found
    }
}
