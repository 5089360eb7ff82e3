//! By what a version of a page is told from another without reading it.

/// What a site says of a version of a page, for asking again only when it changed.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Validators {
    pub etag: Option<String>,
    pub last_modified: Option<String>,
}
