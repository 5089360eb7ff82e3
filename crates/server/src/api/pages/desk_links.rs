//! Links that lead out of a page: each with what carries it, what it says, where it stands and what is wrong with it.

use std::collections::{HashMap, HashSet};

use strelm_core::document::{Aim, Document, Link, Region};
use strelm_core::site::{Address, Destination, PageFacts};
use strelm_store::page::StoredLink;

use super::Repair;
use super::desk_rows::{LinkOfRule, LinkRow};
use super::link_manner::manner_of;
use super::row::PageRef;
use strelm_core::audit::{Fault, FaultyLink};
use strelm_core::tray::TrayEntry;
use strelm_live::Model;
use strelm_live::rules::spot_of;

/// Links of the page's own text in their order, then what stands around it. `stored` are the page's links as they were
/// read, which tells where each leads. O(links × log blocks).
pub fn links_out(
    model: &Model,
    page: &PageFacts,
    document: &Document,
    stored: &[StoredLink],
    by_rules: &[TrayEntry],
) -> Vec<LinkRow> {
    let of_rules = of_rules(model, page, document, by_rules);
    let known: HashMap<&str, (&Address, Option<&str>)> =
        stored.iter().map(|link| (link.href.as_str(), (&link.to, link.fragment.as_deref()))).collect();
    let faults = faults_on(model, page);
    let links = document.links().iter().enumerate().filter(|(_, link)| link.region == Region::Content);
    // A sign beside a heading, by which it can be pointed at, leads nobody anywhere.
    let is_sign = |link: &Link| link.aim() == Aim::Place && !document.anchor(link).chars().any(char::is_alphanumeric);
    let links = links.filter(|(_, link)| !is_sign(link));
    let mut rows: Vec<_> = links
        .map(|(number, link)| {
            let (to, fragment) = match known.get(link.href.as_str()) {
                Some((to, fragment)) => (Some((*to).clone()), fragment.map(str::to_owned)),
                None => match page.address.follow(&link.href) {
                    Destination::Page { address, fragment } => (Some(address), fragment),
                    Destination::Other(_) | Destination::Unusable => (None, None),
                },
            };
            let mut row = row_of(model, &faults, to.as_ref(), fragment.as_deref());
            row.anchor = document.anchor(link);
            if to.is_none() {
                row.address.clone_from(&link.href);
            }
            row.standing = Some(manner_of(document, number, link));
            row.rule = of_rules.get(&number).cloned();
            row
        })
        .collect();
    // What a template puts into the content is no part of the page's own text, and counted with it all the same.
    let own: HashSet<&str> = document.links().iter().map(|link| link.href.as_str()).collect();
    let around = |link: &&StoredLink| link.region != Region::Content || !own.contains(link.href.as_str());
    rows.extend(stored.iter().filter(around).map(|link| {
        let mut row = row_of(model, &faults, Some(&link.to), link.fragment.as_deref());
        row.anchor.clone_from(&link.anchor);
        row.region = link.region.as_str().to_owned();
        // What stands around the text is changed in the template.
        row.repair = None;
        row
    }));
    LinkRow::once_each(rows)
}

/// The rules that made links of the page, by the ordinals of these. O(n × links of rules).
fn of_rules(model: &Model, page: &PageFacts, document: &Document, made: &[TrayEntry]) -> HashMap<usize, LinkOfRule> {
    let of_rule = |made: &TrayEntry| {
        let by = made.link.by_rule?;
        let found = document.find_link(&made.link.quote(), &made.link.href).filter(|found| found.in_sentence)?;
        let said = document.quote_around(document.links()[found.ordinal].text)?;
        let rule = model.rules().leading_to(by.rule, made.link.target.as_ref());
        let phrase = rule.as_ref().and_then(|rule| rule.phrases.first());
        let rule = LinkOfRule {
            number: by.rule.0,
            phrase: phrase.map(|phrase| phrase.as_str().to_owned()),
            spot: format!("{:016x}", spot_of(page.address.as_url().path(), &said).0),
        };
        Some((found.ordinal, rule))
    };
    made.iter().filter_map(of_rule).collect()
}

/// What is wrong with links of a page, by where they lead.
type Faults = HashMap<(Address, Option<String>), FaultyLink>;

fn faults_on(model: &Model, page: &PageFacts) -> Faults {
    let (broken, detours) = (model.broken(), model.detours());
    let first = detours.partition_point(|link| link.page < page.id);
    let detours = detours[first..].iter().take_while(|link| link.page == page.id);
    let faulty = broken.get(&page.id).into_iter().flatten().chain(detours);
    faulty.map(|link| ((link.to.clone(), link.fragment.clone()), link.clone())).collect()
}

fn row_of(model: &Model, faults: &Faults, to: Option<&Address>, fragment: Option<&str>) -> LinkRow {
    let target = to.and_then(|to| model.site.page_at(to));
    // A fault of the address is one of all links to it, whatever place on the page they name.
    let fault = to.and_then(|to| {
        let at = |fragment: Option<&str>| faults.get(&(to.clone(), fragment.map(str::to_owned)));
        at(fragment).or_else(|| at(None))
    });
    let mut notes = Vec::new();
    if let Some(standing) = target.and_then(|target| model.site.page(target)).map(|page| &page.standing)
        && standing.noindex
    {
        notes.push("search engines are asked to leave that page out".to_owned());
    }
    if to.is_some_and(|to| !model.site.is_own(to)) {
        notes.push("another site".to_owned());
    } else if to.is_some() && target.is_none() && fault.is_none() {
        notes.push("not among the pages that are read".to_owned());
    }
    LinkRow {
        page: target.and_then(|page| PageRef::of(model, page.0).ok()),
        fault: fault.map(|link| match link.fault {
            Fault::Nothing(_) => format!("broken: {}", link.fault),
            Fault::NoPlace => format!("broken: the page has no place called #{}", fragment.unwrap_or_default()),
            Fault::Moved(_) | Fault::OtherScheme(_) | Fault::NotCanonical(_) => format!("a detour: {}", link.fault),
        }),
        notes,
        repair: fault.and_then(|link| Repair::of(model, link)),
        address: to
            .map(|to| format!("{to}{}", fragment.map(|f| format!("#{f}")).unwrap_or_default()))
            .unwrap_or_default(),
        anchor: String::new(),
        region: Region::Content.as_str().to_owned(),
        rule: None,
        repeated: 1,
        times: 1,
        standing: None,
    }
}
