//! Targets of links as the database has them: a kind, and what belongs to it.

use strelm_core::document::Mail;
use strelm_core::site::{Address, PhoneNumber, PlannedPageId, Target, TargetKind};

use crate::{number, page_id};

/// Columns of a target: its kind, the number of a page, the id of a place or the fragment of an address outside, the address,
/// and the number of a planned page.
#[derive(Debug, Default)]
pub(crate) struct WrittenTarget {
    pub kind: Option<String>,
    pub number: Option<i32>,
    pub place: Option<String>,
    pub address: Option<String>,
    pub planned: Option<i64>,
}

impl WrittenTarget {
    pub fn of(target: &Target) -> Self {
        let (place, address) = match target {
            Target::Page(_) | Target::PlannedPage(_) => (None, None),
            Target::Place { id, .. } => (Some(id.clone()), None),
            Target::Outside { address, fragment } => (fragment.clone(), Some(address.to_string())),
            Target::Mail(mail) => (None, Some(mail.href())),
            Target::Phone(number) => (None, Some(number.href())),
            Target::File(address) => (None, Some(address.to_string())),
        };
        let planned = match target {
            Target::PlannedPage(page) => Some(page.0),
            _ => None,
        };
        Self {
            kind: Some(target.kind().as_str().to_owned()),
            number: target.page().map(number),
            place,
            address,
            planned,
        }
    }

    /// `None` where it is none.
    pub fn read(self) -> Option<Target> {
        let page = || self.number.map(page_id);
        let address = self.address.as_deref();
        Some(match TargetKind::parse(self.kind.as_deref()?)? {
            TargetKind::Page => Target::Page(page()?),
            TargetKind::Place => Target::Place { page: page()?, id: self.place?.clone() },
            TargetKind::PlannedPage => Target::PlannedPage(PlannedPageId(self.planned?)),
            TargetKind::Outside => {
                Target::Outside { address: Address::parse(address?).ok()?, fragment: self.place.clone() }
            }
            TargetKind::Mail => Target::Mail(Mail::of(address?)?),
            TargetKind::Phone => Target::Phone(PhoneNumber::parse(address?.strip_prefix("tel:")?).ok()?),
            TargetKind::File => Target::File(Address::parse(address?).ok()?),
        })
    }
}
