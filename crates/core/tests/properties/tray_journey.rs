//! A planned link from the tray to the site and back, on pages that change meanwhile: judged by what stands in the pages.

use proptest::prelude::*;
use strelm_core::document::{Document, LinkSays, QuotedSentence, Sighting, TextSpan};
use strelm_core::limits::LinkLimits;
use strelm_core::site::{Address, PageId, Target};
use strelm_core::tray::{
    Change, DecisionKind, EditRefusal, Fitting, OldLink, OnePage, Placed, PlannedLink, SourceNow, Tray, TrayState,
    TurnEffect, Turning, apply_all, as_it_stands, edit_of, outlook, place_of, sight, take_out, turned,
};

use crate::support::ground::entry;

const PAGE: &str = "<h2>Moons</h2><p>The first moon is dark. The red torch helps, and <a href=\"/old\" class=\"wide\">the \
                    atlas</a> does too.</p><p>Look at <img src=moon.png alt=Moon> there. Of stars.</p>";

fn address() -> Address {
    Address::parse("https://site.example/1").unwrap()
}

fn words(document: &Document, words: &str) -> TextSpan {
    let start = document.text().as_str().find(words).unwrap();
    TextSpan::new(start, start + words.len())
}

fn put(document: &Document, at: &str, target: u32) -> PlannedLink {
    let span = words(document, at);
    PlannedLink {
        change: Change::Put,
        source: PageId(1),
        target: Some(Target::Page(PageId(target))),
        words: span,
        source_hash: document.hash(),
        said: document.quote_around(span).unwrap(),
        href: format!("/{target}"),
        says: Vec::new(),
        fit: None,
        by_rule: None,
    }
}

/// One change of each kind.
fn all_kinds(document: &Document) -> Vec<PlannedLink> {
    let atlas = put(document, "the atlas", 9);
    let old = OldLink { href: "/old".to_owned(), to: address(), fragment: None };
    let picture = &document.pictures()[0];
    let sentence = words(document, "The first moon is dark.");
    let wording =
        QuotedSentence { before: "A ".to_owned(), anchor: "new moon".to_owned(), after: " is dark.".to_owned() };
    vec![
        put(document, "red torch", 2),
        PlannedLink { change: Change::Retarget(old.clone()), ..atlas.clone() },
        PlannedLink { change: Change::Unlink(old.clone()), target: None, href: "/old".to_owned(), ..atlas.clone() },
        PlannedLink {
            change: Change::Attributes(old),
            target: None,
            href: "/old".to_owned(),
            says: vec![LinkSays::Follow(false), LinkSays::Attribute("class".to_owned(), None)],
            ..atlas
        },
        PlannedLink {
            change: Change::Reword(wording),
            words: sentence,
            said: QuotedSentence::of(document.text().as_str(), sentence, sentence),
            ..put(document, "first moon", 3)
        },
        PlannedLink {
            change: Change::PutOnPicture(document.hash_of(picture)),
            words: TextSpan::new(picture.text_at, picture.text_at),
            said: QuotedSentence::of_words(picture.said()),
            ..put(document, "stars", 4)
        },
    ]
}

fn released(document: &Document, link: &PlannedLink) -> (Option<String>, TrayState) {
    let taken = entry(1, link.clone());
    let entries = [(&taken, None)];
    let page = OnePage { document, address: &address(), limits: LinkLimits::default(), entries: &entries };
    let (edit, ended) = page.edit().unwrap();
    (edit.map(|edit| edit.apply(document.source()).unwrap()), ended[0].state)
}

#[test]
fn each_kind_of_change_goes_out_is_seen_and_is_taken_back() {
    let document = Document::from_html(PAGE);
    for link in all_kinds(&document) {
        let (after, state) = released(&document, &link);
        let after = Document::from_html(after.unwrap());
        assert_eq!(state, TrayState::Out);
        let taken = entry(1, link.clone());
        assert_eq!(as_it_stands(&after, &taken).state, TrayState::Out, "{:?}", link.change);
        assert_ne!(as_it_stands(&document, &taken).state, TrayState::Out, "{:?}", link.change);
        let to = |href: &str| match address().follow(href) {
            strelm_core::site::Destination::Page { address, .. } => Some(address),
            _ => None,
        };
        let target = link.target_page().map(|page| to(&format!("/{}", page.0)).unwrap());
        let old = |link: &PlannedLink| PlannedLink {
            change: match link.change.clone() {
                Change::Retarget(old) => Change::Retarget(OldLink { to: to("/old").unwrap(), ..old }),
                Change::Unlink(old) => Change::Unlink(OldLink { to: to("/old").unwrap(), ..old }),
                other => other,
            },
            ..link.clone()
        };
        let seen = |now: &Document| {
            sight(&entry(1, old(&link)), now, &document, target.as_ref(), |other| to(&other.href)).sighting
        };
        assert_eq!((seen(&document), seen(&after)), (Sighting::NotYet, Sighting::There), "{:?}", link.change);
        // On a page that was changed since, the change alone is taken back.
        let changed = after.source().replace("Of stars", "Of many stars");
        let changed = Document::from_html(changed);
        let (back, ended) = take_out(&changed, Some(&document), &[&taken]);
        match link.change {
            Change::Reword(_) => assert_eq!(ended[0].state, TrayState::Out, "what else was changed cannot be told"),
            Change::Attributes(_) => {
                let back = Document::from_html(back.unwrap());
                let said = |document: &Document| document.link_attributes(&document.links()[0]);
                assert_eq!((said(&back), ended[0].state), (said(&document), TrayState::TakenBack));
            }
            _ => {
                assert_eq!(ended[0].state, TrayState::TakenBack, "{:?}", link.change);
                assert_eq!(back.unwrap(), document.source().replace("Of stars", "Of many stars"));
            }
        }
    }
}

#[test]
fn links_go_where_their_words_go_or_tell_why_they_cannot() {
    let document = Document::from_html(PAGE);
    let nobody = |_: PageId| false;
    for link in all_kinds(&document) {
        let taken = entry(1, link.clone());
        assert_eq!(place_of(&taken, SourceNow::Same, nobody), None);
        let moved = Document::from_html(format!("<p>A paragraph before.</p>{PAGE}"));
        let Some(Placed::Anew { words, source_hash }) = place_of(&taken, SourceNow::Changed(&moved), nobody) else {
            panic!("{:?} has lost its place", link.change)
        };
        assert_eq!(source_hash, moved.hash());
        let anew = entry(1, PlannedLink { words, source_hash, ..link.clone() });
        let after = edit_of(&moved, &anew).unwrap().apply(moved.source()).unwrap();
        let first = edit_of(&document, &taken).unwrap().apply(document.source()).unwrap();
        assert_eq!(after, format!("<p>A paragraph before.</p>{first}"), "{:?}", link.change);
        let other = Document::from_html("<p>Something else altogether.</p>");
        assert!(matches!(place_of(&taken, SourceNow::Changed(&other), nobody), Some(Placed::Lost { .. })));
        assert!(matches!(place_of(&taken, SourceNow::Gone, nobody), Some(Placed::Lost { .. })));
        assert!(matches!(place_of(&taken, SourceNow::Same, |page| page == PageId(1)), Some(Placed::Lost { .. })));
        let mut told = entry(1, link);
        told.message = Some("It was held back.".to_owned());
        assert!(
            matches!(place_of(&told, SourceNow::Same, nobody), Some(Placed::Anew { .. })),
            "nothing is against it now"
        );
    }
}

#[test]
fn what_does_not_go_together_is_held_back_and_the_rest_goes_out() {
    let document = Document::from_html(PAGE);
    let links = [
        put(&document, "red torch", 2),
        put(&document, "torch helps", 3),
        put(&document, "stars", 2),
        put(&document, "moon", 4),
    ];
    let taken: Vec<_> = (1..).zip(links).map(|(id, link)| entry(id, link)).collect();
    let against = [None, None, None, Some("The page has moved.".to_owned())];
    let entries: Vec<_> = taken.iter().zip(against).collect();
    let limits = LinkLimits { per_sentence: 5, ..LinkLimits::default() };
    let page = OnePage { document: &document, address: &address(), limits, entries: &entries };
    let (edit, ended) = page.edit().unwrap();
    let states: Vec<_> = ended.iter().map(|ended| ended.state).collect();
    assert_eq!(states, [TrayState::Out, TrayState::Tray, TrayState::Tray, TrayState::Tray]);
    let why = |at: usize| ended[at].message.clone().unwrap();
    assert!(why(1).contains("cannot carry the link"), "{}", why(1));
    assert!(why(2).contains("link to the same page twice"), "{}", why(2));
    assert_eq!(why(3), "The page has moved.");
    let after = edit.unwrap().apply(document.source()).unwrap();
    assert_eq!(after, PAGE.replace("red torch", "<a href=\"/2\">red torch</a>"));
    // As files they are worked out alike, but for what only a release knows.
    let files = apply_all(&document, &taken[..2]).unwrap();
    assert_eq!(files, after);
    assert_eq!(apply_all(&document, &[]), None);
    let gone = entry(9, PlannedLink { words: TextSpan::new(0, 1), ..put(&document, "stars", 7) });
    let other = Document::from_html("<p>Other.</p>");
    assert!(matches!(edit_of(&other, &gone), Err(EditRefusal::Lost { .. })));
}

#[test]
fn a_decision_that_is_undone_and_done_again_is_as_it_was() {
    for kind in DecisionKind::ALL {
        match (turned(kind, Turning::Back), turned(kind, Turning::Again)) {
            (TurnEffect::Moved { from, to }, TurnEffect::Moved { from: again_from, to: again_to }) => {
                assert_eq!((from, to), (again_to, again_from), "{kind:?}");
            }
            (TurnEffect::Passed(back), TurnEffect::Passed(again)) => assert_ne!(back, again, "{kind:?}"),
            other => panic!("{kind:?}: {other:?}"),
        }
    }
    assert_eq!(turned(DecisionKind::Pass, Turning::Again), TurnEffect::Passed(true));
    assert_eq!(
        turned(DecisionKind::Take, Turning::Back),
        TurnEffect::Moved { from: TrayState::Tray, to: TrayState::Dropped }
    );
}

proptest! {
    /// What the tray counts as it goes is what counting all of it finds.
    #[test]
    fn the_tray_counts_what_is_in_it(steps in prop::collection::vec((0i64..8, 0u32..4, 0usize..3, any::<bool>()), 0..40)) {
        let document = Document::from_html(PAGE);
        let links: Vec<_> = ["red torch", "stars", "Look"].iter().map(|at| put(&document, at, 1)).collect();
        let mut tray = Tray::default();
        let mut all: std::collections::BTreeMap<i64, (u32, usize)> = Default::default();
        for (id, target, at, stays) in steps {
            if stays {
                let page = PageId(target + 2);
                tray.put(entry(id, PlannedLink { target: Some(Target::Page(page)), ..links[at].clone() }));
                all.insert(id, (page.0, at));
            } else {
                prop_assert_eq!(tray.remove(strelm_core::site::ChangeId(id)).is_some(), all.remove(&id).is_some());
            }
        }
        prop_assert_eq!((tray.len(), tray.on(PageId(1)).count(), tray.on(PageId(2)).count()), (all.len(), all.len(), 0));
        for target in 2..6 {
            for (at, link) in links.iter().enumerate() {
                let count = all.values().filter(|known| **known == (target, at)).count();
                let key = (strelm_core::language::fold(&link.said.anchor), PageId(target));
                prop_assert_eq!(tray.worn().get(&key).copied().unwrap_or_default(), count);
                let room = |per_phrase| {
                    let limits = LinkLimits { per_phrase, ..LinkLimits::default() };
                    tray.load().one_more(limits, &Target::Page(PageId(target)), &link.said.anchor).is_ok()
                };
                prop_assert_eq!((room(count + 1), count > 0 && room(count)), (true, false));
            }
        }
    }

    /// As many edits as fit are those that composing each with all before would let through.
    #[test]
    fn as_many_edits_as_fit_go_together(picks in prop::collection::vec(0usize..6, 0..8)) {
        let document = Document::from_html(PAGE);
        let kinds = all_kinds(&document);
        let mut fitting = Fitting::on(document.hash());
        let mut kept = Vec::new();
        for pick in picks {
            let edit = edit_of(&document, &entry(1, kinds[pick].clone())).unwrap();
            let together = kept.iter().cloned().chain([edit.clone()]);
            let fits = strelm_core::document::Edit::compose(document.hash(), together).is_ok();
            prop_assert_eq!(fitting.add(edit.clone()).is_ok(), fits);
            if fits {
                kept.push(edit);
            }
        }
        let all = strelm_core::document::Edit::compose(document.hash(), kept).unwrap();
        prop_assert_eq!(fitting.compose().unwrap(), all);
    }
}

#[test]
fn the_outlook_warns_of_what_a_release_would_hold_back() {
    use crate::support::world::world;
    let mut pages = vec!["<p>Nothing but a filler stands here.</p>".to_owned(); crate::support::world::TITLES.len()];
    pages[0] = PAGE.to_owned();
    let (mut site, _, world) = world(&pages);
    let document = &world.documents[&PageId(1)];
    let mut tray = Tray::default();
    let mut sources: std::collections::BTreeMap<_, _> =
        world.documents.iter().map(|(page, document)| (*page, document.hash())).collect();
    let links = [put(document, "red torch", 2), put(document, "stars", 3), put(document, "Look", 99)];
    for (id, link) in (1..).zip(links) {
        if let Some(target) = link.target_page() {
            site.plan(strelm_core::site::ChangeId(id), link.source, target);
        }
        tray.put(entry(id, link));
    }
    let limits = LinkLimits { per_target: 1, ..LinkLimits::default() };
    let warnings = |tray: &Tray, site: &strelm_core::site::Site, sources: &_, limits| {
        let outlook = outlook(tray, site, sources, limits);
        let mut told: Vec<_> = outlook.warnings.into_iter().map(|(id, why)| (id.0, why)).collect();
        told.sort();
        (told, outlook.links[&PageId(1)])
    };
    let (told, links) = warnings(&tray, &site, &sources, limits);
    assert_eq!((told.len(), told[0].0), (1, 3), "{told:?}");
    assert_eq!(links, (1, 3), "two of them lead to pages that are there");
    let few = LinkLimits { words_per_link: 1000, per_page_at_least: 2, ..limits };
    assert_eq!(warnings(&tray, &site, &sources, few).0.len(), 3, "more than the page may carry");
    tray.put(entry(4, put(document, "moon", 2)));
    assert!(warnings(&tray, &site, &sources, limits).0.iter().any(|(id, why)| *id == 1 && why.contains("more than 1")));
    sources.remove(&PageId(1));
    assert!(
        warnings(&tray, &site, &sources, limits)
            .0
            .iter()
            .all(|(_, why)| why.contains("cannot be edited") || why.contains("no longer"))
    );
}
