//! Training of the judge of openings, on sites whose authors made links: links are taken out of the prose, and what tells
//! a place where one was from all other places is learnt.

pub mod calibration;
pub mod hidden;
pub mod measure;
pub mod rows;
