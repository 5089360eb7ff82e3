//! Taking links: what is offered can be taken, what cannot is told why, and links of every kind are written right.

use proptest::prelude::*;
use strelm_core::document::{Document, LinkSays, QuotedSentence, Refusal, TextSpan};
use strelm_core::limits::{LinkLimits, SiteLimits};
use strelm_core::openings::{Limits, Manners, Opening};
use strelm_core::site::{Address, PageId, PhoneNumber, PlannedPageId, Target};
use strelm_core::tray::{LinkSpot, LinkWish, PlannedLink, TakeRefusal, Taking};

use crate::support::ground::{GroundOf, entry};
use crate::support::world::{TITLES, pages};

fn wish(ground: &GroundOf, source: PageId, target: Target, carrier: LinkSpot) -> LinkWish {
    LinkWish {
        source,
        target,
        carrier,
        version: ground.versions.get(&source).copied(),
        by_hand: false,
        wording: None,
        by_rule: None,
        says: Vec::new(),
    }
}

fn of_opening(ground: &GroundOf, opening: &Opening) -> LinkWish {
    wish(ground, opening.source, Target::Page(opening.target), LinkSpot::Words(opening.words))
}

fn offered(ground: &GroundOf, page: PageId) -> Vec<Opening> {
    let linkable = ground.ground(None).linkable;
    let (worn, load) = (Some(ground.tray.worn()), Some(ground.tray.load()));
    let manners = Manners { limits: Some(ground.limits.links), worn, load, words_twice: false };
    ground.judge().outbound(None, page, &linkable, manners, Limits { least_fit: 0.0, ..Limits::default() })
}

/// A page of prose, in which `words` stand.
fn site(first: &str) -> GroundOf {
    let mut pages = vec!["<p>Nothing but a filler stands here.</p>".to_owned(); TITLES.len()];
    pages[0] = first.to_owned();
    pages[2] = "<h2 id=\"cares\">Its cares</h2><p>Of the torch.</p>".to_owned();
    GroundOf::of(&pages)
}

fn words_of(ground: &GroundOf, words: &str) -> TextSpan {
    let text = ground.world.documents[&PageId(1)].text().as_str();
    let start = text.find(words).unwrap();
    TextSpan::new(start, start + words.len())
}

fn by_hand(ground: &GroundOf, words: &str, target: Target) -> LinkWish {
    LinkWish { by_hand: true, ..wish(ground, PageId(1), target, LinkSpot::Words(words_of(ground, words))) }
}

fn taken(ground: &GroundOf, wish: LinkWish) -> Result<PlannedLink, TakeRefusal> {
    let taken = Taking::new(ground.ground(None), ground.documents()).take(&[wish])?;
    Ok(taken.links.into_iter().next().unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    /// Offering and taking count alike: words, links, sentences, and what the whole release brings.
    #[test]
    fn what_is_offered_for_a_page_is_taken(
        pages in pages(),
        limits in (1..3usize, 1..8usize, 0..4usize, prop::sample::select(vec![0usize, 5, 20]), 1..3usize, 1..3usize),
        before in 0..6usize,
    ) {
        let mut ground = GroundOf::of(&pages);
        let (per_sentence, words_per_link, per_page_at_least, first_words_free, per_target, per_phrase) = limits;
        let limits =
            LinkLimits { per_sentence, words_per_link, per_page_at_least, first_words_free, per_target, per_phrase };
        ground.limits = SiteLimits { links: limits, ..SiteLimits::default() };
        let ids: Vec<PageId> = ground.versions.keys().copied().collect();
        // Something is in the tray already.
        for (at, page) in ids.iter().cycle().take(before).enumerate() {
            let Some(opening) = offered(&ground, *page).into_iter().nth(at / ids.len()) else { continue };
            if let Ok(link) = taken(&ground, of_opening(&ground, &opening)) {
                ground.site.plan(strelm_core::site::ChangeId(at as i64), link.source, link.target_page().unwrap());
                ground.tray.put(entry(at as i64, link));
            }
        }
        for page in ids {
            let offered = offered(&ground, page);
            // One by one, each as it would be the first that is taken.
            for opening in &offered {
                let one = taken(&ground, of_opening(&ground, opening));
                prop_assert!(one.is_ok(), "{:?} on {}", one, pages[page.0 as usize - 1]);
            }
            // And all of them as the set that they are.
            let wishes: Vec<_> = offered.iter().map(|opening| of_opening(&ground, opening)).collect();
            if wishes.len() > 1 {
                let together = Taking::new(ground.ground(None), ground.documents()).take(&wishes).unwrap();
                prop_assert_eq!((together.links.len(), together.refused), (wishes.len(), Vec::new()));
            }
        }
    }
}

#[test]
fn links_of_every_kind_are_written_as_they_lead() {
    let mut ground = site("<h2 id=\"own\">Own</h2><p>Of one, two, three, four, five, six, seven and eight.</p>");
    let planned = PlannedPageId(7);
    ground.planned_pages.insert(planned, Address::parse("https://site.example/to-come/").unwrap());
    let chart = Address::parse("https://site.example/files/chart.pdf").unwrap();
    let cases = [
        ("one", Target::Page(PageId(3)), "/3"),
        ("two", Target::Place { page: PageId(3), id: "cares".to_owned() }, "/3#cares"),
        ("three", Target::Place { page: PageId(1), id: "own".to_owned() }, "#own"),
        ("four", Target::PlannedPage(planned), "/to-come/"),
        ("five", Target::outside("https://elsewhere.example/a?b#c").unwrap(), "https://elsewhere.example/a?b#c"),
        (
            "six",
            Target::mail("mailto:a@b.example?subject=Moon%20%26%20more").unwrap(),
            "mailto:a@b.example?subject=Moon%20%26%20more",
        ),
        ("seven", Target::Phone(PhoneNumber::parse("+43 1 234/567").unwrap()), "tel:+43-1-234-567"),
        ("eight", Target::File(chart), "/files/chart.pdf"),
    ];
    for (words, target, href) in cases {
        let link = taken(&ground, by_hand(&ground, words, target.clone())).unwrap();
        assert_eq!((link.href.as_str(), &link.target), (href, &Some(target)));
        assert_eq!((link.said.anchor.as_str(), link.change.brings_link()), (words, true));
    }
}

#[test]
fn what_cannot_be_taken_says_why() {
    let mut ground =
        site("<p>Of one, two and <a href=\"/4\">three</a>. And <code>four</code>.</p><p><img src=m.png></p>");
    let page = |number| Target::Page(PageId(number));
    let refusal = |ground: &GroundOf, wish: LinkWish| taken(ground, wish).unwrap_err();
    let place = Target::Place { page: PageId(3), id: "nowhere".to_owned() };
    assert_eq!(refusal(&ground, by_hand(&ground, "one", page(99))), TakeRefusal::NoPage(PageId(99)));
    assert_eq!(refusal(&ground, by_hand(&ground, "one", place)), TakeRefusal::NoPlace("nowhere".to_owned()));
    assert_eq!(
        refusal(&ground, by_hand(&ground, "one", Target::PlannedPage(PlannedPageId(1)))),
        TakeRefusal::NoPlannedPage
    );
    assert_eq!(refusal(&ground, by_hand(&ground, "one", page(1))), TakeRefusal::ToItself);
    assert_eq!(refusal(&ground, by_hand(&ground, "one", page(4))), TakeRefusal::LeadsThere);
    assert_eq!(refusal(&ground, by_hand(&ground, "three", page(5))), TakeRefusal::Words(Refusal::AlreadyLinked));
    let found = LinkWish { by_hand: false, ..by_hand(&ground, "one", page(3)) };
    assert_eq!(refusal(&ground, found), TakeRefusal::OpeningGone);
    let old = LinkWish { version: None, ..by_hand(&ground, "one", page(3)) };
    assert_eq!(refusal(&ground, old), TakeRefusal::ReadAnew);
    let beyond = LinkWish { carrier: LinkSpot::Words(TextSpan::new(900, 904)), ..by_hand(&ground, "one", page(3)) };
    assert_eq!(refusal(&ground, beyond), TakeRefusal::WordsGone);
    let picture = |at| LinkWish { carrier: LinkSpot::Picture(at), ..by_hand(&ground, "one", page(3)) };
    assert_eq!(refusal(&ground, picture(3)), TakeRefusal::PictureGone);
    let on_picture = taken(&ground, picture(0)).unwrap();
    let wording = |anchor: &str, after: &str| {
        let wording = QuotedSentence { before: String::new(), anchor: anchor.to_owned(), after: after.to_owned() };
        LinkWish { wording: Some(wording), ..by_hand(&ground, "four", page(3)) }
    };
    assert!(refusal(&ground, wording(" ", "x")).is_about_the_wish());
    assert_eq!(refusal(&ground, wording(&"x".repeat(3000), "")), TakeRefusal::TooLong);
    assert_eq!(refusal(&ground, wording("And", " four.")), TakeRefusal::SameWording);
    // What is in the tray counts.
    let one = taken(&ground, by_hand(&ground, "one", page(3))).unwrap();
    ground.tray.put(entry(1, one));
    ground.tray.put(entry(2, PlannedLink { target: Some(page(5)), ..on_picture }));
    assert_eq!(refusal(&ground, by_hand(&ground, "two", page(3))), TakeRefusal::Already);
    let to_place = Target::Place { page: PageId(3), id: "cares".to_owned() };
    assert_eq!(refusal(&ground, by_hand(&ground, "two", to_place)), TakeRefusal::Already, "of the same page");
    assert_eq!(refusal(&ground, by_hand(&ground, "one", page(6))), TakeRefusal::WordsUsed);
    let again = LinkWish { carrier: LinkSpot::Picture(0), ..by_hand(&ground, "two", page(6)) };
    assert_eq!(refusal(&ground, again), TakeRefusal::PictureUsed);
    // Of many the others are taken.
    ground.limits.links.per_sentence = 5;
    let wishes = [by_hand(&ground, "one", page(6)), by_hand(&ground, "two", page(6))];
    let many = Taking::new(ground.ground(None), ground.documents()).take(&wishes).unwrap();
    assert_eq!((many.links.len(), many.refused.len(), many.refused[0].words.as_str()), (1, 1, "one"));
}

#[test]
fn what_a_new_link_says_is_written_into_its_tag() {
    let ground = site("<p>Of one and two.</p>");
    let says = vec![LinkSays::Sponsored(true), LinkSays::NewTab(true)];
    let outside = Target::outside("https://elsewhere.example/").unwrap();
    let link = taken(&ground, LinkWish { says, ..by_hand(&ground, "one", outside) }).unwrap();
    let document = &ground.world.documents[&PageId(1)];
    let edit = strelm_core::tray::edit_of(document, &entry(1, link)).unwrap();
    let after = Document::from_html(edit.apply(document.source()).unwrap());
    let said = after.link_attributes(&after.links()[0]);
    assert_eq!(
        (said.rel, said.target.as_deref()),
        (vec!["sponsored".to_owned(), "noopener".to_owned()], Some("_blank"))
    );
    let bad = vec![LinkSays::Attribute("onclick".to_owned(), Some("x()".to_owned()))];
    let link = taken(&ground, LinkWish { says: bad, ..by_hand(&ground, "one", Target::Page(PageId(3))) }).unwrap();
    let edit = strelm_core::tray::edit_of(document, &entry(1, link)).unwrap();
    assert!(!edit.apply(document.source()).unwrap().contains("onclick"), "no script comes by a link");
}
