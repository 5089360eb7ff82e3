//! The rules as a table that can be read in again.

use actix_web::{HttpResponse, get, web};
use serde::Deserialize;
use strelm_core::rules::{Leads, Rule};
use strelm_core::site::Target;
use strelm_formats::table::{Cell, Table};
use strelm_live::Model;
use strelm_store::rule::KeptRule;
use utoipa::{IntoParams, ToSchema};

use super::leads::RuleLeads;
use crate::api::attachment::attachment;
use crate::api::{ApiError, Problem, State};
use crate::rules::table::{cells_of, column_names};

/// The formats in which rules are saved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RuleFormat {
    Csv,
    Xlsx,
}

/// How rules are saved.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    #[param(inline)]
    format: RuleFormat,
}

/// O(rules).
#[utoipa::path(operation_id = "rules_export", params(Query), responses((status = 200, content(
    (Vec<u8> = "text/csv"),
    (Vec<u8> = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
)), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/sites/{site}/rules/export")]
pub async fn export(
    state: web::Data<State>,
    path: web::Path<i32>,
    query: web::Query<Query>,
) -> Result<HttpResponse, ApiError> {
    let live = state.site(*path).await?;
    let table = live.ask(table).await??;
    let format = query.format;
    let written = web::block(move || match format {
        RuleFormat::Csv => table.to_csv(),
        RuleFormat::Xlsx => table.to_xlsx("Rules"),
    });
    let bytes = written.await.map_err(|error| ApiError::Internal(error.into()))?;
    let (kind, name) = match format {
        RuleFormat::Csv => ("text/csv; charset=utf-8", "rules.csv"),
        RuleFormat::Xlsx => ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "rules.xlsx"),
    };
    let bytes = bytes.map_err(|error| ApiError::Internal(error.into()))?;
    Ok(attachment(kind, name, bytes))
}

fn table(model: &Model) -> Result<Table, ApiError> {
    let named = |target: &Target| match target {
        Target::Page(page) => model.site.page(*page).map(|facts| facts.address.from_root()),
        Target::Place { page, id } => model.site.page(*page).map(|facts| format!("{}#{id}", facts.address.from_root())),
        _ => None,
    };
    // A rule that stands for terms has neither phrase nor target that a row could say.
    let says_where = |kept: &KeptRule| match &kept.rule.target {
        Leads::To(target) => Some(kept.rule.clone().leading(target.clone())),
        Leads::Archives(_) => None,
    };
    let row = |rule: Rule| {
        let name = match named(&rule.target) {
            Some(name) => name,
            None => RuleLeads::of(model, &rule.target)?.text,
        };
        Ok::<_, ApiError>(cells_of(&rule, &name).into_iter().map(Cell::Text).collect())
    };
    Ok(Table {
        headings: column_names().map(str::to_owned).collect(),
        rows: model.rules().kept.iter().filter_map(says_where).map(row).collect::<Result<_, _>>()?,
    })
}
