//! Sitemaps after the protocol of sitemaps.org: lists of pages, and lists of such lists.

use quick_xml::Reader;
use quick_xml::events::Event;
use thiserror::Error;

use crate::graph::escape;

/// The protocol allows no more addresses in one file.
pub const MOST_ADDRESSES: usize = 50_000;

/// A sitemap, or an index of some.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Sitemap {
    /// Addresses of pages, as written.
    Pages(Vec<String>),
    /// Addresses of further sitemaps, as written.
    Index(Vec<String>),
}

/// Why a text is no sitemap.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum SitemapError {
    #[error("the sitemap is not well-formed XML: {0}")]
    NotXml(String),
    #[error("the file is neither a sitemap nor a sitemap index")]
    NotASitemap,
}

/// Reads a sitemap. Addresses beyond [`MOST_ADDRESSES`] are left out. O(n).
///
/// # Errors
/// [`SitemapError`] when the text is no sitemap.
pub fn read(text: &str) -> Result<Sitemap, SitemapError> {
    let mut reader = Reader::from_str(text);
    let mut is_index = None;
    let mut addresses = Vec::new();
    let mut loc: Option<String> = None;
    loop {
        let event = reader.read_event().map_err(|error| SitemapError::NotXml(error.to_string()))?;
        match event {
            Event::Start(tag) => match tag.local_name().as_ref() {
                "urlset" => is_index = Some(false),
                "sitemapindex" => is_index = Some(true),
                "loc" => loc = Some(String::new()),
                _ => {}
            },
            Event::Text(text) => loc.iter_mut().for_each(|loc| loc.push_str(&text)),
            Event::CData(text) => loc.iter_mut().for_each(|loc| loc.push_str(&text)),
            Event::GeneralRef(name) => loc.iter_mut().for_each(|loc| loc.push_str(&resolve(&name))),
            Event::End(tag) if tag.local_name().as_ref() == "loc" => {
                let address = loc.take().unwrap_or_default();
                if addresses.len() < MOST_ADDRESSES {
                    addresses.push(address.trim().to_owned());
                }
            }
            Event::Eof => break,
            _ => {}
        }
    }
    match is_index {
        Some(true) => Ok(Sitemap::Index(addresses)),
        Some(false) => Ok(Sitemap::Pages(addresses)),
        None => Err(SitemapError::NotASitemap),
    }
}

/// Writes sitemaps of at most [`MOST_ADDRESSES`] addresses each. O(n).
pub fn write(addresses: &[String]) -> Vec<String> {
    let file = |addresses: &[String]| {
        let rows: String =
            addresses.iter().map(|address| format!("  <url><loc>{}</loc></url>\n", escape(address))).collect();
        format!(
            "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n\
             <urlset xmlns=\"http://www.sitemaps.org/schemas/sitemap/0.9\">\n{rows}</urlset>\n"
        )
    };
    addresses.chunks(MOST_ADDRESSES).map(file).collect()
}

/// XML's five named references and numbers; anything else stays as it was.
pub(crate) fn resolve(name: &str) -> String {
    if let Some(text) = quick_xml::escape::resolve_xml_entity(name) {
        return text.to_owned();
    }
    let number = name.strip_prefix('#').and_then(|digits| match digits.strip_prefix('x') {
        Some(hex) => u32::from_str_radix(hex, 16).ok(),
        None => digits.parse().ok(),
    });
    number.and_then(char::from_u32).map_or_else(|| format!("&{name};"), String::from)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn addresses_are_read_with_their_references() {
        let text = r#"<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
            <url><loc> https://a.example/?x=1&amp;y=2 </loc><lastmod>2026-01-01</lastmod></url>
            <url><loc><![CDATA[https://a.example/b]]></loc></url></urlset>"#;
        let pages = ["https://a.example/?x=1&y=2", "https://a.example/b"].map(str::to_owned).to_vec();
        assert_eq!(read(text), Ok(Sitemap::Pages(pages)));
    }

    #[test]
    fn what_is_written_is_read_again() {
        let addresses: Vec<_> = (0..MOST_ADDRESSES + 1).map(|n| format!("https://a.example/?n={n}&x='<")).collect();
        let files = write(&addresses);
        assert_eq!(files.len(), 2);
        assert_eq!(read(&files[0]), Ok(Sitemap::Pages(addresses[..MOST_ADDRESSES].to_vec())));
        assert_eq!(read(&files[1]), Ok(Sitemap::Pages(addresses[MOST_ADDRESSES..].to_vec())));
    }

    #[test]
    fn an_index_is_told_from_a_list_of_pages() {
        let text = "<sitemapindex><sitemap><loc>https://a.example/1.xml</loc></sitemap></sitemapindex>";
        assert_eq!(read(text), Ok(Sitemap::Index(vec!["https://a.example/1.xml".to_owned()])));
        assert_eq!(read("<html></html>"), Err(SitemapError::NotASitemap));
        assert!(matches!(read("<urlset><loc></urlset>"), Err(SitemapError::NotXml(_))));
    }
}
