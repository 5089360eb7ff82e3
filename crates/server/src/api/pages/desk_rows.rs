//! The rows beside the page on the Desk: links that exist, openings, and what is in the tray.

use std::collections::HashMap;
use std::collections::hash_map::Entry;

use serde::Serialize;
use strelm_core::document::{Document, QuotedSentence, TextSpan};
use strelm_core::openings::{Fit, Opening};
use strelm_core::phrases::NamedPlace;
use strelm_core::site::PageId;
use strelm_core::tray::{Change, PlannedLink};
use utoipa::ToSchema;

use super::Repair;
use super::link_manner::LinkManner;
use super::row::PageRef;
use crate::api::ApiError;
use crate::api::tray::show::Doing;
use strelm_live::Model;

/// A link that exists.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkRow {
    /// The page at the other end; null when there is none on this site.
    pub page: Option<PageRef>,
    /// Where it leads, for a link to another site or to nothing.
    pub address: String,
    pub anchor: String,
    pub region: String,
    /// Why it leads nowhere, in plain words; null when it leads somewhere.
    pub fault: Option<String>,
    /// What else is to be known of where it leads, in plain words.
    pub notes: Vec<String>,
    /// How it stands on this page; null for links of other pages and for what stands around the text.
    pub standing: Option<LinkManner>,
    /// How it can be mended, when something is wrong with it and its page can be edited.
    pub repair: Option<Repair>,
    /// The rule that made it.
    pub rule: Option<LinkOfRule>,
    /// How often the same link stands on other pages too, when it is boilerplate repeated across the site.
    pub repeated: u32,
    /// How often the page has this very link, with the same words and saying the same; it stands as the first of them.
    pub times: u32,
}

/// The rule that made a link.
#[derive(Debug, Serialize, ToSchema, Clone)]
pub struct LinkOfRule {
    pub number: u32,
    /// Its first phrase; null when it was removed.
    pub phrase: Option<String>,
    /// By which the place is passed.
    pub spot: String,
}

impl LinkRow {
    /// Links between the same places with the same words from the same region, which say the same, as one row: the first
    /// of them. O(rows).
    pub fn once_each(rows: Vec<Self>) -> Vec<Self> {
        let mut once: Vec<Self> = Vec::new();
        let mut known: HashMap<(Option<u32>, String, String, String), Vec<usize>> = HashMap::new();
        for row in rows {
            let page = row.page.as_ref().map(|page| page.number);
            let alike = known.entry((page, row.address.clone(), row.anchor.clone(), row.region.clone())).or_default();
            match alike.iter().find(|at| once[**at].stands_as(&row)) {
                Some(at) => once[*at].times += 1,
                None => {
                    alike.push(once.len());
                    once.push(row);
                }
            }
        }
        once
    }

    fn stands_as(&self, other: &Self) -> bool {
        let manner = |row: &Self| row.standing.as_ref().map(|manner| (manner.carried_by, manner.says.clone()));
        self.repeated == 1
            && other.repeated == 1
            && self.rule.is_some() == other.rule.is_some()
            && manner(self) == manner(other)
    }
}

/// A part of a fit, as a share of what it can reach.
#[derive(Debug, Serialize, ToSchema)]
pub struct PartRow {
    pub part: String,
    /// 0 to 1: how much it speaks for the opening, among all that is found.
    pub strength: f64,
}

/// A sentence with the words that carry, or could carry, a link.
#[derive(Debug, Serialize, ToSchema, Clone)]
pub struct Sentence {
    pub before: String,
    pub anchor: String,
    pub after: String,
}

/// A place on a page to which a link can lead.
#[derive(Debug, Serialize, ToSchema)]
pub struct TargetPlace {
    /// By which a fragment points at it.
    pub id: String,
    /// The heading or the term that stands there.
    pub text: String,
}

impl TargetPlace {
    fn of(place: &NamedPlace) -> Self {
        Self { id: place.id.as_ref().to_owned(), text: place.text.as_ref().to_owned() }
    }
}

/// An opening with its sentence and its fit.
#[derive(Debug, Serialize, ToSchema)]
pub struct OpeningRow {
    /// The page at the other end.
    pub page: PageRef,
    pub source: u32,
    pub target: u32,
    /// Byte offsets into the text of the source page, for taking it.
    pub words_start: usize,
    pub words_end: usize,
    /// The version of the source page, for taking it.
    pub version: String,
    pub sentence: Sentence,
    /// The place on the target to which the link leads; null for the page as a whole.
    pub place: Option<TargetPlace>,
    /// 0 to 100.
    pub fit: f64,
    pub parts: Vec<PartRow>,
    /// Further pages with the very same sentence, as where a text is included in several; of links that lead in.
    pub also: Vec<AlsoOn>,
}

/// A further page with the sentence of an opening.
#[derive(Debug, Serialize, ToSchema)]
pub struct AlsoOn {
    pub page: PageRef,
    pub source: u32,
    pub words_start: usize,
    pub words_end: usize,
    pub version: String,
}

/// A link in the tray.
#[derive(Debug, Serialize, ToSchema)]
pub struct TakenRow {
    pub change: i64,
    pub doing: Doing,
    /// The page at the other end; null when it leads to what is no page of the site.
    pub page: Option<PageRef>,
    /// What is written into the page.
    pub href: String,
    pub sentence: Sentence,
    /// Whether it was handed over and waits to be put in.
    pub handed_over: bool,
}

/// Openings that were set aside.
#[derive(Debug, Serialize, ToSchema)]
pub struct PassedRow {
    /// Its own number, to bring it back.
    pub passed: i64,
    /// The page at the other end; null for all pages.
    pub page: Option<PageRef>,
    pub source: Option<u32>,
    pub target: u32,
    pub anchor: String,
    /// Whether only this one place is set aside.
    pub one_place: bool,
}

impl OpeningRow {
    /// `other` is the page at the other end, as seen from the Desk.
    pub fn of(model: &Model, opening: &Opening, other: u32) -> Result<Self, ApiError> {
        let version = model.versions.get(&opening.source).map(ToString::to_string).unwrap_or_default();
        Ok(Self {
            page: PageRef::of(model, other)?,
            source: opening.source.0,
            target: opening.target.0,
            words_start: opening.words.start,
            words_end: opening.words.end,
            version,
            sentence: Sentence::of(model, opening),
            place: opening.place.as_deref().map(TargetPlace::of),
            fit: opening.fit.total(),
            parts: parts(&opening.fit),
            also: Vec::new(),
        })
    }

    /// Openings that lead in, those with the very same sentence and words as one. In the order of the first of each.
    /// O(rows).
    pub fn gathered(rows: Vec<Self>) -> Vec<Self> {
        let mut gathered: Vec<Self> = Vec::new();
        let mut places: HashMap<(String, usize), usize> = HashMap::new();
        for row in rows {
            let Sentence { before, anchor, after } = &row.sentence;
            match places.entry((format!("{before}{anchor}{after}"), before.len())) {
                Entry::Vacant(place) => {
                    place.insert(gathered.len());
                    gathered.push(row);
                }
                Entry::Occupied(place) => {
                    let Self { page, source, words_start, words_end, version, .. } = row;
                    gathered[*place.get()].also.push(AlsoOn { page, source, words_start, words_end, version });
                }
            }
        }
        gathered
    }
}

impl Sentence {
    /// The sentence around words of a document.
    pub fn around(document: &Document, words: TextSpan) -> Option<Self> {
        document.quote_around(words).map(Self::from)
    }

    /// White space is folded, but kept as one space beside the words.
    pub fn of(model: &Model, opening: &Opening) -> Self {
        Self::on_page(model, opening.source, opening.sentence, opening.words)
    }

    /// The sentence as it stands on a page of the model.
    pub fn on_page(model: &Model, page: PageId, sentence: TextSpan, words: TextSpan) -> Self {
        let text = model.book.prose(page).map(|prose| prose.text()).unwrap_or_default();
        QuotedSentence::of(text, sentence, words).into()
    }

    /// What a picture says, in the place of words.
    pub fn of_picture(says: &str) -> Self {
        Self { before: "Picture: ".to_owned(), anchor: says.to_owned(), after: String::new() }
    }

    /// Of a link in the tray, as it will be.
    pub fn of_link(link: &PlannedLink) -> Self {
        match &link.change {
            Change::PutOnPicture(_) => Self::of_picture(&link.said.anchor),
            Change::Reword(wording) => wording.clone().into(),
            _ => link.said.clone().into(),
        }
    }
}

impl From<QuotedSentence> for Sentence {
    fn from(QuotedSentence { before, anchor, after }: QuotedSentence) -> Self {
        Self { before, anchor, after }
    }
}

fn parts(fit: &Fit) -> Vec<PartRow> {
    let row = |score: &strelm_core::openings::PartScore| PartRow {
        part: score.part.as_str().to_owned(),
        strength: score.strength,
    };
    fit.parts.iter().map(row).collect()
}
