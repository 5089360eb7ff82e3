//! The limits that hold for the links of a site, and what was learnt from decisions.

use std::collections::HashSet;

use actix_web::{HttpResponse, delete, get, put, web};
use serde::{Deserialize, Serialize};
use strelm_core::limits::{LinkLimits, SiteLimits};
use strelm_core::openings::Part;
use strelm_store::{SiteId, lesson, site_limits};
use utoipa::ToSchema;

use crate::api::{ApiError, Problem, State};
use strelm_live::{Model, ModelKnown, known_habits};

const MOST_WORDS: usize = 1000;
const LONGEST_WORDS: usize = 200;
const MOST_CATEGORIES: usize = 200;
const MOST_MONTHS: u32 = 1200;

/// What editors want of links everywhere on a site.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
pub struct LimitsWish {
    per_sentence: usize,
    /// A page carries one link for so many words of its text.
    words_per_link: usize,
    /// The first words of a page's text, which carry none.
    first_words_free: usize,
    /// Words that never carry a link.
    never_words: Vec<String>,
    /// Categories without openings.
    left_out: Vec<String>,
    /// Whether a page may lead back to one that leads to it.
    links_back: bool,
    /// Pages that were published longer ago, in months, are not led to by openings.
    oldest_months: Option<u32>,
    /// Whether openings are judged also by what the site's own links tell of its authors.
    follows_habits: bool,
}

/// The same, and what decisions taught.
#[derive(Debug, Serialize, ToSchema)]
pub struct LimitsAndLessons {
    limits: LimitsWish,
    /// Categories of the site, to choose from.
    categories: Vec<String>,
    /// Openings that were taken and passed, and how many of these decisions were learnt from.
    taken: usize,
    passed: usize,
    learnt_from: usize,
    /// How much more, or less, of the same openings is kept here than was taken for granted: a factor of the odds.
    keeps: f32,
    /// How much each part counts beside what it counted at first.
    parts: Vec<PartCounts>,
    /// How many of the site's own links were learnt from; nothing where there are too few.
    habits_of: Option<usize>,
}

/// How much of a part of the fit decisions changed.
#[derive(Debug, Serialize, ToSchema)]
pub struct PartCounts {
    part: String,
    /// 1 for as much as at first.
    counts: f32,
}

/// What is decided for the whole site.
#[utoipa::path(operation_id = "sites_limits", responses((status = 200, body = LimitsAndLessons), (status = 404, body = Problem)))]
#[get("/sites/{site}/limits")]
pub async fn show(state: web::Data<State>, path: web::Path<i32>) -> Result<web::Json<LimitsAndLessons>, ApiError> {
    let live = state.site(*path).await?;
    let (taken, passed) = lesson::count(&state.pool, SiteId(*path)).await?;
    let ModelKnown { shipped, .. } = live.ask(Model::known).await?;
    let habits = known_habits(&state.pool, SiteId(*path), shipped).await?;
    let told = move |model: &Model| limits_and_lessons(model, taken, passed, habits.map(|habits| habits.links));
    Ok(web::Json(live.ask(told).await?))
}

fn limits_and_lessons(model: &Model, taken: usize, passed: usize, habits_of: Option<usize>) -> LimitsAndLessons {
    let limits = model.limits();
    let mut categories: Vec<_> = model.site.pages().filter_map(|page| page.category.clone()).collect();
    categories.extend(limits.left_out.iter().cloned());
    categories.sort();
    categories.dedup();
    let counts = |(part, counts): (Part, f32)| PartCounts { part: part.as_str().to_owned(), counts };
    LimitsAndLessons {
        limits: LimitsWish {
            per_sentence: limits.links.per_sentence,
            words_per_link: limits.links.words_per_link,
            first_words_free: limits.links.first_words_free,
            never_words: limits.never_words.clone(),
            left_out: limits.left_out.clone(),
            links_back: limits.links_back,
            oldest_months: limits.oldest_months,
            follows_habits: limits.follows_habits,
        },
        categories,
        taken,
        passed,
        learnt_from: model.learnt_from.count,
        keeps: (model.taste.keeps - strelm_core::openings::Taste::EDITOR.keeps).exp(),
        parts: Part::ALL.into_iter().zip(model.taste.scales).map(counts).collect(),
        habits_of,
    }
}

/// Sets what is decided for the whole site.
#[utoipa::path(operation_id = "sites_set_limits", responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sites/{site}/limits")]
pub async fn set(
    state: web::Data<State>,
    path: web::Path<i32>,
    wanted: web::Json<LimitsWish>,
) -> Result<HttpResponse, ApiError> {
    let unusable = |why: &str| Err(ApiError::Unusable(why.to_owned()));
    if !(1..=20).contains(&wanted.per_sentence) {
        return unusable("A sentence carries 1 to 20 links.");
    }
    if !(1..=1000).contains(&wanted.words_per_link) {
        return unusable("There is one link for every 1 to 1,000 words.");
    }
    if wanted.first_words_free > 10_000 {
        return unusable("At most the first 10,000 words can be kept free.");
    }
    if wanted.oldest_months.is_some_and(|months| !(1..=MOST_MONTHS).contains(&months)) {
        return unusable("Pages are too old after 1 to 1,200 months.");
    }
    let limits = SiteLimits {
        links: LinkLimits {
            per_sentence: wanted.per_sentence,
            words_per_link: wanted.words_per_link,
            first_words_free: wanted.first_words_free,
            ..LinkLimits::default()
        },
        never_words: tidied(&wanted.never_words, MOST_WORDS)?,
        left_out: tidied(&wanted.left_out, MOST_CATEGORIES)?,
        links_back: wanted.links_back,
        oldest_months: wanted.oldest_months,
        follows_habits: wanted.follows_habits,
    };
    let set = site_limits::set(&state.pool, SiteId(*path), &limits).await?;
    set.ok_or(ApiError::NotFound("There is no such site."))?;
    Ok(HttpResponse::NoContent().finish())
}

/// Forgets what was learnt; the decisions themselves stay.
#[utoipa::path(operation_id = "sites_forget_lessons", responses((status = 204), (status = 404, body = Problem)))]
#[delete("/sites/{site}/lessons")]
pub async fn forget(state: web::Data<State>, path: web::Path<i32>) -> Result<HttpResponse, ApiError> {
    state.known(*path).await?;
    lesson::forget(&state.pool, SiteId(*path)).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Lines as people type them, each once, without white space around them. O(bytes).
fn tidied(lines: &[String], most: usize) -> Result<Vec<String>, ApiError> {
    let mut tidy: Vec<String> = Vec::new();
    let mut known = HashSet::new();
    for line in lines.iter().map(|line| line.trim()).filter(|line| !line.is_empty()) {
        if line.chars().count() > LONGEST_WORDS || line.contains('\0') {
            let shown: String = line.chars().filter(|c| *c != '\0').take(40).collect();
            return Err(ApiError::Unusable(format!("“{shown}…” is too long: at most {LONGEST_WORDS} letters a line.")));
        }
        if known.insert(line) {
            tidy.push(line.to_owned());
        }
        if tidy.len() > most {
            return Err(ApiError::Unusable(format!("At most {most} lines can be named.")));
        }
    }
    Ok(tidy)
}
