//! What many titles have in common at their ends: the name of the site, and words that only say a kind.

use std::collections::{BTreeSet, HashMap};

use rustc_hash::FxHashMap;

use super::names::without_number;
use crate::language::fold;
use crate::site::{PageFacts, PageId};

/// What separates a page's title from the name of its site.
const SEPARATORS: [&str; 7] = [" | ", " – ", " — ", " · ", " - ", " :: ", " » "];

/// Counts how titles begin and end, to find out what in them is the name of the site, and what says only what kind of
/// thing they are about.
#[derive(Debug, Default)]
pub(super) struct TitleEnds {
    ends: HashMap<String, u32>,
    /// How many titles begin and end with a word.
    first_words: FxHashMap<String, usize>,
    last_words: FxHashMap<String, usize>,
    /// Pages by the words at the ends of what they may be called: their names are others when such a word comes to say
    /// only a kind.
    called: FxHashMap<String, Vec<PageId>>,
    titles: u32,
}

/// A word with which at least so many titles begin or end says what kind of thing they are about.
const LEAST_OF_A_KIND: usize = 5;

impl TitleEnds {
    /// Takes note of a page's title and heading. Gives the pages whose names it changes: a word became one that only says
    /// a kind. O(words), or O(pages with such a word).
    pub fn add(&mut self, page: &PageFacts) -> Vec<PageId> {
        self.titles += 1;
        let (own, end) = split_end(&page.title).unwrap_or((&page.title, ""));
        if !end.is_empty() {
            *self.ends.entry(end.to_owned()).or_default() += 1;
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
        self.titles = self.titles.saturating_sub(1);
        let (own, end) = split_end(&page.title).unwrap_or((&page.title, ""));
        if let Some(count) = self.ends.get_mut(end) {
            *count = count.saturating_sub(1);
        }
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

    /// The end that more than half of the titles share, once there are at least four.
    pub fn site_name(&self) -> Option<String> {
        let (end, count) = self.ends.iter().max_by_key(|(end, count)| (**count, *end))?;
        (self.titles >= 4 && count * 2 > self.titles).then(|| end.clone())
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

fn split_end(title: &str) -> Option<(&str, &str)> {
    let split = |separator: &&str| title.rfind(*separator).map(|at| (at, separator.len()));
    let (at, len) = SEPARATORS.iter().filter_map(split).max()?;
    Some((title[..at].trim(), title[at + len..].trim()))
}

/// A title without the name of the site.
pub(super) fn own_title<'t>(title: &'t str, site_name: Option<&str>) -> &'t str {
    match (split_end(title), site_name) {
        (Some((own, end)), Some(name)) if end == name && !own.is_empty() => own,
        _ => title.trim(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::Language;
    use crate::site::{Address, PageKind, Standing};

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
}
