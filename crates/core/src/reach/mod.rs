//! Which pages a reader can get to, and in how many clicks.

mod depth;

pub use depth::{Depths, LinkGraph};
