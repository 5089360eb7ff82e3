//! A site, and what an editor sets for it.

use strelm_core::reach::EquityRules;
use strelm_core::site::{Address, IGNORED_PARAMETERS, LinkForm, RoadRules, SitePart};

/// The number of a site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize, serde::Deserialize)]
#[serde(transparent)]
pub struct SiteId(pub i32);

/// Where a site is read from, and where its releases go.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SiteSource {
    /// The live site, edited over Micropub where it has that.
    Web { micropub: Option<String> },
    /// A folder of files on the machine of the server, and whether they may be changed.
    Folder { path: String, writes: bool },
}

/// How what is in the tray gets to a site.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Way {
    /// Strelm writes it there.
    Written,
    /// Somebody gets a list of it and brings it there.
    HandedOver,
}

impl Way {
    pub(crate) const fn as_str(self) -> &'static str {
        match self {
            Self::Written => "written",
            Self::HandedOver => "handed over",
        }
    }

    pub(crate) fn parse(word: &str) -> Option<Self> {
        [Self::Written, Self::HandedOver].into_iter().find(|way| way.as_str() == word)
    }
}

/// How often a site is read again by itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Every {
    Day,
    Week,
    Month,
}

impl Every {
    pub(super) const fn as_str(self) -> &'static str {
        match self {
            Self::Day => "day",
            Self::Week => "week",
            Self::Month => "month",
        }
    }

    pub(super) fn parse(word: &str) -> Option<Self> {
        [Self::Day, Self::Week, Self::Month].into_iter().find(|every| every.as_str() == word)
    }
}

/// What an editor sets.
#[derive(Debug, Clone, PartialEq)]
pub struct Settings {
    pub name: String,
    pub source: SiteSource,
    /// Further pages on which readers start.
    pub entries: Vec<Address>,
    /// Which links are roads.
    pub roads: RoadRules,
    /// How link equity goes from page to page.
    pub equity: EquityRules,
    /// Addresses that a reading looks at, at most.
    pub most_pages: i32,
    /// Between the beginnings of two requests, in milliseconds.
    pub delay_ms: i32,
    /// Parameters of addresses that change nothing on the page; a name that ends in `*` stands for all that begin so.
    pub ignored_parameters: Vec<String>,
    pub read_every: Option<Every>,
    /// Which part of it is read.
    pub part: SitePart,
}

impl Settings {
    /// What a site has before anybody sets anything.
    pub fn new(name: &str, source: SiteSource) -> Self {
        let name = name.to_owned();
        Self {
            name,
            source,
            entries: Vec::new(),
            roads: RoadRules::default(),
            equity: EquityRules::default(),
            most_pages: 20_000,
            delay_ms: 0,
            ignored_parameters: IGNORED_PARAMETERS.map(str::to_owned).into(),
            read_every: None,
            part: SitePart::default(),
        }
    }
}

/// A site as it is kept.
#[derive(Debug, Clone)]
pub struct Site {
    pub id: SiteId,
    pub entry: Address,
    pub settings: Settings,
    /// How the links of a folder are written, once it was read.
    pub link_form: Option<LinkForm>,
    /// The editing interface that its entry page names.
    pub named_micropub: Option<String>,
}

impl Site {
    /// How new links between its pages are written; `None` where addresses from the root are.
    pub fn form_of_links(&self) -> Option<LinkForm> {
        match self.settings.source {
            SiteSource::Folder { .. } => Some(self.link_form.clone().unwrap_or_default()),
            SiteSource::Web { .. } => None,
        }
    }

    /// How what is in its tray gets to it.
    pub fn way(&self) -> Way {
        match self.settings.source {
            SiteSource::Web { micropub: Some(_) } | SiteSource::Folder { writes: true, .. } => Way::Written,
            SiteSource::Web { micropub: None } | SiteSource::Folder { writes: false, .. } => Way::HandedOver,
        }
    }
}
