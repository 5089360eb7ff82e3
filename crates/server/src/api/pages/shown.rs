//! A page's content as it is shown on the Desk: marked where links are and could be, and made harmless.

use std::collections::HashSet;

use ammonia::{Builder, UrlRelative};
use serde::Serialize;
use strelm_core::document::{
    Block, Document, Edit, Format, LinkKind, MARKDOWN_OPTIONS, Region, SourceSpan, Splice, TextSpan,
};
use strelm_core::site::{Address, Destination};
use url::form_urlencoded;
use utoipa::ToSchema;

use super::bounds::may_be_sanitised;

/// What is to be marked.
#[derive(Debug, Clone, Copy)]
pub enum Marked {
    Words(TextSpan),
    /// Counts the document's pictures.
    Picture(usize),
}

/// A place to mark, with the attribute that says what it is.
#[derive(Debug, Clone)]
pub struct Mark {
    pub place: Marked,
    /// `opening` or `tray`.
    pub what: &'static str,
    pub number: usize,
}

/// A page's content as it is shown.
#[derive(Debug, Clone)]
pub struct Shown {
    /// Sanitised.
    pub html: String,
    pub manner: ShownManner,
}

/// How a page is shown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShownManner {
    /// As readers see it.
    Page,
    /// The text alone: the markup is too large or too tangled to be made harmless in good time.
    Text,
    /// As [`Self::Text`], and only the beginning of it.
    BeginningOfText,
}

/// Bytes of a text that are shown without its markup.
const MOST_TEXT: usize = 400_000;

/// The document's HTML with an element around each marked place and each picture that could carry a link, and a number on
/// each link, sanitised.
///
/// Links keep absolute addresses; pictures go through `/api/sites/{site}/pictures`. O(n), bounded as `bounds` says: what is
/// beyond is shown as text alone.
pub fn shown(document: &Document, address: &Address, site: i32, marks: &[Mark]) -> Shown {
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
    match may_be_sanitised(&html) {
        true => Shown { html: sanitise(&html, address, site, seal), manner: ShownManner::Page },
        false => text_alone(document, marks),
    }
}

/// The text of the content, a paragraph for each block, with its marks on words.
fn text_alone(document: &Document, marks: &[Mark]) -> Shown {
    let text = document.text();
    let place = |mark: &Mark| match mark.place {
        Marked::Words(words) => Some((words, mark.what, mark.number)),
        Marked::Picture(_) => None,
    };
    let mut marks: Vec<_> = marks.iter().filter_map(place).collect();
    marks.sort_unstable();
    let mut html = String::new();
    let mut manner = ShownManner::Text;
    for block in document.blocks().iter().filter(|block| block.region == Region::Content) {
        if html.len() > MOST_TEXT {
            manner = ShownManner::BeginningOfText;
            break;
        }
        let end = text.as_str().floor_char_boundary(block.text.end.min(block.text.start + MOST_TEXT));
        if end < block.text.end {
            manner = ShownManner::BeginningOfText;
        }
        html.push_str("<p>");
        let mut at = block.text.start;
        for (words, what, number) in &marks {
            let words = *words;
            if at <= words.start && words.end <= end {
                html.push_str(&escaped(text.slice(TextSpan::new(at, words.start))));
                let said = escaped(text.slice(words));
                html.push_str(&format!("<mark data-{what}=\"{number}\">{said}</mark>"));
                at = words.end;
            }
        }
        html.push_str(&escaped(text.slice(TextSpan::new(at, end))));
        html.push_str("</p>");
    }
    Shown { html, manner }
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}

fn rendered(markdown: &str) -> String {
    let mut html = String::new();
    pulldown_cmark::html::push_html(&mut html, pulldown_cmark::Parser::new_ext(markdown, MARKDOWN_OPTIONS));
    html
}

/// Digits of a page's hash: enough that none can be made which holds its own.
const SEAL_DIGITS: usize = 24;

/// Tells our numbers from those that the page itself may hold: a page cannot hold its own hash.
struct Seal(String);

impl Seal {
    fn of(document: &Document) -> Self {
        Self(format!("@{}", &document.hash().to_string()[..SEAL_DIGITS]))
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
    // What can no longer be marked is shown without a mark.
    let marked: Vec<(SourceSpan, String)> = marks
        .iter()
        .filter_map(|mark| {
            let place = match mark.place {
                Marked::Words(words) => document.may_link(words),
                Marked::Picture(ordinal) => document.may_link_picture(ordinal),
            };
            Some((place.ok()?, format!("<mark data-{}=\"{}\">", mark.what, seal.put_on(mark.number))))
        })
        .collect();
    let pictures = (0..document.pictures().len()).filter_map(|ordinal| {
        let place = document.may_link_picture(ordinal).ok()?;
        let is_free = !marked.iter().any(|(mark, _)| mark.overlaps(place));
        is_free.then(|| (place, format!("<span data-picture=\"{}\">", seal.put_on(ordinal))))
    });
    let pictures: Vec<_> = pictures.collect();
    let ends: Vec<_> = if is_html { ends_of_content(document, seal) } else { Vec::new() };
    let ends = Edit::new(hash, ends).ok();
    let marks = marked.into_iter().map(|(place, open)| Edit::around(hash, place, open, "</mark>".to_owned()));
    let pictures = pictures.into_iter().map(|(place, open)| Edit::around(hash, place, open, "</span>".to_owned()));
    let around = marks.chain(pictures);
    let edit = Edit::compose(hash, numbers.into_iter().chain(ends).chain(around))
        .and_then(|edit| edit.apply(document.source()));
    edit.unwrap_or_else(|_| document.source().to_owned())
}

/// Where the page's own content begins and ends, for whoever folds what is around it.
fn ends_of_content(document: &Document, seal: &Seal) -> Vec<Splice> {
    let own = || document.blocks().iter().filter(|block| block.region == Region::Content && !is_blank(document, block));
    let (Some(first), Some(last)) = (own().next(), own().next_back()) else { return Vec::new() };
    let lead = document.text().slice(first.text);
    let start = first.text.start + (lead.len() - lead.trim_start().len());
    let end = last.text.start + document.text().slice(last.text).trim_end().len();
    let text = document.text();
    let places = [(text.source_start(start), 0), (text.source_end(end), 1)];
    let splice = |(at, which): (Option<usize>, usize)| {
        let at = at?;
        let with = format!("<mark data-part=\"{}\"></mark>", seal.put_on(which));
        Some(Splice { at: SourceSpan::new(at, at), with })
    };
    places.into_iter().filter_map(splice).collect()
}

fn is_blank(document: &Document, block: &Block) -> bool {
    document.text().slice(block.text).trim().is_empty()
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
        .add_tag_attributes("mark", ["data-opening", "data-tray", "data-part"])
        .add_tag_attributes("a", ["data-link"])
        .add_tag_attributes("span", ["data-picture"])
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
            (_, "data-link" | "data-opening" | "data-tray" | "data-picture" | "data-part") => {
                seal.take_off(value).map(Into::into)
            }
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
        shown(&Document::from_html(html), &address, 7, &[]).html
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
    fn a_page_that_is_too_tangled_is_shown_as_its_text_with_its_marks() {
        let html = format!("<p>Cats &amp; dogs</p>{}<p>a <i>night</i> sky", "<div>".repeat(20_000));
        let document = Document::from_html(html);
        let night = document.text().as_str().find("night").unwrap();
        let place = Marked::Words(TextSpan::new(night, night + 5));
        let address = Address::parse("http://site.example/a/").unwrap();
        let shown = shown(&document, &address, 7, &[Mark { place, what: "opening", number: 1 }]);
        assert_eq!(shown.manner, ShownManner::Text);
        assert!(shown.html.contains("<p>Cats &amp; dogs</p>"), "{}", shown.html);
        assert!(shown.html.contains("a <mark data-opening=\"1\">night</mark> sky"), "{}", shown.html);
        let long = Document::from_html(format!("<p>{}</p><p>x", "<b>y</b> ".repeat(600_000)));
        let shown = super::shown(&long, &address, 7, &[]);
        assert_eq!(shown.manner, ShownManner::BeginningOfText);
        assert!(shown.html.len() < 2 * MOST_TEXT);
    }

    #[test]
    fn pictures_that_could_carry_a_link_have_a_number_that_no_page_can_forge() {
        let shown = show(
            "<p><a href=/b><img src=/a.png></a> words <picture><source srcset=b.avif><img src=/b.png></picture>\
             <span data-picture=9>x</span></p>",
        );
        assert_eq!(shown.matches("data-picture").count(), 1, "{shown}");
        assert!(shown.contains("<span data-picture=\"1\"><img src=\"/api/"), "{shown}");
    }

    #[test]
    fn a_marked_picture_is_marked_alone_and_words_around_a_picture_lose_no_mark() {
        let address = Address::parse("http://site.example/a/").unwrap();
        let document = Document::from_html("<p>The <img src=/a.png> moon <img src=/b.png> rises.</p>");
        let mark = |place, number| Mark { place, what: "tray", number };
        let words = document.text().as_str().find("The").map(|at| TextSpan::new(at, at + 9)).unwrap();
        let marks = [mark(Marked::Words(words), 3), mark(Marked::Picture(1), 4)];
        let shown = shown(&document, &address, 7, &marks).html;
        assert_eq!(shown.matches("data-picture").count(), 0, "{shown}");
        assert!(shown.contains("<mark data-tray=\"3\">The <img"), "{shown}");
        assert!(shown.contains("<mark data-tray=\"4\"><img"), "{shown}");
    }

    #[test]
    fn links_become_absolute_and_pictures_come_through_us() {
        let shown = show("<p><a href='../b#c'>b</a> <img src='/m.svg' alt='m'></p>");
        assert!(shown.contains("href=\"http://site.example/b#c\""), "{shown}");
        assert!(shown.contains("/api/sites/7/pictures?address=http%3A%2F%2Fsite.example%2Fm.svg"), "{shown}");
        assert!(shown.contains("data-link=\"0\""), "{shown}");
    }
}
