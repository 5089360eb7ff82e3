//! Each part of a fit says why it is what it is.

use strelm_core::document::{Document, LinkMarks, Region};
use strelm_core::openings::{AllWanted, Ensemble, Fit, Judge, Limits, Part, Reason, Taste};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{OutLink, PageId, Site};

use crate::support::{address, follow, page};

/// The fit of the one opening from the first page to the second.
fn fit_of(pages: &[(&str, &str)], links: &[(u32, u32)]) -> Option<Explained> {
    let mut site = Site::new(address(1));
    let mut book = PhraseBook::default();
    for (number, (title, html)) in (1..).zip(pages) {
        let facts = page(number, title);
        let to = links.iter().filter(|(from, _)| *from == number);
        let links: Vec<_> = to
            .map(|(_, to)| OutLink { to: address(*to), region: Region::Content, marks: LinkMarks::default() })
            .collect();
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
    // Where links use the word again and again, those of its other forms that links use mean the same.
    let often = |further: &str| {
        let more = format!("<p>Some <a href=/2>seeing</a>, and <a href=/2>seeing</a> again{further}.</p>");
        let start = ("Start", "<p>There was much to see.</p>");
        fit_of(&[start, ("Seeing", "<p>x</p>"), link, ("More", &more)], &[]).is_some()
    };
    assert!(!often(", for those who see"));
    assert!(often(", for those who <a href=/2>see</a>"));
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
        Reason::TargetIsEntry,
        Reason::SourceUnreachable,
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
