//! A table of rules that an editor brings: what each row would be, before anything is made.

use std::collections::HashMap;

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::rules::{Handling, Leads};
use strelm_core::site::{Address, Destination, Target};
use strelm_formats::list::List;
use strelm_live::Model;
use strelm_store::rule::KeptRule;
use utoipa::{IntoParams, ToSchema};

use super::MOST_AT_ONCE;
use super::leads::RuleLeads;
use super::rule_wish::RuleWish;
use crate::api::{ApiError, Problem, State};
use crate::rules::table::{RuleTable, column_names};

/// A larger table is not read.
const MOST_BYTES: usize = 8 << 20;

/// Cells of each column that are shown, and letters of each.
const SHOWN: usize = 3;
const LONGEST_SHOWN: usize = 80;

/// What the columns are, as somebody says it.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct SaidColumns {
    /// The name of what each column is, in their order, with semicolons between them; empty for one that is not used. As the
    /// first row of the table says where this is left out.
    columns: Option<String>,
}

/// A table as it is understood.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableRead {
    pub columns: Vec<ColumnOfRules>,
    /// What columns can be.
    pub known: Vec<String>,
    /// What is to be said of the columns before rows can be read.
    pub problem: Option<String>,
    pub rows: Vec<TableRow>,
    pub faults: Vec<TableFault>,
}

/// A column of the table.
#[derive(Debug, Serialize, ToSchema)]
pub struct ColumnOfRules {
    pub heading: String,
    /// What it is taken for; null when it is not used.
    pub is: Option<String>,
    /// The first few cells.
    pub cells: Vec<String>,
}

/// A row that is a rule.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableRow {
    /// As a spreadsheet counts it.
    pub row: usize,
    pub rule: RuleWish,
    pub leads: RuleLeads,
    /// The rule of the site that says the same.
    pub double_of: Option<u32>,
}

/// A row that is no rule.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableFault {
    pub row: usize,
    pub why: String,
    /// All its cells, as they are.
    pub cells: Vec<String>,
}

/// Reads CSV, TSV or XLSX; nothing is made. O(cells).
#[utoipa::path(operation_id = "rules_read_table", params(SaidColumns), request_body(content = Vec<u8>, content_type = "application/octet-stream"), responses((status = 200, body = TableRead), (status = 404, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/sites/{site}/rules/table")]
pub async fn read_table(
    state: web::Data<State>,
    path: web::Path<i32>,
    said: web::Query<SaidColumns>,
    body: web::Payload,
) -> Result<web::Json<TableRead>, ApiError> {
    let live = state.site(*path).await?;
    let bytes = body
        .to_bytes_limited(MOST_BYTES)
        .await
        .map_err(|_| ApiError::Unusable(format!("A table has at most {} MB. Divide it.", MOST_BYTES >> 20)))?;
    let bytes =
        bytes.map_err(|_| ApiError::Unusable("The table did not arrive as a whole. Send it again.".to_owned()))?;
    let list = state.aside(move || List::read(&bytes)).await?;
    let list = list.map_err(|why| ApiError::Unusable(strelm_work::words::sentence(&why.to_string())))?;
    if list.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("A table has at most {MOST_AT_ONCE} rows. Divide it.")));
    }
    let said = said.into_inner().columns;
    Ok(web::Json(live.ask(move |model| read(model, &list, said.as_deref())).await??))
}

fn read(model: &Model, list: &List, said: Option<&str>) -> Result<TableRead, ApiError> {
    let headings: Vec<String> = match &list.headings {
        Some(headings) => headings.clone(),
        None => (1..=list.width()).map(|at| format!("Column {at}")).collect(),
    };
    let names: Vec<String> = match said {
        Some(said) => {
            let mut names: Vec<_> = said.split(';').map(str::to_owned).collect();
            names.resize(headings.len(), String::new());
            names
        }
        None => headings.clone(),
    };
    let cut = |text: &str| text.chars().take(LONGEST_SHOWN).collect::<String>();
    let column = |(at, heading): (usize, &String)| ColumnOfRules {
        heading: cut(heading),
        is: RuleTable::column_named(&names[at]).map(str::to_owned),
        cells: (0..list.len().min(SHOWN)).map(|row| cut(list.cell(row, at))).collect(),
    };
    let mut told = TableRead {
        columns: headings.iter().enumerate().map(column).collect(),
        known: column_names().map(str::to_owned).collect(),
        problem: None,
        rows: Vec::new(),
        faults: Vec::new(),
    };
    let table = match RuleTable::read(list, &names, |name| target(model, name)) {
        Ok(table) => table,
        Err(why) => {
            told.problem = Some(why.to_string());
            return Ok(told);
        }
    };
    let doubles: HashMap<_, _> = model.rules().kept.iter().map(|kept| (sign(kept), kept.rule.id.0)).collect();
    for rule in table.rules {
        let row = rule.id.0 as usize;
        let target = rule.target.clone();
        let rule = rule.leading(Leads::To(target.clone()));
        let kept = KeptRule { rule, is_on: true, handling: Handling::Screened };
        told.rows.push(TableRow {
            row,
            double_of: doubles.get(&sign(&kept)).copied(),
            leads: RuleLeads::of(model, &target)?,
            rule: RuleWish::of(&kept),
        });
    }
    let fault = |(row, why): (usize, crate::rules::table::NoRule)| TableFault {
        row,
        why: strelm_work::words::sentence(&why.to_string()),
        cells: (0..list.width()).map(|at| cut(list.cell(row.saturating_sub(2), at))).collect(),
    };
    told.faults = table.faults.into_iter().map(fault).collect();
    Ok(told)
}

/// By which two rules are the same: their phrases and where they lead.
fn sign(kept: &KeptRule) -> (Vec<String>, Option<Target>) {
    let mut phrases: Vec<_> = kept.rule.phrases.iter().map(|phrase| phrase.as_str().to_lowercase()).collect();
    phrases.sort_unstable();
    let target = match &kept.rule.target {
        Leads::To(target) => Some(target.clone()),
        Leads::Archives(_) => None,
    };
    (phrases, target)
}

/// What a table names: a page by its path or address, an address of another site, or mail.
fn target(model: &Model, name: &str) -> Option<Target> {
    if name.starts_with("mailto:") || (name.contains('@') && !name.contains('/')) {
        return Target::mail(name).ok();
    }
    // What has no scheme and no slash is no path: “example” may be anything.
    let is_address = name.contains("://") || name.starts_with('/');
    let Destination::Page { address, fragment } = model.site.entry().follow(name) else { return None };
    let page = |address: &Address| model.site.page_at(address);
    match (page(&address), fragment) {
        (Some(page), None) if is_address => Some(Target::Page(page)),
        (Some(page), Some(id)) if is_address => Some(Target::Place { page, id }),
        (None, fragment) if name.contains("://") && !model.site.is_own(&address) => {
            Some(Target::Outside { address, fragment })
        }
        _ => None,
    }
}
