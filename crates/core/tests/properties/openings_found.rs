//! Mentions and openings: the two directions agree with each other and with a plain search of the text.

use proptest::prelude::*;
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::Language;
use strelm_core::openings::{AllWanted, Ensemble, Judge, Limits, Manners, Opening, OpeningIndex, Taste, Unwanted};
use strelm_core::phrases::PhraseBook;
use strelm_core::site::{PageId, Site};

use crate::support::{mentioned, site_in};

fn site_of(pages: &[(&str, &str)]) -> (Site, PhraseBook) {
    site_in(Language::Other, pages)
}

/// What is weak counts too: tiny sites tell little.
const ALL: Limits = Limits { most: 50, most_pages: 1000, least_fit: 0.0 };

fn judge<'j>(site: &'j Site, book: &'j PhraseBook, ensemble: &'j Ensemble) -> Judge<'j> {
    Judge { site, book, ensemble, taste: Taste::EDITOR }
}

fn inbound(site: &Site, book: &PhraseBook, target: PageId) -> Vec<Opening> {
    judge(site, book, &Ensemble::shipped().unwrap()).inbound(None, target, &AllWanted, ALL)
}

fn outbound(site: &Site, book: &PhraseBook, source: PageId) -> Vec<Opening> {
    judge(site, book, &Ensemble::shipped().unwrap()).outbound(None, source, &AllWanted, Manners::default(), ALL)
}

const WORDS: [&str; 5] = ["moon", "dark", "sky", "tube", "star"];

fn phrase(most: usize) -> impl Strategy<Value = Vec<&'static str>> {
    prop::collection::vec(prop::sample::select(WORDS.to_vec()), 1..=most)
}

proptest! {
    #[test]
    fn mentions_are_those_of_a_plain_search(
        titles in prop::collection::vec(phrase(3), 2..5),
        texts in prop::collection::vec(phrase(14), 6),
    ) {
        // What a page says three times names it, too, which another test looks at.
        let is_repeated = |words: &Vec<&str>| {
            words.windows(2).any(|two| words.windows(2).filter(|other| *other == two).count() > 2)
        };
        prop_assume!(!texts.iter().any(is_repeated));
        let titles: Vec<_> = titles.iter().map(|words| words.join(" ")).collect();
        let texts: Vec<_> = texts.iter().map(|words| format!("<p>{}</p>", words.join(" "))).collect();
        let pages: Vec<_> = titles.iter().map(String::as_str).zip(texts.iter().map(String::as_str)).collect();
        let (_, book) = site_of(&pages);
        let mut expected = Vec::new();
        for (source, (_, html)) in (1..).zip(&pages) {
            let words: Vec<_> = html[3..html.len() - 4].split(' ').collect();
            let mut matches = Vec::new();
            for (target, title) in (1..).zip(&titles) {
                let name: Vec<_> = title.split(' ').collect();
                // A title of three words is also named by two that follow each other in it, unless all three stand there.
                let mut names = vec![name.clone()];
                names.extend(name.windows(2).filter(|_| name.len() == 3).map(<[&str]>::to_vec));
                names.dedup();
                for at in (0..words.len()).filter(|_| target != source) {
                    let whole = |at: usize| words.get(at..).is_some_and(|rest| rest.starts_with(&name));
                    let stands = |n: &Vec<&str>| words[at..].starts_with(n);
                    let in_whole = |n: &Vec<&str>| {
                        n.len() < name.len() && (whole(at) || (at > 0 && whole(at - 1)))
                    };
                    matches.extend(names.iter().filter(|n| stands(n) && !in_whole(n)).map(|n| (source, target, at, n.len())));
                }
            }
            expected.extend(matches);
        }
        let flat = |mention: strelm_core::phrases::Mention| {
            (mention.source.0, mention.target().0, mention.first, mention.len)
        };
        let ids = || (1..).take(pages.len()).map(PageId);
        let mut by: Vec<_> = ids().flat_map(|page| book.mentions_by(page)).map(flat).collect();
        by.sort_unstable();
        expected.sort_unstable();
        prop_assert_eq!(&by, &expected);
        for (source, target, ..) in by {
            prop_assert!(book.pages_that_may_mention(PageId(target), usize::MAX).contains(&PageId(source)));
        }
    }

    #[test]
    fn both_directions_find_the_same(
        titles in prop::collection::vec(phrase(2), 2..5),
        texts in prop::collection::vec(phrase(14), 6),
    ) {
        let titles: Vec<_> = titles.iter().map(|words| words.join(" ")).collect();
        let texts: Vec<_> = texts.iter().map(|words| format!("<p>{}</p>", words.join(" "))).collect();
        let pages: Vec<_> = titles.iter().map(String::as_str).zip(texts.iter().map(String::as_str)).collect();
        let (site, book) = site_of(&pages);
        let ensemble = Ensemble::shipped().unwrap();
        let judge = judge(&site, &book, &ensemble);
        let manners = Manners { words_twice: true, ..Manners::default() };
        let key = |o: &Opening| (o.source, o.target, o.words, o.fit.log_odds().to_bits());
        let ids = || (1..).take(pages.len()).map(PageId);
        let mut index = OpeningIndex::default();
        ids().for_each(|page| index.put(page, judge.candidates(page, OpeningIndex::MOST)));
        let found = |index: Option<&OpeningIndex>| {
            let out = ids().flat_map(|page| judge.outbound(index, page, &AllWanted, manners, ALL));
            let into = ids().flat_map(|page| judge.inbound(index, page, &AllWanted, ALL));
            let (mut out, mut into): (Vec<_>, Vec<_>) = (out.map(|o| key(&o)).collect(), into.map(|o| key(&o)).collect());
            out.sort_unstable();
            into.sort_unstable();
            (out, into)
        };
        let (out, into) = found(None);
        prop_assert_eq!(&out, &into);
        prop_assert_eq!((out, into), found(Some(&index)), "what is kept is what would be found");
    }
}

#[test]
fn an_orphan_finds_the_words_that_name_it() {
    let (site, book) = site_of(&[
        ("Start", "<p>Welcome.</p>"),
        ("Averted vision", "<p>Look beside the object.</p>"),
        ("Galaxies", "<h2>Averted vision</h2><p>Faint arms need <em>averted vision</em>. Patience, too.</p>"),
        ("Code", "<pre>averted vision</pre><p>Try <code>averted vision</code> or <a href='/3'>averted vision</a>.</p>"),
    ]);
    let mut found = inbound(&site, &book, PageId(2));
    found.sort_by_key(|opening| opening.source);
    assert_eq!(
        found.iter().map(|o| o.source.0).collect::<Vec<_>>(),
        [3, 4],
        "a piece of code may be linked as a whole"
    );
    let text = book.prose(PageId(3)).unwrap().text();
    assert_eq!(&text[found[0].words.range()], "averted vision");
    assert_eq!(&text[found[0].sentence.range()], "Faint arms need averted vision.");
    let total = found[0].fit.total();
    assert!((0.0..=100.0).contains(&total));
    let sum: f32 = found[0].fit.parts.iter().map(|part| part.adds).sum();
    let (kept, _) = Ensemble::shipped().unwrap().promise(sum);
    assert!((kept + Taste::EDITOR.keeps - found[0].fit.log_odds()).abs() < 1e-4, "the parts are all there is");
}

#[test]
fn an_editor_is_promised_less_of_everyday_words_unless_the_site_links_with_them() {
    let others = vec![("Other", "<p>Nothing of it.</p>"); 20];
    let raised = |title: &str, text: &str, other: &str| {
        let all = [("Start", text), (title, "<p>x</p>"), ("Links", other)].into_iter().chain(others.iter().copied());
        let (site, book) = site_in(Language::English, &all.collect::<Vec<_>>());
        let ensemble = Ensemble::shipped().unwrap();
        let fit = |taste: Taste| {
            let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste };
            let found = judge.inbound(None, PageId(2), &AllWanted, ALL);
            found.into_iter().find(|opening| opening.source == PageId(1)).unwrap().fit.log_odds()
        };
        fit(Taste::EDITOR) - fit(Taste::AUTHOR)
    };
    let none = "<p>No link.</p>";
    let sure = raised("Planisphere", "<p>Take a planisphere along.</p>", none);
    let phrase = raised("Loan telescopes", "<p>We have loan telescopes.</p>", none);
    assert!((phrase - sure).abs() < 0.2, "{phrase} {sure}");
    let everyday = raised("People", "<p>We are eighty people.</p>", none);
    assert!(everyday + 1.0 < sure, "{everyday} {sure}");
    // One link takes the orphan's need away, but says that the words are meant.
    let in_use = raised("People", "<p>We are eighty people.</p>", "<p>Meet our <a href=/2>people</a>.</p>");
    assert!(in_use > everyday, "{in_use} {everyday}");
}

#[test]
fn a_page_that_links_already_or_was_passed_is_not_offered() {
    let (mut site, book) = site_of(&[
        ("Start", "<p>Polar alignment matters.</p>"),
        ("Polar alignment", "<p>Point the axis at the pole.</p>"),
        ("Mounts", "<p><a href='/2'>Here</a> we do polar alignment.</p>"),
    ]);
    let sources = |site: &Site| -> Vec<u32> { inbound(site, &book, PageId(2)).iter().map(|o| o.source.0).collect() };
    assert_eq!(sources(&site), [1]);
    struct Passed;
    impl Unwanted for Passed {
        fn pair(&self, source: PageId, _: PageId) -> bool {
            source == PageId(1)
        }

        fn words(&self, _: PageId, _: PageId, _: TextSpan) -> bool {
            false
        }

        fn planned(&self, _: PageId) -> Vec<TextSpan> {
            Vec::new()
        }
    }
    let ensemble = Ensemble::shipped().unwrap();
    assert!(judge(&site, &book, &ensemble).inbound(None, PageId(2), &Passed, ALL).is_empty());
    site.plan(strelm_core::site::ChangeId(1), PageId(1), PageId(2));
    assert!(sources(&site).is_empty(), "what is in the tray is not offered again");
    site.unplan(strelm_core::site::ChangeId(1));
    assert_eq!(sources(&site), [1]);
}

#[test]
fn one_page_never_offers_the_same_words_twice() {
    let (site, book) = site_of(&[
        ("Start", "<p>The finder scope helps. A red dot finder helps more. The finder again.</p>"),
        ("Finder scope", "<p>x</p>"),
        ("Finder", "<p>x</p>"),
        ("Red dot finder", "<p>x</p>"),
    ]);
    let found = outbound(&site, &book, PageId(1));
    let text = book.prose(PageId(1)).unwrap().text();
    let mut words: Vec<_> = found.iter().map(|o| (o.target.0, &text[o.words.range()], o.words.start)).collect();
    words.sort_unstable();
    assert_eq!(words, [(2, "finder scope", 4), (3, "finder", 57), (4, "red dot finder", 26)]);
}

#[test]
fn words_that_name_a_section_lead_to_it() {
    let (site, book) = site_of(&[
        ("Start", "<p>The <em>collimator</em> helps. See also Cheshire eyepieces in the shop.</p>"),
        (
            "Tools",
            "<p>Many.</p><h2 id='cheshire'>Cheshire eyepieces</h2><p>x</p><dl><dt><a id='c'></a>Collimator</dt></dl>",
        ),
        ("Sections", "<section id='all'><h2>Lasers</h2><p>y</p></section><h2>Without an id</h2>"),
        ("Lamps", "<p>Point <em>lasers</em> at nobody. It is <em>without an id</em>.</p>"),
    ]);
    let found = |source: u32| {
        let mut found: Vec<_> = outbound(&site, &book, PageId(source))
            .into_iter()
            .map(|o| (o.target.0, o.place.map(|place| place.id.to_string())))
            .collect();
        found.sort_unstable();
        found
    };
    // One link to a page: the section is named by more words than the term.
    let start = found(1);
    assert!(start == [(2, Some("cheshire".to_owned()))] || start == [(2, Some("c".to_owned()))], "{start:?}");
    let places = judge(&site, &book, &Ensemble::shipped().unwrap()).openings_to(PageId(1), PageId(2));
    let places: Vec<_> = places.into_iter().map(|o| o.place.map(|place| place.id.to_string())).collect();
    assert_eq!(places, [Some("c".to_owned()), Some("cheshire".to_owned())]);
    let places = judge(&site, &book, &Ensemble::shipped().unwrap()).openings_to(PageId(4), PageId(3));
    let places: Vec<_> = places.into_iter().map(|o| o.place.map(|place| place.id.to_string())).collect();
    assert_eq!(places, [Some("all".to_owned()), None], "the section around it, when the heading has no id");
}

#[test]
fn a_heading_of_one_telling_word_names_its_place_only_where_it_stands_out() {
    let (site, book) = site_of(&[
        ("Start", "<p>Before using it we set the red torch. <em>Using it</em> is easy.</p>"),
        ("Tools", "<p>Many.</p><h2 id=u>Using it</h2><p>x</p><h2 id=r>The red torch</h2><p>y</p>"),
    ]);
    let places = judge(&site, &book, &Ensemble::shipped().unwrap()).openings_to(PageId(1), PageId(2));
    let text = book.prose(PageId(1)).unwrap().text();
    let words: Vec<_> = places.iter().map(|opening| (&text[opening.words.range()], opening.words.start)).collect();
    // The passage is in English, so that what tells nothing is left off the names, too.
    assert_eq!(words, [("the red torch", 23), ("red torch", 27), ("Using", 38), ("Using it", 38)]);
}

#[test]
fn names_are_found_where_no_spaces_part_the_words() {
    let (site, book) = site_of(&[
        ("首页", "<p>我们昨晚用天文望远镜看了月亮，水很冷。</p>"),
        ("天文望远镜", "<p>x</p>"),
        ("水", "<p>x</p>"),
        ("認証の使い方", "<p>x</p>"),
        ("日本語", "<p>これは認証の使い方です。サーバーの設定を見る。</p>"),
        ("サーバー", "<p>x</p>"),
        ("如何选择适合自己的赤道仪", "<p>x</p>"),
        ("问题", "<p>如何选择适合自己的赤道仪是另一个问题。</p>"),
    ]);
    let found = |page| {
        let text = book.prose(PageId(page)).unwrap().text();
        let mut found: Vec<_> =
            outbound(&site, &book, PageId(page)).iter().map(|o| (o.target.0, &text[o.words.range()])).collect();
        found.sort_unstable();
        found
    };
    // A single character is no name.
    assert_eq!(found(1), [(2, "天文望远镜")]);
    assert_eq!(found(8), [(7, "如何选择适合自己的赤道仪")]);
    assert_eq!(found(5), [(4, "認証の使い方"), (6, "サーバー")]);
}

#[test]
fn an_abbreviation_names_what_its_long_form_does() {
    let pages = [
        ("Start", "<p>Every link needs TLS today.</p>"),
        ("Transport layer security", "<p>How it works.</p>"),
        ("Notes", "<p>It was called transport layer security (TLS) at last.</p>"),
        ("DSO", "<p>What lies far out.</p>"),
        ("More", "<p>A deep sky object (DSO) is faint. We saw a deep sky object.</p>"),
    ];
    let named = |book: &PhraseBook| -> Vec<(u32, u32, String)> {
        let mut all: Vec<_> = (1..=5)
            .flat_map(|page| mentioned(book, PageId(page)).into_iter().map(move |(words, to, _)| (page, to.0, words)))
            .collect();
        all.sort();
        all
    };
    let (_, mut book) = site_of(&pages);
    let all = named(&book);
    for wanted in [(1, 2, "TLS"), (3, 2, "transport layer security"), (5, 4, "deep sky object"), (5, 4, "DSO")] {
        assert!(all.contains(&(wanted.0, wanted.1, wanted.2.to_owned())), "{wanted:?} in {all:?}");
    }
    // Who says so no longer takes the name away again.
    book.put_prose(PageId(3), Some(&Document::from_html("<p>Nothing more.</p>")), |_| None);
    assert!(!named(&book).iter().any(|(_, _, words)| words == "TLS"));
    book.put_prose(PageId(3), Some(&Document::from_html(pages[2].1)), |_| None);
    assert_eq!(named(&book), all);
}
