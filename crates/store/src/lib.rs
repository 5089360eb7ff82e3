//! What Strelm keeps, in PostgreSQL. One file for each aggregate; every query is checked by the compiler.
//!
//! PostgreSQL is the truth. Each function that changes something a reader can see appends to the site's [`journal`] in
//! the same transaction and returns the sequence number.

pub mod boilerplate;
pub mod database;
pub mod decision;
pub mod edge;
pub mod habits;
pub mod journal;
pub mod lesson;
pub mod listed;
pub mod lock;
pub mod looked;
pub mod page;
pub mod passed;
pub mod planned_page;
pub mod reach_change;
pub mod reading;
pub mod redirect;
pub mod release;
pub mod rule;
pub mod sighted;
pub mod site;
pub mod site_limits;
mod target;
pub mod term;
pub mod tray;
pub mod work;

pub use database::{StoreError, connect, migrate};
pub use journal::Seq;
pub use site::SiteId;
pub use sqlx::PgPool;

/// Numbers of a site's pages as the database has them.
fn numbers(pages: &[strelm_core::site::PageId]) -> Vec<i32> {
    pages.iter().map(|page| number(*page)).collect()
}

fn number(page: strelm_core::site::PageId) -> i32 {
    i32::try_from(page.0).unwrap_or(i32::MAX)
}

fn page_id(number: i32) -> strelm_core::site::PageId {
    strelm_core::site::PageId(u32::try_from(number).unwrap_or_default())
}

fn rule_id(number: i32) -> strelm_core::rules::RuleId {
    strelm_core::rules::RuleId(u32::try_from(number).unwrap_or_default())
}

fn rule_number(rule: strelm_core::rules::RuleId) -> i32 {
    i32::try_from(rule.0).unwrap_or(i32::MAX)
}
