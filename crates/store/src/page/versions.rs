//! The language versions of a page as the database keeps them.

use strelm_core::site::{Address, LanguageVersion};

/// A language version as the database keeps it.
#[derive(serde::Serialize, serde::Deserialize)]
struct VersionColumn {
    language: String,
    address: String,
}

pub(super) fn versions_json(versions: &[LanguageVersion]) -> serde_json::Value {
    let column = |version: &LanguageVersion| VersionColumn {
        language: version.language.replace('\0', ""),
        address: version.address.to_string(),
    };
    serde_json::json!(versions.iter().map(column).collect::<Vec<_>>())
}

/// What cannot be understood any more is left out.
pub(super) fn versions_of(column: serde_json::Value) -> Vec<LanguageVersion> {
    let columns: Vec<VersionColumn> = serde_json::from_value(column).unwrap_or_default();
    let version = |column: VersionColumn| {
        Some(LanguageVersion { language: column.language, address: Address::parse(&column.address).ok()? })
    };
    columns.into_iter().filter_map(version).collect()
}
