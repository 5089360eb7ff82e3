//! The demo site has exactly the defects that its README lists, as far as the core can tell them already.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::{BTreeMap, BTreeSet};

use strelm_core::audit::broken;
use strelm_core::document::{Document, Link, LinkKind, Region};
use strelm_core::language::Language;
use strelm_core::site::{
    Absence, Address, Destination, Fragments, OutLink, PageFacts, PageId, PageKind, Site, Standing,
};
use strelm_core::tray::Tray;

use self::support::{Read, demo, live_site, read_all};

fn listed(kind: &str) -> BTreeSet<String> {
    let readme = std::fs::read_to_string(demo().join("README.md")).unwrap();
    let rows = readme.lines().filter_map(|line| {
        let cells: Vec<_> = line.split('|').map(str::trim).collect();
        (cells.len() == 5 && cells[1] == kind).then(|| cells[2].to_owned())
    });
    rows.collect()
}

fn paths<'a>(addresses: impl IntoIterator<Item = &'a Address>) -> BTreeSet<String> {
    addresses.into_iter().map(Address::from_root).collect()
}

#[test]
fn the_demo_has_the_defects_that_its_readme_lists() {
    let state = tempfile::tempdir().unwrap();
    let live = live_site(vec![demo()], &state);
    let entry = Address::parse(&live.entry()).unwrap();
    let Read { pages, redirects } = read_all(&entry);
    let mut site = Site::new(entry.clone());
    redirects.iter().for_each(|(from, to)| site.put_redirect(from, to));
    let (mut fragments, mut dead) = (Fragments::default(), BTreeMap::new());
    for (number, (address, document)) in (1..).zip(&pages) {
        let facts = PageFacts {
            id: PageId(number),
            address: address.clone(),
            kind: PageKind::Page,
            title: document.head().title.clone().unwrap(),
            heading: document.main_heading(),
            category: document.head().category.clone(),
            words: 0,
            language: Language::English,
            editable: true,
            standing: Standing::default(),
        };
        let followed: Vec<_> = document.links().iter().map(|l| (address.follow(&l.href), l)).collect();
        let links: Vec<_> = followed
            .iter()
            .filter_map(|(to, link)| match to {
                Destination::Page { address, .. } => Some(OutLink {
                    to: address.clone(),
                    region: link.region,
                    marks: document.link_attributes(link).marks(),
                }),
                _ => None,
            })
            .collect();
        site.put_page(facts, &links);
        let mut places = Vec::new();
        for (to, _) in followed {
            let Destination::Page { address: to, fragment } = to else { continue };
            if to.same_origin(&entry) && !pages.contains_key(&to) && !redirects.contains_key(&to) {
                dead.insert(to.clone(), Absence::Status(404));
            }
            places.extend(fragment.map(|fragment| (to, fragment)));
        }
        fragments.put(PageId(number), document.ids(), places);
    }
    site.settle();
    let figures: Vec<_> = site.pages().map(|page| (&page.address, site.figures(page.id).unwrap())).collect();
    let with = |test: &dyn Fn(&strelm_core::site::Figures) -> bool| {
        paths(figures.iter().filter(|(_, f)| test(f)).map(|(address, _)| *address))
    };
    assert_eq!(with(&|f| f.is_orphan()), listed("orphan"));
    assert_eq!(with(&|f| !f.is_orphan() && f.depth.is_none()), listed("island"));
    assert_eq!(with(&|f| f.links_out == 0), listed("dead end"));
    let hanging = with(&|f| f.links_in == 1 && f.depth.is_some());
    assert_eq!(paths(redirects.keys()), listed("redirect"));
    assert!(redirects.values().any(|to| redirects.contains_key(to)), "one of them is a chain");
    assert!(hanging.is_superset(&listed("thread")), "{hanging:?}");
    let found = broken(&site, &dead, &fragments, &Tray::default());
    let (places, links): (Vec<_>, Vec<_>) = found.values().flatten().partition(|link| link.fragment.is_some());
    let on_pages = |links: Vec<&strelm_core::audit::FaultyLink>| {
        paths(links.iter().filter_map(|link| site.page(link.page)).map(|page| &page.address))
    };
    assert_eq!(on_pages(links), listed("broken link"));
    assert_eq!(on_pages(places), listed("broken fragment"));
    let generic = pages.iter().filter(|(_, document)| {
        let mut texts = document.links().iter().map(|l| document.text().slice(l.text).trim().to_lowercase());
        texts.any(|text| ["read more", "click here", "this page"].contains(&text.as_str()))
    });
    assert_eq!(paths(generic.map(|(address, _)| address)), listed("generic anchor"));

    let on = |test: &dyn Fn(&Document, &Link) -> bool| {
        let with = pages.iter().filter(|(_, document)| document.links().iter().any(|link| test(document, link)));
        paths(with.map(|(address, _)| address))
    };
    let text = |document: &Document, link: &Link| document.text().slice(link.text).trim().to_lowercase();
    assert_eq!(on(&|_, link| link.rel.iter().any(|rel| rel == "sponsored")), listed("partner link"));
    assert_eq!(listed("partner link").len(), 8);
    let is_wordless = |_: &Document, link: &Link| {
        link.kind == LinkKind::Picture
            && link.region == Region::Content
            && link.alt.as_deref().unwrap_or_default().is_empty()
    };
    assert_eq!(on(&is_wordless), listed("picture without words"));
    // One anchor text in the content that leads to different pages.
    let is_the_chart = |document: &Document, link: &Link| text(document, link) == "the chart";
    assert_eq!(on(&is_the_chart), listed("same anchor text"));
    let targets = pages.iter().flat_map(|(address, document)| {
        let links = document.links().iter().filter(|link| is_the_chart(document, link));
        links.map(|link| address.follow(&link.href)).collect::<Vec<_>>()
    });
    assert_eq!(targets.map(|to| format!("{to:?}")).collect::<BTreeSet<_>>().len(), 2);
    let menu: Vec<_> =
        pages[&entry].links().iter().filter(|l| l.region == Region::Menu).map(|l| l.href.as_str()).collect();
    let twice = menu.iter().filter(|href| menu.iter().filter(|other| other == href).count() > 1);
    assert_eq!(twice.map(|href| (*href).to_owned()).collect::<BTreeSet<_>>(), listed("twice in the menu"));
    let only_footer = site.pages().filter(|page| {
        let mut links =
            pages.iter().filter(|(address, _)| **address != page.address).flat_map(|(address, document)| {
                document.links().iter().map(move |link| (address.follow(&link.href), link.region))
            });
        let is_here = |to: &Destination| matches!(to, Destination::Page { address, .. } if *address == page.address);
        let mut found = links.by_ref().filter(|(to, _)| is_here(to)).map(|(_, region)| region).peekable();
        found.peek().is_some() && found.all(|region| region == Region::Footer)
    });
    assert_eq!(paths(only_footer.map(|page| &page.address)), listed("footer only"));
}

#[test]
fn every_demo_page_is_real_prose_of_150_to_600_words() {
    let pages: Vec<_> = walkdir::WalkDir::new(demo().join("pages"))
        .into_iter()
        .map(Result::unwrap)
        .filter(|entry| entry.file_type().is_file())
        .collect();
    let mut prose = 0;
    for page in pages {
        let source = std::fs::read_to_string(page.path()).unwrap();
        let page_file = strelm_standins::live_site::PageFile::parse(&source).unwrap();
        if page_file.front.moved_to.is_some() {
            continue;
        }
        prose += 1;
        let content = page_file.content;
        let document = Document::from_html(content);
        let words = document.text().as_str().split_whitespace().count();
        assert!((150..=600).contains(&words), "{}: {words} words", page.path().display());
        assert!(document.blocks().iter().all(|block| block.region == Region::Content));
        for link in document.links() {
            let own = link.href.starts_with(['/', '#']) || link.href.starts_with("mailto:");
            let host = url::Url::parse(&link.href).ok().and_then(|url| url.host_str().map(str::to_owned));
            assert!(own || host.is_some_and(|host| host.ends_with(".example")), "{}", link.href);
        }
    }
    assert_eq!(prose, 60);
}
