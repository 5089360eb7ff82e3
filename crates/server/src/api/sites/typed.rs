//! What people type when they set up a site, checked.

use serde::{Deserialize, Serialize};
use strelm_core::reach::EquityRules;
use strelm_core::site::{Address, RoadsCount, SitePart};
use strelm_store::site::Every;
use utoipa::ToSchema;

use crate::api::ApiError;

const LONGEST_NAME: usize = 100;
const MOST_ENTRIES: usize = 50;
const MOST_PARAMETERS: usize = 100;
const LONGEST_PARAMETER: usize = 100;
const MOST_PATTERNS: usize = 50;
const LONGEST_PATTERN: usize = 500;

/// Which links are roads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Roads {
    /// Links from anywhere.
    All,
    /// Links in the content alone.
    Content,
}

impl From<RoadsCount> for Roads {
    fn from(roads: RoadsCount) -> Self {
        match roads {
            RoadsCount::All => Self::All,
            RoadsCount::Content => Self::Content,
        }
    }
}

impl From<Roads> for RoadsCount {
    fn from(roads: Roads) -> Self {
        match roads {
            Roads::All => Self::All,
            Roads::Content => Self::Content,
        }
    }
}

/// How link equity goes from page to page.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct EquityWish {
    /// What a link in content is worth beside others, 0 to 1; a menu; and the foot of a page or a box beside the text.
    content: f64,
    menu: f64,
    footer: f64,
    /// How likely a reader is to follow a link rather than to begin anew, 0.5 to 0.95.
    damping: f64,
}

impl EquityWish {
    /// # Errors
    /// [`ApiError::Unusable`] for figures that are out of bounds.
    pub fn checked(self) -> Result<EquityRules, ApiError> {
        let Self { content, menu, footer, damping } = self;
        if [content, menu, footer].iter().any(|worth| !(0.0..=1.0).contains(worth)) || content + menu + footer == 0.0 {
            let why = "What links are worth is said from 0 to 1, and one of the three must be worth something.";
            return Err(ApiError::Unusable(why.to_owned()));
        }
        if !(0.5..=0.95).contains(&damping) {
            return Err(ApiError::Unusable("How many readers follow a link is said from 0.5 to 0.95.".to_owned()));
        }
        Ok(EquityRules { content, menu, footer, damping })
    }
}

impl From<EquityRules> for EquityWish {
    fn from(rules: EquityRules) -> Self {
        Self { content: rules.content, menu: rules.menu, footer: rules.footer, damping: rules.damping }
    }
}

/// How often a site is read again by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReadEvery {
    Never,
    Day,
    Week,
    Month,
}

impl From<Option<Every>> for ReadEvery {
    fn from(every: Option<Every>) -> Self {
        match every {
            None => Self::Never,
            Some(Every::Day) => Self::Day,
            Some(Every::Week) => Self::Week,
            Some(Every::Month) => Self::Month,
        }
    }
}

impl From<ReadEvery> for Option<Every> {
    fn from(every: ReadEvery) -> Self {
        match every {
            ReadEvery::Never => None,
            ReadEvery::Day => Some(Every::Day),
            ReadEvery::Week => Some(Every::Week),
            ReadEvery::Month => Some(Every::Month),
        }
    }
}

/// A part of a site.
#[derive(Debug, Clone, Default, Serialize, Deserialize, ToSchema)]
pub struct PartWish {
    /// Paths, in which `*` stands for anything; without any all of the site is read.
    pub within: Vec<String>,
    pub without: Vec<String>,
}

/// The name of a site.
pub fn checked_name(name: &str) -> Result<String, ApiError> {
    let name = name.trim();
    match name {
        "" => Err(ApiError::Unusable("Give the site a name, by which you will know it.".to_owned())),
        name if name.chars().count() > LONGEST_NAME || name.contains(char::is_control) => {
            Err(ApiError::Unusable(format!("A name has at most {LONGEST_NAME} letters and no line ends.")))
        }
        name => Ok(name.to_owned()),
    }
}

/// Further entry pages: pages of the site, written as paths or whole addresses.
pub fn checked_entries(entry: &Address, typed: &[String]) -> Result<Vec<Address>, ApiError> {
    let mut entries = Vec::new();
    for text in typed.iter().map(|text| text.trim()).filter(|text| !text.is_empty()) {
        let address = match entry.follow(text) {
            strelm_core::site::Destination::Page { address, .. } if address.same_origin(entry) => address,
            _ => {
                return Err(ApiError::Unusable(format!(
                    "“{text}” is not a page of this site: entry pages begin with / or {entry}"
                )));
            }
        };
        if address != *entry && !entries.contains(&address) {
            entries.push(address);
        }
        if entries.len() > MOST_ENTRIES {
            return Err(ApiError::Unusable(format!("A site has at most {MOST_ENTRIES} entry pages.")));
        }
    }
    Ok(entries)
}

/// A part of a site as people type it: paths, or whole addresses of the site.
pub fn checked_part(entry: &Address, typed: &PartWish) -> Result<SitePart, ApiError> {
    let unusable = |text: &str| {
        ApiError::Unusable(format!("“{text}” is not how an address of this site begins. Write paths such as /docs/."))
    };
    let pattern = |text: &str| {
        let own = text.strip_prefix(entry.as_str().trim_end_matches(entry.as_url().path())).unwrap_or(text);
        let is_path = own.starts_with(['/', '*']) && !own.contains(char::is_whitespace) && own.len() <= LONGEST_PATTERN;
        if is_path { Ok(own.to_owned()) } else { Err(unusable(text)) }
    };
    let patterns = |typed: &[String]| -> Result<Vec<String>, ApiError> {
        let lines = typed.iter().flat_map(|lines| lines.lines()).map(str::trim).filter(|line| !line.is_empty());
        let patterns: Vec<_> = lines.map(pattern).collect::<Result<_, _>>()?;
        match patterns.len() {
            0..=MOST_PATTERNS => Ok(patterns),
            _ => Err(ApiError::Unusable(format!("At most {MOST_PATTERNS} beginnings can be named."))),
        }
    };
    Ok(SitePart { within: patterns(&typed.within)?, without: patterns(&typed.without)? })
}

/// Names of parameters as people type them, each once.
pub fn checked_parameters(typed: &[String]) -> Result<Vec<String>, ApiError> {
    let mut names: Vec<String> = Vec::new();
    let words = typed.iter().flat_map(|line| line.split([',', ';', ' ', '\t']));
    for name in words.map(str::trim).filter(|name| !name.is_empty()) {
        let is_name = name.chars().enumerate().all(|(at, c)| {
            c.is_alphanumeric() || "-_.[]".contains(c) || (c == '*' && at + 1 == name.chars().count() && at > 0)
        });
        if !is_name || name.len() > LONGEST_PARAMETER {
            return Err(ApiError::Unusable(format!(
                "“{name}” is not the name of a parameter. Write names such as ref, or utm_* for all that begin with utm_."
            )));
        }
        if !names.iter().any(|known| known == name) {
            names.push(name.to_owned());
        }
        if names.len() > MOST_PARAMETERS {
            return Err(ApiError::Unusable(format!("At most {MOST_PARAMETERS} parameters can be named.")));
        }
    }
    Ok(names)
}
