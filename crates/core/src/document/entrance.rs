//! Pages that hold nothing of their own and only lead on: frame sets, redirects by script, listings of files.

use super::html::tokenizer::{HtmlToken, Tokenizer};
use super::{BlockKind, Document, Format};
use crate::document::html::facts::value_of;

/// What a page is where readers find no text.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Entrance {
    /// A frame set with what its frames show, as it is written; the first is mostly a menu.
    Frames(Vec<String>),
    /// A script sends readers on to this address, as it is written.
    Script(String),
    /// A server's own listing of the files in a folder.
    Listing,
    /// There is neither text nor a link.
    Empty,
}

/// With more words a page says something itself.
const FEW_WORDS: usize = 60;

/// With more words, or more than one link, a page whose script may send on says something itself.
const FEW_BESIDE_SCRIPT: usize = 15;

/// A page that waits for longer before it sends on is there to be read meanwhile.
const SOON: u32 = 5;

/// How titles and headings of listings begin.
const LISTINGS: [&str; 4] = ["index of /", "directory listing for /", "directory listing of /", "directory: /"];

impl Document {
    /// What a page is that holds nothing of its own; `None` for all others. O(bytes), of pages with text O(blocks).
    pub fn entrance(&self) -> Option<Entrance> {
        if self.format() != Format::Html {
            return None;
        }
        if self.is_file_listing() {
            return Some(Entrance::Listing);
        }
        if self.text().as_str().split_whitespace().nth(FEW_WORDS).is_some() {
            return None;
        }
        let frames = self.frames();
        if !frames.is_empty() {
            return Some(Entrance::Frames(frames));
        }
        if let Some(to) = script_target(self.source()) {
            return Some(Entrance::Script(to));
        }
        let is_empty = self.text().as_str().trim().is_empty() && self.links().is_empty() && self.pictures().is_empty();
        is_empty.then_some(Entrance::Empty)
    }

    /// Where a page that says hardly anything sends its readers on by itself, as it is written: by a refresh in its head, or
    /// by a script. `None` for all others. O(bytes), of pages with text O(1).
    pub fn sends_on(&self) -> Option<String> {
        if self.format() != Format::Html || self.text().as_str().split_whitespace().nth(FEW_WORDS).is_some() {
            return None;
        }
        // A script may also belong to a button of a short page, or turn pictures over.
        let is_bare = || {
            self.links().len() <= 1
                && self.pictures().is_empty()
                && self.text().as_str().split_whitespace().nth(FEW_BESIDE_SCRIPT).is_none()
        };
        let refresh = self.head().refresh.clone().filter(|_| self.head().refresh_seconds <= SOON);
        refresh.or_else(|| script_target(self.source()).filter(|_| is_bare()))
    }

    /// Whether a web server made the page of the names of files: its title says so, and hardly a word is without a link.
    fn is_file_listing(&self) -> bool {
        let headings = self.blocks().iter().filter(|block| matches!(block.kind, BlockKind::Heading(_)));
        let heading = headings.map(|block| self.text().slice(block.text)).next();
        let says = |text: &str| {
            let text = text.trim().to_lowercase();
            LISTINGS.iter().any(|listing| text.starts_with(listing))
        };
        (self.head().title.as_deref().is_some_and(says) || heading.is_some_and(says)) && !self.links().is_empty()
    }

    /// What the frames of a frame set show.
    fn frames(&self) -> Vec<String> {
        let source = self.source();
        let mut tokens = Tokenizer::new(source);
        let mut frames = Vec::new();
        while let Some(token) = tokens.next() {
            let HtmlToken::StartTag(tag) = token else { continue };
            if !source[tag.name.range()].eq_ignore_ascii_case("frame") {
                continue;
            }
            let is_src = |name: &str| name.eq_ignore_ascii_case("src");
            let src = tokens.attributes().iter().find(|attribute| is_src(&source[attribute.name.range()]));
            let src = src.map(|attribute| value_of(&source[attribute.value.range()]).trim().to_owned());
            frames.extend(src.filter(|src| !src.is_empty()));
        }
        frames
    }
}

/// Where `location = "…"`, `location.href = "…"`, `location.replace("…")` or `location.assign("…")` sends.
fn script_target(source: &str) -> Option<String> {
    let mut rest = source;
    while let Some(at) = rest.find("location") {
        rest = &rest[at + "location".len()..];
        let mut after = rest.trim_start();
        for member in [".href", ".replace", ".assign"] {
            after = after.strip_prefix(member).unwrap_or(after).trim_start();
        }
        let Some(value) = after.strip_prefix('=').or_else(|| after.strip_prefix('(')) else { continue };
        let value = value.trim_start();
        let Some(quote) = value.chars().next().filter(|quote| matches!(quote, '"' | '\'')) else { continue };
        let target = value[1..].split(quote).next().unwrap_or_default().trim();
        if !target.is_empty() && target.len() < 1000 && !target.contains(['<', '\n']) {
            return Some(target.to_owned());
        }
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pages_that_send_on_by_themselves_are_told_from_others() {
        let sends_on = |html: &str| Document::from_html(html).sends_on();
        let node = "<head><meta http-equiv=Refresh content='0; url=Shell.html#Aliasing'></head>\
            <p>The node you are looking for is at <a href='Shell.html#Aliasing'>Aliasing</a>.</p>";
        assert_eq!(sends_on(node).as_deref(), Some("Shell.html#Aliasing"));
        assert_eq!(
            sends_on("<script>location.replace('/new/')</script><title>Redirecting…</title>").as_deref(),
            Some("/new/")
        );
        assert_eq!(
            sends_on("<head><meta http-equiv=refresh content=30></head><p>The latest."),
            None,
            "only loaded again"
        );
        let shop =
            "<h1>Lamp</h1><p>A red lamp for the dark, with a band for the head, two cells and a box to keep it in.
            <button onclick=\"location.href='/cart'\">Buy</button>";
        assert_eq!(sends_on(shop), None, "a button of a short page");
        let slide = "<head><meta http-equiv=refresh content='10; url=2.html'></head><p>The first of our slides.";
        assert_eq!(sends_on(slide), None, "there to be read for a while");
        let gallery =
            "<p>Our hall.</p><img src=hall.jpg alt=hall><script>b.onclick = () => location.href = '2.html'</script>";
        assert_eq!(sends_on(gallery), None, "pictures");
        let long = format!("<head><meta http-equiv=refresh content='300; url=/next'></head><p>{}", "word ".repeat(61));
        assert_eq!(sends_on(&long), None, "a page of its own");
    }

    #[test]
    fn pages_that_only_lead_on_are_told_from_others() {
        let entrance = |html: &str| Document::from_html(html).entrance();
        let frames = "<html><frameset cols='20%,80%'><frame src=\"toc.html\" name=l><FRAME SRC='a&amp;b.html'></frameset>\
            <noframes>Your browser has no frames.</noframes></html>";
        assert_eq!(entrance(frames), Some(Entrance::Frames(vec!["toc.html".into(), "a&b.html".into()])));
        for script in [
            "<script>window.location.href = 'start.html';</script>",
            "<script>top.location='start.html'</script><p>One moment.</p>",
            "<body onload=\"location.replace('start.html')\">",
        ] {
            assert_eq!(entrance(script), Some(Entrance::Script("start.html".into())), "{script}");
        }
        let listing = "<title>Directory listing for /guides/</title><h1>Directory listing for /guides/</h1><hr><ul>\
            <li><a href=\"moon.html\">moon.html</a></ul>";
        assert_eq!(entrance(listing), Some(Entrance::Listing));
        let other =
            "<h1>Index of /guides</h1><pre><a href=\"?C=N;O=D\">Name</a> <a href=\"/\">Parent Directory</a></pre>";
        assert_eq!(entrance(other), Some(Entrance::Listing));
        assert_eq!(entrance("<title>Nothing</title>"), Some(Entrance::Empty));
        for page in ["<p>A page.</p>", "<h1>Index of terms</h1><a href=/a>A</a>", "<p>The location = \"x\" of it.</p>x"]
        {
            let found = entrance(page);
            assert!(!matches!(found, Some(Entrance::Listing | Entrance::Empty | Entrance::Frames(_))), "{page}");
        }
        let long = format!("<p>{}</p><script>location = 'x.html'</script>", "word ".repeat(100));
        assert_eq!(entrance(&long), None);
    }
}
