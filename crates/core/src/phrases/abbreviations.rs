//! Short forms and what they stand for, as authors write them down once: “transport layer security (TLS)”.

use std::collections::BTreeMap;

use crate::document::{Document, Region};
use crate::language::{StopWords, fold, words};

/// Shorter and longer ones are no abbreviations.
const LETTERS: std::ops::RangeInclusive<usize> = 2..=8;

/// More pairs of one page are not kept.
const MOST_OF_PAGE: usize = 200;

/// A short form with its long form.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Abbreviation {
    pub short: String,
    pub long: String,
}

impl Abbreviation {
    /// Those of a page's own text: words whose first letters make the short form that follows in parentheses. Stop words
    /// among them may be passed over. O(n).
    pub fn all_of(document: &Document, stop_words: &StopWords) -> Vec<Self> {
        let mut found = Vec::new();
        for block in document.blocks().iter().filter(|block| block.region == Region::Content && block.kind.is_prose()) {
            let text = document.text().slice(block.text);
            for (open, _) in text.match_indices('(') {
                let Some((inner, _)) = text[open + 1..].split_once(')').filter(|(inner, _)| inner.len() <= 16) else {
                    continue;
                };
                let short = inner.strip_suffix('s').filter(|short| is_short(short)).unwrap_or(inner);
                if is_short(short) && found.len() < MOST_OF_PAGE {
                    found.extend(long_before(&text[..open], short, stop_words));
                }
            }
        }
        found.sort();
        found.dedup();
        found
    }
}

/// Capitals, of which the first letters of words are made.
fn is_short(text: &str) -> bool {
    LETTERS.contains(&text.chars().count()) && text.chars().all(|c| c.is_uppercase() || c.is_ascii_digit())
}

/// The words at the end of `text` whose first letters are those of `short`, from the last to the first.
fn long_before(text: &str, short: &str, stop_words: &StopWords) -> Option<Abbreviation> {
    // Only what stands near can be meant.
    let from = text.char_indices().rev().nth(160).map_or(0, |(at, _)| at);
    let near = &text[from..];
    if !near.ends_with(char::is_whitespace) {
        return None;
    }
    let found: Vec<_> = words(near).collect();
    let mut letters = short.chars().rev().filter(|c| c.is_alphabetic()).flat_map(char::to_lowercase).peekable();
    let mut start = None;
    for word in found.iter().rev() {
        let Some(wanted) = letters.peek() else { break };
        let first = fold(word.text).chars().next()?;
        if first == *wanted {
            letters.next();
            start = Some(word.span.start);
        } else if !stop_words.holds(&fold(word.text)) {
            return None;
        }
    }
    let long = near[start.filter(|_| letters.peek().is_none())?..].trim();
    let is_telling = words(long).filter(|word| stop_words.tells(word.text)).count() >= 2;
    is_telling.then(|| Abbreviation { short: short.to_owned(), long: long.to_owned() })
}

/// What the pages of a site say of short forms. A short form that stands for several things stands for none.
#[derive(Debug, Default)]
pub(super) struct Abbreviations {
    /// By the folded long form and by the short form, how many pages say so.
    longs: BTreeMap<String, BTreeMap<String, u32>>,
    shorts: BTreeMap<String, BTreeMap<String, u32>>,
}

impl Abbreviations {
    /// Adds what a page says, or takes it off. Gives the texts of which other forms may be known now, or no more.
    pub fn count(&mut self, of_page: &[Abbreviation], is_there: bool) -> Vec<String> {
        let mut changed = Vec::new();
        for Abbreviation { short, long } in of_page {
            let key = folded(long);
            for (map, from, to) in [(&mut self.longs, &key, short), (&mut self.shorts, short, &key)] {
                let counts = map.entry(from.clone()).or_default();
                let count = counts.entry(to.clone()).or_default();
                *count = if is_there { *count + 1 } else { count.saturating_sub(1) };
                if *count == 0 {
                    counts.remove(to);
                }
                if counts.is_empty() {
                    map.remove(from);
                }
            }
            changed.extend([long.clone(), short.clone()]);
        }
        changed
    }

    /// The other form of a name, when there is just one and it stands for nothing else.
    pub fn other_form(&self, name: &str) -> Option<String> {
        let only = |map: &BTreeMap<String, BTreeMap<String, u32>>, from: &str| {
            map.get(from).filter(|to| to.len() == 1).and_then(|to| to.keys().next().cloned())
        };
        let key = folded(name);
        if let Some(short) = only(&self.longs, &key) {
            return only(&self.shorts, &short).filter(|long| *long == key).map(|_| short);
        }
        only(&self.shorts, name.trim()).filter(|long| only(&self.longs, long).as_deref() == Some(name.trim()))
    }
}

fn folded(text: &str) -> String {
    words(text).map(|word| fold(word.text)).collect::<Vec<_>>().join(" ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::Language;

    fn of(html: &str) -> Vec<(String, String)> {
        let found = Abbreviation::all_of(&Document::from_html(html), &StopWords::of(Language::English));
        found.into_iter().map(|found| (found.short, found.long)).collect()
    }

    #[test]
    fn first_letters_make_a_short_form_and_stop_words_may_be_passed_over() {
        let pair = |short: &str, long: &str| vec![(short.to_owned(), long.to_owned())];
        assert_eq!(of("<p>Use transport layer security (TLS) here.</p>"), pair("TLS", "transport layer security"));
        assert_eq!(of("<p>The Department of Defense (DD)</p>"), pair("DD", "Department of Defense"));
        assert_eq!(of("<p>All data source names (DSNs) count.</p>"), pair("DSN", "data source names"));
        for none in [
            "<p>Use something else (TLS).</p>",
            "<p>(TLS) alone</p>",
            "<p>the (T)</p>",
            "<p>a function f(XY) of it</p>",
            "<nav>transport layer security (TLS)</nav>",
            "<p>of the to (OTT)</p>",
        ] {
            assert_eq!(of(none), [], "{none}");
        }
    }

    #[test]
    fn a_short_form_of_two_things_stands_for_none() {
        let mut known = Abbreviations::default();
        let pair = |short: &str, long: &str| Abbreviation { short: short.to_owned(), long: long.to_owned() };
        let tls = [pair("TLS", "Transport Layer Security")];
        let other = [pair("TLS", "two last sentences")];
        known.count(&tls, true);
        assert_eq!(known.other_form("transport layer security").as_deref(), Some("TLS"));
        assert_eq!(known.other_form("TLS").as_deref(), Some("transport layer security"));
        assert_eq!(known.other_form("tls"), None);
        known.count(&other, true);
        assert_eq!((known.other_form("TLS"), known.other_form("transport layer security")), (None, None));
        known.count(&other, false);
        assert_eq!(known.other_form("TLS").as_deref(), Some("transport layer security"));
        known.count(&tls, false);
        assert_eq!(known.other_form("TLS"), None);
        assert!(known.longs.is_empty() && known.shorts.is_empty());
    }
}
