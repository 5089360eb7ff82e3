//! Pictures as they stand in a page.

use super::Document;
use super::hash::ContentHash;
use super::link::LinkKind;
use super::region::Region;
use super::span::SourceSpan;
use super::text::fold_space;

/// An `img` of HTML, or an image of Markdown.
#[derive(Debug, Clone)]
pub struct Picture {
    pub source: SourceSpan,
    /// What it says to whoever does not see it; `None` when nothing was written.
    pub alt: Option<String>,
    /// The link that it stands in, by its ordinal.
    pub link: Option<usize>,
    /// How much of the page's text is before it.
    pub text_at: usize,
    pub region: Region,
    pub(crate) node: u32,
    pub(crate) mended: bool,
}

impl Picture {
    /// What it says to whoever does not see it, on one line; `None` when that is nothing.
    pub fn says(&self) -> Option<String> {
        self.alt.as_deref().map(fold_space).filter(|says| !says.is_empty())
    }

    /// What it says, or that it says nothing.
    pub fn said(&self) -> String {
        self.says().unwrap_or_else(|| "a picture without words".to_owned())
    }
}

impl Document {
    /// How a picture of this document is written, from the first to the last byte: by this it is known again on another
    /// version of its page. O(bytes of the picture's tag).
    pub fn hash_of(&self, picture: &Picture) -> ContentHash {
        ContentHash::of(self.source().get(picture.source.range()).unwrap_or_default())
    }

    /// The picture that is written so, by its ordinal. Of several, the one nearest to text offset `near` counts, and of
    /// those that no text parts one without a link. O(bytes of the pictures' tags).
    pub fn find_picture(&self, written: ContentHash, near: usize) -> Option<usize> {
        let alike = self.pictures().iter().enumerate().filter(|(_, picture)| self.hash_of(picture) == written);
        let nearest = alike.min_by_key(|(_, picture)| (picture.text_at.abs_diff(near), picture.link.is_some()));
        nearest.map(|(ordinal, _)| ordinal)
    }

    /// The link to `href` around nothing but the picture that is written so, by its ordinal among [`Document::links`];
    /// the one nearest to text offset `near`. O(bytes of the pictures' tags).
    pub fn find_link_on_picture(&self, written: ContentHash, near: usize, href: &str) -> Option<usize> {
        let is_alone = |link| self.pictures().iter().filter(|picture| picture.link == Some(link)).count() == 1;
        let alike = self.pictures().iter().filter_map(|picture| {
            let number = picture.link?;
            let link = self.links().get(number)?;
            let is_it = link.kind == LinkKind::Picture
                && link.href == href
                && self.hash_of(picture) == written
                && is_alone(number);
            is_it.then_some((picture.text_at.abs_diff(near), number))
        });
        alike.min().map(|(_, link)| link)
    }
}
