//! Models that follow a real database.

#![allow(clippy::unwrap_used, clippy::panic)]

mod following;
mod places;
mod stage;
mod terms;
