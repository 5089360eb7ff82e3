//! Taking openings, one or many: each is looked at once more, with all that is in the tray and all that goes with it.

use std::collections::HashMap;
use std::sync::Arc;

use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use serde::Deserialize;
use strelm_core::document::{Document, TextSpan};
use strelm_core::limits::{Breach, ReleaseLoad};
use strelm_core::openings::Unwanted;
use strelm_core::site::{LinkForm, PageId};
use strelm_store::decision::LeftOut;
use strelm_store::page::PageText;
use strelm_store::taken::{Change, NewLink, OwnWording, TakenLink};
use strelm_store::{SiteId, page, site};
use utoipa::ToSchema;

use super::on_picture;
use crate::api::pages::Sentence;
use crate::api::state::page_of;
use crate::api::{ApiError, State};
use crate::edits::wording_of;
use crate::live::{LiveSite, Model};

pub const ALREADY: &str = "A link between these two pages is in the tray already: somebody was a moment faster.";

/// More links are not taken at once.
const MOST_AT_ONCE: usize = 2000;

/// A longer sentence is not written in the place of another.
const LONGEST_WORDING: usize = 2000;

/// A link to put on words of a page.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct TakeWish {
    source: u32,
    target: u32,
    /// Byte offsets into the text of the source page.
    words_start: usize,
    words_end: usize,
    /// The version of the source page that the editor saw.
    version: String,
    /// Whether the editor chose the words or the target, so that it need not be an opening that was found.
    #[serde(default)]
    pub by_hand: bool,
    /// The editor's own wording, in place of the whole sentence around the words.
    wording: Option<WordingWish>,
    /// The picture that is to carry the link instead of words, by its number on the page.
    picture: Option<usize>,
}

/// A sentence, with a link on some of it.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct WordingWish {
    before: String,
    anchor: String,
    after: String,
}

/// What can be taken of what was wished for.
#[derive(Default)]
pub struct ToTake {
    pub links: Vec<NewLink>,
    /// What each part of a fit added, for those that have one.
    pub lessons: Vec<[f32; 5]>,
    pub refused: Vec<LeftOut>,
}

/// A page with what was accepted on it so far.
struct OnPage {
    document: Document,
    added: Vec<(TextSpan, PageId)>,
}

impl ToTake {
    /// A single refused wish is an error; of many the others are taken. One query for all pages.
    pub async fn of(state: &State, id: SiteId, live: &Arc<LiveSite>, wishes: &[TakeWish]) -> Result<Self, ApiError> {
        if wishes.is_empty() || wishes.len() > MOST_AT_ONCE {
            return Err(ApiError::Unusable(format!("Take 1 to {MOST_AT_ONCE} links at once.")));
        }
        let settings = site::get(&state.pool, id).await?;
        let form = settings.and_then(|site| site.form_of_links());
        let mut sources: Vec<PageId> = wishes.iter().map(|wish| PageId(wish.source)).collect();
        sources.sort_unstable();
        sources.dedup();
        live.read_texts_of(&state.pool, sources.clone()).await?;
        let texts = page::texts(&state.pool, id, Some(&sources)).await?;
        let read = |text: PageText| {
            let source = text.source?;
            Some((text.page, OnPage { document: Document::read(source.text, source.format), added: Vec::new() }))
        };
        let pages = state.aside(move || texts.into_iter().filter_map(read).collect()).await?;
        let wishes = wishes.to_vec();
        live.ask(move |model| Self::on_pages(model, &wishes, pages, form.as_ref())).await?
    }

    fn on_pages(
        model: &Model,
        wishes: &[TakeWish],
        mut pages: HashMap<PageId, OnPage>,
        form: Option<&LinkForm>,
    ) -> Result<Self, ApiError> {
        for (page, on_page) in &mut pages {
            let planned = model.planned_on(*page).filter(|taken| taken.link.source_hash == on_page.document.hash());
            let put = planned.filter(|taken| taken.link.change.brings_link());
            on_page.added = put.filter_map(|taken| Some((taken.link.words, taken.link.target?))).collect();
        }
        let mut load = ReleaseLoad::default();
        let in_tray = model.planned.all().filter(|taken| taken.state.is_in_tray());
        let in_tray = in_tray.filter(|taken| taken.link.change.brings_link());
        for taken in in_tray {
            // What is beyond them is in the tray already.
            if let Some(target) = taken.link.target {
                let _ = load.add(model.rules().limits, target, taken.link.shown_anchor());
            }
        }
        let mut to_take = Self::default();
        for wish in wishes {
            match to_take.add(model, wish, &mut pages, &mut load, form) {
                Ok(()) => {}
                Err(refusal) if wishes.len() == 1 => return Err(refusal),
                Err(refusal) => to_take.refused.push(LeftOut {
                    source: wish.source,
                    target: wish.target,
                    words: words_of(model, wish),
                    why: refusal.to_string(),
                }),
            }
        }
        Ok(to_take)
    }

    fn add(
        &mut self,
        model: &Model,
        wish: &TakeWish,
        pages: &mut HashMap<PageId, OnPage>,
        load: &mut ReleaseLoad,
        form: Option<&LinkForm>,
    ) -> Result<(), ApiError> {
        let Planned { mut link, lesson, fragment } = planned(model, wish, pages)?;
        if let Some(form) = form {
            let (from, to) = (page_of(model, wish.source)?, page_of(model, wish.target)?);
            link.href = form.write(&from.address, &to.address);
        }
        if let Some(fragment) = fragment {
            link.href = format!("{}#{}", link.href, utf8_percent_encode(&fragment, FRAGMENT));
        }
        let target = PageId(wish.target);
        let on_page = pages.get_mut(&link.source).ok_or_else(not_editable)?;
        if let Change::Reword(says) = &link.change {
            let wording = wording_of(says, &link.href);
            on_page
                .document
                .replace_sentence(link.words, &wording)
                .map_err(|why| ApiError::Conflict(format!("This sentence cannot be reworded from here: {why}.")))?;
        }
        on_page.added.push((link.words, target));
        let breach = model.rules().limits.check_page(&on_page.document, &on_page.added, |_| false).pop().flatten();
        if let Some(breach) = breach {
            on_page.added.pop();
            return Err(match breach {
                // Somebody took a link between the two pages since this one was looked for.
                Breach::SameTarget => ApiError::Conflict(ALREADY.to_owned()),
                breach => too_much(&breach),
            });
        }
        let anchor = link.target.map(|target| (target, link.shown_anchor()));
        let load = anchor.map_or(Ok(()), |(target, words)| load.add(model.rules().limits, target, words));
        if let Err(breach) = load {
            on_page.added.pop();
            return Err(too_much(&breach));
        }
        self.links.push(link);
        self.lessons.extend(lesson);
        Ok(())
    }
}

fn words_of(model: &Model, wish: &TakeWish) -> String {
    let prose = model.book.prose(PageId(wish.source));
    let words = prose.and_then(|prose| prose.text().get(wish.words_start..wish.words_end.max(wish.words_start)));
    words.unwrap_or_default().to_owned()
}

fn too_much(breach: &Breach) -> ApiError {
    ApiError::Conflict(format!("This would be too much for readers: {breach}."))
}

fn not_editable() -> ApiError {
    ApiError::Conflict("This page cannot be edited from here.".to_owned())
}

/// What of a place on a page cannot stand in an address as it is.
const FRAGMENT: &AsciiSet = &CONTROLS.add(b' ').add(b'"').add(b'<').add(b'>').add(b'`').add(b'%').add(b'#');

/// A link as it goes into the tray.
struct Planned {
    link: NewLink,
    /// What its fit was made of.
    lesson: Option<[f32; 5]>,
    /// The place on the target that its words name.
    fragment: Option<Box<str>>,
}

/// Nothing is taken on a page that has changed.
fn planned(model: &Model, wish: &TakeWish, pages: &HashMap<PageId, OnPage>) -> Result<Planned, ApiError> {
    page_of(model, wish.source)?;
    let target = page_of(model, wish.target)?;
    let source = PageId(wish.source);
    let hash = model.versions.get(&source).copied().filter(|hash| hash.to_string() == wish.version);
    let hash = hash.ok_or_else(|| {
        ApiError::Conflict("The page was read anew meanwhile. Look at its openings once more.".to_owned())
    })?;
    let is_planned = |taken: &&TakenLink| taken.link.change.brings_link() && taken.link.target == Some(target.id);
    if model.planned_on(source).any(|taken| is_planned(&taken)) {
        return Err(ApiError::Conflict(ALREADY.to_owned()));
    }
    if let Some(picture) = wish.picture {
        check_pair(model, source, target.id)?;
        let document = &pages.get(&source).ok_or_else(not_editable)?.document;
        let link = on_picture::link(model, source, target, document, picture)?;
        return Ok(Planned { link, lesson: None, fragment: None });
    }
    let words = TextSpan::new(wish.words_start, wish.words_end.max(wish.words_start));
    let opening = model.opening_on(source, target.id, words);
    if opening.is_none() {
        if !wish.by_hand {
            let why = "This opening is gone: its words were used, or it was passed or taken meanwhile.";
            return Err(ApiError::Conflict(why.to_owned()));
        }
        check_by_hand(model, source, target.id, words, pages)?;
    }
    let sentence = model.judge().sentence_of(source, words);
    let (change, words, said) = match &wish.wording {
        None => (Change::Put, words, Sentence::on_page(model, source, sentence, words)),
        Some(wording) => {
            let whole = Sentence::on_page(model, source, sentence, sentence);
            (Change::Reword(says_of(wording, &whole.anchor)?), sentence, whole)
        }
    };
    let fragment = opening.as_ref().and_then(|opening| Some(opening.place.as_ref()?.id.clone()));
    let fragment = fragment.filter(|fragment| model.has_fragment(target.id, fragment));
    let lesson = opening.as_ref().filter(|_| wish.wording.is_none()).map(|opening| opening.fit.lesson());
    let link = NewLink {
        change,
        source,
        target: Some(target.id),
        words,
        source_hash: hash,
        anchor: said.anchor,
        before_anchor: said.before,
        after_anchor: said.after,
        href: target.address.from_root(),
        fit: opening.filter(|_| wish.wording.is_none()).map(|opening| opening.fit.total()),
    };
    Ok(Planned { link, lesson, fragment })
}

/// Whether a page may lead to another that the editor chose.
fn check_pair(model: &Model, source: PageId, target: PageId) -> Result<(), ApiError> {
    if source == target {
        return Err(ApiError::Conflict("A page does not lead to itself. Choose another target.".to_owned()));
    }
    if model.site.leads_to(source, target) {
        return Err(ApiError::Conflict("The text of this page leads there already.".to_owned()));
    }
    Ok(())
}

/// Whether words that the editor chose may lead to a page that the editor chose.
fn check_by_hand(
    model: &Model,
    source: PageId,
    target: PageId,
    words: TextSpan,
    pages: &HashMap<PageId, OnPage>,
) -> Result<(), ApiError> {
    let refuse = |why: &str| Err(ApiError::Conflict(why.to_owned()));
    check_pair(model, source, target)?;
    if model.wanted().planned(source).iter().any(|link| link.overlaps(words)) {
        return refuse("These words carry another link in the tray. Drop that one first, or choose other words.");
    }
    let on_page = pages.get(&source).ok_or_else(not_editable)?;
    if on_page.document.text().as_str().get(words.range()).is_none() {
        return refuse("These words are not on the page any more. Look at it once more.");
    }
    match on_page.document.may_link_chosen(words) {
        Ok(_) => Ok(()),
        Err(why) => Err(ApiError::Conflict(format!("These words cannot carry a link: {why}."))),
    }
}

/// The editor's wording, tidied; `whole` is the sentence as it is.
fn says_of(wording: &WordingWish, whole: &str) -> Result<OwnWording, ApiError> {
    let tidy = |text: &str| text.replace(char::is_control, " ");
    let (before, anchor, after) = (tidy(&wording.before), tidy(&wording.anchor), tidy(&wording.after));
    let unusable = |why: String| Err(ApiError::Unusable(why));
    if anchor.trim().is_empty() {
        return unusable("Mark the words that are to carry the link.".to_owned());
    }
    if before.len() + anchor.len() + after.len() > LONGEST_WORDING {
        return unusable(format!("A sentence has at most {LONGEST_WORDING} letters here."));
    }
    if format!("{before}{anchor}{after}").trim() == whole.trim() {
        return unusable("The wording is what it was. Use “other words” to put the link on other words.".to_owned());
    }
    // White space at the ends of the link would be underlined.
    let lead = &anchor[..anchor.len() - anchor.trim_start().len()];
    let tail = &anchor[anchor.trim_end().len()..];
    Ok(OwnWording {
        before: format!("{before}{lead}"),
        anchor: anchor.trim().to_owned(),
        after: format!("{tail}{after}"),
    })
}
