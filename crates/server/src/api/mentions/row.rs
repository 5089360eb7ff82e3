//! The mentions of a page as editors see them: each in its sentence, with what it carries.

use std::collections::HashMap;
use std::ops::Range;

use serde::Serialize;
use strelm_core::document::{Document, QuotedSentence, Refusal, TextSpan};
use strelm_core::mentions::{MentionPlace, ProseMention};
use strelm_core::site::{Address, Destination, PageFacts};
use strelm_core::tray::TrayEntry;
use strelm_live::Model;
use strelm_live::mentions::PageMentions;
use utoipa::ToSchema;

use super::wish::PartName;
use crate::api::ApiError;
use crate::api::pages::{PageRef, Sentence};

/// Mentions of a page that are told one by one, unless all are asked for.
const FIRST_OF_PAGE: usize = 12;
const MOST_OF_PAGE: usize = 1000;

/// A page with mentions.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageWithMentions {
    pub page: PageRef,
    /// The version of its text, for taking links; none where it cannot be edited.
    pub version: Option<String>,
    /// How many there are; not all need be told.
    pub total: usize,
    /// In text order, those of its title first and those of its pictures last.
    pub mentions: Vec<MentionRow>,
}

/// Words of a page that are a phrase.
#[derive(Debug, Serialize, ToSchema)]
pub struct MentionRow {
    /// Which of the phrases, from 0.
    pub phrase: usize,
    pub part: PartName,
    /// Byte offsets into the text of the page, for taking a link; of a picture and a title none.
    pub words: Option<[usize; 2]>,
    /// The picture that says it, by its number on the page.
    pub picture: Option<usize>,
    pub sentence: Sentence,
    pub state: MentionRowState,
    /// Where the words lead, or are to lead.
    pub leads: Option<MentionLead>,
    /// Why they could carry no link, in plain words.
    pub why: Option<String>,
}

/// What words carry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MentionRowState {
    /// No link, and they could.
    Free,
    Linked,
    /// A link that is in the tray.
    InTray,
    /// No link, and they cannot.
    Refused,
}

/// Where words lead.
#[derive(Debug, Serialize, ToSchema)]
pub struct MentionLead {
    pub page: Option<PageRef>,
    /// As it is written.
    pub href: String,
}

/// A page with its document, for telling what its mentions carry.
pub struct MentionsOnPage<'d> {
    pub found: &'d PageMentions,
    /// `None` where the page has no text that could be edited, or another than when it was looked at.
    pub document: Option<&'d Document>,
    /// Where what is written in its content leads.
    pub hrefs: &'d HashMap<String, Address>,
    /// Whether all are told.
    pub are_all: bool,
}

impl MentionsOnPage<'_> {
    /// O(mentions × (links + pictures)), of those that are told.
    ///
    /// # Errors
    /// [`ApiError::NotFound`] when the page is gone.
    pub fn row(&self, model: &Model) -> Result<PageWithMentions, ApiError> {
        let page = PageRef::of(model, self.found.page.0)?;
        let most = if self.are_all { MOST_OF_PAGE } else { FIRST_OF_PAGE };
        let planned: Vec<&TrayEntry> = model.tray.on(self.found.page).collect();
        let facts = model.site.page(self.found.page);
        let mentions = self.found.mentions.iter().take(most);
        let mentions =
            mentions.filter_map(|mention| self.mention(model, facts?, page.title.as_str(), &planned, mention));
        Ok(PageWithMentions {
            version: self.document.map(|document| document.hash().to_string()),
            total: self.found.mentions.len(),
            mentions: mentions.collect(),
            page,
        })
    }

    fn mention(
        &self,
        model: &Model,
        facts: &PageFacts,
        title: &str,
        planned: &[&TrayEntry],
        mention: &ProseMention,
    ) -> Option<MentionRow> {
        let row = |sentence: QuotedSentence, carries: Carried| MentionRow {
            phrase: mention.phrase,
            part: PartName::of(mention.part).unwrap_or(PartName::Text),
            words: None,
            picture: None,
            sentence: sentence.into(),
            state: carries.state,
            leads: carries.leads,
            why: carries.why,
        };
        let to = |href: &str| lead(model, facts, self.hrefs, href);
        Some(match &mention.place {
            MentionPlace::Title(words) => {
                row(within(title, words), Carried::refused("a title carries no links".to_owned()))
            }
            MentionPlace::Text(words) => {
                let document = self.document?;
                let in_tray = planned.iter().find(|entry| entry.link.words.overlaps(*words));
                let carries = match (in_tray, link_at(document, *words)) {
                    (Some(entry), _) => Carried::planned(to(&entry.link.href)),
                    (None, Some(link)) => Carried::linked(to(&document.links()[link].href)),
                    (None, None) => Carried::none(document.may_link(*words).err()),
                };
                let sentence = document.quote_around(*words)?;
                MentionRow { words: Some([words.start, words.end]), ..row(sentence, carries) }
            }
            MentionPlace::Alt { picture, words } => {
                let document = self.document?;
                let shown = document.pictures().get(*picture)?;
                let is_this = |entry: &&&TrayEntry| entry.picture(document) == Some(*picture);
                let carries = match (planned.iter().find(is_this), shown.link) {
                    (Some(entry), _) => Carried::planned(to(&entry.link.href)),
                    (None, Some(link)) => Carried::linked(to(&document.links()[link].href)),
                    (None, None) => Carried::none(document.may_link_picture(*picture).err()),
                };
                MentionRow { picture: Some(*picture), ..row(within(shown.alt.as_deref()?, words), carries) }
            }
        })
    }
}

/// The link that some of the words carry. O(links).
fn link_at(document: &Document, words: TextSpan) -> Option<usize> {
    document.links().iter().position(|link| !link.text.is_empty() && link.text.overlaps(words))
}

/// What words carry, and where they lead.
struct Carried {
    state: MentionRowState,
    leads: Option<MentionLead>,
    why: Option<String>,
}

impl Carried {
    const fn linked(leads: MentionLead) -> Self {
        Self { state: MentionRowState::Linked, leads: Some(leads), why: None }
    }

    const fn planned(leads: MentionLead) -> Self {
        Self { state: MentionRowState::InTray, leads: Some(leads), why: None }
    }

    const fn refused(why: String) -> Self {
        Self { state: MentionRowState::Refused, leads: None, why: Some(why) }
    }

    fn none(refusal: Option<Refusal>) -> Self {
        match refusal {
            Some(refusal) => Self::refused(refusal.to_string()),
            None => Self { state: MentionRowState::Free, leads: None, why: None },
        }
    }
}

fn lead(model: &Model, from: &PageFacts, hrefs: &HashMap<String, Address>, href: &str) -> MentionLead {
    let to = hrefs.get(href).cloned().or_else(|| match from.address.follow(href) {
        Destination::Page { address, .. } => Some(address),
        Destination::Other(_) | Destination::Unusable => None,
    });
    let page = to.and_then(|to| model.site.page_at(&to)).and_then(|page| PageRef::of(model, page.0).ok());
    MentionLead { page, href: href.to_owned() }
}

fn within(text: &str, words: &Range<usize>) -> QuotedSentence {
    QuotedSentence::of(text, TextSpan::new(0, text.len()), TextSpan::new(words.start, words.end))
}
