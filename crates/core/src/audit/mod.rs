//! What is wrong with the links and pages that are there.

mod attention;
mod broken;
mod detours;
mod fault;
mod faulty_place;
mod likeliest;
mod traces;

pub use attention::{Lacking, attention};
pub use broken::{BrokenByPage, broken, broken_on};
pub use detours::detours;
pub use fault::{Fault, FaultyLink};
pub use faulty_place::{FaultyPlace, gathered};
pub use likeliest::Likeliest;
pub use traces::{ReachChange, ReachEdit, Traces};
