//! Taking openings, one or many: wishes from the interface, and the pages that they are about.

use std::sync::Arc;

use serde::{Deserialize, Serialize};
use strelm_core::document::{ContentHash, Document, LinkSays, QuotedSentence, TextSpan};
use strelm_core::rules::{Rule, RuleId};
use strelm_core::site::{Address, NoPhoneNumber, NoTarget, PageId, PhoneNumber, PlannedPageId, Target};
use strelm_core::tray::{ByRule, LinkSpot, TakeRefusal, Taken, Taking};
use strelm_live::{LiveSite, Model};
use strelm_store::page::PageText;
use strelm_store::{SiteId, page, site};
use utoipa::ToSchema;

use crate::api::state::page_of;
use crate::api::{ApiError, State};

/// More links are not taken at once.
const MOST_AT_ONCE: usize = 5000;

/// A link to put on words of a page.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct TakeWish {
    source: u32,
    target: TargetWish,
    /// Byte offsets into the text of the source page.
    words_start: usize,
    words_end: usize,
    /// The version of the source page that the editor saw.
    version: String,
    /// Whether the editor chose the words or the target, so that it need not be an opening that was found.
    #[serde(default)]
    pub by_hand: bool,
    /// The editor's own wording, in place of the whole sentence around the words.
    wording: Option<WordingWish>,
    /// The picture that is to carry the link instead of words, by its number on the page.
    picture: Option<usize>,
    /// What else the link says.
    #[serde(default)]
    #[schema(value_type = Vec<Object>)]
    says: Vec<LinkSays>,
    /// The rule that makes it, by its number: it leads where the rule leads and says what the rule says.
    pub rule: Option<u32>,
}

/// Where a link is to lead: a page by its number, or something else by its kind.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(untagged)]
pub enum TargetWish {
    Page(u32),
    Other(OtherTarget),
}

/// A target that is no page of the site.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum OtherTarget {
    /// A place on a page, by its id.
    Place {
        page: u32,
        id: String,
    },
    /// A page that is to come, by its number.
    PlannedPage {
        planned: i64,
    },
    /// A page of another site, by its whole address.
    Outside {
        address: String,
    },
    /// Who gets a mail: an address, or a whole `mailto:`.
    Mail {
        to: String,
    },
    Phone {
        number: String,
    },
    /// A file of the site, by its whole address.
    File {
        address: String,
    },
}

/// A sentence, with a link on some of it.
#[derive(Debug, Clone, Deserialize, ToSchema)]
pub struct WordingWish {
    before: String,
    anchor: String,
    after: String,
}

impl TargetWish {
    /// A target as it could be wished for.
    pub fn of(target: &Target) -> Self {
        Self::Other(match target {
            Target::Page(page) => return Self::Page(page.0),
            Target::Place { page, id } => OtherTarget::Place { page: page.0, id: id.clone() },
            Target::PlannedPage(planned) => OtherTarget::PlannedPage { planned: planned.0 },
            Target::Outside { address, fragment } => OtherTarget::Outside {
                address: fragment.as_ref().map_or_else(|| address.to_string(), |place| format!("{address}#{place}")),
            },
            Target::Mail(mail) => OtherTarget::Mail { to: mail.href() },
            Target::Phone(phone) => OtherTarget::Phone { number: phone.href().replacen("tel:", "", 1) },
            Target::File(address) => OtherTarget::File { address: address.to_string() },
        })
    }

    /// The page that it is, by its number.
    pub const fn page(&self) -> Option<u32> {
        match self {
            Self::Page(page) => Some(*page),
            Self::Other(_) => None,
        }
    }

    /// # Errors
    /// [`ApiError::Unusable`] where it is none.
    pub fn target(&self, model: &Model) -> Result<Target, ApiError> {
        let unusable = |why: NoTarget| ApiError::Unusable(format!("{why}."));
        Ok(match self {
            Self::Page(page) => Target::Page(PageId(*page)),
            Self::Other(OtherTarget::Place { page, id }) => Target::Place { page: PageId(*page), id: id.clone() },
            Self::Other(OtherTarget::PlannedPage { planned }) => Target::PlannedPage(PlannedPageId(*planned)),
            Self::Other(OtherTarget::Outside { address }) => Target::outside(address).map_err(unusable)?,
            Self::Other(OtherTarget::Mail { to }) => Target::mail(to).map_err(unusable)?,
            Self::Other(OtherTarget::Phone { number }) => Target::Phone(
                PhoneNumber::parse(number).map_err(|why: NoPhoneNumber| unusable(NoTarget::NotANumber(why)))?,
            ),
            Self::Other(OtherTarget::File { address }) => {
                let file = Address::parse(address).map_err(|why| ApiError::Unusable(format!("{why}.")))?;
                match model.site.is_own(&file) {
                    true => Target::File(file),
                    false => return Err(ApiError::Unusable(format!("{file} is not a file of this site."))),
                }
            }
        })
    }
}

impl TakeWish {
    fn wish(&self, model: &Model) -> Result<strelm_core::tray::LinkWish, ApiError> {
        let words = TextSpan::new(self.words_start, self.words_end.max(self.words_start));
        let rule = self.rule.map(|number| self.made_by(RuleId(number), model)).transpose()?;
        let rule = rule.as_ref();
        let wording =
            self.wording.clone().map(|WordingWish { before, anchor, after }| QuotedSentence { before, anchor, after });
        Ok(strelm_core::tray::LinkWish {
            source: PageId(self.source),
            target: match rule {
                Some(rule) => rule.leads_to(),
                None => self.target.target(model)?,
            },
            carrier: self.picture.map_or(LinkSpot::Words(words), LinkSpot::Picture),
            version: ContentHash::parse(&self.version),
            by_hand: self.by_hand,
            wording,
            says: rule.map_or_else(|| self.says.clone(), |rule| rule.says.clone()),
            by_rule: rule.map(|rule| ByRule { rule: rule.id, also_in: rule.scope.blocks.also_in() }),
        })
    }

    /// The rule that makes the link.
    fn made_by(&self, rule: RuleId, model: &Model) -> Result<Rule, ApiError> {
        let rules = model.rules();
        if rules.get(rule).is_none() {
            return Err(ApiError::Conflict("The rule was removed meanwhile.".to_owned()));
        }
        // A rule with one target leads there; of one that stands for terms the target tells which.
        let target = self.target.target(model).ok();
        let other =
            || ApiError::Conflict("The rule does not lead there any more. Look at its places again.".to_owned());
        rules.leading_to(rule, target.as_ref()).ok_or_else(other)
    }
}

impl From<TakeRefusal> for ApiError {
    fn from(refusal: TakeRefusal) -> Self {
        match refusal {
            TakeRefusal::NoPage(_) => Self::NotFound("There is no such page. Look for it in Pages."),
            refusal if refusal.is_about_the_wish() => Self::Unusable(refusal.to_string()),
            refusal => Self::Conflict(refusal.to_string()),
        }
    }
}

/// What of the wishes can be taken. A single refused wish is an error; of many the others are taken. One query for all
/// pages.
pub async fn taken(state: &State, id: SiteId, live: &Arc<LiveSite>, wishes: &[TakeWish]) -> Result<Taken, ApiError> {
    if wishes.is_empty() || wishes.len() > MOST_AT_ONCE {
        return Err(ApiError::Unusable(format!("Take 1 to {MOST_AT_ONCE} links at once.")));
    }
    let settings = site::get(&state.pool, id).await?;
    let form = settings.and_then(|site| site.form_of_links());
    let mut sources: Vec<PageId> = wishes.iter().map(|wish| PageId(wish.source)).collect();
    sources.sort_unstable();
    sources.dedup();
    live.read_texts_of(&state.pool, sources.clone()).await?;
    let texts = page::texts(&state.pool, id, Some(&sources)).await?;
    let read = |text: PageText| {
        let source = text.source?;
        Some((text.page, Document::read(source.text, source.format)))
    };
    let pages = state.aside(move || texts.into_iter().filter_map(read).collect()).await?;
    let wishes = wishes.to_vec();
    live.ask(move |model| {
        let wishes: Vec<_> = wishes.iter().map(|wish| wish.wish(model)).collect::<Result<_, _>>()?;
        Taking::new(model.ground(form.as_ref()), pages).take(&wishes).map_err(|refusal| match refusal {
            TakeRefusal::NoPage(page) => page_of(model, page.0).err().unwrap_or_else(|| refusal.into()),
            refusal => refusal.into(),
        })
    })
    .await?
}
