//! A whole site: addresses, pages, the links between them, and what follows from those, kept up to date by deltas.

mod absence;
pub mod address;
mod better_entry;
mod boilerplate;
pub mod figures;
mod file_names;
mod fragments;
mod graph;
mod link_form;
mod loss;
pub mod page;
mod part;
mod sameness;
mod target;
mod validators;
mod written_in;

pub use crate::ids::{ChangeId, PageId, PlannedPageId};
pub use absence::Absence;
pub use address::{Address, AddressError, Destination};
pub use better_entry::BetterEntry;
pub use boilerplate::{BlockKey, Repetition};
pub use figures::Figures;
pub use file_names::{FileNames, Followed};
pub use fragments::Fragments;
pub use graph::{Changes, InboundPage, LinkAway, Moment, OutLink, RoadRules, RoadsCount, Site};
pub use link_form::{Ending, FormCounts, LinkForm, Root, Written};
pub use loss::is_too_much;
pub use page::{LanguageVersion, PageFacts, PageKind, Standing, day_of};
pub use part::SitePart;
pub use sameness::{Double, IGNORED_PARAMETERS, Traps, doubles};
pub use target::{Addresses, NoPhoneNumber, NoTarget, PhoneNumber, Target, TargetKind};
pub use validators::Validators;
pub use written_in::language_of;
