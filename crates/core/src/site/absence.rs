//! Addresses of the site at which there is no page.

/// Why there is no page at an address.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Absence {
    /// The site answers with this status.
    Status(i16),
    /// It is written, but not published yet.
    Draft,
}
