//! How a link that leads nowhere, or takes a detour, can be mended.

use serde::Serialize;
use utoipa::ToSchema;

use super::PageRef;
use strelm_core::site::PageId;

use strelm_core::audit::{FaultyLink, FaultyPlace};
use strelm_live::Model;

/// What a decision to mend a link has to name, and what is proposed.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct Repair {
    /// The page that the link stands on.
    pub source: u32,
    /// The version of the page that was looked at.
    pub version: String,
    /// Where it leads.
    pub address: String,
    pub fragment: Option<String>,
    /// The page that it was most likely meant for.
    pub likeliest: Option<PageRef>,
}

impl Repair {
    /// `None` when the page cannot be edited, or the link stands around its content only.
    pub fn of(model: &Model, link: &FaultyLink) -> Option<Self> {
        let version = model.sources.get(&link.page).filter(|_| link.content > 0)?;
        Some(Self {
            source: link.page.0,
            version: version.to_string(),
            address: link.to.to_string(),
            fragment: link.fragment.clone(),
            likeliest: link.likeliest.and_then(|page| PageRef::of(model, page.0).ok()),
        })
    }

    /// As [`Self::of`], for one of the pages of many such links.
    pub fn on(model: &Model, page: PageId, faulty: &FaultyPlace) -> Option<Self> {
        let likeliest = faulty.likeliest.filter(|likeliest| *likeliest != page);
        let (to, fragment, fault) = (faulty.to.clone(), faulty.fragment.clone(), faulty.fault);
        let (content, boilerplate) = (faulty.content, faulty.boilerplate);
        Self::of(model, &FaultyLink { page, to, fragment, fault, content, boilerplate, likeliest })
    }
}
