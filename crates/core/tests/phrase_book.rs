//! The phrase book after deltas is the phrase book built anew; and each part of a fit says why it is what it is.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::BTreeMap;

use proptest::prelude::*;
use strelm_core::document::Document;
use strelm_core::language::Language;
use strelm_core::openings::{AllWanted, Ensemble, Fit, Judge, Limits, Part, Reason, Taste};
use strelm_core::phrases::{NameSource, PhraseBook, Standing as Stands};
use strelm_core::site::{OutLink, PageFacts, PageId, Site};

use self::support::{address, follow, mentioned, page};

fn facts(number: u32, title: &str, heading: Option<&str>) -> PageFacts {
    PageFacts { heading: heading.map(str::to_owned), ..page(number, title) }
}

#[derive(Debug, Clone)]
enum Delta {
    Title(u32, String, Option<String>),
    Prose(u32, Option<String>),
    Remove(u32),
    /// From then on what stands where is counted with each delta.
    Settle,
}

fn words(most: usize) -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec!["moon", "moons", "dark", "sky", "the", "star", "Club"]);
    prop::collection::vec(word, 1..=most).prop_map(|words| words.join(" "))
}

/// A title or a heading: many begin or end with the same word, some have a number.
fn called() -> impl Strategy<Value = String> {
    prop_oneof![
        words(3),
        words(2).prop_map(|words| words + " star"),
        words(2).prop_map(|words| format!("Moon {words}")),
        words(2).prop_map(|words| format!("4. Moon {words}")),
        Just("dark sky".to_owned()),
        words(2).prop_map(|words| format!("{words} | Club")),
        words(2).prop_map(|words| format!("Club - {words}(8)")),
    ]
}

/// Words of a page's text, some of which are links.
fn text() -> impl Strategy<Value = String> {
    let word = prop::sample::select(vec![
        "moon",
        "moons",
        "dark",
        "sky",
        "the",
        "star",
        "Club",
        "<a href='/2'>dark</a>",
        "<a href='/3'>the moon</a>",
        "<code>sky</code>",
        "dark sky (DS)",
        "DS",
    ]);
    let once = prop::collection::vec(word, 1..=12).prop_map(|words| words.join(" "));
    // What is said three times names a page, where nothing else does.
    (once, prop::sample::select(vec![1, 3])).prop_map(|(text, times)| vec![text; times].join(". "))
}

fn delta() -> impl Strategy<Value = Delta> {
    prop_oneof![
        3 => (1u32..8, called(), any::<bool>(), prop::option::of(called())).prop_map(|(page, title, with_site, heading)| {
            Delta::Title(page, if with_site { format!("{title} | Sky Club") } else { title }, heading)
        }),
        2 => (1u32..8, prop::option::weighted(0.8, (text(), words(2))))
            .prop_map(|(page, text)| Delta::Prose(page, text.map(|(text, section)| format!("<h2>{section}</h2><p>{text}.</p>")))),
        1 => (1u32..8).prop_map(Delta::Remove),
        1 => Just(Delta::Settle),
    ]
}

type Told = (u32, u32, usize, usize, u32, u64, Stands);

/// All mentions with all that is counted of them.
fn mentions(book: &PhraseBook) -> Vec<Told> {
    let by = (1..8).flat_map(|page| book.mentions_by(PageId(page)));
    let tell = |m: strelm_core::phrases::Mention| {
        let standing = book.standing(m.phrase);
        (m.source.0, m.target().0, m.first, m.len, m.naming.anchors, m.share.to_bits(), standing)
    };
    let mut found: Vec<_> = by.map(tell).collect();
    found.sort_by_key(|told| (told.0, told.1, told.2, told.3));
    found
}

proptest! {
    #[test]
    fn deltas_in_any_order_give_what_building_anew_gives(deltas in prop::collection::vec(delta(), 0..50)) {
        let mut book = PhraseBook::default();
        let mut titles: BTreeMap<u32, (String, Option<String>)> = BTreeMap::new();
        let mut prose: BTreeMap<u32, String> = BTreeMap::new();
        for delta in deltas {
            match delta {
                Delta::Title(page, title, heading) => {
                    book.put_page(&facts(page, &title, heading.as_deref()));
                    titles.insert(page, (title, heading));
                }
                Delta::Prose(page, text) => {
                    // A page's text comes with or after the page itself.
                    if titles.contains_key(&page) {
                        let document = text.as_ref().map(|text| Document::from_html(text.as_str()));
                        book.put_prose(PageId(page), document.as_ref(), follow);
                        prose.remove(&page);
                        prose.extend(text.map(|text| (page, text)));
                    }
                }
                Delta::Remove(page) => {
                    book.remove_page(PageId(page));
                    titles.remove(&page);
                    prose.remove(&page);
                }
                Delta::Settle => book.settle(),
            }
        }
        book.settle();
        let mut anew = PhraseBook::default();
        titles.iter().for_each(|(page, (title, heading))| anew.put_page(&facts(*page, title, heading.as_deref())));
        for (page, text) in &prose {
            anew.put_prose(PageId(*page), Some(&Document::from_html(text.as_str())), follow);
        }
        anew.settle();
        prop_assert_eq!(mentions(&book), mentions(&anew));
        prop_assert_eq!(book.prose_count(), prose.len());
        for page in titles.keys() {
            let names = |book: &PhraseBook| -> Vec<_> {
                book.names(PageId(*page)).iter().map(|name| name.text.clone()).collect()
            };
            prop_assert_eq!(names(&book), names(&anew));
        }
    }
}

#[test]
fn title_and_heading_name_a_page_and_sentences_do_not() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Choosing eyepieces", Some("Eyepieces")));
    book.put_page(&facts(2, "The", None));
    book.put_page(&facts(3, "How we built a telescope out of what we found in the barn", Some("A barn telescope")));
    book.put_page(&facts(4, "Seeing", Some("seeing")));
    let names = |page| -> Vec<_> {
        let said = book.names(PageId(page)).iter().filter(|name| !name.source.is_guess());
        said.map(|name| (name.text.as_ref(), name.source)).collect()
    };
    assert_eq!(names(1), [("Choosing eyepieces", NameSource::Title), ("Eyepieces", NameSource::Heading)]);
    assert_eq!(names(2), []);
    assert_eq!(names(3), [("A barn telescope", NameSource::Heading), ("barn telescope", NameSource::Part)]);
    assert_eq!(names(4), [("Seeing", NameSource::Title)], "the same words are one name");
}

#[test]
fn names_of_code_are_taken_whole_and_from_ids() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "git-rev-list(1)", Some("git-rev-list(1) Manual Page")));
    book.put_page(&facts(2, "Paths", None));
    let html = "<p id=os.sep><b>BACKGROUND</b> <b>Separators</b></p><dl><dt id=os.path.join>function join(a)<dd>Joins.</dl>\
                <table><tr><td><code>split</code> (text)<td>Parts.</table><h2 id=sect.intro>How it began</h2>";
    book.put_prose(PageId(2), Some(&Document::from_html(html)), follow);
    let names = |page| -> Vec<(&str, NameSource)> {
        book.names(PageId(page)).iter().map(|name| (name.text.as_ref(), name.source)).collect()
    };
    let (of_page, of_paths) = (names(1), names(2));
    assert!(of_page.contains(&("git-rev-list", NameSource::Title)), "{of_page:?}");
    assert!(!of_page.iter().any(|(text, _)| ["git-rev", "rev-list"].contains(text)), "{of_page:?}");
    for expected in [
        ("os.path.join", NameSource::Term),
        ("join", NameSource::Term),
        ("split", NameSource::Term),
        ("BACKGROUND Separators", NameSource::Section),
    ] {
        assert!(of_paths.contains(&expected), "{expected:?} {of_paths:?}");
    }
    assert!(!of_paths.iter().any(|(text, _)| *text == "intro"), "an id that says something else: {of_paths:?}");
}

#[test]
fn numbers_of_versions_and_code_before_an_apostrophe_are_named() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Map Release 3.6.1 of 2026-08-06", None));
    book.put_page(&facts(2, "Charts 1.8", None));
    book.put_page(&facts(3, "mod_cgi", None));
    book.put_page(&facts(5, "d.his", None));
    book.put_page(&facts(4, "Changes", None));
    let html = "<p>Since 3.6.10, Release 3.6.1 and 1.8 of Charts 1.8: <code>mod_cgi</code>'s, d.his, d. his.";
    book.put_prose(PageId(4), Some(&Document::from_html(html)), follow);
    let text = book.prose(PageId(4)).unwrap().text();
    let tokens = book.prose(PageId(4)).unwrap().tokens();
    let found: Vec<_> = book
        .mentions_by(PageId(4))
        .iter()
        .map(|mention| {
            let (first, last) = (tokens[mention.first].span(), tokens[mention.end() - 1].span());
            (&text[first.start..last.end], mention.target().0)
        })
        .collect();
    assert_eq!(found, [("Release 3.6.1", 1), ("3.6.1", 1), ("Charts 1.8", 2), ("mod_cgi", 3), ("d.his", 5)]);
}

/// Targets named on a page, with the words.
fn named(book: &PhraseBook, page: u32) -> Vec<(String, u32)> {
    let said = |source: &Option<NameSource>| source.is_none_or(|source| !source.is_guess());
    let found = mentioned(book, PageId(page)).into_iter().filter(|(.., source)| said(source));
    found.map(|(words, target, _)| (words, target.0)).collect()
}

#[test]
fn a_passage_is_read_in_its_own_language_and_titles_are_known_in_those_of_the_site() {
    let mut book = PhraseBook::default();
    // Its text is not translated yet, so it was taken for English; its title is.
    book.put_page(&facts(1, "Monturas ecuatoriales", None));
    book.put_page(&facts(2, "Star charts", None));
    let spanish = "Antes de salir conviene que lea lo que se dice de la montura ecuatorial y de los mapas que hay.";
    let english = "Before you go out it is best to look at what we have to say of a star chart and where it is from.";
    let mixed = Document::from_html(format!("<p>{spanish}</p><p>{english}</p>"));
    let spanish_page = PageFacts { language: Language::Spanish, ..facts(3, "Antes de salir", None) };
    book.put_page(&spanish_page);
    book.put_prose(PageId(3), Some(&mixed), follow);
    assert_eq!(named(&book, 3), [("star chart".to_owned(), 2)], "the English passage has English stems");
    book.speaks(Language::Spanish);
    let both = [("montura ecuatorial".to_owned(), 1), ("star chart".to_owned(), 2)];
    assert_eq!(named(&book, 3), both);

    // The same without being told, since passages are in that language.
    let mut told_by_passages = PhraseBook::default();
    for facts in [facts(1, "Monturas ecuatoriales", None), facts(2, "Star charts", None), spanish_page] {
        told_by_passages.put_page(&facts);
    }
    told_by_passages.put_prose(PageId(3), Some(&mixed), follow);
    told_by_passages.settle();
    assert_eq!(named(&told_by_passages, 3), both);
    book.settle();
    assert_eq!(mentions(&book), mentions(&told_by_passages), "what stands where is counted once");
}

#[test]
fn listed_phrases_name_their_page_until_they_are_taken_back() {
    let mut book = PhraseBook::default();
    book.put_page(&facts(1, "Torches", None));
    book.put_page(&facts(2, "Dark adaptation", None));
    book.put_prose(PageId(2), Some(&Document::from_html("<p>Wait in red light before you look.</p>")), follow);
    assert_eq!(mentions(&book), []);
    book.put_phrases(PageId(1), vec!["red light".to_owned(), "the".to_owned()]);
    let found = book.mentions_by(PageId(2));
    assert_eq!((found.len(), found[0].target(), found[0].naming.source), (1, PageId(1), Some(NameSource::Listed)));
    book.put_phrases(PageId(1), Vec::new());
    assert_eq!(mentions(&book), []);
}

/// The fit of the one opening from the first page to the second.
fn fit_of(pages: &[(&str, &str)], links: &[(u32, u32)]) -> Option<Explained> {
    let mut site = Site::new(address(1));
    let mut book = PhraseBook::default();
    for (number, (title, html)) in (1..).zip(pages) {
        let facts = facts(number, title, None);
        let to = links.iter().filter(|(from, _)| *from == number);
        let links: Vec<_> =
            to.map(|(_, to)| OutLink { to: address(*to), region: strelm_core::document::Region::Content }).collect();
        site.put_page(facts.clone(), &links);
        book.put_page(&facts);
        book.put_prose(facts.id, Some(&Document::from_html(*html)), follow);
    }
    site.settle();
    book.settle();
    let ensemble = Ensemble::shipped().unwrap();
    let limits = Limits { least_fit: 0.0, ..Limits::default() };
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let opening = judge.inbound(None, PageId(2), &AllWanted, limits).into_iter().find(|o| o.source == PageId(1))?;
    let reasons = judge.reasons(PageId(1), PageId(2), opening.words).unwrap();
    Some(Explained { fit: opening.fit, reasons })
}

/// An opening with its reasons.
struct Explained {
    fit: Fit,
    reasons: [Vec<Reason>; 5],
}

impl Explained {
    fn total(&self) -> f64 {
        self.fit.total()
    }
}

fn reasons(told: &Explained, part: Part) -> &[Reason] {
    &told.reasons[part as usize]
}

const REST: &str = "<p>Other words fill the rest of this page, so that the place of the first is early among them.</p>";

#[test]
fn a_page_in_need_is_told_from_one_that_has_links() {
    let pages = [
        ("Start", "<p>Polar alignment takes patience.</p>"),
        ("Polar alignment", "<p>Point the axis.</p>"),
        ("Third", "<p>x</p>"),
        ("Fourth", "<p>y</p>"),
        ("Fifth", "<p>z</p>"),
    ];
    let needs = |links: &[(u32, u32)]| reasons(&fit_of(&pages, links).unwrap(), Part::Need).to_vec();
    assert_eq!(needs(&[]), [Reason::TargetIsOrphan]);
    assert_eq!(needs(&[(3, 2)]), [Reason::TargetUnreachable]);
    assert_eq!(needs(&[(1, 3), (3, 2)]), [Reason::TargetHangsOnOnePage]);
    assert_eq!(needs(&[(1, 3), (3, 2), (1, 4), (4, 2)]), [Reason::TargetHasLinks { pages: 2 }]);
    let many = [(1, 3), (3, 2), (1, 4), (4, 2), (1, 5), (5, 2)];
    assert_eq!(needs(&many), [Reason::TargetHasLinks { pages: 3 }]);
}

#[test]
fn what_the_words_are_to_the_target_is_told() {
    let target = ("Seeing", "<h2>Turbulence</h2><p>The air dances.</p>");
    let told = |html: &str| reasons(&fit_of(&[("Start", html), target], &[]).unwrap(), Part::Wording).to_vec();
    assert_eq!(told("<p>We wait for good seeing.</p>"), [Reason::NamesTitle, Reason::EverydayWord]);
    assert_eq!(told("<p>The seeings differ.</p>"), [Reason::NamesTitle, Reason::SingleWord, Reason::OtherForm]);
    assert!(fit_of(&[("Start", "<p>We see it well.</p>"), target], &[]).is_none(), "it only shares the stem");
    assert_eq!(told("<p>It is the <em>turbulence</em>.</p>"), [Reason::NamesSection, Reason::SingleWord]);
    assert!(fit_of(&[("Start", "<p>Fearing turbulence.</p>"), target], &[]).is_none(), "any word may be a heading");
}

#[test]
fn an_ambiguous_name_says_so() {
    let start = ("Start", "<p>The open evening is on Saturday.</p>");
    let clear = fit_of(&[start, ("Open evening", "<p>x</p>")], &[]).unwrap();
    let twice = fit_of(&[start, ("Open evening", "<p>x</p>"), ("Open evenings", "<p>y</p>")], &[]).unwrap();
    assert_eq!(reasons(&clear, Part::Variety), [Reason::NoUsualWords, Reason::NamesOnlyThisPage]);
    assert_eq!(reasons(&twice, Part::Variety), [Reason::NoUsualWords, Reason::NamesOtherPagesToo { pages: 1 }]);
    let link = ("Another", "<p>One of <a href=/2>these nights</a>.</p>");
    let fresh = fit_of(&[start, ("Open evening", "<p>x</p>"), link], &[]).unwrap();
    assert_eq!(reasons(&fresh, Part::Variety), [Reason::FreshWords, Reason::NamesOnlyThisPage]);
    assert!(clear.total() > twice.total());
}

#[test]
fn a_place_is_told_from_others() {
    let place = |html: &str| {
        let html = format!("{html}{REST}");
        reasons(&fit_of(&[("Start", &html), ("Star hopping", "<p>x</p>")], &[]).unwrap(), Part::Place).to_vec()
    };
    assert_eq!(place("<p>Try star hopping.</p>"), [Reason::EarlyOnPage]);
    assert_eq!(place("<table><tr><td>star hopping</td></tr></table>"), [Reason::EarlyOnPage, Reason::TableOrCaption]);
    assert_eq!(place("<blockquote>star hopping</blockquote>"), [Reason::EarlyOnPage, Reason::InsideQuotation]);
    let late = format!("{REST}<p>star hopping</p>");
    let late = fit_of(&[("Start", &late), ("Star hopping", "<p>x</p>")], &[]).unwrap();
    assert_eq!(reasons(&late, Part::Place), [Reason::LateOnPage]);
}

#[test]
fn words_that_paragraph_and_target_share_are_named() {
    let pages = [
        ("Start", "<p>Turn the primary mirror for star hopping.</p>"),
        ("Star hopping", "<p>Of mirrors and maps.</p>"),
        ("Third", "<p>Nothing.</p>"),
    ];
    let topic = reasons(&fit_of(&pages, &[]).unwrap(), Part::Topic).to_vec();
    assert_eq!(topic[0], Reason::SharedWords(vec!["mirror".to_owned()]));
    assert_eq!(topic[0].to_string(), "This paragraph shares “mirror” with the target.");
}

#[test]
fn everyday_words_are_named_only_where_no_others_are_shared() {
    let shared = |target: &str| {
        let pages = [
            ("Start", "<p>Rest the view on the collimation for star hopping.</p>"),
            ("Star hopping", target),
            ("Third", "<p>Nothing.</p>"),
        ];
        reasons(&fit_of(&pages, &[]).unwrap(), Part::Topic)[0].clone()
    };
    assert_eq!(shared("<p>A view, a rest, and collimation.</p>"), Reason::SharedWords(vec!["collimation".to_owned()]));
    assert_eq!(shared("<p>A fine view.</p>"), Reason::SharedWords(vec!["view".to_owned()]));
}

#[test]
fn the_capital_of_a_sentence_is_not_told_with_a_word() {
    let shared = |more: &str| {
        let start = format!("<p>Eyepieces help. Altair too, on the way of star hopping.</p>{more}");
        let pages = [
            ("Start", start.as_str()),
            ("Star hopping", "<p>Have eyepieces at hand, and begin at Altair.</p>"),
            ("Third", "<p>Nothing.</p>"),
        ];
        let Reason::SharedWords(mut words) = reasons(&fit_of(&pages, &[]).unwrap(), Part::Topic)[0].clone() else {
            panic!("words are shared");
        };
        words.sort();
        words
    };
    assert_eq!(shared(""), ["Altair", "Eyepieces"], "nothing tells how they are written");
    assert_eq!(shared("<p>All eyepieces, and my Altair.</p>"), ["Altair", "eyepieces"]);
}

#[test]
fn a_word_that_only_shares_its_stem_with_a_name_does_not_name_it_though_links_do() {
    let link = ("Another", "<p>All of <a href=/2>seeing</a>.</p>");
    let found = |start: &str| fit_of(&[("Start", start), ("Seeing", "<p>x</p>"), link], &[]).is_some();
    assert!(found("<p>Good seeing is rare.</p>"));
    assert!(!found("<p>There was much to see.</p>"));
    // Where links use the word again and again, its other forms mean the same.
    let more = ("More", "<p>Some <a href=/2>seeing</a>, and <a href=/2>seeing</a> again.</p>");
    let often = [("Start", "<p>There was much to see.</p>"), ("Seeing", "<p>x</p>"), link, more];
    assert!(fit_of(&often, &[]).is_some());
}

#[test]
fn a_single_link_on_words_that_tell_little_makes_them_no_name() {
    let found = |words: &str, times: usize| {
        let link = format!("<p>See <a href=/2>{words}</a>.</p>");
        let uses: Vec<_> = (0..times).map(|_| ("Another", link.as_str())).collect();
        let start = format!("<p>All of {words} was read.</p>");
        let pages: Vec<_> = [("Start", start.as_str()), ("Seeing", "<p>x</p>")].into_iter().chain(uses).collect();
        fit_of(&pages, &[]).is_some()
    };
    assert!(!found("this page", 1));
    assert!(found("this page", 2), "used twice for the same, it may be what the site calls it");
    assert!(found("steady air", 1));
}

#[test]
fn what_a_page_speaks_of_again_and_again_names_it_where_nothing_else_does() {
    let speaks = "<p>A dew shield keeps glass dry. Fold a dew shield of foam. Black is best for a dew shield.</p>";
    let found = |other: (&str, &str)| {
        let pages = [("Start", "<p>Take a dew shield with you.</p>"), ("Winter nights", speaks), other];
        fit_of(&pages, &[]).map(|fit| reasons(&fit, Part::Wording).to_vec())
    };
    assert_eq!(found(("Third", "<p>Nothing.</p>")).unwrap()[0], Reason::NamesRepeated);
    // The page that has the name in its title is meant.
    assert!(found(("The dew shield", "<p>x</p>")).is_none());
}

#[test]
fn every_reason_is_a_sentence() {
    let all = [
        Reason::SharedWords(vec!["mirror".to_owned(), "axis".to_owned()]),
        Reason::NothingShared,
        Reason::NoTextToCompare,
        Reason::LinksBack,
        Reason::SameFolder,
        Reason::LinkedFromNearby { pages: 1 },
        Reason::LinkedFromNearby { pages: 2 },
        Reason::NamesPhrase,
        Reason::NamesPart,
        Reason::NamesTerm,
        Reason::NamesAddress,
        Reason::NamesRepeated,
        Reason::NamesWord,
        Reason::SingleWord,
        Reason::EverydayWord,
        Reason::InUse { links: 1 },
        Reason::InUse { links: 4 },
        Reason::OftenLinked { linked: 1, of: 4 },
        Reason::SeldomLinked { of: 9 },
        Reason::CommonWords { pages: 12 },
        Reason::PartOfLongerName,
        Reason::InLinkedBlock,
        Reason::TargetHasLinks { pages: 0 },
        Reason::TargetHasLinks { pages: 1 },
        Reason::NamesOtherPagesToo { pages: 3 },
        Reason::FreshWords,
        Reason::UsualWords { share: 60 },
    ];
    for reason in all {
        let text = reason.to_string();
        assert!(text.starts_with(|c: char| c.is_uppercase() || c.is_ascii_digit()) && text.ends_with('.'), "{text}");
    }
}
