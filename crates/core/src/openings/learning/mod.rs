//! Learning what an author links: of many sites, which makes the judge that ships, and of one site from its own links.
//!
//! Links are taken out of texts, and what tells a place where one was from all other places is learnt.

pub mod boost;
mod habits;
mod hide;
pub mod lists;
mod rows;

pub use self::habits::{Habits, LEAST_BESIDE};
pub use self::hide::{HiddenLink, hide_links};
pub use self::rows::{ONE_IN, Row, rows_of};
