//! The foot of every page as editors send it and get it back.

use serde::{Deserialize, Serialize};
use strelm_core::passing::{FooterLink, FooterLinks, FooterTarget};
use strelm_core::site::{PageId, Target};
use utoipa::ToSchema;

use crate::api::ApiError;
use crate::api::state::page_of;
use strelm_live::Model;

/// Links at the foot of every page.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct FooterWish {
    /// Whether edges put them on pages as they pass.
    pub is_on: bool,
    /// Markup before the links, between two of them and after them.
    pub before: String,
    pub between: String,
    pub after: String,
    pub links: Vec<FooterLinkWish>,
}

/// A link of the footer: to a page by its number, or to an address of another site.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct FooterLinkWish {
    pub text: String,
    pub page: Option<u32>,
    pub address: Option<String>,
}

impl FooterWish {
    pub fn of(footer: &FooterLinks) -> Self {
        let link = |link: &FooterLink| {
            let (page, address) = match &link.target {
                FooterTarget::Page(page) => (Some(page.0), None),
                FooterTarget::Outside(address) => (None, Some(address.clone())),
            };
            FooterLinkWish { text: link.text.clone(), page, address }
        };
        let FooterLinks { is_on, before, between, after, links } = footer.clone();
        Self { is_on, before, between, after, links: links.iter().map(link).collect() }
    }

    /// # Errors
    /// [`ApiError`] when it names a page that is not there, or cannot be put on pages.
    pub fn footer(&self, model: &Model) -> Result<FooterLinks, ApiError> {
        let link = |link: &FooterLinkWish| {
            let target = match (link.page, &link.address) {
                (Some(page), None) => FooterTarget::Page(page_of(model, page)?.id),
                (None, Some(address)) => FooterTarget::Outside(address.trim().to_owned()),
                _ => {
                    return Err(ApiError::Unusable(format!(
                        "Say where “{}” leads: to a page, or to an address.",
                        link.text
                    )));
                }
            };
            Ok(FooterLink { text: link.text.trim().to_owned(), target })
        };
        let Self { is_on, before, between, after, links } = self.clone();
        let links = links.iter().map(link).collect::<Result<_, _>>()?;
        let footer = FooterLinks { is_on, before, between, after, links };
        footer.check().map_err(|error| ApiError::Unusable(format!("The footer cannot be kept: {error}.")))?;
        Ok(footer)
    }
}

/// As whoever puts it into a template writes it: from the root, since it is the same on every page.
pub fn html(model: &Model, footer: &FooterLinks) -> Option<String> {
    footer.html(|page: PageId| Target::Page(page).href(model.site.entry(), None, &model.ground(None)))
}
