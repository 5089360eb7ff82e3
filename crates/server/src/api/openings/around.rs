//! What else could be done with words of a page: other words of the sentence, other targets, other places.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::{Document, Lost, Quote, TextSpan};
use strelm_core::language::words;
use strelm_core::openings::{Proposal, Unwanted};
use strelm_core::phrases::NameSource;
use strelm_core::site::PageId;
use strelm_core::tray::TakeRefusal;
use strelm_store::{SiteId, page};
use utoipa::{IntoParams, ToSchema};

use crate::api::pages::{OpeningRow, PageRef, Sentence};
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};
use strelm_live::Model;

const MOST_TARGETS: usize = 12;

/// Words of a page: by their place, or as they were selected on the screen.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    source: u32,
    /// The page to which they are to lead, when there is one already.
    target: Option<u32>,
    /// Byte offsets into the text of the page.
    start: Option<usize>,
    end: Option<usize>,
    /// Or the selected words with what stands before and after them in their paragraph.
    anchor: Option<String>,
    before: Option<String>,
    after: Option<String>,
    /// Or a picture, by its number on the page.
    picture: Option<usize>,
}

/// Words with what surrounds them, and where they could lead.
#[derive(Debug, Serialize, ToSchema)]
pub struct Around {
    pub source: u32,
    pub version: String,
    pub words_start: usize,
    pub words_end: usize,
    pub sentence: Sentence,
    /// The words of the sentence, so that more or fewer of them can be chosen.
    pub words: Vec<SentenceWord>,
    /// Why these words cannot carry a link; null when they can.
    pub refusal: Option<String>,
    /// How well they fit, when they are a name of the target.
    pub opening: Option<OpeningRow>,
    /// Other places on the page that name the target.
    pub places: Vec<OpeningRow>,
    /// Pages to which these words could lead, the likeliest first.
    pub targets: Vec<WordTarget>,
}

/// A word of the sentence, which may be among those that carry the link.
#[derive(Debug, Serialize, ToSchema)]
pub struct SentenceWord {
    pub text: String,
    /// What stands between it and the word before.
    pub gap: String,
    pub start: usize,
    pub end: usize,
    /// Whether it is one of the chosen words.
    pub chosen: bool,
}

/// A page to which the words could lead.
#[derive(Debug, Serialize, ToSchema)]
pub struct WordTarget {
    pub page: PageRef,
    /// 0 to 100, when the words are a name of the page.
    pub fit: Option<f64>,
    /// What the words have to do with the page.
    pub why: String,
    /// Why no link to it is wanted from this page; null when one may be taken.
    pub unwanted: Option<String>,
}

/// O(bytes of the page), and at most a few thousand pages that have one of the words in a name.
#[utoipa::path(operation_id = "openings_around", params(Query), responses((status = 200, body = Around), (status = 404, body = Problem), (status = 409, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/openings/around")]
pub async fn around(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<web::Json<Around>, ApiError> {
    let live = state.whole_site(*path).await?;
    let source = PageId(query.source);
    let query = query.into_inner();
    live.read_texts_of(&state.pool, vec![source]).await?;
    live.ask(move |model| page_of(model, source.0).map(drop)).await??;
    let text = page::text(&state.pool, SiteId(*path), source).await?.and_then(|text| text.source);
    let text = text.ok_or_else(|| ApiError::Conflict("This page cannot be edited from here.".to_owned()))?;
    let document = state.aside(move || Document::read(text.text, text.format)).await?;
    Ok(web::Json(live.ask(move |model| around_words(model, source, &document, &query)).await??))
}

fn around_words(model: &Model, source: PageId, document: &Document, query: &Query) -> Result<Around, ApiError> {
    if model.versions.get(&source) != Some(&document.hash()) {
        return Err(ApiError::Conflict("The page was read anew meanwhile. Look at it once more.".to_owned()));
    }
    if let Some(picture) = query.picture {
        return around_picture(model, source, document, picture);
    }
    let words = chosen(document, query)?;
    let sentence = model.judge().sentence_of(source, words);
    let target = query.target.map(|target| page_of(model, target)).transpose()?.map(|page| page.id);
    let is_used = model.linkable().planned(source).iter().any(|link| link.overlaps(words));
    let refusal = match document.may_link_chosen(words) {
        _ if is_used => Some("These words carry a link in the tray already.".to_owned()),
        Err(why) => Some(format!("They cannot carry a link: {why}.")),
        Ok(_) => None,
    };
    let opening = target.and_then(|target| model.opening_on(source, target, words));
    let places = target.map(|target| other_places(model, source, target, words)).unwrap_or_default();
    let proposals = model.judge().targets_for(source, words, MOST_TARGETS);
    Ok(Around {
        source: query.source,
        version: document.hash().to_string(),
        words_start: words.start,
        words_end: words.end,
        sentence: Sentence::on_page(model, source, sentence, words),
        words: sentence_words(document, sentence, words),
        refusal,
        opening: opening.map(|opening| OpeningRow::of(model, &opening, opening.target.0)).transpose()?,
        places: places.iter().map(|o| OpeningRow::of(model, o, o.target.0)).collect::<Result<_, _>>()?,
        targets: proposals.iter().map(|p| WordTarget::of(model, source, p)).collect::<Result<_, _>>()?,
    })
}

/// What a picture says takes the place of the words.
fn around_picture(model: &Model, source: PageId, document: &Document, ordinal: usize) -> Result<Around, ApiError> {
    let picture = document.pictures().get(ordinal).ok_or(TakeRefusal::PictureGone)?;
    let says = picture.says().unwrap_or_default();
    let proposals = model.judge().targets_for_picture(source, &says, picture.text_at, MOST_TARGETS);
    Ok(Around {
        source: source.0,
        version: document.hash().to_string(),
        words_start: picture.text_at,
        words_end: picture.text_at,
        sentence: Sentence::of_picture(&picture.said()),
        words: Vec::new(),
        refusal: model.ground(None).picture_refusal(source, document, ordinal).map(|why| why.to_string()),
        opening: None,
        places: Vec::new(),
        targets: proposals.iter().map(|p| WordTarget::of(model, source, p)).collect::<Result<_, _>>()?,
    })
}

/// The words that are meant, without white space at their ends.
fn chosen(document: &Document, query: &Query) -> Result<TextSpan, ApiError> {
    let gone = || ApiError::Conflict("These words are not on the page any more. Look at it once more.".to_owned());
    if let Some(anchor) = &query.anchor {
        let (before, after) = (query.before.as_deref().unwrap_or_default(), query.after.as_deref().unwrap_or_default());
        return document.find_again(&Quote { before, anchor, after }, 0).map_err(|why| match why {
            Lost::Sentence => ApiError::Conflict("Select words within one paragraph of the text.".to_owned()),
            Lost::Refused(why) => ApiError::Conflict(format!("These words cannot carry a link: {why}.")),
        });
    }
    let (start, end) = query.start.zip(query.end).filter(|(start, end)| start < end).ok_or_else(gone)?;
    let text = document.text().as_str().get(start..end).ok_or_else(gone)?;
    let trimmed = text.trim_start();
    let start = end - trimmed.len();
    let words = TextSpan::new(start, start + trimmed.trim_end().len());
    document.block_of(words).map(|_| words).ok_or_else(gone)
}

fn other_places(model: &Model, source: PageId, target: PageId, words: TextSpan) -> Vec<strelm_core::openings::Opening> {
    let wanted = model.linkable();
    let used = wanted.planned(source);
    let mut places = model.judge().openings_to(source, target);
    places.retain(|place| {
        place.words != words
            && !used.iter().any(|link| link.overlaps(place.words))
            && !wanted.words(source, target, place.words)
    });
    places
}

fn sentence_words(document: &Document, sentence: TextSpan, chosen: TextSpan) -> Vec<SentenceWord> {
    let text = document.text().slice(sentence);
    let mut at = 0;
    words(text)
        .map(|word| {
            let gap = text.get(at..word.span.start).unwrap_or_default().to_owned();
            at = word.span.end;
            let span = TextSpan::new(sentence.start + word.span.start, sentence.start + word.span.end);
            SentenceWord {
                text: word.text.to_owned(),
                gap,
                start: span.start,
                end: span.end,
                chosen: span.overlaps(chosen),
            }
        })
        .collect()
}

impl WordTarget {
    fn of(model: &Model, source: PageId, proposal: &Proposal) -> Result<Self, ApiError> {
        let target = proposal.target;
        let linked = model.site.leads_to(source, target);
        let unwanted = if linked {
            Some("The page leads there already.")
        } else if model.linkable().pair(source, target) {
            Some("Passed, or left out by the limits in Setup.")
        } else {
            None
        };
        let why = match &proposal.name {
            Some((NameSource::Title | NameSource::Heading, _)) if proposal.has_all => {
                "Its title has these words".to_owned()
            }
            Some((NameSource::Title | NameSource::Heading | NameSource::Word, _)) => {
                "Its title has some of these words".to_owned()
            }
            Some((NameSource::Listed, name)) => format!("It wants to be found by “{name}”"),
            Some((NameSource::Section, name)) => format!("It has a section “{name}”"),
            Some((NameSource::Term, name)) => format!("It explains “{name}”"),
            Some((NameSource::Part, name)) => format!("“{name}” is a part of its title"),
            Some((NameSource::Telling, name)) => format!("It speaks of “{name}” again and again"),
            Some((NameSource::Slug, _)) if proposal.has_all => "Its address has these words".to_owned(),
            Some((NameSource::Slug, _)) => "Its address has some of these words".to_owned(),
            None => "It is about what stands here".to_owned(),
        };
        Ok(Self {
            page: PageRef::of(model, target.0)?,
            fit: proposal.opening.as_ref().map(|opening| opening.fit.total()),
            why,
            unwanted: unwanted.map(str::to_owned),
        })
    }
}
