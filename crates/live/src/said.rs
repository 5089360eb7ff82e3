//! What the links of a page say, those of its own text and those around it.

use std::collections::{HashMap, HashSet};

use strelm_core::anchors::{LookedLink, SaidLink};
use strelm_core::document::{Aim, Document, Link, LinkKind, Region};
use strelm_core::language::Language;
use strelm_store::page::StoredLink;

/// Links of the page's own text in their order, then what stands around it. `stored` are the page's links as they were read,
/// which tells where each leads. O(what they say).
pub fn looked_links(document: Option<&Document>, stored: &[StoredLink], language: Language) -> Vec<LookedLink> {
    let leads: HashMap<&str, String> = stored.iter().map(|link| (link.href.as_str(), address_of(link))).collect();
    let mut looked = Vec::new();
    let mut own: HashSet<&str> = HashSet::new();
    if let Some(document) = document {
        let links = document.links().iter().enumerate().filter(|(_, link)| link.region == Region::Content);
        for (ordinal, link) in links {
            own.insert(&link.href);
            let text = document.heard(link);
            if is_sign(link, &text) {
                continue;
            }
            looked.push(LookedLink::of(SaidLink {
                language,
                text: &text,
                kind: link.kind,
                to: leads.get(link.href.as_str()).map_or(&link.href, |to| to),
                ordinal: Some(ordinal),
                is_repeated: false,
                is_filing: link.has_rel("tag"),
                marks: document.link_attributes(link).marks(),
            }));
        }
    }
    // What a template puts into the content is no part of the page's own text, and counted with it all the same.
    let around = stored.iter().filter(|link| link.region != Region::Content || !own.contains(link.href.as_str()));
    looked.extend(around.map(|link| {
        // A title is all that is heard of a link that shows nothing.
        let title = link.attributes.title.as_deref().filter(|_| link.anchor.is_empty());
        let text = title.unwrap_or(&link.anchor);
        LookedLink::of(SaidLink {
            language,
            text,
            kind: if text.is_empty() { LinkKind::Empty } else { LinkKind::Text },
            to: &address_of(link),
            ordinal: None,
            is_repeated: link.region != Region::Content,
            is_filing: link.attributes.rel.iter().any(|rel| rel == "tag"),
            marks: link.attributes.marks(),
        })
    }));
    looked
}

/// A sign beside a heading, by which it can be pointed at, leads nobody anywhere.
fn is_sign(link: &Link, text: &str) -> bool {
    link.aim() == Aim::Place && !text.chars().any(char::is_alphanumeric)
}

fn address_of(link: &StoredLink) -> String {
    match &link.fragment {
        Some(place) => format!("{}#{place}", link.to),
        None => link.to.to_string(),
    }
}
