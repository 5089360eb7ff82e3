//! Mending links one by one, wherever they lead: each gets another target, says other things, or is taken off its words.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use serde::Deserialize;
use strelm_core::document::{Document, LinkSays};
use strelm_core::site::{Address, Destination, PageId, Target};
use strelm_core::tray::{LeftOut, Mended, OldLink, PlannedLink, RepairRefusal, mend_link};
use strelm_live::{LiveSite, Model};
use strelm_store::page::{self, PageText};
use strelm_store::{SiteId, site};
use utoipa::ToSchema;

use super::take::TargetWish;
use crate::api::state::page_of;
use crate::api::{ApiError, State};

/// More links are not mended at once.
const MOST_AT_ONCE: usize = 5000;

/// A link of a page.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct LinkOfPage {
    source: u32,
    /// The version of the page that the editor saw.
    version: String,
    /// Which of the links of the page it is, from 0.
    link: usize,
}

/// What becomes of links.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Becomes {
    /// They are taken off; their words stay.
    Off,
    /// All of them lead there.
    Leads { target: TargetWish },
    /// The beginning of each address gives way to another; what comes after it stays.
    Swap { from: String, to: String },
    /// They say other things; what is left out stays as it is.
    Says { nofollow: Option<bool>, sponsored: Option<bool>, ugc: Option<bool>, new_tab: Option<bool> },
}

/// What all pages have in common, and what is to be known of each.
struct Common {
    becomes: Becoming,
    /// The address of each page, and how a target that all links get is written there.
    pages: HashMap<PageId, (Address, Option<String>)>,
    /// Where what is written leads.
    stored: BTreeMap<PageId, HashMap<String, (Address, Option<String>)>>,
}

/// What becomes of links, looked at.
enum Becoming {
    Off,
    Leads(Target),
    Swap { from: String, to: String },
    Says(Vec<LinkSays>),
}

/// What goes into the tray: each of the links, and what could not be mended and why. O(bytes of the pages), and a handful of
/// queries.
///
/// # Errors
/// Of a single link, why it cannot be mended.
pub async fn mended(
    state: &State,
    id: SiteId,
    live: &Arc<LiveSite>,
    links: &[LinkOfPage],
    becomes: &Becomes,
) -> Result<(Vec<PlannedLink>, Vec<LeftOut>), ApiError> {
    if links.is_empty() || links.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Mend 1 to {MOST_AT_ONCE} links at once.")));
    }
    let mut by_page: BTreeMap<PageId, Vec<LinkOfPage>> = BTreeMap::new();
    for link in links {
        by_page.entry(PageId(link.source)).or_default().push(link.clone());
    }
    let sources: Vec<PageId> = by_page.keys().copied().collect();
    let common = common(state, id, live, &sources, becomes).await?;
    let texts = page::texts(&state.pool, id, Some(&sources)).await?;
    let target = match becomes {
        Becomes::Leads { target } => target.page(),
        Becomes::Off | Becomes::Swap { .. } | Becomes::Says { .. } => None,
    };
    let mend = move || {
        let mut texts: HashMap<PageId, PageText> = texts.into_iter().map(|text| (text.page, text)).collect();
        let (mut mended, mut refused) = (Vec::new(), Vec::new());
        for (page, links) in &by_page {
            for (words, outcome) in common.on_page(*page, texts.remove(page), links) {
                match outcome {
                    Ok(link) => mended.push(link),
                    Err(why) => refused.push(LeftOut { source: page.0, target, words, why: why.to_string() }),
                }
            }
        }
        (mended, refused)
    };
    let (mended, refused) = state.aside(mend).await?;
    match mended.is_empty() {
        true => Err(ApiError::Conflict(
            refused.first().map_or_else(|| RepairRefusal::ReadAnew.to_string(), |refused| refused.why.clone()),
        )),
        false => Ok((mended, refused)),
    }
}

async fn common(
    state: &State,
    id: SiteId,
    live: &Arc<LiveSite>,
    sources: &[PageId],
    becomes: &Becomes,
) -> Result<Common, ApiError> {
    let mut stored: BTreeMap<PageId, HashMap<String, (Address, Option<String>)>> = BTreeMap::new();
    for link in page::content_links(&state.pool, id, sources).await? {
        stored.entry(link.page).or_default().insert(link.href, (link.to, link.fragment));
    }
    let form = site::get(&state.pool, id).await?.and_then(|site| site.form_of_links());
    let (of, becomes) = (sources.to_vec(), becomes.clone());
    let ask = move |model: &Model| -> Result<Common, ApiError> {
        let becomes = becomes.looked_at(model)?;
        let target = match &becomes {
            Becoming::Leads(target) => Some(target),
            Becoming::Off | Becoming::Swap { .. } | Becoming::Says(_) => None,
        };
        if let Some(page) = target.and_then(Target::page) {
            page_of(model, page.0)?;
        }
        let ground = model.ground(form.as_ref());
        let mut pages = HashMap::new();
        for source in of {
            let from = page_of(model, source.0)?;
            let href = target.map(|target| target.href(&from.address, form.as_ref(), &ground));
            let gone = || ApiError::Conflict("Where the links are to lead is not there any more.".to_owned());
            let href = href.map(|href| href.ok_or_else(gone)).transpose()?;
            pages.insert(source, (from.address.clone(), href));
        }
        Ok(Common { becomes, pages, stored })
    };
    live.ask(ask).await?
}

impl Common {
    /// Each of some links of a page with the words that name it. O(n) in its source for each link.
    fn on_page(
        &self,
        page: PageId,
        text: Option<PageText>,
        links: &[LinkOfPage],
    ) -> Vec<(String, Result<PlannedLink, RepairRefusal>)> {
        let Some(source) = text.and_then(|text| text.source) else {
            return links.iter().map(|_| (String::new(), Err(RepairRefusal::NotEditable))).collect();
        };
        let version = source.hash.to_string();
        let document = Document::read(source.text, source.format);
        let mend = |link: &LinkOfPage| {
            let Some(found) = document.links().get(link.link).filter(|_| link.version == version) else {
                return (String::new(), Err(RepairRefusal::ReadAnew));
            };
            let words = document.anchor(found);
            (words, self.mend(page, &document, link.link))
        };
        links.iter().map(mend).collect()
    }

    fn mend(&self, page: PageId, document: &Document, link: usize) -> Result<PlannedLink, RepairRefusal> {
        let (from, href) = self.pages.get(&page).ok_or(RepairRefusal::NotEditable)?;
        let written = document.links().get(link).ok_or(RepairRefusal::ReadAnew)?.href.clone();
        let known = self.stored.get(&page).and_then(|stored| stored.get(&written)).cloned();
        let followed = || match from.follow(&written) {
            Destination::Page { address, fragment } => Some((address, fragment)),
            Destination::Other(_) | Destination::Unusable => None,
        };
        let (to, fragment) = known.or_else(followed).ok_or(RepairRefusal::LeadsNowhere)?;
        let becomes = match &self.becomes {
            Becoming::Off => Mended::Off,
            Becoming::Leads(target) => Mended::Leads(target.clone(), href.clone().ok_or(RepairRefusal::NoAddress)?),
            Becoming::Swap { from, to: begin } => swapped(&to, fragment.as_deref(), from, begin)?,
            Becoming::Says(says) => Mended::Says(says.clone()),
        };
        let old = OldLink { href: written, to, fragment };
        mend_link(page, document, link, old, becomes)
    }
}

/// The address with another beginning, after which all stays as it was.
fn swapped(to: &Address, fragment: Option<&str>, from: &str, begin: &str) -> Result<Mended, RepairRefusal> {
    let whole = fragment.map_or_else(|| to.to_string(), |place| format!("{to}#{place}"));
    let rest = whole.strip_prefix(from).ok_or(RepairRefusal::BeginsOtherwise)?;
    let target = Target::outside(&format!("{begin}{rest}")).map_err(|_| RepairRefusal::NoAddress)?;
    match target {
        Target::Outside { address, fragment } => {
            let href = fragment.as_ref().map_or_else(|| address.to_string(), |place| format!("{address}#{place}"));
            Ok(Mended::Leads(Target::Outside { address, fragment }, href))
        }
        _ => Err(RepairRefusal::NoAddress),
    }
}

impl Becomes {
    fn looked_at(self, model: &Model) -> Result<Becoming, ApiError> {
        Ok(match self {
            Self::Off => Becoming::Off,
            Self::Leads { target } => Becoming::Leads(target.target(model)?),
            Self::Swap { from, to } => {
                let to = to.trim().to_owned();
                if from.trim().is_empty() || Target::outside(&to).is_err() {
                    return Err(ApiError::Unusable(
                        "Say with which address the links are to begin instead, such as https://new.example/shop/."
                            .to_owned(),
                    ));
                }
                Becoming::Swap { from: from.trim().to_owned(), to }
            }
            Self::Says { nofollow, sponsored, ugc, new_tab } => {
                let says: Vec<_> = [
                    nofollow.map(|is| LinkSays::Follow(!is)),
                    sponsored.map(LinkSays::Sponsored),
                    ugc.map(LinkSays::UserContent),
                    new_tab.map(LinkSays::NewTab),
                ]
                .into_iter()
                .flatten()
                .collect();
                if says.is_empty() {
                    return Err(ApiError::Unusable("Say what the links are to say.".to_owned()));
                }
                Becoming::Says(says)
            }
        })
    }
}
