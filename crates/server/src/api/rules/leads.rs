//! Where rules lead, as editors call it.

use serde::Serialize;
use strelm_core::rules::Leads;
use strelm_core::site::Target;
use strelm_live::Model;
use utoipa::ToSchema;

use crate::api::ApiError;
use crate::api::pages::PageRef;

/// Where a rule leads.
#[derive(Debug, Serialize, ToSchema)]
pub struct RuleLeads {
    /// The page; null for what is no page of the site.
    pub page: Option<PageRef>,
    /// The title of the page, or the address.
    pub text: String,
    /// How many terms lead to their archives, where it stands for all of them.
    pub terms: Option<usize>,
}

impl RuleLeads {
    /// O(1), and O(terms) where it stands for terms.
    pub fn of_rule(model: &Model, leads: &Leads) -> Result<Self, ApiError> {
        match leads {
            Leads::To(target) => Self::of(model, target),
            Leads::Archives(of) => {
                let terms = of.among(model.rules().terms()).count();
                let text = match terms {
                    1 => "the archive of one term".to_owned(),
                    terms => format!("the archives of {terms} terms"),
                };
                Ok(Self { page: None, text, terms: Some(terms) })
            }
        }
    }

    /// O(1).
    pub fn of(model: &Model, target: &Target) -> Result<Self, ApiError> {
        let page = target.page().map(|page| PageRef::of(model, page.0)).transpose()?;
        let text = match (target, &page) {
            (Target::Place { id, .. }, Some(page)) => format!("{} # {id}", page.title),
            (_, Some(page)) => page.title.clone(),
            (Target::PlannedPage(planned), None) => {
                model.planned_pages.get(planned).map(|address| address.from_root()).unwrap_or_default()
            }
            (Target::Outside { address, fragment }, None) => {
                fragment.as_ref().map_or_else(|| address.to_string(), |place| format!("{address}#{place}"))
            }
            (Target::Mail(mail), None) => mail.href(),
            (Target::Phone(phone), None) => phone.href(),
            (Target::File(address), None) => address.from_root(),
            (Target::Page(_) | Target::Place { .. }, None) => String::new(),
        };
        Ok(Self { page, text, terms: None })
    }
}
