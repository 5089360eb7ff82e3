//! Putting a link on words: where its tags may stand so that the markup stays well nested, and when it must not be.

use rustc_hash::FxHashSet;
use thiserror::Error;

use super::edit::Edit;
use super::elements::Element;
use super::span::{SourceSpan, TextSpan};
use super::tree::ROOT;
use super::{BlockId, Document, Format, LinkSays, markdown};

/// Where a link leads, as it is written into the page.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct LinkTarget {
    pub href: String,
    /// What else the link says. Markdown's own links cannot say it; there it has to be empty.
    pub says: Vec<LinkSays>,
}

impl LinkTarget {
    /// A target with nothing but its address.
    pub fn to(href: impl Into<String>) -> Self {
        Self { href: href.into(), says: Vec::new() }
    }
}

/// Where else than in running text a link may stand, because somebody says so.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct AlsoIn {
    pub headings: bool,
    /// Code in blocks, and parts of names that are written as code.
    pub code: bool,
}

/// Why words cannot carry a link, or a page not be changed in another way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Error)]
pub enum Refusal {
    #[error("there are no words here")]
    NoWords,
    #[error("the words are in more than one block")]
    AcrossBlocks,
    #[error("the words already carry a link")]
    AlreadyLinked,
    #[error("the words are part of a heading")]
    Heading,
    #[error("the words are code or a control")]
    CodeOrControl,
    #[error("the words begin or end in the middle of other markup")]
    CrossesMarkup,
    #[error("the words cannot be traced to bytes of the page")]
    Untraceable,
    #[error("the link has no end of its own that could be changed")]
    NoEnd,
    #[error("the picture already carries a link")]
    PictureLinked,
    #[error("the picture is part of a heading or a control")]
    PictureSet,
    #[error("the markup around the picture is out of order")]
    PictureAstray,
    #[error("there is no such link, picture or block on the page")]
    NotThere,
    #[error("the link holds more than words")]
    HoldsMarkup,
    #[error("the words hold a link, which would be lost")]
    HoldsLink,
    #[error("a link of Markdown cannot say this")]
    NotInMarkdown,
    #[error("the address is itself what readers see")]
    AddressIsText,
    #[error("a single letter of a word is too little to be hit or understood")]
    PieceOfWord,
    #[error("this would change more of the page than is meant")]
    ChangesMore,
}

impl Document {
    /// The edit that puts a link on the words of `words`.
    ///
    /// Visible text stays as it is and no byte is replaced: two tags are inserted. Words that span whole inline
    /// elements are linked around them. O(log n + depth + runs among the words) for HTML. What brackets mean in
    /// Markdown depends on all around them, so there the result is read once more: O(n).
    ///
    /// # Errors
    /// A [`Refusal`] that says why these words cannot carry a link.
    pub fn put_link(&self, words: TextSpan, target: &LinkTarget) -> Result<Edit, Refusal> {
        self.put_link_in(words, target, AlsoIn::default())
    }

    /// The same where more than running text may carry links.
    ///
    /// # Errors
    /// As [`Document::put_link`].
    pub fn put_link_in(&self, words: TextSpan, target: &LinkTarget, also: AlsoIn) -> Result<Edit, Refusal> {
        let around =
            |open: String, close: String| Ok(Edit::around(self.hash(), self.may_link_in(words, also)?, open, close));
        match self.format() {
            Format::Html => around(start_tag(target), "</a>".to_owned()),
            Format::Markdown => {
                if !target.says.is_empty() {
                    return Err(Refusal::NotInMarkdown);
                }
                let written = self.markdown_end(&target.href);
                let edit = around("[".to_owned(), written.end)?.sharing(written.definition);
                markdown::proves(self, words, &edit).then_some(edit).ok_or(Refusal::CrossesMarkup)
            }
        }
    }

    /// The edit that puts a link on a picture. `ordinal` counts [`Document::pictures`]. Cost as [`Document::put_link`].
    ///
    /// # Errors
    /// A [`Refusal`] that says why this picture cannot carry a link.
    pub fn put_link_on_picture(&self, ordinal: usize, target: &LinkTarget) -> Result<Edit, Refusal> {
        let place = self.may_link_picture(ordinal)?;
        match self.format() {
            Format::Html => Ok(Edit::around(self.hash(), place, start_tag(target), "</a>".to_owned())),
            Format::Markdown => {
                if !target.says.is_empty() {
                    return Err(Refusal::NotInMarkdown);
                }
                let written = self.markdown_end(&target.href);
                let edit = Edit::around(self.hash(), place, "[".to_owned(), written.end);
                let edit = edit.sharing(written.definition);
                let after = edit.apply(self.source()).map(Document::from_markdown).map_err(|_| Refusal::Untraceable)?;
                let is_linked = after.pictures().get(ordinal).is_some_and(|picture| picture.link.is_some());
                let same =
                    after.text().as_str() == self.text().as_str() && after.links().len() == self.links().len() + 1;
                (is_linked && same).then_some(edit).ok_or(Refusal::PictureAstray)
            }
        }
    }

    /// The source that a link on a picture goes around: the picture, or all of the `picture` that it belongs to. O(depth).
    ///
    /// # Errors
    /// As [`Document::put_link_on_picture`], but for what only the result shows in Markdown.
    pub fn may_link_picture(&self, ordinal: usize) -> Result<SourceSpan, Refusal> {
        let picture = self.pictures().get(ordinal).ok_or(Refusal::NotThere)?;
        if picture.link.is_some() {
            return Err(Refusal::PictureLinked);
        }
        if picture.mended {
            return Err(Refusal::PictureAstray);
        }
        if self.within(picture.node, |element| element == Element::A) {
            return Err(Refusal::PictureLinked);
        }
        if self.within(picture.node, |element| element.refuses_links() || element.is_heading()) {
            return Err(Refusal::PictureSet);
        }
        let around = self.tree().node(picture.node);
        if around.element != Element::Picture {
            return Ok(picture.source);
        }
        // A picture offered in several files is one only as long as nothing stands between them.
        let end = around.end_tag.ok_or(Refusal::PictureAstray)?.end;
        Ok(SourceSpan::new(around.start_tag.start, end))
    }

    /// Whether [`Document::put_link`] would accept the words. Same cost, nothing allocated but a path.
    ///
    /// # Errors
    /// As [`Document::put_link`].
    pub fn may_link(&self, words: TextSpan) -> Result<SourceSpan, Refusal> {
        self.may_link_in(words, AlsoIn::default())
    }

    /// The same where more than running text may carry links.
    ///
    /// # Errors
    /// As [`Document::put_link`].
    pub fn may_link_in(&self, words: TextSpan, also: AlsoIn) -> Result<SourceSpan, Refusal> {
        let block = self.block_of(words).ok_or(Refusal::AcrossBlocks)?;
        let (place, parent) = self.place(words)?;
        let block = &self.blocks()[block.0 as usize];
        let is_heading = matches!(block.kind, super::BlockKind::Heading(_)) && !also.headings;
        if is_heading || block.kind == super::BlockKind::Summary {
            return Err(Refusal::Heading);
        }
        // Links never nest, so their ends are in order too.
        let next = self.links().partition_point(|link| link.source.end <= place.start);
        if self.links().get(next).is_some_and(|link| link.source.overlaps(place)) {
            return Err(Refusal::AlreadyLinked);
        }
        // An anchor that leads nowhere would end where ours begins.
        let anchored = |run: &super::run::Run| self.within(run.node, |element| element == Element::A);
        // One without words, a mere place to point at, would do so too.
        let has_place = self.tree().has_in(place, |element| element == Element::A);
        if has_place || self.text().runs_in(words).iter().any(anchored) {
            return Err(Refusal::AlreadyLinked);
        }
        // A link may go around a name that is written as code, never into code.
        let refuses_below =
            |element: Element| element.refuses_links() && !(element.is_inline_code() || also.code && element.is_code());
        let refuses_around = |element: Element| element.refuses_links() && !(also.code && element.is_code());
        let holds_control = |run: &super::run::Run| self.within_below(run.node, parent, refuses_below);
        if self.within(parent, refuses_around) || self.text().runs_in(words).iter().any(holds_control) {
            return Err(Refusal::CodeOrControl);
        }
        Ok(place)
    }

    /// The edit that puts an element of our own around words: a link, or a mark for display.
    ///
    /// # Errors
    /// As [`Document::put_link`].
    pub fn wrap(&self, words: TextSpan, open: String, close: String) -> Result<Edit, Refusal> {
        Ok(Edit::around(self.hash(), self.may_link(words)?, open, close))
    }

    /// The block in which all of `words` stand. O(log blocks).
    pub fn block_of(&self, words: TextSpan) -> Option<BlockId> {
        let index = self.blocks().partition_point(|block| block.text.end <= words.start);
        let block = self.blocks().get(index)?;
        (block.text.contains(words) && !words.is_empty()).then(|| BlockId(u32::try_from(index).unwrap_or(u32::MAX)))
    }

    /// The source from before the first to after the last word, widened over inline elements until both ends have the
    /// same parent, and over code that is nothing but the words; with that parent.
    pub(super) fn place(&self, words: TextSpan) -> Result<(SourceSpan, u32), Refusal> {
        if self.text().slice(words).trim().is_empty() {
            return Err(Refusal::NoWords);
        }
        let runs = self.text().runs_in(words);
        if runs.iter().any(|run| run.mended) {
            return Err(Refusal::CrossesMarkup);
        }
        let (first, last) = runs.first().zip(runs.last()).ok_or(Refusal::NoWords)?;
        let mut start = self.text().source_start(words.start).ok_or(Refusal::Untraceable)?;
        let mut end = self.text().source_end(words.end).ok_or(Refusal::Untraceable)?;
        let (mut left, mut right) = (first.node, last.node);
        let tree = self.tree();
        while left != right {
            if !tree.holds(left, right) {
                let node = tree.node(left);
                if node.is_block || start != node.start_tag.end || left == ROOT {
                    return Err(Refusal::CrossesMarkup);
                }
                start = node.start_tag.start;
                left = node.parent;
            } else {
                let node = tree.node(right);
                let end_tag = node.end_tag.filter(|tag| !node.is_block && tag.start == end);
                end = end_tag.ok_or(Refusal::CrossesMarkup)?.end;
                right = node.parent;
            }
        }
        while self.format() == Format::Html
            && let Some((code, parent)) = self.code_around(SourceSpan::new(start, end), left)
        {
            (start, end, left) = (code.start, code.end, parent);
        }
        let place = SourceSpan::new(start, end);
        if self.unbalanced_between(left, runs) || tree.has_stray_in(place) {
            return Err(Refusal::CrossesMarkup);
        }
        Ok((place, left))
    }

    /// The code that is nothing but a stretch of source, whatever inline elements stand between them, with its parent.
    fn code_around(&self, mut inside: SourceSpan, mut parent: u32) -> Option<(SourceSpan, u32)> {
        loop {
            let node = self.tree().node(parent);
            let end_tag = node.end_tag.filter(|tag| node.start_tag.end == inside.start && tag.start == inside.end)?;
            if node.is_block || parent == ROOT {
                return None;
            }
            inside = SourceSpan::new(node.start_tag.start, end_tag.end);
            parent = node.parent;
            if node.element.is_inline_code() {
                return Some((inside, parent));
            }
        }
    }

    /// Whether text between the two ends stands outside of the parent that both ends share.
    fn unbalanced_between(&self, parent: u32, runs: &[super::run::Run]) -> bool {
        runs.iter().any(|run| {
            let tree = self.tree();
            let mut node = run.node;
            while node != parent {
                // An element that was closed without an end tag of its own may be opened again by a browser.
                if node == ROOT || tree.node(node).is_block || tree.node(node).end_tag.is_none() {
                    return true;
                }
                node = tree.node(node).parent;
            }
            false
        })
    }

    /// Whether words stand within an element whose start tag begins at one of these places of the source. O(log n + depth).
    pub fn stands_within(&self, words: TextSpan, starts: &FxHashSet<usize>) -> bool {
        let Some(run) = self.text().runs_in(words).first() else { return false };
        let mut node = run.node;
        while node != ROOT {
            let here = self.tree().node(node);
            if starts.contains(&here.start_tag.start) {
                return true;
            }
            node = here.parent;
        }
        false
    }

    pub(super) fn within(&self, node: u32, test: impl Fn(Element) -> bool) -> bool {
        self.within_below(node, ROOT, test)
    }

    /// Whether an element that passes stands around a node, inside of another element that does.
    fn within_below(&self, mut node: u32, above: u32, test: impl Fn(Element) -> bool) -> bool {
        while node != above && node != ROOT {
            let here = self.tree().node(node);
            if test(here.element) {
                return true;
            }
            node = here.parent;
        }
        false
    }
}

/// The start tag of a new link.
pub(super) fn start_tag(target: &LinkTarget) -> String {
    let mut tag = format!("<a href=\"{}\"", escape_attribute(&target.href));
    for (name, value) in LinkSays::attributes_of(&target.says) {
        tag.push_str(&format!(" {name}=\"{}\"", escape_attribute(&value)));
    }
    tag.push('>');
    tag
}

/// Text as the value of an attribute in double quotes.
pub fn escape_attribute(text: &str) -> String {
    text.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;").replace('>', "&gt;")
}
