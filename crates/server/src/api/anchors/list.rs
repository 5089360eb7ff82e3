//! Anchor texts, filtered and sorted, a window of them at a time.

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use strelm_core::anchors::{AnchorFaultKind, AnchorRow};
use strelm_live::{AnchorQuery, AnchorSort, Model};
use utoipa::{IntoParams, ToSchema};

use crate::api::pages::Window;
use crate::api::{ApiError, Problem, State};

/// The largest window.
const MOST_ROWS: usize = 500;

/// Longer texts are not looked for.
const LONGEST_TEXT: usize = 200;

/// Which anchor texts, in which order.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct AnchorFilter {
    /// Words that a text must hold, in any order.
    #[serde(default)]
    text: String,
    #[param(inline)]
    fault: Option<FaultName>,
    /// So many words at least, and at most.
    #[serde(default)]
    least_words: usize,
    most_words: Option<usize>,
    #[serde(default)]
    #[param(inline)]
    sort: SortName,
    #[serde(default)]
    descending: bool,
}

/// What is wrong with an anchor text.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FaultName {
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

/// By what anchor texts are sorted.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SortName {
    Text,
    Words,
    #[default]
    Links,
    Pages,
    Targets,
    Repeated,
    Faults,
}

/// A stretch of the anchor texts, and what is wrong with how many of all.
#[derive(Debug, Serialize, ToSchema)]
pub struct AnchorRows {
    /// How many pass the filters.
    pub total: usize,
    /// All of the site, and their links in content.
    pub texts: usize,
    pub links: usize,
    /// Each fault, the gravest first; those that nothing has too.
    pub faults: Vec<FaultCount>,
    /// Pages whose texts are on their way into memory: their links are not counted yet.
    pub texts_to_come: Option<usize>,
    pub rows: Vec<AnchorShown>,
}

/// How many texts have a fault, and how many links these have in content.
#[derive(Debug, Serialize, ToSchema)]
pub struct FaultCount {
    pub fault: FaultName,
    pub texts: usize,
    pub links: usize,
}

/// An anchor text with what is counted of its links.
#[derive(Debug, Serialize, ToSchema)]
pub struct AnchorShown {
    /// By which it is known as long as the site is in memory.
    pub number: u32,
    /// By which its places are asked for.
    pub key: String,
    /// As most links write it.
    pub text: String,
    pub words: usize,
    /// Links in the content of pages, on how many pages, and to how many targets.
    pub links: usize,
    pub pages: usize,
    pub targets: usize,
    /// Links in menus, headers and footers.
    pub repeated: usize,
    /// What is wrong with it, the gravest first, and the same in plain words.
    pub faults: Vec<FaultName>,
    pub whys: Vec<String>,
}

impl FaultName {
    const ALL: [(Self, AnchorFaultKind); 9] = [
        (Self::Empty, AnchorFaultKind::Empty),
        (Self::NoAltText, AnchorFaultKind::NoAltText),
        (Self::SaysNothing, AnchorFaultKind::SaysNothing),
        (Self::IsAddress, AnchorFaultKind::IsAddress),
        (Self::Sentence, AnchorFaultKind::Sentence),
        (Self::Long, AnchorFaultKind::Long),
        (Self::SeveralTargets, AnchorFaultKind::SeveralTargets),
        (Self::OnlyText, AnchorFaultKind::OnlyText),
        (Self::ManyTexts, AnchorFaultKind::ManyTexts),
    ];

    fn kind(self) -> Option<AnchorFaultKind> {
        Self::ALL.into_iter().find(|(name, _)| *name == self).map(|(_, kind)| kind)
    }

    fn of(kind: AnchorFaultKind) -> Option<Self> {
        Self::ALL.into_iter().find(|(_, known)| *known == kind).map(|(name, _)| name)
    }
}

impl AnchorFilter {
    fn query(self) -> AnchorQuery {
        AnchorQuery {
            text: self.text.chars().take(LONGEST_TEXT).collect(),
            fault: self.fault.and_then(FaultName::kind),
            least_words: self.least_words,
            most_words: self.most_words,
            sort: match self.sort {
                SortName::Text => AnchorSort::Text,
                SortName::Words => AnchorSort::Words,
                SortName::Links => AnchorSort::Links,
                SortName::Pages => AnchorSort::Pages,
                SortName::Targets => AnchorSort::Targets,
                SortName::Repeated => AnchorSort::Repeated,
                SortName::Faults => AnchorSort::Faults,
            },
            descending: self.descending,
        }
    }
}

impl AnchorShown {
    fn of(row: &AnchorRow) -> Self {
        Self {
            number: row.number,
            key: row.key.clone(),
            text: row.text.clone(),
            words: row.words,
            links: row.links,
            pages: row.pages,
            targets: row.targets,
            repeated: row.repeated,
            faults: row.faults.iter().filter_map(|fault| FaultName::of(fault.kind())).collect(),
            whys: row.faults.iter().map(ToString::to_string).collect(),
        }
    }
}

/// O(texts · log texts), in memory; the first window after a change of texts also pays for the counts.
#[utoipa::path(operation_id = "anchors_list", params(AnchorFilter, Window), responses((status = 200, body = AnchorRows), (status = 404, body = Problem), (status = 422, body = Problem), (status = 503, body = Problem)))]
#[get("/sites/{site}/anchors")]
pub async fn list(
    state: web::Data<State>,
    path: web::Path<i32>,
    filter: web::Query<AnchorFilter>,
    window: web::Query<Window>,
) -> Result<web::Json<AnchorRows>, ApiError> {
    let live = state.site(*path).await?;
    let query = filter.into_inner().query();
    let (offset, limit) = window.stretch(MOST_ROWS);
    let answer = move |model: &Model| {
        let (all, listed) = (model.anchor_rows(), model.listed_anchors(&query));
        let faults = model.anchor_faults().into_iter().filter_map(|count| {
            let fault = FaultName::of(count.kind)?;
            Some(FaultCount { fault, texts: count.texts, links: count.links })
        });
        AnchorRows {
            total: listed.len(),
            texts: all.len(),
            links: all.iter().map(|row| row.links).sum(),
            faults: faults.collect(),
            texts_to_come: model.texts_missing(),
            rows: listed.iter().skip(offset).take(limit).map(|at| AnchorShown::of(&all[*at])).collect(),
        }
    };
    let look = move || live.look(answer);
    Ok(web::Json(state.aside(look).await?))
}
