//! The editor's own words on a page: another anchor text, another sentence, a new sentence, a new block. These are the
//! edits that change what readers see; they change nothing else.

use super::edit::{Edit, Splice};
use super::elements::Element;
use super::link::Manner;
use super::markdown;
use super::put_link::{LinkTarget, Refusal, start_tag};
use super::span::{SourceSpan, TextSpan};
use super::tree::ROOT;
use super::{BlockId, BlockKind, Document, Format};

/// A piece of what an editor wrote.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Wording {
    Text(String),
    Link(String, LinkTarget),
}

impl Wording {
    /// What readers see of it.
    pub fn text(pieces: &[Self]) -> String {
        pieces
            .iter()
            .map(|piece| match piece {
                Self::Text(text) | Self::Link(text, _) => text.as_str(),
            })
            .collect()
    }
}

impl Document {
    /// The edit that gives a link another anchor text. O(n): the result is read once more.
    ///
    /// # Errors
    /// [`Refusal::HoldsMarkup`] when there is more than words between its tags, [`Refusal::NoEnd`] when it is not closed,
    /// [`Refusal::NoWords`] when `words` are none.
    pub fn reword_link(&self, ordinal: usize, words: &str) -> Result<Edit, Refusal> {
        let link = self.links().get(ordinal).ok_or(Refusal::NotThere)?;
        let end = link.end_tag.ok_or(Refusal::NoEnd)?;
        if words.trim().is_empty() || link.text.is_empty() {
            return Err(Refusal::NoWords);
        }
        if link.manner == Manner::Autolink {
            return Err(Refusal::AddressIsText);
        }
        let inner = SourceSpan::new(link.start_tag.end, end.start);
        let runs = self.text().runs_in(link.text);
        let is_words_alone = runs.first().zip(runs.last()).is_some_and(|(first, last)| {
            first.source.start == inner.start
                && last.source.end == inner.end
                && runs
                    .windows(2)
                    .all(|pair| pair[0].source.end == pair[1].source.start && pair[0].node == pair[1].node)
        });
        if !is_words_alone {
            return Err(Refusal::HoldsMarkup);
        }
        let mut text = self.text().as_str().to_owned();
        text.replace_range(link.text.range(), words);
        self.rewritten(inner, self.written(&[Wording::Text(words.to_owned())])?, &text, self.links().len())
    }

    /// The edit that puts the editor's wording in the place of a sentence. O(n): the result is
    /// read once more.
    ///
    /// # Errors
    /// [`Refusal::HoldsLink`] when a link would be lost; otherwise as [`Document::put_link`].
    pub fn replace_sentence(&self, sentence: TextSpan, wording: &[Wording]) -> Result<Edit, Refusal> {
        self.block_of(sentence).ok_or(Refusal::AcrossBlocks)?;
        let (place, _) = self.place(sentence)?;
        let anchored = |run: &super::run::Run| self.within(run.node, |element| element == Element::A);
        let is_linked = self.links().iter().any(|link| link.source.overlaps(place));
        if is_linked || self.text().runs_in(sentence).iter().any(anchored) {
            return Err(Refusal::HoldsLink);
        }
        if self.text().runs_in(sentence).iter().any(|run| self.within(run.node, Element::refuses_links)) {
            return Err(Refusal::CodeOrControl);
        }
        let has_links = wording.iter().any(|piece| matches!(piece, Wording::Link(..)));
        if has_links && self.text().runs_in(sentence).iter().any(|run| self.within(run.node, Element::is_heading)) {
            return Err(Refusal::Heading);
        }
        let mut text = self.text().as_str().to_owned();
        text.replace_range(sentence.range(), &Wording::text(wording));
        self.rewritten(place, self.written(wording)?, &text, self.links().len() + links_in(wording))
    }

    /// The edit that adds a sentence after the text that ends at offset `after`, with a space between. It stands behind
    /// all inline markup that ends there. O(n).
    ///
    /// # Errors
    /// A [`Refusal`] when no sentence can stand there.
    pub fn insert_sentence(&self, after: usize, wording: &[Wording]) -> Result<Edit, Refusal> {
        let at = self.place_after(after)?;
        let space = Wording::Text(" ".to_owned());
        let spaced: Vec<_> = std::iter::once(space).chain(wording.iter().cloned()).collect();
        let mut text = self.text().as_str().to_owned();
        text.insert_str(after, &Wording::text(&spaced));
        self.rewritten(SourceSpan::new(at, at), self.written(&spaced)?, &text, self.links().len() + links_in(wording))
    }

    /// The edit that adds a paragraph after a block. O(n).
    ///
    /// # Errors
    /// A [`Refusal`] when no paragraph can stand there: in Markdown only after one that stands by itself.
    pub fn insert_block(&self, after: BlockId, wording: &[Wording]) -> Result<Edit, Refusal> {
        let block = self.blocks().get(after.0 as usize).ok_or(Refusal::NotThere)?;
        let written = self.written(wording)?;
        if Wording::text(wording).trim().is_empty() {
            return Err(Refusal::NoWords);
        }
        let end = block.text.start + self.text().slice(block.text).trim_end().len();
        let (at, with) = match self.format() {
            Format::Html => {
                let (at, with) = self.html_block(block.node, block.kind, end, &written)?;
                if self.tree().is_crossed_before(at) {
                    return Err(Refusal::CrossesMarkup);
                }
                (at, with)
            }
            Format::Markdown => {
                let node = self.tree().node(block.node);
                let alone = matches!(block.kind, BlockKind::Paragraph | BlockKind::Heading(_)) && node.parent == ROOT;
                let end = node.end_tag.filter(|_| alone && block.node != ROOT).ok_or(Refusal::CrossesMarkup)?.end;
                let before = self.source().get(..end).unwrap_or_default();
                let at = before.trim_end_matches('\n').len();
                // A line that follows at once would go on with the new paragraph.
                let next = self.source().get(at..).and_then(|rest| rest.lines().nth(1)).unwrap_or_default();
                let gap = if next.trim().is_empty() { "" } else { "\n" };
                (at, format!("\n\n{written}{gap}"))
            }
        };
        let edit = Edit::new(self.hash(), vec![Splice { at: SourceSpan::new(at, at), with }]);
        let edit = edit.map_err(|_| Refusal::CrossesMarkup)?;
        let after = edit.apply(self.source()).map_err(|_| Refusal::Untraceable)?;
        let after = Self::read(after, self.format());
        let is_right = after.blocks().len() == self.blocks().len() + 1
            && after.links().len() == self.links().len() + links_in(wording)
            && after.text().len() > self.text().len() + Wording::text(wording).trim().len();
        is_right.then_some(edit).ok_or(Refusal::ChangesMore)
    }

    /// Where an HTML paragraph goes, and what is written there.
    fn html_block(
        &self,
        node: u32,
        kind: BlockKind,
        text_end: usize,
        written: &str,
    ) -> Result<(usize, String), Refusal> {
        let element = self.tree().node(node);
        if element.mended || self.within(element.parent, |around| !around.is_block() || around.refuses_links()) {
            return Err(Refusal::CrossesMarkup);
        }
        let own =
            matches!(element.element, Element::P | Element::Pre | Element::Blockquote) || element.element.is_heading();
        match element.end_tag.filter(|_| own && !matches!(kind, BlockKind::Summary)) {
            Some(end) => {
                let inner = SourceSpan::new(element.start_tag.end, end.start);
                if self.tree().has_unended_in(inner) || self.tree().has_stray_in(inner) {
                    return Err(Refusal::CrossesMarkup);
                }
                Ok((end.end, format!("\n<p>{written}</p>")))
            }
            // Text that ends without a tag of its own is followed by the paragraph, within the same element.
            None => {
                let at = self.place_after(text_end)?;
                let rest = self.source().get(at..).unwrap_or_default();
                let next = at + rest.len() - rest.trim_start().len();
                let is_stray = self.tree().has_stray_in(SourceSpan::new(next, next + 1));
                if is_stray || (element.element == Element::P && !ends_block(rest)) {
                    return Err(Refusal::CrossesMarkup);
                }
                Ok((at, format!("\n<p>{written}</p>")))
            }
        }
    }

    /// The source offset behind the text that ends at `after` and behind all inline elements that end with it.
    fn place_after(&self, after: usize) -> Result<usize, Refusal> {
        let mut at = self.text().source_end(after).ok_or(Refusal::Untraceable)?;
        let last = self.text().runs_in(TextSpan::new(after.saturating_sub(1), after)).last();
        let run = last.ok_or(Refusal::NoWords)?;
        if run.mended {
            return Err(Refusal::CrossesMarkup);
        }
        let mut node = run.node;
        while node != ROOT && !self.tree().node(node).is_block {
            let here = self.tree().node(node);
            at = here.end_tag.filter(|tag| tag.start == at).ok_or(Refusal::CrossesMarkup)?.end;
            node = here.parent;
        }
        let refuses = |element: Element| element.refuses_links() || element.is_heading() || element == Element::Summary;
        if self.within(node, refuses) {
            return Err(Refusal::CodeOrControl);
        }
        if self.within(node, |element| element == Element::A) {
            return Err(Refusal::HoldsLink);
        }
        Ok(at)
    }

    /// Wording as the page's format writes it.
    fn written(&self, wording: &[Wording]) -> Result<String, Refusal> {
        let mut out = String::new();
        for piece in wording {
            match (piece, self.format()) {
                (Wording::Text(text), Format::Html) => out.push_str(&escape_text(text)),
                (Wording::Text(text), Format::Markdown) => out.push_str(&markdown::escape(text)),
                (Wording::Link(text, target), Format::Html) => {
                    out.push_str(&format!("{}{}</a>", start_tag(target), escape_text(text)));
                }
                (Wording::Link(text, target), Format::Markdown) => {
                    if !target.says.is_empty() {
                        return Err(Refusal::NotInMarkdown);
                    }
                    let destination = markdown::destination(&target.href);
                    out.push_str(&format!("[{}]({destination})", markdown::escape(text)));
                }
            }
        }
        Ok(out)
    }

    /// An edit of one stretch, which is read once more to prove that the page then says `text`.
    fn rewritten(&self, at: SourceSpan, with: String, text: &str, links: usize) -> Result<Edit, Refusal> {
        let edit = Edit::new(self.hash(), vec![Splice { at, with }]).map_err(|_| Refusal::CrossesMarkup)?;
        let edit = edit.claiming(at);
        let after = edit.apply(self.source()).map_err(|_| Refusal::Untraceable)?;
        let after = Self::read(after, self.format());
        let is_right = after.text().as_str() == text && after.links().len() == links;
        is_right.then_some(edit).ok_or(Refusal::ChangesMore)
    }
}

/// Whether a paragraph ends where `rest` begins. Old pages have tables within paragraphs.
fn ends_block(rest: &str) -> bool {
    let rest = rest.trim_start();
    let Some(tag) = rest.strip_prefix('<') else { return rest.is_empty() };
    let name: String = tag.trim_start_matches('/').chars().take_while(char::is_ascii_alphanumeric).collect();
    let element = Element::of(&name);
    if tag.starts_with('/') { element.is_block() } else { element.closes_p() && element != Element::Table }
}

fn links_in(wording: &[Wording]) -> usize {
    wording.iter().filter(|piece| matches!(piece, Wording::Link(..))).count()
}

/// Text as HTML writes it between tags.
fn escape_text(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}
