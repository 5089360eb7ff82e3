//! What a link leads to, of whatever kind.

use std::fmt;

use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use thiserror::Error;

use super::address::{Address, Destination};
use super::link_form::LinkForm;
use crate::document::Mail;
use crate::ids::{PageId, PlannedPageId};

/// What of a place on a page cannot stand in an address as it is.
const FRAGMENT: &AsciiSet = &CONTROLS.add(b' ').add(b'"').add(b'<').add(b'>').add(b'`').add(b'%').add(b'#');

/// Where a link leads.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Target {
    /// A page of the site, by its number: it is followed when its address changes.
    Page(PageId),
    /// A place on a page, by its id.
    Place {
        page: PageId,
        id: String,
    },
    /// A page that is to come.
    PlannedPage(PlannedPageId),
    /// A page of another site, and the place on it as its address writes it.
    Outside {
        address: Address,
        fragment: Option<String>,
    },
    Mail(Mail),
    Phone(PhoneNumber),
    /// A file of the site.
    File(Address),
}

/// The kinds of targets, for whoever keeps them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum TargetKind {
    Page,
    Place,
    PlannedPage,
    Outside,
    Mail,
    Phone,
    File,
}

impl TargetKind {
    /// All kinds, pages first.
    pub const ALL: [Self; 7] =
        [Self::Page, Self::Place, Self::PlannedPage, Self::Outside, Self::Mail, Self::Phone, Self::File];

    /// Its name in the database and in answers.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Page => "page",
            Self::Place => "place",
            Self::PlannedPage => "planned page",
            Self::Outside => "outside",
            Self::Mail => "mail",
            Self::Phone => "phone",
            Self::File => "file",
        }
    }

    /// The kind with this name.
    pub fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.as_str() == word)
    }
}

/// Where the pages are to which targets lead.
pub trait Addresses {
    /// The address of a page that is there.
    fn of_page(&self, page: PageId) -> Option<&Address>;

    /// The address at which a page is to be.
    fn of_planned(&self, page: PlannedPageId) -> Option<&Address>;
}

impl From<PageId> for Target {
    fn from(page: PageId) -> Self {
        Self::Page(page)
    }
}

impl Target {
    /// Which kind it is.
    pub const fn kind(&self) -> TargetKind {
        match self {
            Self::Page(_) => TargetKind::Page,
            Self::Place { .. } => TargetKind::Place,
            Self::PlannedPage(_) => TargetKind::PlannedPage,
            Self::Outside { .. } => TargetKind::Outside,
            Self::Mail(_) => TargetKind::Mail,
            Self::Phone(_) => TargetKind::Phone,
            Self::File(_) => TargetKind::File,
        }
    }

    /// The page of the site on which a reader arrives, if it is one that is there.
    pub const fn page(&self) -> Option<PageId> {
        match self {
            Self::Page(page) | Self::Place { page, .. } => Some(*page),
            _ => None,
        }
    }

    /// The same without the place on it: two links to places on one page lead to one page.
    #[must_use]
    pub fn whole(&self) -> Self {
        match self {
            Self::Place { page, .. } => Self::Page(*page),
            Self::Outside { address, .. } => Self::Outside { address: address.clone(), fragment: None },
            other => other.clone(),
        }
    }

    /// What is written on the page at `from` for a link that leads here: in the form of the site's own links where that is
    /// known, else from the root. `None` when there is no such page. O(length).
    pub fn href(&self, from: &Address, form: Option<&LinkForm>, addresses: &impl Addresses) -> Option<String> {
        let write = |to: &Address| form.map_or_else(|| to.from_root(), |form| form.write(from, to));
        Some(match self {
            Self::Page(page) => write(addresses.of_page(*page)?),
            Self::Place { page, id } => {
                let to = addresses.of_page(*page)?;
                let place = utf8_percent_encode(id, FRAGMENT);
                if to == from { format!("#{place}") } else { format!("{}#{place}", write(to)) }
            }
            Self::PlannedPage(page) => write(addresses.of_planned(*page)?),
            Self::Outside { address, fragment: None } => address.to_string(),
            Self::Outside { address, fragment: Some(fragment) } => format!("{address}#{fragment}"),
            Self::Mail(mail) => mail.href(),
            Self::Phone(number) => number.href(),
            Self::File(address) => form.map_or_else(|| address.from_root(), |form| form.write_file(from, address)),
        })
    }
}

/// A telephone number as RFC 3966 writes it: digits with `-`, `.`, `(` and `)` between them, a `+` before those that hold
/// everywhere.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PhoneNumber(String);

/// A text that is no telephone number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
#[error("a telephone number is written with digits, such as +43 1 234567")]
pub struct NoPhoneNumber;

impl PhoneNumber {
    /// Reads a number as people write it: spaces and slashes become hyphens.
    ///
    /// # Errors
    /// [`NoPhoneNumber`] when there is anything but digits and marks between them, or fewer than two digits.
    pub fn parse(text: &str) -> Result<Self, NoPhoneNumber> {
        let text = text.trim();
        let (plus, digits) = text.strip_prefix('+').map_or(("", text), |rest| ("+", rest));
        let plain = |c: char| if c.is_whitespace() || matches!(c, '/' | '\u{2010}'..='\u{2013}') { '-' } else { c };
        let digits: String = digits.chars().map(plain).collect();
        let is_number = digits.chars().all(|c| c.is_ascii_digit() || matches!(c, '-' | '.' | '(' | ')'));
        let count = digits.chars().filter(char::is_ascii_digit).count();
        match is_number && (2..=30).contains(&count) && digits.len() <= 60 {
            true => Ok(Self(format!("{plus}{}", digits.trim_matches('-')))),
            false => Err(NoPhoneNumber),
        }
    }

    /// As the `href` of a link.
    pub fn href(&self) -> String {
        format!("tel:{}", self.0)
    }
}

impl fmt::Display for PhoneNumber {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

/// Why what was named is no target.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum NoTarget {
    #[error("“{0}” is not a web address: it should look like https://www.example.org/")]
    NotAnAddress(String),
    #[error("“{0}” is not a mail address: it should look like name@example.org")]
    NotAMailAddress(String),
    #[error(transparent)]
    NotANumber(#[from] NoPhoneNumber),
}

impl Target {
    /// A page of another site by its address, with the place on it.
    ///
    /// # Errors
    /// [`NoTarget`] when it is no web address.
    pub fn outside(text: &str) -> Result<Self, NoTarget> {
        let wrong = || NoTarget::NotAnAddress(text.to_owned());
        let base = Address::parse(text).map_err(|_| wrong())?;
        match base.follow(text) {
            Destination::Page { address, fragment } => Ok(Self::Outside { address, fragment }),
            _ => Err(wrong()),
        }
    }

    /// Who gets a mail, by the whole `mailto:` or the address alone.
    ///
    /// # Errors
    /// [`NoTarget`] when nobody would get it.
    pub fn mail(text: &str) -> Result<Self, NoTarget> {
        let text = text.trim();
        let mail = Mail::of(text).unwrap_or_else(|| Mail { to: vec![text.to_owned()], fields: Vec::new() });
        let is_address = |to: &String| {
            let parts = to.split_once('@').filter(|(name, host)| !name.is_empty() && host.contains(|c| c != '.'));
            parts.is_some_and(|(_, host)| !host.contains('@'))
                && !to.contains(|c: char| c.is_whitespace() || c.is_control())
        };
        match !mail.to.is_empty() && mail.to.iter().all(is_address) {
            true => Ok(Self::Mail(mail)),
            false => Err(NoTarget::NotAMailAddress(text.to_owned())),
        }
    }
}
