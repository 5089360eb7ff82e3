//! The terms for which a rule stands, as editors send them and get them back.

use serde::{Deserialize, Serialize};
use strelm_core::rules::OfTerms;
use utoipa::ToSchema;

use crate::api::ApiError;

const LONGEST: usize = 300;

/// The categories and tags for which a rule stands.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct TermsWish {
    /// The folder in which the archives of a taxonomy are, such as `/tag/`; without it all of them are meant.
    #[serde(default)]
    pub taxonomy: Option<String>,
    /// Terms that fewer pages carry are left out.
    #[serde(default)]
    pub least_pages: usize,
    /// Whether a term is linked only on pages that carry it.
    #[serde(default)]
    pub only_carriers: bool,
}

impl TermsWish {
    /// # Errors
    /// [`ApiError::Unusable`] when the taxonomy is no folder.
    pub fn of_terms(&self) -> Result<OfTerms, ApiError> {
        let taxonomy = self.taxonomy.as_deref().map(str::trim).filter(|folder| !folder.is_empty());
        if taxonomy.is_some_and(|folder| folder.len() > LONGEST || !folder.starts_with('/')) {
            return Err(ApiError::Unusable("A taxonomy is the folder of its archives, such as /tag/.".to_owned()));
        }
        Ok(OfTerms {
            taxonomy: taxonomy.map(str::to_owned),
            least_pages: self.least_pages,
            only_carriers: self.only_carriers,
        })
    }

    pub fn of(terms: &OfTerms) -> Self {
        let OfTerms { taxonomy, least_pages, only_carriers } = terms.clone();
        Self { taxonomy, least_pages, only_carriers }
    }
}
