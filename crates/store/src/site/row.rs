//! A row of the table of sites, as a site.

use strelm_core::reach::EquityRules;
use strelm_core::site::{Address, RoadRules, RoadsCount, SitePart};

use super::settings::{Every, Settings, Site, SiteId, SiteSource};
use crate::StoreError;

pub(super) struct SiteRow {
    pub id: i32,
    pub name: String,
    pub entry: String,
    pub micropub: Option<String>,
    pub folder: Option<String>,
    pub roads: String,
    pub entries: Vec<String>,
    pub most_pages: i32,
    pub delay_ms: i32,
    pub ignored_parameters: Vec<String>,
    pub read_every: Option<String>,
    pub writes: bool,
    pub within: Vec<String>,
    pub without: Vec<String>,
    pub link_form: Option<serde_json::Value>,
    pub named_micropub: Option<String>,
    pub heeds_nofollow: bool,
    pub equity_content: f64,
    pub equity_menu: f64,
    pub equity_footer: f64,
    pub equity_damping: f64,
}

impl SiteRow {
    /// The site that the row keeps.
    pub fn into_site(self) -> Result<Site, StoreError> {
        let address = |text: &str| {
            Address::parse(text).map_err(|_| StoreError::Unknown { what: "an address", value: text.to_owned() })
        };
        Ok(Site {
            id: SiteId(self.id),
            link_form: self.link_form.and_then(|form| serde_json::from_value(form).ok()),
            named_micropub: self.named_micropub,
            entry: address(&self.entry)?,
            settings: Settings {
                name: self.name,
                source: match self.folder {
                    Some(path) => SiteSource::Folder { path, writes: self.writes },
                    None => SiteSource::Web { micropub: self.micropub },
                },
                entries: self.entries.iter().map(|entry| address(entry)).collect::<Result<_, _>>()?,
                roads: RoadRules {
                    from: if self.roads == "content" { RoadsCount::Content } else { RoadsCount::All },
                    nofollow: !self.heeds_nofollow,
                },
                equity: EquityRules {
                    content: self.equity_content,
                    menu: self.equity_menu,
                    footer: self.equity_footer,
                    damping: self.equity_damping,
                },
                most_pages: self.most_pages,
                delay_ms: self.delay_ms,
                ignored_parameters: self.ignored_parameters,
                read_every: self.read_every.as_deref().and_then(Every::parse),
                part: SitePart { within: self.within, without: self.without },
            },
        })
    }
}
