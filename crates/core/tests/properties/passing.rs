//! Links put into pages as they pass, beside the same links put into the page as a whole.

use proptest::prelude::*;
use strelm_core::document::encoding::PageEncoding;
use strelm_core::document::{Document, Edit, LinkTarget, TextSpan};
use strelm_core::language::words;
use strelm_core::passing::{Passage, PassingEdit, PassingLink};
use strelm_core::tray::Fitting;

const HREF: &str = "/~target";
const OPEN: &str = "<a href=\"/~target\">";

/// Sentences, some of them several times, with what only looks like one.
fn page() -> impl Strategy<Value = String> {
    let sentence = prop::sample::select(vec![
        "The moon is up.",
        "The <em>moon</em> is up. ",
        "Red torches keep eyes dark. ",
        "A long night &amp; a clear sky! ",
        "Été: la lune.\n ",
        "a < b ",
    ]);
    let text = prop::collection::vec(sentence, 1..4).prop_map(|sentences| sentences.concat());
    let block = (text, 0..12u8).prop_map(|(text, kind)| match kind {
        0 => format!("<h2>{text}</h2>"),
        1 => format!("<ul><li>{text}<li>{text}</ul>"),
        2 => format!("<script>'{text}'</script>"),
        3 => format!("<!-- <p>{text}</p> -->"),
        4 => format!("<p title='{text}'>{text}</p>"),
        5 => format!("<a href=/1><p>{text}</p></a>"),
        6 => format!("<button>{text}</button>"),
        7 => format!("<p>{text}<b>{text}"),
        _ => format!("<p>{text}</p>\n"),
    });
    prop::collection::vec(block, 1..8).prop_map(|blocks| blocks.concat())
}

/// Links on such words of a page, as far as they go together.
fn links(document: &Document, which: &[prop::sample::Index]) -> Vec<PassingLink> {
    let mut all: Vec<TextSpan> = Vec::new();
    for block in document.blocks() {
        let text = document.text().slice(block.text);
        let offset = block.text.start;
        all.extend(words(text).map(|word| TextSpan::new(offset + word.span.start, offset + word.span.end)));
    }
    if all.is_empty() {
        return Vec::new();
    }
    let mut fitting = Fitting::on(document.hash());
    let mut links: Vec<PassingLink> = Vec::new();
    for at in which {
        let words = all[at.index(all.len())];
        let Ok(edit) = document.put_link(words, &LinkTarget::to(HREF)) else { continue };
        if fitting.add(edit.clone()).is_ok() {
            links.push(PassingLink { edit, words: Some(words) });
        }
    }
    links
}

fn in_pieces(edit: &PassingEdit, page: &[u8], cuts: &[prop::sample::Index]) -> Vec<u8> {
    let mut cuts: Vec<_> = cuts.iter().map(|cut| cut.index(page.len() + 1)).collect();
    cuts.extend([0, page.len()]);
    cuts.sort_unstable();
    let (mut passage, mut out) = (Passage::of(edit), Vec::new());
    cuts.windows(2).for_each(|piece| passage.push(&page[piece[0]..piece[1]], &mut out));
    passage.end(&mut out);
    assert_eq!(passage.links().len(), String::from_utf8_lossy(&out).matches(OPEN).count());
    out
}

fn indices(most: usize) -> impl Strategy<Value = Vec<prop::sample::Index>> {
    prop::collection::vec(any::<prop::sample::Index>(), 0..most)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1500))]

    #[test]
    fn a_page_that_passes_is_the_page_that_was_edited_in_whatever_pieces_it_comes(
        page in page(), which in indices(8), cuts in indices(12),
    ) {
        let document = Document::from_html(page.as_str());
        let links = links(&document, &which);
        let edit = PassingEdit::of(&document, &links);
        let made = edit.links();
        let whole = Edit::compose(document.hash(), made.iter().map(|link| links[*link].edit.clone())).unwrap();
        let out = in_pieces(&edit, page.as_bytes(), &cuts);
        prop_assert_eq!(String::from_utf8(out).unwrap(), whole.apply(&page).unwrap());
        let passed = Passage::over(&edit.with_end("<footer>"), page.as_bytes());
        prop_assert_eq!(String::from_utf8(passed).unwrap(), whole.apply(&page).unwrap() + "<footer>");
    }

    #[test]
    fn on_another_page_only_the_same_sentences_carry_links_and_nothing_else_changes(
        page in page(), other in page(), which in indices(8), cuts in indices(12),
    ) {
        let document = Document::from_html(page.as_str());
        let edit = PassingEdit::of(&document, &links(&document, &which));
        let out = String::from_utf8(in_pieces(&edit, other.as_bytes(), &cuts)).unwrap();
        prop_assert_eq!(&out, &String::from_utf8(Passage::over(&edit, other.as_bytes())).unwrap());
        let (was, is) = (Document::from_html(other.as_str()), Document::from_html(out.as_str()));
        prop_assert_eq!(was.text().as_str(), is.text().as_str());
        let added = out.matches(OPEN).count();
        prop_assert_eq!(out.len(), other.len() + added * (OPEN.len() + "</a>".len()));
        prop_assert_eq!(is.links().len(), was.links().len() + added);
    }

    #[test]
    fn whatever_passes_comes_out(page in prop::collection::vec(any::<u8>(), 0..200), cuts in indices(9)) {
        let document = Document::from_html("<p>The moon is up.</p>");
        let words = TextSpan::new(4, 8);
        let edit = document.put_link(words, &LinkTarget::to(HREF)).unwrap();
        let edit = PassingEdit::of(&document, &[PassingLink { edit, words: Some(words) }]);
        prop_assert_eq!(in_pieces(&edit, &page, &cuts), page);
    }
}

#[test]
fn a_sentence_that_was_changed_is_left_alone_and_others_are_not() {
    let page = "<p>The moon is up. Red torches keep eyes dark.</p><p>Clear nights are cold.</p>";
    let document = Document::from_html(page);
    let link = |word: &str| {
        let start = document.text().as_str().find(word).unwrap();
        let words = TextSpan::new(start, start + word.len());
        PassingLink { edit: document.put_link(words, &LinkTarget::to(HREF)).unwrap(), words: Some(words) }
    };
    let edit = PassingEdit::of(&document, &[link("moon"), link("torches"), link("nights")]);
    assert_eq!(edit.links(), [0, 1, 2]);
    let passed = |page: &str| {
        let mut passage = Passage::of(&edit);
        let mut out = Vec::new();
        passage.push(page.as_bytes(), &mut out);
        passage.end(&mut out);
        (passage.links(), String::from_utf8(out).unwrap())
    };
    assert_eq!(passed(page).0, [0, 1, 2]);
    // A word more within the sentence, or before it, makes another sentence of it.
    let (links, out) = passed(&page.replace("eyes", "the eyes").replace("<p>Clear", "<p>Very Clear"));
    assert_eq!(links, [0]);
    assert!(out.contains("The <a href=\"/~target\">moon</a> is up. Red torches keep the eyes dark."));
    // Anything around it does not.
    assert_eq!(passed(&format!("<header>Hello</header>{}", page.replace("<p>", "<p class=\"x\">"))).0, [0, 1, 2]);
    // Of two sentences the one that was meant carries the link.
    let (links, out) = passed(&format!("{page}{page}"));
    assert_eq!((links.len(), out.matches(OPEN).count()), (3, 3));
}

#[test]
fn a_page_in_another_encoding_passes_in_it() {
    let page = "<p>Été: la lune se lève.</p></body>";
    let document = Document::from_html(page);
    let start = document.text().as_str().find("lune").unwrap();
    let words = TextSpan::new(start, start + 4);
    let edit = document.put_link(words, &LinkTarget::to(HREF)).unwrap();
    let edit = PassingEdit::of(&document, &[PassingLink { edit, words: Some(words) }]).with_end("<p>Où\u{3b1}</p>");
    let encoding = PageEncoding::of(b"", Some("windows-1252"));
    let out = Passage::over(&edit.in_encoding(encoding).unwrap(), &encoding.encode(page));
    let expected = "<p>Été: la <a href=\"/~target\">lune</a> se lève.</p><p>Où\u{3b1}</p></body>";
    assert_eq!(out, encoding.encode(expected));
    assert!(edit.in_encoding(PageEncoding::of(b"", Some("utf-16le"))).is_none());
}
