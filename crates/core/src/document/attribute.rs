//! Attributes of links, with their places.

use std::borrow::Cow;

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

impl Document {
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
