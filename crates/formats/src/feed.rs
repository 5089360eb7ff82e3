//! Feeds: RSS 2.0, Atom (RFC 4287) and JSON Feed. Only what names a page is read: its address and its title.

use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use serde::Deserialize;
use thiserror::Error;

use crate::sitemap::resolve;

/// Further entries are left out.
const MOST_ENTRIES: usize = 10_000;

/// What a feed tells of a page.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct FeedEntry {
    /// As written; it may be relative to the feed.
    pub address: String,
    pub title: Option<String>,
}

/// Why a text is no feed.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FeedError {
    #[error("the feed is not well-formed: {0}")]
    NotWellFormed(String),
    #[error("the file is neither RSS, Atom nor a JSON Feed")]
    NotAFeed,
}

/// Reads a feed of any of the three kinds. Entries without an address are left out. O(n).
///
/// # Errors
/// [`FeedError`] when the text is no feed.
pub fn read(text: &str) -> Result<Vec<FeedEntry>, FeedError> {
    let text = text.trim_start_matches('\u{feff}').trim_start();
    if text.starts_with('{') { json(text) } else { xml(text) }
}

#[derive(Deserialize)]
struct JsonFeed {
    version: String,
    #[serde(default)]
    items: Vec<JsonItem>,
}

#[derive(Deserialize)]
struct JsonItem {
    url: Option<String>,
    title: Option<String>,
}

fn json(text: &str) -> Result<Vec<FeedEntry>, FeedError> {
    let feed: JsonFeed = serde_json::from_str(text).map_err(|_| FeedError::NotAFeed)?;
    if !feed.version.contains("jsonfeed.org") {
        return Err(FeedError::NotAFeed);
    }
    let entry = |item: JsonItem| Some(FeedEntry { address: item.url?, title: item.title });
    Ok(feed.items.into_iter().take(MOST_ENTRIES).filter_map(entry).collect())
}

fn xml(text: &str) -> Result<Vec<FeedEntry>, FeedError> {
    let mut reader = Reader::from_str(text);
    let mut is_feed = false;
    let mut entries: Vec<FeedEntry> = Vec::new();
    let mut entry: Option<FeedEntry> = None;
    let mut texts: Option<String> = None;
    let mut depth = 0usize;
    let mut entry_depth = 0;
    loop {
        let event = reader.read_event().map_err(|error| FeedError::NotWellFormed(error.to_string()))?;
        match event {
            Event::Start(tag) => {
                depth += 1;
                let name = tag.local_name();
                match name.as_ref() {
                    "rss" | "feed" | "RDF" => is_feed = true,
                    "item" | "entry" => (entry, entry_depth) = (Some(FeedEntry::default()), depth),
                    "title" | "link" if entry.is_some() && depth == entry_depth + 1 => {
                        texts = Some(String::new());
                        note_atom_link(&tag, entry.as_mut());
                    }
                    _ => {}
                }
            }
            Event::Empty(tag) if depth == entry_depth => note_atom_link(&tag, entry.as_mut()),
            Event::Text(text) => texts.iter_mut().for_each(|all| all.push_str(&text)),
            Event::CData(text) => texts.iter_mut().for_each(|all| all.push_str(&text)),
            Event::GeneralRef(name) => texts.iter_mut().for_each(|all| all.push_str(&resolve(&name))),
            Event::End(tag) => {
                let text = texts.take_if(|_| depth == entry_depth + 1).map(|text| text.trim().to_owned());
                match (tag.local_name().as_ref(), entry.as_mut(), text) {
                    ("title", Some(entry), Some(text)) => entry.title = Some(text).filter(|text| !text.is_empty()),
                    ("link", Some(entry), Some(text)) if !text.is_empty() => entry.address = text,
                    ("item" | "entry", ..) if depth == entry_depth => {
                        let done = entry.take().filter(|entry| !entry.address.is_empty());
                        entries.extend(done.filter(|_| entries.len() < MOST_ENTRIES));
                    }
                    _ => {}
                }
                depth = depth.saturating_sub(1);
            }
            Event::Eof => break,
            _ => {}
        }
    }
    if is_feed { Ok(entries) } else { Err(FeedError::NotAFeed) }
}

/// Atom names the page in an attribute, with `rel="alternate"` or without `rel`.
fn note_atom_link(tag: &BytesStart<'_>, entry: Option<&mut FeedEntry>) {
    let Some(entry) = entry.filter(|_| tag.local_name().as_ref() == "link") else { return };
    let attribute = |name: &str| {
        let found = tag.attributes().flatten().find(|attribute| attribute.key.as_ref() == name)?;
        Some(quick_xml::escape::unescape(&found.value).ok()?.into_owned())
    };
    if attribute("rel").is_none_or(|rel| rel == "alternate")
        && let Some(href) = attribute("href")
        && entry.address.is_empty()
    {
        entry.address = href;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn entries(text: &str) -> Vec<(String, Option<String>)> {
        read(text).unwrap().into_iter().map(|entry| (entry.address, entry.title)).collect()
    }

    #[test]
    fn three_kinds_of_feeds_name_the_same_pages() {
        let rss = "<?xml version='1.0'?><rss version='2.0'><channel><title>Site</title><link>http://a.example/</link>
            <item><title>One &amp; only</title><link>http://a.example/1?x=1&amp;y=2</link></item>
            <item><guid>http://a.example/none</guid></item><item><link><![CDATA[/2]]></link></item></channel></rss>";
        let atom = "<feed xmlns='http://www.w3.org/2005/Atom'><title>Site</title><link href='http://a.example/'/>
            <entry><title>One &amp; only</title><link rel='edit' href='/edit/1'/><link href='http://a.example/1?x=1&amp;y=2'/>
            <source><title>Other</title><link href='/other'/></source></entry>
            <entry><id>none</id></entry><entry><link rel='alternate' href='/2'/></entry></feed>";
        let json = r#"{"version": "https://jsonfeed.org/version/1.1", "items":
            [{"id": "1", "url": "http://a.example/1?x=1&y=2", "title": "One & only"}, {"id": "n"}, {"id": "2", "url": "/2"}]}"#;
        let expected =
            [("http://a.example/1?x=1&y=2".to_owned(), Some("One & only".to_owned())), ("/2".to_owned(), None)];
        for feed in [rss, atom, json] {
            assert_eq!(entries(feed), expected, "{feed}");
        }
    }

    #[test]
    fn what_is_no_feed_says_so_and_references_do_not_grow() {
        assert_eq!(read("<html><body>x</body></html>"), Err(FeedError::NotAFeed));
        assert_eq!(read("{\"items\": []}"), Err(FeedError::NotAFeed));
        assert!(matches!(read("<rss><item></rss>"), Err(FeedError::NotWellFormed(_))));
        let bomb = "<!DOCTYPE rss [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;'>]>
            <rss><item><title>&b;</title><link>/1</link></item></rss>";
        assert_eq!(entries(bomb), [("/1".to_owned(), Some("&b;".to_owned()))]);
    }

    proptest::proptest! {
        #[test]
        fn arbitrary_text_never_panics(text in "(<rss>|<item>|</item>|<link|/>|>|</link>|<title>|&amp;|&x;|x|\"|=){0,40}") {
            let _ = read(&text);
        }
    }
}
