//! Words found again on a newer version of their page, links taken out, limits kept.

use proptest::prelude::*;
use strelm_core::document::{Document, LinkTarget, Lost, Quote, Refusal, TextSpan};
use strelm_core::limits::{Breach, LinkLimits};
use strelm_core::site::PageId;

const QUOTE: Quote<'static> = Quote { before: "Use your ", anchor: "averted vision", after: " on faint things." };

fn target() -> LinkTarget {
    LinkTarget::to("/guides/averted-vision/")
}

#[test]
fn words_are_found_wherever_their_sentence_went() {
    let html = "<p>New words on top.</p><p>Old. Use your averted\n  <em>vision</em> on faint things. More.</p>";
    let document = Document::from_html(html);
    let after = document.put_link_again(&QUOTE, 0, &target()).unwrap().apply(html).unwrap();
    assert!(after.contains("your <a href=\"/guides/averted-vision/\">averted\n  <em>vision</em></a> on"), "{after}");
}

#[test]
fn words_in_another_sentence_or_already_linked_are_not_taken() {
    let lost = |html: &str| Document::from_html(html).find_again(&QUOTE, 0).unwrap_err();
    assert_eq!(lost("<p>Use averted vision on faint things.</p>"), Lost::Sentence);
    assert_eq!(lost("<p>Use your averted vision</p><p>on faint things.</p>"), Lost::Sentence);
    assert_eq!(lost(""), Lost::Sentence);
    let linked = "<p>Use your <a href=/x>averted vision</a> on faint things.</p>";
    assert_eq!(lost(linked), Lost::Refused(Refusal::AlreadyLinked));
    assert_eq!(lost("<h2>Use your averted vision on faint things.</h2>"), Lost::Refused(Refusal::Heading));
}

#[test]
fn of_two_equal_sentences_the_nearest_that_is_free_counts() {
    let html = "<p>Use your averted vision on faint things.</p><p>Use your averted vision on faint things.</p>";
    let document = Document::from_html(html);
    assert_eq!(document.find_again(&QUOTE, 0).unwrap().start, 9);
    assert_eq!(
        document.find_again(&QUOTE, 1000).unwrap().start,
        9 + "Use your averted vision on faint things.\n".len()
    );
    let linked = document.put_link_again(&QUOTE, 0, &target()).unwrap().apply(html).unwrap();
    assert!(Document::from_html(linked).find_again(&QUOTE, 0).unwrap().start > 40);
}

#[test]
fn a_link_is_taken_out_of_a_page_that_others_changed() {
    let before = "<p>Use your averted vision on faint things.</p>";
    let linked = Document::from_html(before).put_link_again(&QUOTE, 0, &target()).unwrap().apply(before).unwrap();
    let changed = format!("<p>See <a href='/guides/averted-vision/'>averted vision</a>.</p>{linked}<p>End</p>");
    let document = Document::from_html(changed.as_str());
    let found = document.find_link(&QUOTE, &target().href).unwrap();
    assert!(found.in_sentence);
    let out = document.take_out_link(found.ordinal).unwrap().apply(&changed).unwrap();
    assert_eq!(out, format!("<p>See <a href='/guides/averted-vision/'>averted vision</a>.</p>{before}<p>End</p>"));
    assert_eq!(document.find_link(&QUOTE, "/elsewhere/"), None);
}

#[test]
fn limits_are_kept_on_a_page_and_in_a_release() {
    let text = "Zenith and nadir meet the moor, the hill and the torch. A second sentence has a beacon.";
    let document = Document::from_html(format!("<p>{text}</p>"));
    let words = |word: &str| {
        let start = document.text().as_str().find(word).unwrap();
        TextSpan::new(start, start + word.len())
    };
    let limits = LinkLimits::default();
    let added = [
        (words("Zenith"), PageId(1)),
        (words("nadir"), PageId(1)),
        (words("moor"), PageId(2)),
        (words("hill"), PageId(3)),
        (words("beacon"), PageId(4)),
    ];
    let found = limits.check_page(&document, &added, |page| *page == PageId(4));
    let sentence = Breach::Sentence { links: 3, most: 2 };
    assert_eq!(found, [None, Some(Breach::SameTarget), None, Some(sentence), Some(Breach::SameTarget)]);
    let tight = LinkLimits { per_page_at_least: 1, per_target: 2, per_phrase: 1, ..limits };
    let found = tight.check_page(&document, &added[..3], |_| false);
    assert_eq!(found[2], Some(Breach::Page { links: 2, most: 1 }));
    let found =
        tight.check_release([(PageId(1), "moon"), (PageId(1), "Moon"), (PageId(1), "sun"), (PageId(1), "star")]);
    assert_eq!(found, [None, Some(Breach::Phrase { most: 1 }), None, Some(Breach::Target { most: 2 })]);
}

proptest! {
    /// Whatever is written before and after, and however white space changes, the words are found where they stand.
    #[test]
    fn found_words_are_the_words(above in "[a-z <>/&;p]{0,40}", space in "[ \n\t]{1,3}", below in "[a-z ]{0,40}") {
        let html = format!("{above}</p><p>Use{space}your averted{space}vision on faint things.</p>{below}");
        let document = Document::from_html(html);
        match document.find_again(&QUOTE, 0) {
            Ok(words) => {
                let found: Vec<_> = document.text().slice(words).split_whitespace().collect();
                prop_assert_eq!(found, ["averted", "vision"]);
            }
            // What stood above may have opened a heading, a link or other markup.
            Err(why) => prop_assert!(above.contains('<'), "{}", why),
        }
    }
}
