//! Attributes of links, with their places.

use std::borrow::Cow;

use serde::{Deserialize, Serialize};

use super::Document;
use super::html::references::attribute_value;
use super::html::tokenizer::RawAttribute;
use super::link::Link;
use super::span::SourceSpan;

/// An attribute as it stands in a start tag.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Attribute<'d> {
    /// In lower case.
    pub name: Cow<'d, str>,
    /// With character references resolved.
    pub value: Cow<'d, str>,
    /// From the name to after the value and its quote.
    pub source: SourceSpan,
    /// The value without quotes; empty just after the name when there is none.
    pub value_source: SourceSpan,
}

/// What a link says beside where it leads, as it is kept with its page.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct LinkAttributes {
    /// Lower-case tokens of `rel`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub rel: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub target: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub class: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hreflang: Option<String>,
    /// The name under which a file is to be kept, or nothing.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub download: Option<String>,
    /// Alternative text of a picture that carries the link.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub alt: Option<String>,
}

/// How a link is to be followed, in one byte.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct LinkMarks(u8);

impl LinkMarks {
    /// Crawlers are asked not to follow it: `nofollow`.
    pub const NOFOLLOW: Self = Self(1);
    /// Somebody pays for it: `sponsored`.
    pub const SPONSORED: Self = Self(2);
    /// What users of the site wrote: `ugc`.
    pub const USER_CONTENT: Self = Self(4);
    /// It opens in a tab of its own.
    pub const NEW_TAB: Self = Self(8);
    /// What it leads to is saved and not shown.
    pub const DOWNLOAD: Self = Self(16);

    /// Whether all marks of `mark` are among these.
    pub const fn has(self, mark: Self) -> bool {
        self.0 & mark.0 == mark.0
    }

    /// These marks, and `mark` where `is` says so.
    #[must_use]
    pub const fn with(self, mark: Self, is: bool) -> Self {
        if is { Self(self.0 | mark.0) } else { self }
    }
}

impl LinkAttributes {
    /// Whether it says nothing.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// What these attributes say of how the link is to be followed.
    pub fn marks(&self) -> LinkMarks {
        let has = |token: &str| self.rel.iter().any(|rel| rel == token);
        let is_new_tab = self.target.as_ref().is_some_and(|target| target.eq_ignore_ascii_case("_blank"));
        LinkMarks::default()
            .with(LinkMarks::NOFOLLOW, has("nofollow"))
            .with(LinkMarks::SPONSORED, has("sponsored"))
            .with(LinkMarks::USER_CONTENT, has("ugc"))
            .with(LinkMarks::NEW_TAB, is_new_tab)
            .with(LinkMarks::DOWNLOAD, self.download.is_some())
    }
}

impl Document {
    /// What a link says beside where it leads. O(attributes).
    pub fn link_attributes(&self, link: &Link) -> LinkAttributes {
        let said = |name: &str| self.attribute(link, name).map(Cow::into_owned);
        let is_some = |text: &String| !text.trim().is_empty();
        LinkAttributes {
            rel: link.rel.clone(),
            target: said("target").filter(is_some),
            title: said("title").or_else(|| link.title.as_deref().map(str::to_owned)).filter(is_some),
            class: said("class").filter(is_some),
            hreflang: said("hreflang").filter(is_some),
            download: said("download"),
            alt: link.alt.clone().filter(is_some),
        }
    }

    /// The attributes of a link in source order; none for a link that Markdown writes in its own way.
    pub fn attributes(&self, link: &Link) -> impl Iterator<Item = Attribute<'_>> {
        self.raw_attributes(link).iter().map(|raw| {
            let name = self.source().get(raw.name.range()).unwrap_or_default();
            let is_lower = !name.bytes().any(|byte| byte.is_ascii_uppercase());
            Attribute {
                name: if is_lower { name.into() } else { name.to_ascii_lowercase().into() },
                value: attribute_value(self.source().get(raw.value.range()).unwrap_or_default()),
                source: raw.source,
                value_source: raw.value,
            }
        })
    }

    /// The value of a link's attribute; of two with the same name the first counts, as in a browser.
    pub fn attribute(&self, link: &Link, name: &str) -> Option<Cow<'_, str>> {
        self.attributes(link).find(|attribute| attribute.name == name).map(|attribute| attribute.value)
    }

    pub(crate) fn raw_attributes(&self, link: &Link) -> &[RawAttribute] {
        let range = link.attributes.start as usize..link.attributes.end as usize;
        self.link_attributes.get(range).unwrap_or_default()
    }
}
