//! What is wrong with an anchor text, in words for the editor.

use thiserror::Error;

use super::empty_words::says_nothing;
use crate::document::LinkKind;
use crate::language::{Language, words};

/// Longer anchor texts, in words, are hard to take in at a glance.
pub const LONGEST_ANCHOR: usize = 10;

/// A sentence has so many words at least: fewer are a phrase with a mark behind it.
const SHORTEST_SENTENCE: usize = 4;

/// What is wrong with an anchor text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Error)]
pub enum AnchorFault {
    #[error("there is nothing to press")]
    Empty,
    #[error("the picture has no alternative text, so the link says nothing to whoever does not see it")]
    NoAltText,
    #[error("the words say nothing of where they lead")]
    SaysNothing,
    #[error("an address is read out letter by letter, and says little of the page")]
    IsAddress,
    #[error("a whole sentence is linked")]
    Sentence,
    #[error("{words} words are too long to be taken in at a glance")]
    Long { words: usize },
    #[error("the same words lead to {targets} targets")]
    SeveralTargets { targets: usize },
    #[error("all {links} links to the target say just this")]
    OnlyText { links: usize },
    #[error("the target is called by {texts} different texts")]
    ManyTexts { texts: usize },
}

/// What is wrong, without how much of it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum AnchorFaultKind {
    Empty,
    NoAltText,
    SaysNothing,
    IsAddress,
    Sentence,
    Long,
    SeveralTargets,
    OnlyText,
    ManyTexts,
}

impl AnchorFaultKind {
    /// The gravest first.
    pub const ALL: [Self; 9] = [
        Self::Empty,
        Self::NoAltText,
        Self::SaysNothing,
        Self::IsAddress,
        Self::Sentence,
        Self::Long,
        Self::SeveralTargets,
        Self::OnlyText,
        Self::ManyTexts,
    ];
}

impl AnchorFault {
    pub const fn kind(self) -> AnchorFaultKind {
        match self {
            Self::Empty => AnchorFaultKind::Empty,
            Self::NoAltText => AnchorFaultKind::NoAltText,
            Self::SaysNothing => AnchorFaultKind::SaysNothing,
            Self::IsAddress => AnchorFaultKind::IsAddress,
            Self::Sentence => AnchorFaultKind::Sentence,
            Self::Long { .. } => AnchorFaultKind::Long,
            Self::SeveralTargets { .. } => AnchorFaultKind::SeveralTargets,
            Self::OnlyText { .. } => AnchorFaultKind::OnlyText,
            Self::ManyTexts { .. } => AnchorFaultKind::ManyTexts,
        }
    }

    /// What is wrong with a text by itself, the gravest first. O(length).
    pub fn of_text(text: &str, kind: LinkKind, language: Language) -> Vec<Self> {
        let text = text.trim();
        let count = words(text).count();
        if count == 0 {
            return vec![match kind {
                LinkKind::Picture | LinkKind::Area => Self::NoAltText,
                _ if text.is_empty() => Self::Empty,
                _ => Self::SaysNothing,
            }];
        }
        let mut faults = Vec::new();
        if says_nothing(text, language) {
            faults.push(Self::SaysNothing);
        }
        if is_address(text) {
            faults.push(Self::IsAddress);
        } else if count >= SHORTEST_SENTENCE && text.ends_with(['.', '!', '?', '。', '！', '？', '؟', '।']) {
            faults.push(Self::Sentence);
        } else if count > LONGEST_ANCHOR {
            faults.push(Self::Long { words: count });
        }
        faults
    }
}

/// Whether a text is an address and nothing else.
fn is_address(text: &str) -> bool {
    let has_scheme = ["http://", "https://", "www."].iter().any(|start| {
        text.get(..start.len()).is_some_and(|begin| begin.eq_ignore_ascii_case(start)) && text.len() > start.len()
    });
    has_scheme && !text.contains(char::is_whitespace)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_is_judged_by_what_it_says() {
        let of = |text: &str| AnchorFault::of_text(text, LinkKind::Text, Language::English);
        assert_eq!(of("dark adaptation"), []);
        assert_eq!(of(" "), [AnchorFault::Empty]);
        assert_eq!(of("»"), [AnchorFault::SaysNothing]);
        assert_eq!(of("Click here!"), [AnchorFault::SaysNothing]);
        assert_eq!(of("https://sky.example/moon?a=1"), [AnchorFault::IsAddress]);
        assert_eq!(of("www.sky.example"), [AnchorFault::IsAddress]);
        assert_eq!(of("What is seeing?"), []);
        assert_eq!(of("The moon is bright tonight."), [AnchorFault::Sentence]);
        let long = "how the eye gets used to the dark and why that takes so long";
        assert_eq!(of(long), [AnchorFault::Long { words: 14 }]);
        assert_eq!(AnchorFault::of_text("", LinkKind::Picture, Language::English), [AnchorFault::NoAltText]);
    }
}
