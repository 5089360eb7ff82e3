//! A page without the links that its author put into its text, and what these were.

use std::collections::{HashMap, HashSet};

use crate::document::{Document, Edit, Link, Region, TextSpan};
use crate::language::{Language, Stems};
use crate::phrases::{MOST_LINKED, ReadProse};
use crate::site::{BlockKey, PageId};

/// Links tell of what authors link that stand in at least so many bytes of running text: what leads on from a line of its
/// own tells of lists.
const LEAST_BESIDE: usize = 40;

/// A link that was taken out of a text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HiddenLink {
    pub target: PageId,
    /// What carried it, in the text of the document.
    pub words: TextSpan,
}

/// A page as it would be read if some of its links were not there.
pub struct BarePage {
    pub document: Document,
    pub prose: ReadProse,
    pub hidden: Vec<HiddenLink>,
}

impl BarePage {
    /// A page without the links that tell of what its author links; `None` where there are none. O(bytes).
    pub fn of(
        document: &Document,
        boilerplate: &HashSet<BlockKey>,
        (stems, language): (&Stems, Language),
        target: impl Fn(&Link) -> Option<PageId>,
    ) -> Option<Self> {
        let (mut document, hidden) = hide_links(document, LEAST_BESIDE, target)?;
        document.mark_boilerplate(boilerplate);
        Some(Self { prose: ReadProse::with(stems, &document, language), document, hidden })
    }
}

/// The document without the links in prose that lead where `target` knows a page, with these links in their order; `None`
/// where there are none, or the text would not stay letter by letter. Of blocks with less than `least_beside` bytes of text
/// beside their links these stay. O(bytes).
pub fn hide_links(
    document: &Document,
    least_beside: usize,
    target: impl Fn(&Link) -> Option<PageId>,
) -> Option<(Document, Vec<HiddenLink>)> {
    let mut linked: HashMap<usize, usize> = HashMap::new();
    for link in document.links() {
        if let Some(block) = link.block {
            *linked.entry(block.0 as usize).or_default() += link.text.len();
        }
    }
    let is_prose = |link: &Link| {
        let block = link.block.map(|block| block.0 as usize);
        let known = block.and_then(|block| Some((document.blocks().get(block)?, linked.get(&block)?)));
        known.is_some_and(|(block, linked)| {
            block.region == Region::Content
                && block.kind.is_prose()
                && block.text.contains(link.text)
                && *linked as f64 <= MOST_LINKED * block.text.len() as f64
                && block.text.len() >= linked + least_beside
        })
    };
    let mut edits = Vec::new();
    let mut hidden = Vec::new();
    for (ordinal, link) in document.links().iter().enumerate() {
        if link.text.is_empty() || !is_prose(link) {
            continue;
        }
        let Some(target) = target(link) else { continue };
        if let Ok(edit) = document.take_out_link(ordinal) {
            edits.push(edit);
            hidden.push(HiddenLink { target, words: link.text });
        }
    }
    if hidden.is_empty() {
        return None;
    }
    let source = Edit::compose(document.hash(), edits).and_then(|edit| edit.apply(document.source())).ok()?;
    let bare = Document::read(source, document.format());
    (bare.text().as_str() == document.text().as_str()).then_some((bare, hidden))
}
