//! Learning what an author links: of many sites, which makes the judge that ships, and of one site from its own links.
//!
//! Links are taken out of texts, and what tells a place where one was from all other places is learnt.

pub mod boost;
pub mod example;
mod halved;
mod hide;
mod learner;
pub mod lists;
mod rows;

pub use self::halved::Halved;
pub use self::hide::{BarePage, HiddenLink, hide_links};
pub use self::learner::{FEWEST, Learner};
pub use self::rows::{PlaceRow, rows_of};
