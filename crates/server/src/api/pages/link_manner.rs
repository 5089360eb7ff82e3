//! How a link stands on its page: what carries it, what it is for and what it says.

use serde::Serialize;
use strelm_core::document::{Aim, Document, Link, LinkAttributes, LinkKind, Mail};
use utoipa::ToSchema;

/// How a link stands on its page.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkManner {
    /// As in `data-link`.
    pub number: usize,
    pub carried_by: Carrier,
    /// What it is for, when that is not a page: in plain words.
    pub aim: Option<String>,
    /// What its attributes say, in plain words.
    pub says: Vec<String>,
    /// The headings under which it stands, outermost first.
    pub under: Vec<String>,
    /// How much of the page's text is before it, from 0 to 1.
    pub share_before: f64,
}

/// What carries a link.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Carrier {
    Words,
    Picture,
    WordsAndPicture,
    PartOfPicture,
    Button,
    Nothing,
}

impl From<LinkKind> for Carrier {
    fn from(kind: LinkKind) -> Self {
        match kind {
            LinkKind::Text => Self::Words,
            LinkKind::Picture => Self::Picture,
            LinkKind::Mixed => Self::WordsAndPicture,
            LinkKind::Area => Self::PartOfPicture,
            LinkKind::Button => Self::Button,
            LinkKind::Empty => Self::Nothing,
        }
    }
}

/// How a link stands on its page, for those who put another in its place.
pub fn manner_of(document: &Document, number: usize, link: &Link) -> LinkManner {
    LinkManner {
        number,
        carried_by: link.kind.into(),
        aim: aim(link),
        says: says(&document.link_attributes(link)),
        under: document.heading_path(link.text.start),
        share_before: document.share_before(link.text.start),
    }
}

fn aim(link: &Link) -> Option<String> {
    Some(match link.aim() {
        Aim::Page => return None,
        Aim::Place => "a place on this page".to_owned(),
        Aim::Mail => {
            let fields = Mail::of(&link.href).map(|mail| mail.fields).unwrap_or_default();
            let subject = fields.into_iter().find(|(name, _)| name == "subject").map(|(_, subject)| subject);
            subject.map_or("a mail".to_owned(), |subject| format!("a mail about “{subject}”"))
        }
        Aim::Phone => "a telephone number".to_owned(),
        Aim::Message => "a text message".to_owned(),
        Aim::Script => "a script, and no page".to_owned(),
        Aim::Other => "another program".to_owned(),
    })
}

/// What the attributes of a link say that an editor should know.
fn says(said: &LinkAttributes) -> Vec<String> {
    let mut says: Vec<_> = said.rel.iter().filter(|token| !token.is_empty()).cloned().collect();
    let is_new_tab = said.target.as_ref().is_some_and(|target| target.eq_ignore_ascii_case("_blank"));
    says.extend(is_new_tab.then(|| "opens a new tab".to_owned()));
    says.extend(said.download.as_ref().map(|_| "is downloaded".to_owned()));
    says.extend(said.hreflang.as_ref().map(|language| format!("in {language}")));
    says.extend(said.title.as_ref().map(|title| format!("hint “{title}”")));
    says.extend(said.class.as_ref().map(|class| format!("class {class}")));
    says
}
