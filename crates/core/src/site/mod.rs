//! A whole site: addresses, pages, the links between them, and what follows from those, kept up to date by deltas.

pub mod address;
mod better_entry;
pub mod figures;
mod file_names;
mod furniture;
mod graph;
mod link_form;
mod loss;
pub mod page;
mod part;
mod sameness;
mod written_in;

pub use address::{Address, AddressError, Destination};
pub use better_entry::BetterEntry;
pub use figures::Figures;
pub use file_names::{FileNames, Followed};
pub use furniture::{BlockKey, Repetition};
pub use graph::{ChangeId, Changes, InboundPage, OutLink, RoadsCount, Site};
pub use link_form::{Ending, FormCounts, LinkForm, Root, Written};
pub use loss::is_too_much;
pub use page::{LanguageVersion, PageFacts, PageId, PageKind, Standing, day_of};
pub use part::Part;
pub use sameness::{Double, IGNORED_PARAMETERS, Traps, doubles};
pub use written_in::language_of;
