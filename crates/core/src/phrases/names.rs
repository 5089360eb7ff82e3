//! The names of a page: its title without the site's name, and its main heading.

use std::collections::HashMap;

use super::lexicon::{Lexicon, TermId};
use crate::language::{Stemmer, fold, is_stop_word, words};
use crate::site::PageFacts;

/// Longer names are sentences, and sentences are not repeated word by word elsewhere.
const MOST_WORDS: usize = 8;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum NameSource {
    Title,
    Heading,
    /// A phrase by which whoever owns the page wants it to be found.
    Listed,
}

/// A phrase that names a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Name {
    pub terms: Vec<TermId>,
    /// As it is written where it comes from.
    pub text: String,
    pub source: NameSource,
}

/// What separates a page's title from the name of its site.
const SEPARATORS: [&str; 7] = [" | ", " – ", " — ", " · ", " - ", " :: ", " » "];

/// Counts how titles end, to find out what in them is the name of the site.
#[derive(Debug, Default)]
pub(super) struct TitleEnds {
    ends: HashMap<String, u32>,
    titles: u32,
}

impl TitleEnds {
    pub fn add(&mut self, title: &str) {
        self.titles += 1;
        if let Some((_, end)) = split_end(title) {
            *self.ends.entry(end.to_owned()).or_default() += 1;
        }
    }

    pub fn remove(&mut self, title: &str) {
        self.titles = self.titles.saturating_sub(1);
        if let Some((_, end)) = split_end(title)
            && let Some(count) = self.ends.get_mut(end)
        {
            *count = count.saturating_sub(1);
        }
    }

    /// The end that more than half of the titles share, once there are at least four.
    pub fn site_name(&self) -> Option<String> {
        let (end, count) = self.ends.iter().max_by_key(|(end, count)| (**count, *end))?;
        (self.titles >= 4 && count * 2 > self.titles).then(|| end.clone())
    }
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

/// The names of a page, longest first, none twice.
///
/// A name of nothing but stop words, of a single character, or of more than eight words names nothing.
pub(super) fn names_of(
    page: &PageFacts,
    listed: &[String],
    site_name: Option<&str>,
    lexicon: &mut Lexicon,
) -> Vec<Name> {
    let stemmer = Stemmer::new(page.language);
    let title = own_title(&page.title, site_name);
    let written = [(Some(title), NameSource::Title), (page.heading.as_deref(), NameSource::Heading)];
    let mut names: Vec<Name> = Vec::new();
    let listed = listed.iter().map(|phrase| (Some(phrase.as_str()), NameSource::Listed));
    for (text, source) in written.into_iter().chain(listed) {
        let Some(text) = text else { continue };
        let found: Vec<_> = words(text).map(|word| word.text).collect();
        let tells = |word: &&str| word.chars().count() > 1 && !is_stop_word(page.language, &fold(word));
        if found.len() > MOST_WORDS || !found.iter().any(tells) {
            continue;
        }
        let terms: Vec<_> = found.iter().map(|word| lexicon.intern(&stemmer.stem(word))).collect();
        if names.iter().all(|name| name.terms != terms) {
            names.push(Name { terms, text: text.to_owned(), source });
        }
    }
    names.sort_by_key(|name| std::cmp::Reverse(name.terms.len()));
    names
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_name_of_the_site_is_no_part_of_a_page_s_name() {
        let mut ends = TitleEnds::default();
        for title in ["Moon | Sky Club", "Sun – and its spots | Sky Club", "Stars | Sky Club", "About us"] {
            ends.add(title);
        }
        let site = ends.site_name();
        assert_eq!(site.as_deref(), Some("Sky Club"));
        assert_eq!(own_title("Sun – and its spots | Sky Club", site.as_deref()), "Sun – and its spots");
        assert_eq!(own_title("About us", site.as_deref()), "About us");
    }
}
