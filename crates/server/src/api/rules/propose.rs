//! Phrases for pages that want to be led to, of which rules can be made.

use std::collections::HashMap;

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::language::fold;
use strelm_core::phrases::NameSource;
use strelm_core::rules::{Leads, Phrase, RuleId};
use strelm_core::site::{PageId, Target};
use strelm_live::Model;
use strelm_store::{SiteId, page};
use utoipa::ToSchema;

use super::anchors::{AnchorInUse, in_use};
use crate::api::pages::PageRef;
use crate::api::state::page_of;
use crate::api::{ApiError, Problem, State};

const MOST_PAGES: usize = 500;

/// Phrases for a page.
const MOST_PHRASES: usize = 5;

/// Of which so many are words that lead there already.
const MOST_ANCHORS: usize = 2;

/// Links that are looked through for these.
const MOST_LINKS: i64 = 20_000;

/// For which pages phrases are asked.
#[derive(Debug, Deserialize, ToSchema)]
pub struct ProposeWish {
    pages: Vec<u32>,
}

/// A page with phrases that could lead to it.
#[derive(Debug, Serialize, ToSchema)]
pub struct PageWithPhrases {
    pub page: PageRef,
    pub phrases: Vec<ProposedPhrase>,
    /// The rules that lead there already.
    pub rules: Vec<u32>,
}

/// A phrase that could lead to a page.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProposedPhrase {
    pub text: String,
    /// Where it comes from, in plain words.
    pub from: String,
    /// Pages on which it stands.
    pub pages: u32,
    /// The page that it names more than this one.
    pub rival: Option<PageRef>,
    /// The rule that has it already.
    pub rule: Option<u32>,
    /// Whether it is a word that may be meant, and no name.
    pub is_guess: bool,
}

/// O(names of the pages).
#[utoipa::path(operation_id = "rules_propose", responses((status = 200, body = [PageWithPhrases]), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[post("/sites/{site}/rules/propose")]
pub async fn propose(
    state: web::Data<State>,
    path: web::Path<i32>,
    wish: web::Json<ProposeWish>,
) -> Result<web::Json<Vec<PageWithPhrases>>, ApiError> {
    if wish.pages.len() > MOST_PAGES {
        return Err(ApiError::Unusable(format!("Ask for at most {MOST_PAGES} pages at a time.")));
    }
    let live = state.whole_site(*path).await?;
    let pages = wish.into_inner().pages;
    let asked = pages.clone();
    let addresses = live.ask(move |model| {
        let address = |page: &u32| Some(model.site.page(PageId(*page))?.address.to_string());
        asked.iter().filter_map(address).collect::<Vec<_>>()
    });
    let links = page::links_to(&state.pool, SiteId(*path), &addresses.await?, MOST_LINKS).await?;
    Ok(web::Json(live.ask(move |model| proposed(model, &pages, &in_use(model, &links))).await??))
}

fn proposed(
    model: &Model,
    pages: &[u32],
    in_use: &HashMap<PageId, Vec<AnchorInUse>>,
) -> Result<Vec<PageWithPhrases>, ApiError> {
    let rules = &model.rules().kept;
    let phrases = rules.iter().flat_map(|kept| kept.rule.phrases.iter().map(move |phrase| (phrase, kept.rule.id)));
    let taken: HashMap<String, RuleId> = phrases
        .filter(|(phrase, _)| matches!(phrase, Phrase::Words(_)))
        .map(|(phrase, rule)| (fold(phrase.as_str()), rule))
        .collect();
    let mut leading: HashMap<PageId, Vec<u32>> = HashMap::new();
    for kept in rules {
        if let Leads::To(Target::Page(page)) = kept.rule.target {
            leading.entry(page).or_default().push(kept.rule.id.0);
        }
    }
    let of_page = |number: &u32| {
        let page = page_of(model, *number)?.id;
        let of_book = model.book.proposals(page, MOST_PHRASES);
        let is_new = |anchor: &&AnchorInUse| !of_book.iter().any(|known| fold(&known.text) == fold(&anchor.text));
        let anchors = in_use.get(&page).into_iter().flatten().filter(is_new).take(MOST_ANCHORS).map(|anchor| {
            Ok(ProposedPhrase {
                from: format!("the words of links on {}", of_pages(anchor.pages)),
                pages: anchor.pages,
                is_guess: false,
                rival: None,
                rule: taken.get(&fold(&anchor.text)).map(|rule| rule.0),
                text: anchor.text.clone(),
            })
        });
        let mut phrases: Vec<Result<ProposedPhrase, ApiError>> = anchors.collect();
        let of_book = of_book.into_iter().map(|proposal| {
            Ok(ProposedPhrase {
                from: said(proposal.source).to_owned(),
                pages: proposal.pages,
                is_guess: proposal.source == NameSource::Word,
                rival: proposal.rival.map(|rival| PageRef::of(model, rival.0)).transpose()?,
                rule: taken.get(&fold(&proposal.text)).map(|rule| rule.0),
                text: proposal.text,
            })
        });
        // What merely may be meant makes room for what authors say.
        let room = MOST_PHRASES - phrases.len();
        phrases.splice(0..0, of_book.take(room));
        Ok(PageWithPhrases {
            page: PageRef::of(model, *number)?,
            phrases: phrases.into_iter().collect::<Result<_, ApiError>>()?,
            rules: leading.remove(&page).unwrap_or_default(),
        })
    };
    pages.iter().map(of_page).collect()
}

fn of_pages(count: u32) -> String {
    if count == 1 { "one page".to_owned() } else { format!("{count} pages") }
}

const fn said(source: NameSource) -> &'static str {
    match source {
        NameSource::Listed => "a phrase that was listed",
        NameSource::Title => "its title",
        NameSource::Heading => "its heading",
        NameSource::Part => "a part of its title",
        NameSource::Section => "a heading of a section",
        NameSource::Term => "a term that it defines",
        NameSource::Slug => "its address",
        NameSource::Telling => "words that set it apart",
        NameSource::Word => "a word of its title",
    }
}
