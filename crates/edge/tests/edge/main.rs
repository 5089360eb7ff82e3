//! An edge before a site that says what each test wants, over real HTTP, with a real database.

#![allow(clippy::unwrap_used, clippy::panic)]

mod conditions;
mod learning;
mod passing;
mod stage;
mod trouble;
