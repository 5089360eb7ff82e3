//! Where the site says something.

pub mod list;
mod row;
mod wish;
