//! Models that follow a real database.

#![allow(clippy::unwrap_used, clippy::panic)]

mod finding;
mod following;
mod places;
mod stage;
mod terms;
