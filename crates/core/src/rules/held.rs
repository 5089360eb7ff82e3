//! Why words of a rule do not carry its link.

use thiserror::Error;

use crate::document::{BlockKind, Refusal};
use crate::ids::RuleId;
use crate::limits::Breach;

/// What holds a place back, in words for the editor.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Held {
    #[error("the page is the target itself")]
    ItsOwnPage,
    #[error("the page leads there already")]
    LeadsThere,
    #[error("the page there leads here, and the rule does not lead back")]
    WayBack,
    #[error("the reader comes from there")]
    CameFrom,
    #[error("the rule does not link in {}", named(*.0))]
    Block(BlockKind),
    #[error("it does not stand in {0}")]
    NotWithin(String),
    #[error("it stands in {0}")]
    Within(String),
    #[error("the first {words} words of a page are left free")]
    TooEarly { words: usize },
    #[error("“{0}” stands beside it")]
    Beside(String),
    #[error("an editor passed it here")]
    Exception,
    #[error("it is not in the share of places that are linked")]
    Thinned,
    #[error("the words carry another link")]
    Linked,
    #[error("another rule has these words, or some of them")]
    Taken { by: RuleId },
    #[error("the rule puts {} on a page at most", links(*.most))]
    PerPage { most: usize },
    #[error("the rule puts {} on one phrase of a page at most", links(*.most))]
    PerPhrase { most: usize },
    #[error("a page gets {} of rules to one target at most", links(*.most))]
    PerTarget { most: usize },
    #[error("a page gets {} of rules on the same words at most", links(*.most))]
    PerAnchor { most: usize },
    #[error("a sentence gets {} of rules at most", links(*.most))]
    PerSentence { most: usize },
    #[error("the page has {} of rules, which is all that its length allows", links(*.most))]
    Crowded { most: usize },
    #[error("the rule may make no more links on the site")]
    InTotal,
    #[error("a limit of the site: {0}")]
    Limit(Breach),
    #[error("{0}")]
    Markup(Refusal),
}

fn links(count: usize) -> String {
    format!("{count} link{}", if count == 1 { "" } else { "s" })
}

/// What an editor calls blocks of a kind.
const fn named(kind: BlockKind) -> &'static str {
    match kind {
        BlockKind::Heading(_) => "headings",
        BlockKind::Paragraph => "paragraphs",
        BlockKind::ListItem => "lists",
        BlockKind::Cell => "tables",
        BlockKind::Quote => "quotes",
        BlockKind::Caption => "captions",
        BlockKind::Code => "code",
        BlockKind::Summary => "summaries",
        BlockKind::Term => "terms",
    }
}
