//! Links on pictures: where their tags go, and how a picture is known again on another version of its page.

use proptest::prelude::*;
use strelm_core::document::{ContentHash, Document, LinkTarget, Refusal};

const HREF: &str = "/guides/averted-vision/";

fn with_link(document: &Document, ordinal: usize) -> String {
    let edit = document.put_link_on_picture(ordinal, &LinkTarget::to(HREF)).unwrap();
    edit.apply(document.source()).unwrap()
}

#[test]
fn a_picture_in_several_files_is_linked_as_a_whole() {
    let html = "<p>See <picture><source srcset=\"m.avif\"><img src=\"m.png\" alt=\"Moon\"></picture></p>";
    let after = with_link(&Document::from_html(html), 0);
    let whole = "<a href=\"/guides/averted-vision/\"><picture><source srcset=\"m.avif\"><img src=\"m.png\" alt=\"Moon\"></picture></a>";
    assert!(after.contains(whole), "{after}");
}

#[test]
fn what_cannot_carry_a_link_says_why() {
    let why = |html: &str| Document::from_html(html).may_link_picture(0).unwrap_err();
    assert_eq!(why("<p>No picture</p>"), Refusal::NotThere);
    assert_eq!(why("<p><a href=/x><img src=m.png></a></p>"), Refusal::PictureLinked);
    assert_eq!(why("<p><a name=x><img src=m.png></a></p>"), Refusal::PictureLinked);
    assert_eq!(why("<p><picture><img src=m.png>"), Refusal::PictureAstray);
    assert_eq!(why("<h2><img src=m.png></h2>"), Refusal::PictureSet);
    assert_eq!(why("<button><img src=m.png></button>"), Refusal::PictureSet);
}

#[test]
fn of_pictures_written_alike_the_nearest_without_a_link_counts() {
    let picture = "<img src=m.png alt=Moon>";
    let document = Document::from_html(format!("<p>{picture} one two three {picture} <a href=/x>{picture}</a></p>"));
    let at = |ordinal: usize| document.pictures()[ordinal].text_at;
    let written = ContentHash::of(picture);
    assert_eq!(document.find_picture(written, 0), Some(0));
    assert_eq!(document.find_picture(written, at(1)), Some(1));
    assert_eq!(document.find_picture(ContentHash::of("<img src=m.png>"), 0), None);
    assert_eq!(document.find_link_on_picture(written, 0, "/x"), Some(0));
    assert_eq!(document.find_link_on_picture(written, 0, "/y"), None);
}

#[test]
fn a_link_around_more_than_the_picture_is_not_its_own() {
    let picture = "<img src=m.png>";
    for inside in [format!("{picture} words"), format!("{picture}<img src=n.png>")] {
        let document = Document::from_html(format!("<p><a href=/x>{inside}</a></p>"));
        assert_eq!(document.find_link_on_picture(ContentHash::of(picture), 0, "/x"), None, "{inside}");
    }
}

#[test]
fn a_picture_of_markdown_carries_a_link_too() {
    let document = Document::from_markdown("Look at ![the Moon](moon.svg \"Full\") tonight.\n");
    let after = with_link(&document, 0);
    assert!(after.contains("[![the Moon](moon.svg \"Full\")](/guides/averted-vision/)"), "{after}");
    let read = Document::from_markdown(after.as_str());
    let link = read.find_link_on_picture(document.hash_of(&document.pictures()[0]), 8, HREF).unwrap();
    assert_eq!(read.take_out_link(link).unwrap().apply(&after).unwrap(), document.source());
}

const PIECES: [&str; 9] = [
    "<img src=m.png alt=Moon>",
    "<img src=m.png alt=Moon>",
    "<picture><source srcset=a.avif><img src=b.png></picture>",
    "<figure><img src=c.png><figcaption>Saturn</figcaption></figure>",
    "<a href=/x><img src=m.png alt=Moon></a>",
    "<b><img src=d.png></b>",
    "words ",
    "<em>more</em> ",
    "</p><p>",
];

proptest! {
    #[test]
    fn a_link_on_a_picture_is_found_there_and_taken_out_without_a_trace(
        pieces in prop::collection::vec(prop::sample::select(PIECES.to_vec()), 1..10),
        more in "[a-z ]{0,20}",
    ) {
        let document = Document::from_html(format!("<p>{}</p>", pieces.concat()));
        for (ordinal, picture) in document.pictures().iter().enumerate() {
            let Ok(edit) = document.put_link_on_picture(ordinal, &LinkTarget::to(HREF)) else { continue };
            let after = edit.apply(document.source()).unwrap();
            let read = Document::from_html(after.as_str());
            prop_assert_eq!(read.text().as_str(), document.text().as_str());
            let written = document.hash_of(picture);
            let link = read.find_link_on_picture(written, picture.text_at, HREF).unwrap();
            prop_assert_eq!(read.take_out_link(link).unwrap().apply(&after).unwrap(), document.source());
            // On a page that begins with more words it is found by its looks.
            let longer = Document::from_html(format!("<p>{more}</p>{}", document.source()));
            let again = longer.find_picture(written, picture.text_at).unwrap();
            prop_assert_eq!(longer.hash_of(&longer.pictures()[again]), written);
        }
    }
}
