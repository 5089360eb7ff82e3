//! The tray: what is planned for the links of pages, and what must hold of it.
//!
//! A [`PlannedLink`] is taken ([`take`], [`repair`]), stands in the [`Tray`] as a [`TrayEntry`], goes where its words go when
//! their page changes ([`place`]), becomes an edit of the page ([`edit`]) when it is released ([`release`]), and can be undone
//! ([`decision`]) or taken back from the page ([`take_back`]). Nothing here reads or writes: whoever keeps the tray asks
//! what is to be done.

mod contents;
mod decision;
mod edit;
mod entry;
mod follow_rule;
mod ground;
mod linkable;
mod outlook;
mod passed;
mod place;
mod planned_link;
mod release;
mod repair;
mod sight;
mod take;
mod take_back;
mod take_refusal;

pub use contents::Tray;
pub use decision::{Decision, DecisionKind, LeftOut, TurnEffect, Turning, turned};
pub use edit::{EditRefusal, Fitting, apply_all, edit_of, held_in_source, words_of};
pub use entry::{TrayEntry, TrayState};
pub use follow_rule::{FollowRefusal, Following, follow_rule};
pub use ground::Ground;
pub use linkable::Linkable;
pub use outlook::{Outlook, outlook};
pub use passed::{Passed, PassedPlace, Passes};
pub use place::{Placed, SourceNow, place_of};
pub use planned_link::{ByRule, Change, OldLink, PlannedLink};
pub use release::{Ended, OnePage, as_it_stands, held_back_all};
pub use repair::{Mended, Repair, RepairRefusal, StoredHrefs, mend_link};
pub use sight::{Seen, sight};
pub use take::{LinkSpot, LinkWish, Taken, Taking};
pub use take_back::take_out;
pub use take_refusal::TakeRefusal;
