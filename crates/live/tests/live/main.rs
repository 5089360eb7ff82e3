//! Models that follow a real database.

#![allow(clippy::unwrap_used, clippy::panic)]

mod at_once;
mod finding;
mod following;
mod places;
mod stage;
mod terms;
