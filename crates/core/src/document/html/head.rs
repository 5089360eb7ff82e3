//! What start tags say besides being there: ids, language, meta data.

use super::Reader;
use super::facts::{self, TagFacts};
use crate::document::HeadLink;
use crate::document::elements::Element;

impl<'s> Reader<'s> {
    /// What a start tag says besides being there: ids, language, meta data.
    pub(super) fn note_facts(&mut self, element: Element, facts: &TagFacts<'s>) {
        let name = facts.name.filter(|_| element == Element::A).filter(|name| facts.id != Some(*name));
        let ids = facts.id.into_iter().chain(name).map(facts::value_of);
        let at = self.text.len();
        self.ids.extend(ids.map(|id| (at, id)));
        if self.head.microformat.is_none() {
            let root = |class: &str| class.split_ascii_whitespace().find(|c| c.starts_with("h-")).map(str::to_owned);
            self.head.microformat = facts.class.and_then(root);
        }
        match element {
            Element::Html => first(&mut self.head.language, facts.lang.or(facts.xml_lang)),
            Element::Base => first(&mut self.head.base, facts.href),
            Element::Link => {
                if let Some((rel, href)) = facts.rel.zip(facts.href()) {
                    let href = href.trim().to_owned();
                    let language = facts.hreflang.map(facts::value_of);
                    let media_type = facts.kind.map(|kind| facts::value_of(kind).trim().to_ascii_lowercase());
                    self.head.links.push(HeadLink { rel: tokens(rel), href, language, media_type });
                }
            }
            Element::Meta => self.note_meta(facts),
            Element::Time => self.note_time(facts),
            _ => {}
        }
    }

    fn note_meta(&mut self, facts: &TagFacts<'s>) {
        let Some(content) = facts.content else { return };
        if facts.property == Some("og:type") {
            first(&mut self.head.open_graph_type, Some(content));
        }
        if facts.property == Some("article:published_time") || is_published(facts.item_property) {
            first(&mut self.head.published, Some(content));
        }
        if facts.name.is_some_and(|name| name.eq_ignore_ascii_case("robots")) {
            self.head.noindex |=
                content.to_ascii_lowercase().split(',').any(|word| matches!(word.trim(), "noindex" | "none"));
        }
        if facts.http_equiv.is_some_and(|kind| kind.eq_ignore_ascii_case("refresh")) && self.head.refresh.is_none() {
            let content = facts::value_of(content);
            self.head.refresh = facts::refresh_target(&content);
            self.head.refresh_seconds = facts::refresh_seconds(&content);
        }
    }

    /// A page that lists others tells their dates, not its own.
    fn note_time(&mut self, facts: &TagFacts<'s>) {
        let is_list = self.head.microformat.as_deref() == Some("h-feed");
        let is_entry = facts.class.is_some_and(|class| class.split_ascii_whitespace().any(|c| c == "dt-published"));
        if !is_list && (is_entry || is_published(facts.item_property)) {
            first(&mut self.head.published, facts.date_time);
        }
    }
}

/// The property of schema.org that tells when something was first published.
fn is_published(item_property: Option<&str>) -> bool {
    item_property.is_some_and(|words| words.split_ascii_whitespace().any(|word| word == "datePublished"))
}

fn first(slot: &mut Option<String>, value: Option<&str>) {
    if slot.is_none() {
        *slot = value.map(facts::value_of);
    }
}

/// Words in lower case.
pub(super) fn tokens(list: &str) -> Vec<String> {
    list.split_ascii_whitespace().map(str::to_ascii_lowercase).collect()
}
