//! Where the site sends its readers.

pub mod list;
