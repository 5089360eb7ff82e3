//! What many titles have in common at their ends: the name of the site, and words that only say a kind.

use std::collections::{BTreeSet, HashMap};

use rustc_hash::FxHashMap;

use super::names::cut::without_number;
use crate::document::title::{split_beginning, split_end};
use crate::language::fold;
use crate::site::{PageFacts, PageId, PageKind};
use crate::weight::{list, piece, table};

/// Counts how titles begin and end, to find out what in them is the name of the site, and what says only what kind of
/// thing they are about.
#[derive(Debug, Default)]
pub(super) struct TitleEnds {
    ends: Shared,
    /// What stands before the first separator: some sites put their name first.
    beginnings: Shared,
    /// How many titles begin and end with a word.
    first_words: FxHashMap<String, usize>,
    last_words: FxHashMap<String, usize>,
    /// Pages by the words at the ends of what they may be called: their names are others when such a word comes to say
    /// only a kind.
    called: FxHashMap<String, Vec<PageId>>,
    titles: u32,
}

/// What titles share, and which of it more than half of them have.
#[derive(Debug, Default)]
struct Shared {
    counts: HashMap<String, u32>,
    /// Of more than half of the titles when it was last looked at.
    leader: Option<String>,
}

impl Shared {
    /// `titles` is the number of all. O(1).
    fn add(&mut self, part: &str, titles: u32) {
        let count = self.counts.entry(part.to_owned()).or_default();
        *count += 1;
        // No other can have got more than half.
        if *count * 2 > titles {
            self.leader = Some(part.to_owned());
        }
    }

    /// O(1) as long as one has more than half; else O(parts), for with fewer titles another may.
    fn remove(&mut self, part: Option<&str>, titles: u32) {
        if let Some(count) = part.and_then(|part| self.counts.get_mut(part)) {
            *count = count.saturating_sub(1);
        }
        if self.most(titles).is_none() {
            let leader = self.counts.iter().find(|(_, count)| **count * 2 > titles);
            self.leader = leader.map(|(part, _)| part.clone());
        }
    }

    /// What more than half of the titles share, once there are at least four.
    fn most(&self, titles: u32) -> Option<&str> {
        let leader = self.leader.as_deref()?;
        let count = self.counts.get(leader).copied().unwrap_or_default();
        (titles >= 4 && count * 2 > titles).then_some(leader)
    }
}

/// A word with which at least so many titles begin or end says what kind of thing they are about.
const LEAST_OF_A_KIND: usize = 5;

impl TitleEnds {
    /// Takes note of a page's title and heading. Gives the pages whose names it changes: a word became one that only says
    /// a kind. O(words), or O(pages with such a word).
    pub fn add(&mut self, page: &PageFacts) -> Vec<PageId> {
        // Files have no titles, only names.
        if page.kind == PageKind::File {
            return Vec::new();
        }
        self.titles += 1;
        let (own, end) = split_end(&page.title).unwrap_or((&page.title, ""));
        if !end.is_empty() {
            self.ends.add(end, self.titles);
        }
        if let Some((beginning, _)) = split_beginning(&page.title) {
            self.beginnings.add(beginning, self.titles);
        }
        for word in words_at_ends(page) {
            self.called.entry(word).or_default().push(page.id);
        }
        let (first, last) = ends_of(own);
        let mut changed = Vec::new();
        for (words, word) in [(&mut self.first_words, first), (&mut self.last_words, last)] {
            let count = words.entry(word.clone()).or_default();
            *count += 1;
            if *count == LEAST_OF_A_KIND {
                changed.extend(self.called.get(&word).into_iter().flatten().copied());
            }
        }
        changed
    }

    /// Forgets what [`TitleEnds::add`] took note of. Gives the pages whose names that changes.
    pub fn remove(&mut self, page: &PageFacts) -> Vec<PageId> {
        if page.kind == PageKind::File {
            return Vec::new();
        }
        self.titles = self.titles.saturating_sub(1);
        let (own, end) = split_end(&page.title).unwrap_or((&page.title, ""));
        self.ends.remove(Some(end), self.titles);
        self.beginnings.remove(split_beginning(&page.title).map(|(beginning, _)| beginning), self.titles);
        for word in words_at_ends(page) {
            if let Some(pages) = self.called.get_mut(&word) {
                pages.retain(|other| *other != page.id);
            }
        }
        let (first, last) = ends_of(own);
        let mut changed = Vec::new();
        for (words, word) in [(&mut self.first_words, first), (&mut self.last_words, last)] {
            if let Some(count) = words.get_mut(&word) {
                *count = count.saturating_sub(1);
                if *count + 1 == LEAST_OF_A_KIND {
                    changed.extend(self.called.get(&word).into_iter().flatten().copied());
                }
            }
        }
        changed
    }

    /// A title without a first or last word that says only what kind of thing it is about, such as “function”.
    pub fn without_kind<'t>(&self, title: &'t str) -> Option<&'t str> {
        let is_kind = |titles: &FxHashMap<String, usize>, word: &str| {
            titles.get(&fold(word)).is_some_and(|titles| *titles >= LEAST_OF_A_KIND)
        };
        let (first, after) = title.split_once(char::is_whitespace)?;
        let (before, last) = title.rsplit_once(char::is_whitespace)?;
        if is_kind(&self.last_words, last) {
            return Some(before);
        }
        is_kind(&self.first_words, first).then_some(after)
    }

    /// Bytes on the heap. O(words).
    pub fn weight(&self) -> usize {
        let words = self.first_words.keys().chain(self.last_words.keys()).chain(self.called.keys());
        table(&self.first_words)
            + table(&self.last_words)
            + table(&self.called)
            + words.map(|word| piece(word.len())).sum::<usize>()
            + self.called.values().map(|pages| list::<PageId>(pages.capacity())).sum::<usize>()
    }

    /// The end, or else the beginning, that more than half of the titles share, once there are at least four.
    pub fn site_name(&self) -> Option<String> {
        self.ends.most(self.titles).or_else(|| self.beginnings.most(self.titles)).map(str::to_owned)
    }
}

fn ends_of(title: &str) -> (String, String) {
    let mut words = title.split_whitespace();
    let first = words.next().map(fold).unwrap_or_default();
    let last = words.next_back().map(fold).unwrap_or_default();
    (first, last)
}

/// The first and last words of what a page may be called, with the name of the site or without, each once.
fn words_at_ends(page: &PageFacts) -> BTreeSet<String> {
    let own = split_end(&page.title).map(|(own, _)| own);
    let texts = [Some(page.title.as_str()), own, page.heading.as_deref()];
    texts
        .into_iter()
        .flatten()
        .map(|text| ends_of(without_number(text)))
        .flat_map(|(first, last)| [first, last])
        .collect()
}

/// A title without the name of the site.
pub(super) fn own_title<'t>(title: &'t str, site_name: Option<&str>) -> &'t str {
    let is_name = |part: &str| site_name == Some(part);
    match (split_end(title), split_beginning(title)) {
        (Some((own, end)), _) if is_name(end) && !own.is_empty() => own,
        (_, Some((beginning, own))) if is_name(beginning) && !own.is_empty() => own,
        _ => title.trim(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::Language;
    use crate::site::{Address, Standing};

    fn page(number: u32, title: &str) -> PageFacts {
        PageFacts {
            id: PageId(number),
            address: Address::parse("https://site.example/").unwrap(),
            kind: PageKind::Page,
            title: title.to_owned(),
            heading: None,
            category: None,
            words: 0,
            language: Language::English,
            editable: true,
            standing: Standing::default(),
        }
    }

    #[test]
    fn the_name_of_the_site_is_no_part_of_a_page_s_name() {
        let mut ends = TitleEnds::default();
        let titles = ["Moon | Sky Club", "Sun – and its spots | Sky Club", "Stars | Sky Club", "About us"];
        for (number, title) in (1..).zip(titles) {
            assert_eq!(ends.add(&page(number, title)), []);
        }
        let site = ends.site_name();
        assert_eq!(site.as_deref(), Some("Sky Club"));
        assert_eq!(own_title("Sun – and its spots | Sky Club", site.as_deref()), "Sun – and its spots");
        assert_eq!(own_title("About us", site.as_deref()), "About us");
    }

    #[test]
    fn a_name_that_comes_first_is_the_site_s_too() {
        let mut ends = TitleEnds::default();
        let titles =
            ["Sky manual - moon(8)", "Sky manual - sun(5)", "Sky manual - map(1)", "Sky manual - star(1)", "About"];
        let pages: Vec<_> = (1..).zip(titles).map(|(number, title)| page(number, title)).collect();
        for page in &pages {
            ends.add(page);
        }
        let site = ends.site_name();
        assert_eq!(site.as_deref(), Some("Sky manual"));
        let own: Vec<_> = titles.iter().map(|title| own_title(title, site.as_deref())).collect();
        assert_eq!(own, ["moon(8)", "sun(5)", "map(1)", "star(1)", "About"]);
        pages.iter().take(2).for_each(|page| drop(ends.remove(page)));
        assert_eq!(ends.site_name(), None, "too few to tell");
    }
}
