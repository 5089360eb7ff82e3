//! Where a site sends its readers: hosts of other sites, mail and phone, with the links that lead there.

mod away;
mod rows;

pub use away::away;
pub use rows::{AwayAddress, AwayCount, AwayHost, Destinations};
