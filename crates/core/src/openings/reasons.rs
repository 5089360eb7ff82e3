//! Reasons in plain words.

use std::fmt;

use super::features::{Judged, has_form_of};
use super::part::Part;
use super::tf_idf::TfIdf;
use crate::document::BlockKind;
use crate::phrases::{Mention, NameSource, PhraseBook, TokenMarks};
use crate::site::{Figures, PageId, Site};

/// Words that two pages share are named up to so many.
const MOST_SHARED: usize = 3;

/// Why a part of a fit is as strong as it is.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum Reason {
    /// Telling words that the paragraph and the target have in common, as they stand in the paragraph.
    SharedWords(Vec<String>),
    NothingShared,
    NoTextToCompare,
    LinksBack,
    SameFolder,
    LinkedFromNearby {
        pages: u32,
    },
    NamesTitle,
    NamesHeading,
    NamesPhrase,
    NamesPart,
    NamesSection,
    NamesTerm,
    NamesAddress,
    NamesRepeated,
    NamesWord,
    InUse {
        links: u32,
    },
    OftenLinked {
        linked: u32,
        of: u32,
    },
    SeldomLinked {
        of: u32,
    },
    SingleWord,
    EverydayWord,
    OtherForm,
    CommonWords {
        pages: u32,
    },
    EarlyOnPage,
    MidPage,
    LateOnPage,
    NamedBefore,
    PartOfLongerName,
    TableOrCaption,
    InsideQuotation,
    InLinkedBlock,
    TargetIsEntry,
    TargetIsOrphan,
    TargetUnreachable,
    TargetHangsOnOnePage,
    TargetHasLinks {
        pages: u32,
    },
    SourceUnreachable,
    NamesOnlyThisPage,
    NamesOtherPagesToo {
        pages: usize,
    },
    /// No link of the site leads to the target.
    NoUsualWords,
    FreshWords,
    UsualWords {
        share: u32,
    },
}

/// The reasons of one part. O(words of the target) for the topic, else O(1).
pub(super) fn reasons(site: &Site, book: &PhraseBook, judged: &Judged, part: Part) -> Vec<Reason> {
    let mention = &judged.mention;
    match part {
        Part::Topic => topic(book, mention),
        Part::Wording => wording(book, judged),
        Part::Place => place(book, judged),
        Part::Need => need(site, mention.source, mention.target()),
        Part::Variety => variety(book, mention),
    }
}

fn topic(book: &PhraseBook, mention: &Mention) -> Vec<Reason> {
    let mut reasons = Vec::new();
    let prose = book.prose(mention.source);
    let block = prose.and_then(|prose| Some((prose, prose.block_of(mention.first)?)));
    match block.zip(TfIdf::of(book, mention.target())) {
        Some(((prose, block), vector)) => {
            let tokens = &prose.tokens()[block.first as usize..block.end as usize];
            // The words that would carry the link are told with the wording.
            let others: Vec<_> =
                tokens.iter().copied().filter(|token| !book.terms_of(mention.phrase).contains(&token.term())).collect();
            let here = TfIdf::of_tokens(book, &others);
            let words = here.words_shared(&vector, book, (mention.source, &others), MOST_SHARED);
            reasons.push(if words.is_empty() { Reason::NothingShared } else { Reason::SharedWords(words) });
        }
        None => reasons.push(Reason::NoTextToCompare),
    }
    let anchors = book.anchors();
    if anchors.out_of(mention.target()).binary_search(&mention.source).is_ok() {
        reasons.push(Reason::LinksBack);
    }
    if anchors.folder_of(mention.source) == anchors.folder_of(mention.target()) {
        reasons.push(Reason::SameFolder);
    }
    match anchors.from_folder_of(mention.source, mention.target()) {
        0 => {}
        pages => reasons.push(Reason::LinkedFromNearby { pages }),
    }
    reasons
}

fn wording(book: &PhraseBook, judged: &Judged) -> Vec<Reason> {
    let mention = &judged.mention;
    let mut reasons = Vec::new();
    reasons.extend(mention.naming.source.map(|source| match source {
        NameSource::Listed => Reason::NamesPhrase,
        NameSource::Title => Reason::NamesTitle,
        NameSource::Heading => Reason::NamesHeading,
        NameSource::Part => Reason::NamesPart,
        NameSource::Section => Reason::NamesSection,
        NameSource::Term => Reason::NamesTerm,
        NameSource::Slug => Reason::NamesAddress,
        NameSource::Telling => Reason::NamesRepeated,
        NameSource::Word => Reason::NamesWord,
    }));
    if mention.naming.anchors > 0 {
        reasons.push(Reason::InUse { links: mention.naming.anchors });
    }
    let standing = book.standing(mention.phrase);
    let all = standing.linked + standing.stands;
    match standing.linked {
        0 if all > 5 && book.anchors().in_prose() > 0 => reasons.push(Reason::SeldomLinked { of: all }),
        0 => {}
        linked => reasons.push(Reason::OftenLinked { linked, of: all }),
    }
    if mention.len == 1 {
        reasons.push(if judged.is_everyday() { Reason::EverydayWord } else { Reason::SingleWord });
    }
    if standing.pages as usize * 4 > book.prose_count() && standing.pages > 5 {
        reasons.push(Reason::CommonWords { pages: standing.pages });
    }
    let is_same = |name: &crate::phrases::Name| {
        let prose = book.prose(mention.source);
        let shown = prose.and_then(|prose| {
            let (first, last) = (prose.tokens()[mention.first].span(), prose.tokens()[mention.end() - 1].span());
            prose.text().get(first.start..last.end)
        });
        shown.is_some_and(|shown| has_form_of(&name.text, shown))
    };
    let mut names = book.names(mention.target()).iter().filter(|name| name.phrase == mention.phrase).peekable();
    if names.peek().is_some() && !names.any(is_same) {
        reasons.push(Reason::OtherForm);
    }
    reasons
}

fn place(book: &PhraseBook, judged: &Judged) -> Vec<Reason> {
    let mention = &judged.mention;
    let Some(prose) = book.prose(mention.source) else { return Vec::new() };
    let share = mention.first as f64 / prose.tokens().len().max(1) as f64;
    let mut reasons = vec![match share {
        s if s < 1.0 / 3.0 => Reason::EarlyOnPage,
        s if s < 2.0 / 3.0 => Reason::MidPage,
        _ => Reason::LateOnPage,
    }];
    if judged.of("before on the page") > 0.0 {
        reasons.push(Reason::NamedBefore);
    }
    if judged.of("inside a longer name") > 0.0 {
        reasons.push(Reason::PartOfLongerName);
    }
    let block = prose.block_of(mention.first);
    match block.map(|block| block.kind) {
        Some(BlockKind::Cell | BlockKind::Caption) => reasons.push(Reason::TableOrCaption),
        Some(BlockKind::Quote) => reasons.push(Reason::InsideQuotation),
        _ => {}
    }
    let has_links = block.is_some_and(|block| {
        prose.tokens()[block.first as usize..block.end as usize].iter().any(|token| token.has(TokenMarks::LINKED))
    });
    if has_links {
        reasons.push(Reason::InLinkedBlock);
    }
    reasons
}

fn need(site: &Site, source: PageId, target: PageId) -> Vec<Reason> {
    let figures = site.figures(target).unwrap_or_default();
    let lacks = match figures {
        Figures { depth: Some(0), .. } => Reason::TargetIsEntry,
        Figures { links_in: 0, .. } => Reason::TargetIsOrphan,
        Figures { depth: None, .. } => Reason::TargetUnreachable,
        Figures { links_in: 1, .. } => Reason::TargetHangsOnOnePage,
        Figures { content_links_in: pages, .. } => Reason::TargetHasLinks { pages },
    };
    let is_unseen = site.depth(source).is_none();
    std::iter::once(lacks).chain(is_unseen.then_some(Reason::SourceUnreachable)).collect()
}

fn variety(book: &PhraseBook, mention: &Mention) -> Vec<Reason> {
    let others = book.named_by(mention.phrase).len().saturating_sub(1);
    let all = book.anchors().to_page(mention.target());
    // What the strength hangs on comes first.
    let usual = match (mention.naming.anchors, all) {
        (_, 0) => Some(Reason::NoUsualWords),
        (0, _) => Some(Reason::FreshWords),
        (these, all) if these * 2 > all && all > 3 => Some(Reason::UsualWords { share: these * 100 / all }),
        _ => None,
    };
    let names = match others {
        0 => Reason::NamesOnlyThisPage,
        pages => Reason::NamesOtherPagesToo { pages },
    };
    usual.into_iter().chain([names]).collect()
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::SharedWords(words) => {
                let words: Vec<_> = words.iter().map(|word| format!("“{word}”")).collect();
                write!(f, "This paragraph shares {} with the target.", words.join(", "))
            }
            Self::NothingShared => f.write_str("This paragraph shares no telling words with the target."),
            Self::NoTextToCompare => f.write_str("One of the pages has no text that could be compared."),
            Self::LinksBack => f.write_str("The target links here."),
            Self::SameFolder => f.write_str("Both pages are in the same folder."),
            Self::LinkedFromNearby { pages: 1 } => f.write_str("A link from the same folder leads to the target."),
            Self::LinkedFromNearby { pages } => write!(f, "{pages} links from the same folder lead to the target."),
            Self::NamesTitle => f.write_str("The words name the target as its title does."),
            Self::NamesHeading => f.write_str("The words name the target as its main heading does."),
            Self::NamesPhrase => f.write_str("The words are a phrase by which the target wants to be found."),
            Self::NamesPart => f.write_str("The words are a part of the target’s title."),
            Self::NamesSection => f.write_str("The words are a heading on the target."),
            Self::NamesTerm => f.write_str("The target explains these words."),
            Self::NamesAddress => f.write_str("The words are in the address of the target."),
            Self::NamesRepeated => f.write_str("The target speaks of these words again and again."),
            Self::NamesWord => f.write_str("This is one of the words of the target’s title."),
            Self::InUse { links: 1 } => f.write_str("A link with these words leads to the target."),
            Self::InUse { links } => write!(f, "{links} links with these words lead to the target."),
            Self::OftenLinked { linked, of } => {
                write!(f, "Where the words stand on this site, they are a link {linked} of {of} times.")
            }
            Self::SeldomLinked { of } => write!(f, "The words stand {of} times on this site, and are never a link."),
            Self::SingleWord => f.write_str("It is a single word, which may be meant in another sense."),
            Self::EverydayWord => f.write_str("It is a word of everyday language, which may not mean the target."),
            Self::OtherForm => f.write_str("The words stand in another form here than in the name."),
            Self::CommonWords { pages } => write!(f, "The words are common on this site: they stand on {pages} pages."),
            Self::EarlyOnPage => f.write_str("The place is in the first third of the page."),
            Self::MidPage => f.write_str("The place is in the middle of the page."),
            Self::LateOnPage => f.write_str("The place is in the last third of the page."),
            Self::NamedBefore => f.write_str("The page names the target earlier already."),
            Self::PartOfLongerName => f.write_str("The words are a part of a longer name."),
            Self::TableOrCaption => f.write_str("The place is in a table or a caption, where links are easily missed."),
            Self::InsideQuotation => f.write_str("The place is inside a quotation."),
            Self::InLinkedBlock => f.write_str("The paragraph has links already."),
            Self::TargetIsEntry => f.write_str("Readers start on the target."),
            Self::SourceUnreachable => {
                f.write_str("The page with these words is out of reach itself: no reader would find the link.")
            }
            Self::TargetIsOrphan => f.write_str("No page links to the target: it is an orphan."),
            Self::TargetUnreachable => f.write_str("The target cannot be reached from the entry page."),
            Self::TargetHangsOnOnePage => f.write_str("Only one page links to the target."),
            Self::TargetHasLinks { pages: 0 } => f.write_str("No page’s own text links to the target."),
            Self::TargetHasLinks { pages: 1 } => f.write_str("Only one page’s own text links to the target."),
            Self::TargetHasLinks { pages } => write!(f, "The text of {pages} pages links to the target."),
            Self::NamesOnlyThisPage => f.write_str("These words name no other page."),
            Self::NamesOtherPagesToo { pages: 1 } => f.write_str("These words name another page as well."),
            Self::NamesOtherPagesToo { pages } => write!(f, "These words name {pages} other pages as well."),
            Self::NoUsualWords => f.write_str("No link leads to the target yet, so no words are usual for it."),
            Self::FreshWords => f.write_str("No link to the target has these words yet."),
            Self::UsualWords { share } => write!(f, "{share} % of the links to the target have these words."),
        }
    }
}
