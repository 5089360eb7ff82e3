//! Reasons in plain words.

use std::fmt;

/// Why a part of a fit is as strong as it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Reason {
    SameTopic,
    RelatedTopic,
    OtherTopic,
    NoTextToCompare,
    WholeTitle,
    WholeHeading,
    WholePhrase,
    SingleWord,
    OtherForm,
    CommonWords { pages: usize },
    EarlyOnPage,
    MidPage,
    LateOnPage,
    NamedBefore,
    TableOrCaption,
    InsideQuotation,
    TargetIsOrphan,
    TargetUnreachable,
    TargetHangsOnOnePage,
    TargetHasFewLinks { pages: u32 },
    TargetHasLinks { pages: u32 },
    NamesOnlyThisPage,
    NamesOtherPagesToo { pages: usize },
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::SameTopic => f.write_str("Both pages are about the same thing."),
            Self::RelatedTopic => f.write_str("The two pages have telling words in common."),
            Self::OtherTopic => f.write_str("The two pages have little in common."),
            Self::NoTextToCompare => f.write_str("One of the pages has no text that could be compared."),
            Self::WholeTitle => f.write_str("The words name the target as its title does."),
            Self::WholeHeading => f.write_str("The words name the target as its main heading does."),
            Self::WholePhrase => f.write_str("The words are a phrase by which the target wants to be found."),
            Self::SingleWord => f.write_str("It is a single word, which may be meant in another sense."),
            Self::OtherForm => f.write_str("The words stand in another form here than in the name."),
            Self::CommonWords { pages } => write!(f, "The words are common on this site: they stand on {pages} pages."),
            Self::EarlyOnPage => f.write_str("The place is in the first third of the page."),
            Self::MidPage => f.write_str("The place is in the middle of the page."),
            Self::LateOnPage => f.write_str("The place is in the last third of the page."),
            Self::NamedBefore => f.write_str("The page names the target earlier already."),
            Self::TableOrCaption => f.write_str("The place is in a table or a caption, where links are easily missed."),
            Self::InsideQuotation => f.write_str("The place is inside a quotation."),
            Self::TargetIsOrphan => f.write_str("No page links to the target: it is an orphan."),
            Self::TargetUnreachable => f.write_str("The target cannot be reached from the entry page."),
            Self::TargetHangsOnOnePage => f.write_str("Only one page links to the target."),
            Self::TargetHasFewLinks { pages: 0 } => f.write_str("No page's own text links to the target."),
            Self::TargetHasFewLinks { pages: 1 } => f.write_str("Only one page's own text links to the target."),
            Self::TargetHasFewLinks { pages } | Self::TargetHasLinks { pages } => {
                write!(f, "The text of {pages} pages links to the target.")
            }
            Self::NamesOnlyThisPage => f.write_str("These words name no other page."),
            Self::NamesOtherPagesToo { pages: 1 } => f.write_str("These words name another page as well."),
            Self::NamesOtherPagesToo { pages } => write!(f, "These words name {pages} other pages as well."),
        }
    }
}
