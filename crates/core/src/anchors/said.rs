//! A link as its readers see it, looked at by itself.

use super::empty_words::folded_words;
use super::fault::AnchorFault;
use crate::document::{LinkKind, LinkMarks};
use crate::language::Language;

/// A link as its readers see it.
#[derive(Debug, Clone, Copy)]
pub struct SaidLink<'l> {
    pub language: Language,
    /// Its words; of a picture its alternative text.
    pub text: &'l str,
    pub kind: LinkKind,
    /// Where it leads, with the place on the page.
    pub to: &'l str,
    /// Which of the links of its page it is, if it is one of its own text.
    pub ordinal: Option<usize>,
    /// Whether it stands on many pages alike, in a menu or footer.
    pub is_repeated: bool,
    /// Whether it files its page under a term, whose name it says: `rel=tag`.
    pub is_filing: bool,
    /// How it is to be followed.
    pub marks: LinkMarks,
}

/// The same with what can be told of it by itself, so that many pages can be looked at side by side.
#[derive(Debug, Clone)]
pub struct LookedLink {
    pub(super) text: Box<str>,
    /// By which texts are one that differ in case, accents or marks alone.
    pub(super) key: Box<str>,
    pub(super) to: Box<str>,
    pub(super) faults: Vec<AnchorFault>,
    pub(super) ordinal: Option<u32>,
    pub(super) is_repeated: bool,
    pub(super) is_filing: bool,
    pub(super) marks: LinkMarks,
}

impl LookedLink {
    /// O(length).
    pub fn of(link: SaidLink<'_>) -> Self {
        let said = link.text.trim();
        let folded = folded_words(said);
        // What has no words is known by its marks; what has none either, by whether it is a picture.
        let key = match (folded.is_empty(), link.kind) {
            (true, LinkKind::Picture | LinkKind::Area) if said.is_empty() => "\u{0}".into(),
            (true, _) => said.into(),
            (false, _) => folded.into(),
        };
        Self {
            text: said.into(),
            key,
            to: link.to.into(),
            faults: match link.is_repeated {
                true => Vec::new(),
                false => AnchorFault::of_text(said, link.kind, link.language),
            },
            ordinal: link.ordinal.and_then(|ordinal| u32::try_from(ordinal).ok()),
            is_repeated: link.is_repeated,
            is_filing: link.is_filing,
            marks: link.marks,
        }
    }
}
