//! Which words of a text name which page.

use strelm_core::language::Language;
use strelm_core::phrases::{NameSource, PhraseBook};
use strelm_core::site::{Address, PageFacts, PageId};

use crate::support::{mentioned, page, site_in};

/// What the first page mentions: the words, the page that they name, and how.
fn mentions(book: &PhraseBook) -> Vec<(String, u32, NameSource)> {
    mentioned(book, PageId(1)).into_iter().map(|(words, page, source)| (words, page.0, source.unwrap())).collect()
}

/// A site whose first page says something, with others beside those that are given.
fn book_of(start: &str, pages: &[(&str, &str)]) -> PhraseBook {
    let others = vec![("Page", "<p>Nothing of it.</p>"); 20];
    let all: Vec<_> = [("Start", start)].into_iter().chain(pages.iter().copied()).chain(others).collect();
    site_in(Language::English, &all).1
}

#[test]
fn a_part_of_a_title_is_a_name_though_many_sections_are_called_like_it() {
    let section = ("Tube", "<p>x</p><h2>Primary mirrors</h2><p>y</p>");
    let with_sections = |count: usize, titles: &[(&'static str, &'static str)]| {
        let pages: Vec<_> = titles.iter().copied().chain(vec![section; count]).collect();
        let found = mentions(&book_of("<p>Wash primary mirrors seldom.</p>", &pages));
        found.into_iter().map(|(_, page, source)| (page, source)).collect::<Vec<_>>()
    };
    let part = ("List of primary mirrors", "<p>x</p>");
    assert_eq!(with_sections(2, &[part]), [(2, NameSource::Part), (3, NameSource::Section), (4, NameSource::Section)]);
    assert_eq!(with_sections(6, &[part]), [(2, NameSource::Part)], "so many sections name nothing");
    assert_eq!(with_sections(6, &[part; 12]).len(), 12);
    assert_eq!(with_sections(6, &[part; 13]), [], "nor do so many titles");
}

#[test]
fn a_piece_of_code_is_a_name_without_its_marks() {
    let pages = [("Depth task", "<p>x</p>"), ("Mask task", "<p>x</p>")];
    let tasks = vec![("Other task", "<p>x</p>"); 5];
    let pages: Vec<_> = pages.into_iter().chain(tasks).collect();
    let found = mentions(&book_of("<p>Put <code>&lt;depth&gt;</code> into it, or <code>--mask</code>.</p>", &pages));
    let part = NameSource::Part;
    assert_eq!(found, [("<depth>".to_owned(), 2, part), ("--mask".to_owned(), 3, part)]);
}

#[test]
fn a_word_of_a_short_title_names_its_page_where_nothing_else_has_that_name() {
    let found = |title: &'static str, other: (&'static str, &'static str)| {
        mentions(&book_of("<p>Then press Demote, or demote it there.</p>", &[(title, "<p>x</p>"), other]))
    };
    let page = ("Tube", "<p>y</p>");
    let word = |words: &str| (words.to_owned(), 2, NameSource::Word);
    assert_eq!(found("Demote outline level", page), [word("Demote"), word("demote")]);
    let own = ("Demote", "<p>y</p>");
    let title = |words: &str| (words.to_owned(), 3, NameSource::Title);
    assert_eq!(found("Demote outline level", own), [title("Demote"), title("demote")]);
    assert_eq!(
        found("Here you learn how to demote any level of an outline", page),
        [],
        "a long title is not about each"
    );
}

#[test]
fn a_place_or_an_owner_in_a_title_is_no_name_of_its_page() {
    let found = |title: &'static str, text: &str| {
        let found = mentions(&book_of(text, &[(title, "<p>x</p>"), ("Tube", "<p>y</p>")]));
        found.into_iter().map(|(words, ..)| words).collect::<Vec<_>>()
    };
    let met = "<p>We met on Larkmoor Hill, and Nessa Quill saw the Perseids.</p>";
    assert_eq!(found("The Perseids from Larkmoor Hill", met), ["Perseids"]);
    assert_eq!(found("Drawings by Nessa Quill", met), [""; 0]);
    assert_eq!(found("Porting from Larkmoor Hill", met), ["Larkmoor Hill"], "it is done from there");
    assert_eq!(found("A history of Larkmoor Hill", met), ["Larkmoor Hill"]);
}

#[test]
fn a_common_word_of_a_title_or_a_heading_names_no_page_by_the_way() {
    let found = |text: &str, page: (&str, &str)| {
        let all: Vec<_> = [("Start", text), page].into_iter().chain(vec![("Other", "<p>Nothing.</p>"); 20]).collect();
        mentions(&site_in(Language::English, &all).1)
    };
    let text = "<p>On a Sunday at the market we saw it at the zenith.</p>";
    assert_eq!(found(text, ("Sunday Sun", "<p>x</p>")), [], "not even with a capital, which every Sunday has");
    assert_eq!(found(text, ("Zenith Sun", "<p>x</p>")), [("zenith".to_owned(), 2, NameSource::Word)]);
    let section = |word: &str| [(word.to_owned(), 2, NameSource::Section)];
    assert_eq!(found(text, ("Words", "<p>x</p><h2>Zenith</h2><p>y</p>")), section("zenith"));
    assert_eq!(found(text, ("Words", "<p>x</p><h2>Market</h2><p>y</p>")), []);
    let told = "<p>It is in Market, further down.</p>";
    assert_eq!(found(told, ("Words", "<p>x</p><h2>Market</h2><p>y</p>")), section("Market"), "where it stands out");
    let everywhere: Vec<_> =
        [("Words", "<p>x</p><h2>Zenith</h2>")].into_iter().chain(vec![("Hill", "<p>The zenith.</p>"); 5]).collect();
    assert_eq!(mentions(&book_of(text, &everywhere)), [], "what a tenth of the pages speak of is nothing special");
}

#[test]
fn of_a_language_without_a_list_of_words_only_what_stands_out_names_a_page() {
    let found = |text: &str| {
        let words = ("Words", "<p>x</p><h2>Zenith</h2>");
        let all: Vec<_> = [("Start", text), words].into_iter().chain(vec![("Other", "<p>x</p>"); 20]).collect();
        mentions(&site_in(Language::Other, &all).1).len()
    };
    assert_eq!((found("<p>ez da zenith hori</p>"), found("<p>ez da <em>zenith</em> hori</p>")), (0, 1));
}

#[test]
fn a_word_of_a_title_means_no_page_inside_of_a_longer_name() {
    let start = "<p>All Double Stars are bright, and Double Glass is warm.</p>";
    let book = book_of(start, &[("Double glass windows", "<p>x</p>"), ("Double stars", "<p>y</p>")]);
    let own = ("Double Stars".to_owned(), 3, NameSource::Title);
    assert_eq!(mentions(&book)[0], own, "no “double” of windows");
    assert!(
        mentions(&book).iter().all(|(words, ..)| words != "Double" && words != "double"),
        "it is a part of “double glass”"
    );
}

#[test]
fn the_name_of_the_site_is_no_word_of_its_titles() {
    let titles =
        ["Moon over Larkmoor | Larkmoor Club", "Sun | Larkmoor Club", "Stars | Larkmoor Club", "Map | Larkmoor Club"];
    let pages: Vec<_> = [("Start", "<p>In Larkmoor we saw the moon.</p>")]
        .into_iter()
        .chain(titles.map(|title| (title, "<p>x</p>")))
        .collect();
    let (_, book) = site_in(Language::English, &pages);
    let words: Vec<_> = book.names(PageId(2)).iter().filter(|name| name.source == NameSource::Word).collect();
    assert_eq!(words.iter().map(|name| name.text.as_ref()).collect::<Vec<_>>(), ["Moon"]);
}

#[test]
fn what_stands_between_brackets_before_an_entry_names_its_page() {
    let entries = "<p id=k>[KEPLER11] <em>Dioptrice</em>, Augsburg 1611.</p><p>[ ] not yet</p><p>[see there] x</p>";
    let book = book_of("<p>It turns the picture [KEPLER11], not yet see there.</p>", &[("Books", entries)]);
    assert_eq!(mentions(&book), [("KEPLER11".to_owned(), 2, NameSource::Term)]);
    let mut names = book.names(PageId(2)).iter().filter(|name| name.source == NameSource::Term);
    assert_eq!(names.next().unwrap().place.as_ref().map(|place| &*place.id), Some("k"));
}

#[test]
fn words_under_which_a_page_is_filed_are_not_in_use_for_links_in_texts() {
    let naming = |rel: &str| {
        let filed = format!("<p>It was cold.</p><p>Filed under <a {rel} href=/2>winter nights</a>.</p>");
        let pages = [("Start", "<p>Long winter nights.</p>"), ("All of winter", "<p>x</p>"), ("Post", &filed)];
        let (_, book) = site_in(Language::English, &pages);
        mentioned(&book, PageId(1)).len()
    };
    assert_eq!((naming(""), naming("rel=tag"), naming("rel='nofollow tag'")), (1, 0, 0));
}

#[test]
fn a_heading_that_leads_to_another_page_is_the_name_of_that_page_alone() {
    let list = "<h2><a href=/3>Washing a mirror</a></h2><p>Seldom.</p><h2>2. <a href=/4#top>Counting meteors</a></h2>\
                <h2>See <a href=/4>also the list of showers</a> of the year</h2>\
                <dl><dt><a href=/3>Silvering</a><dd>x<dt><a href=/2#dew>Dew caps</a><dd id=dew>y</dl>\
                <h2 id=focus>Focal length<a href=/2#focus> here</a></h2>";
    let start =
        "<p>After washing a mirror comes silvering, and counting meteors; dew caps and the focal length here.</p>";
    let pages = [("All articles", list), ("Washing a mirror", "<p>x</p>"), ("Counting meteors", "<p>y</p>")];
    let found = mentioned(&book_of(start, &pages), PageId(1));
    let named = |page: u32| -> Vec<_> {
        found.iter().filter(|(_, named, _)| *named == PageId(page)).map(|(words, ..)| words.as_str()).collect()
    };
    assert_eq!(named(2), ["dew caps", "focal length", "focal length here"], "what stands there itself");
    assert_eq!(named(3), ["washing a mirror", "silvering"], "by its title, and by the words of a link");
    assert_eq!(named(4), ["counting meteors"]);
}

#[test]
fn names_of_code_brackets_and_addresses_in_titles_name_their_pages() {
    let services = ["Sky.Charts service", "Log service", "Torch service", "Dew service", "Map service"];
    let titles =
        ["Club module mod_sky", "Star maps (north/south) (maps)", "Red_Torch_Guide", "Porting from a_b to c_d"];
    let pages: Vec<_> = titles.into_iter().chain(services).map(|title| (title, "<p>x</p>")).collect();
    let (_, mut book) = site_in(Language::English, &pages);
    let names = |book: &PhraseBook, page: u32, of: NameSource| -> Vec<String> {
        let names = book.names(PageId(page)).iter().filter(|name| name.source == of);
        names.map(|name| name.text.to_string()).collect()
    };
    assert!(names(&book, 1, NameSource::Part).contains(&"mod_sky".to_owned()));
    assert!(names(&book, 2, NameSource::Part).contains(&"maps".to_owned()));
    assert_eq!(names(&book, 3, NameSource::Title), ["Red Torch Guide", "Red_Torch_Guide"]);
    assert!(names(&book, 3, NameSource::Part).contains(&"Red Torch".to_owned()));
    let of_two = names(&book, 4, NameSource::Part);
    assert!(!of_two.contains(&"a_b".to_owned()) && !of_two.contains(&"c_d".to_owned()), "{of_two:?}");
    assert!(names(&book, 5, NameSource::Part).contains(&"Charts".to_owned()), "a piece of code before a kind");

    let address = Address::parse("http://site.example/mod_dew.html").unwrap();
    book.put_page(&PageFacts { address, ..page(20, "About it") });
    assert_eq!(names(&book, 20, NameSource::Slug), ["mod dew", "mod_dew"]);
}

#[test]
fn phrases_that_stand_somewhere_and_name_no_other_page_more_are_proposed_first() {
    let pages = [
        ("Red torch – how to see at night", "<p>A dim torch.</p>"),
        ("Averted vision", "<p>x</p>"),
        ("Averted vision for beginners", "<h1>Averted vision</h1><p>x</p>"),
    ];
    let start = "<p>Take a red torch. Use averted vision.</p>";
    let book = book_of(start, &pages);
    let of = |page: u32| -> Vec<_> {
        book.proposals(PageId(page), 5).into_iter().map(|one| (one.text, one.pages, one.rival)).collect()
    };
    let torch = of(2);
    assert_eq!(torch[0], ("Red torch".to_owned(), 1, None), "{torch:?}");
    assert!(torch.len() <= 5 && torch.iter().skip(1).all(|(_, pages, _)| *pages == 0), "{torch:?}");
    assert_eq!(of(3)[0], ("Averted vision".to_owned(), 1, None));
    // Its heading is the other page's title as well; nothing says that it is meant less.
    assert!(of(4).iter().any(|(text, ..)| text == "Averted vision for beginners"), "{:?}", of(4));
    assert_eq!(book.proposals(PageId(2), 1).len(), 1);
    assert_eq!(book.proposals(PageId(99), 5), []);
}
