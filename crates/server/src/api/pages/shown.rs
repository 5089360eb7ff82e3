//! A page's content as it is shown on the Desk: marked where links are and could be, and made harmless.

use std::collections::HashSet;

use ammonia::{Builder, UrlRelative};
use strelm_core::document::{Document, Edit, Format, LinkKind, MARKDOWN_OPTIONS, SourceSpan, Splice, TextSpan};
use strelm_core::site::{Address, Destination};
use url::form_urlencoded;

/// Words to mark, with the attribute that says what they are.
pub struct Mark {
    pub words: TextSpan,
    /// `opening` or `tray`.
    pub what: &'static str,
    pub number: usize,
}

/// The document's HTML with an element around each marked place and a number on each link, sanitised.
///
/// Links keep absolute addresses; pictures go through `/api/sites/{site}/pictures`. O(n).
pub fn shown(document: &Document, address: &Address, site: i32, marks: &[Mark]) -> String {
    let seal = Seal::of(document);
    let marked = marked(document, marks, &seal);
    let html = match document.format() {
        Format::Markdown => rendered(&marked),
        // Of a whole page only its own content is shown.
        Format::Html => {
            let whole = Document::from_html(marked);
            whole.source().get(whole.main_span().range()).unwrap_or_default().to_owned()
        }
    };
    sanitise(&html, address, site, seal)
}

fn rendered(markdown: &str) -> String {
    let mut html = String::new();
    pulldown_cmark::html::push_html(&mut html, pulldown_cmark::Parser::new_ext(markdown, MARKDOWN_OPTIONS));
    html
}

/// Tells our numbers from those that the page itself may hold: a page cannot hold its own hash.
struct Seal(String);

impl Seal {
    fn of(document: &Document) -> Self {
        Self(format!("@{}", document.hash()))
    }

    fn put_on(&self, number: usize) -> String {
        format!("{number}{}", self.0)
    }

    /// The number under the seal; `None` when it is not ours.
    fn take_off<'v>(&self, value: &'v str) -> Option<&'v str> {
        value.strip_suffix(self.0.as_str())
    }
}

fn marked(document: &Document, marks: &[Mark], seal: &Seal) -> String {
    // Markdown has no attributes to put a number into.
    let is_html = document.format() == Format::Html;
    let numbered =
        document.links().iter().filter(|_| is_html).enumerate().filter(|(_, link)| link.kind != LinkKind::Area).map(
            |(ordinal, link)| {
                let at = link.start_tag.start + "<a".len();
                Splice { at: SourceSpan::new(at, at), with: format!(" data-link=\"{}\"", seal.put_on(ordinal)) }
            },
        );
    let hash = document.hash();
    let numbers = Edit::new(hash, numbered.collect()).ok();
    // Words that can no longer be marked are shown without a mark.
    let around = marks.iter().filter_map(|mark| {
        let open = format!("<mark data-{}=\"{}\">", mark.what, seal.put_on(mark.number));
        document.wrap(mark.words, open, "</mark>".to_owned()).ok()
    });
    let edit = Edit::compose(hash, numbers.into_iter().chain(around)).and_then(|edit| edit.apply(document.source()));
    edit.unwrap_or_else(|_| document.source().to_owned())
}

fn sanitise(html: &str, address: &Address, site: i32, seal: Seal) -> String {
    let address = address.clone();
    let follow = move |value: &str| match address.follow(value) {
        Destination::Page { address, fragment } => Some((address, fragment)),
        _ => None,
    };
    let mut builder = Builder::default();
    builder
        .add_tags(["mark", "figure", "figcaption", "section", "article"])
        .add_tag_attributes("mark", ["data-opening", "data-tray"])
        .add_tag_attributes("a", ["data-link"])
        // A page's own classes and ids must not meet ours.
        .generic_attributes(HashSet::from(["lang", "dir", "title"]))
        .url_relative(UrlRelative::PassThrough)
        .link_rel(Some("noopener noreferrer nofollow"))
        .attribute_filter(move |element, attribute, value| match (element, attribute) {
            ("a", "href") => {
                let (to, fragment) = follow(value)?;
                let fragment = fragment.map(|fragment| format!("#{fragment}")).unwrap_or_default();
                Some(format!("{to}{fragment}").into())
            }
            ("img", "src") => {
                let (to, _) = follow(value)?;
                let query: String = form_urlencoded::byte_serialize(to.as_str().as_bytes()).collect();
                Some(format!("/api/sites/{site}/pictures?address={query}").into())
            }
            (_, "data-link" | "data-opening" | "data-tray") => seal.take_off(value).map(Into::into),
            (_, "src" | "href" | "cite" | "srcset") => None,
            _ => Some(value.into()),
        });
    builder.clean(html).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn show(html: &str) -> String {
        let address = Address::parse("http://site.example/a/").unwrap();
        shown(&Document::from_html(html), &address, 7, &[])
    }

    #[test]
    fn scripts_styles_and_handlers_do_not_survive() {
        let shown = show(
            "<p id=tray class=modal onclick=x()>Hi<script>x()</script><style>*{}</style>\
             <a href='javascript:x()'>y</a><img src='javascript:x()' onerror=x()><iframe src=x></iframe></p>",
        );
        for bad in ["script", "style", "onclick", "onerror", "iframe", "id=", "class="] {
            assert!(!shown.contains(bad), "{bad} in {shown}");
        }
    }

    #[test]
    fn links_become_absolute_and_pictures_come_through_us() {
        let shown = show("<p><a href='../b#c'>b</a> <img src='/m.svg' alt='m'></p>");
        assert!(shown.contains("href=\"http://site.example/b#c\""), "{shown}");
        assert!(shown.contains("/api/sites/7/pictures?address=http%3A%2F%2Fsite.example%2Fm.svg"), "{shown}");
        assert!(shown.contains("data-link=\"0\""), "{shown}");
    }
}
