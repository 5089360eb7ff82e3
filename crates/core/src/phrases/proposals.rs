//! Phrases that an editor may want to lead to a page.

use super::book::PhraseBook;
use super::mention::Naming;
use super::names::NameSource;
use crate::language::fold;
use crate::site::PageId;

/// A phrase that could lead to a page.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// As it is written where it comes from.
    pub text: String,
    pub source: NameSource,
    /// Pages on which it stands, linked or not.
    pub pages: u32,
    /// The page that it names more than this one.
    pub rival: Option<PageId>,
}

impl PhraseBook {
    /// Phrases that name a page as a whole: those that name no other page more come first, and of these the most telling ones
    /// that stand somewhere. What stands nowhere, and single words that merely may be meant, come in only where there is little
    /// else. O(names of the page × pages with these names).
    pub fn proposals(&self, page: PageId, most: usize) -> Vec<Proposal> {
        let proposal = |name: &super::names::Name| {
            let named = self.named_by(name.phrase);
            let own = named.iter().find(|naming| naming.page == page).map_or(0.0, Naming::weight);
            let first = named.first().filter(|first| first.page != page && first.weight() > own);
            Proposal {
                text: name.text.split_whitespace().collect::<Vec<_>>().join(" "),
                source: name.source,
                pages: self.standing(name.phrase).pages,
                rival: first.map(|first| first.page),
            }
        };
        let names = self.names(page).iter().filter(|name| name.place.is_none() && name.telling > 0);
        let mut all: Vec<_> = names.map(proposal).collect();
        let weak = |one: &Proposal| one.source == NameSource::Word;
        all.sort_by_key(|one| {
            (one.rival.is_some(), weak(one), one.pages == 0, one.source, std::cmp::Reverse(one.pages))
        });
        let mut known = std::collections::HashSet::new();
        all.retain(|one| known.insert(fold(&one.text)));
        all.truncate(most);
        all
    }
}
