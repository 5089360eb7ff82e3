//! Markdown: what is read, and links put into it, judged by rendering with pulldown-cmark and reading the HTML.

use proptest::prelude::*;
use strelm_core::document::{BlockKind, Document, LinkTarget, Refusal, TextSpan};

fn html(markdown: &str) -> String {
    let mut html = String::new();
    let options = pulldown_cmark::Options::ENABLE_TABLES
        | pulldown_cmark::Options::ENABLE_FOOTNOTES
        | pulldown_cmark::Options::ENABLE_STRIKETHROUGH
        | pulldown_cmark::Options::ENABLE_TASKLISTS
        | pulldown_cmark::Options::ENABLE_HEADING_ATTRIBUTES;
    pulldown_cmark::html::push_html(&mut html, pulldown_cmark::Parser::new_ext(markdown, options));
    html
}

fn words_of(text: &str) -> Vec<&str> {
    text.split_whitespace().collect()
}

fn find(document: &Document, words: &str) -> TextSpan {
    let start = document.text().as_str().find(words).unwrap();
    TextSpan::new(start, start + words.len())
}

fn put(markdown: &str, words: &str, href: &str) -> Result<String, Refusal> {
    let document = Document::from_markdown(markdown);
    let edit = document.put_link(find(&document, words), &LinkTarget::to(href))?;
    Ok(edit.apply(markdown).unwrap())
}

const PAGE: &str = "# The moon\n\nIt rises *over the* moor, &amp; sets. See [the guide](../guide.md \"t\") or\n\
    <https://a.example/>.\n\n> Quoted words\n> over two lines.\n\n- one **bold item**\n- two\n\n  with more\n\n\
    | a | b |\n|---|---|\n| cell one | `code here` |\n\n```\nnot prose\n```\n\n<p>raw <a href=\"/raw\">words</a></p>\n\n\
    Inline <a href=\"/in\">html link</a> and ![a picture](moon.svg) and [![alt words](m.svg)](/pic).\n\n[ref]: /ref\n\n\
    A [reference link][ref] and [ref].\n";

#[test]
fn text_blocks_and_links_are_those_of_the_rendered_page() {
    let document = Document::from_markdown(PAGE);
    let rendered = Document::from_html(html(PAGE));
    assert_eq!(words_of(document.text().as_str()), words_of(rendered.text().as_str()));
    let hrefs = |document: &Document| document.links().iter().map(|link| link.href.clone()).collect::<Vec<_>>();
    assert_eq!(hrefs(&document), hrefs(&rendered));
    let anchors = |document: &Document| {
        let text = |link: &strelm_core::document::Link| document.text().slice(link.text).trim().to_owned();
        document.links().iter().map(text).collect::<Vec<_>>()
    };
    assert_eq!(anchors(&document), anchors(&rendered));
    let kinds: Vec<_> = document.blocks().iter().map(|block| block.kind).collect();
    assert_eq!(kinds[0], BlockKind::Heading(1));
    assert!(kinds.contains(&BlockKind::Quote) && kinds.contains(&BlockKind::Cell) && kinds.contains(&BlockKind::Code));
    assert_eq!(document.main_heading().as_deref(), Some("The moon"));
    assert!(document.ids().any(|id| id == "the-moon"));
    assert_eq!(document.links().iter().find(|link| link.href == "/pic").unwrap().alt.as_deref(), Some("alt words"));
}

#[test]
fn links_are_put_in_as_markdown_writes_them() {
    assert_eq!(put("The dark moor.", "dark moor", "/moor/").unwrap(), "The [dark moor](/moor/).");
    assert_eq!(put("See *the moor* now", "the moor", "/m").unwrap(), "See *[the moor](/m)* now");
    assert_eq!(put("See *the moor* now", "See the moor", "/m").unwrap(), "[See *the moor*](/m) now");
    assert_eq!(put("> dark\n> moor", "dark\nmoor", "a b.md").unwrap(), "> [dark\n> moor](<a b.md>)");
    assert_eq!(put("x &amp; y", "x & y", "/m(1)").unwrap(), "[x &amp; y](</m(1)>)");
    assert_eq!(
        put("| one | two |\n|---|---|\n| a cell | b |", "a cell", "/c").unwrap(),
        "| one | two |\n|---|---|\n| [a cell](/c) | b |"
    );
}

#[test]
fn what_cannot_carry_a_link_is_refused() {
    assert_eq!(put("# Dark moor", "moor", "/m"), Err(Refusal::Heading));
    assert_eq!(put("a [dark moor](/x)", "moor", "/m"), Err(Refusal::AlreadyLinked));
    assert_eq!(put("a <a href=\"/x\">dark moor</a>", "moor", "/m"), Err(Refusal::AlreadyLinked));
    assert!(put("a `dark moor`", "moor", "/m").is_err());
    assert!(put("one\n\ntwo", "one\ntwo", "/m").is_err());
    assert!(put("see *the moor* now", "moor now", "/m").is_err());
    assert!(put("<p>dark moor</p>", "moor", "/m").is_err());
    // A bracket among the words would close the link too early.
    assert!(
        put("odd ] words", "odd ] words", "/m").is_err()
            || html(&put("odd ] words", "odd ] words", "/m").unwrap()).contains(">odd ] words</a>")
    );
}

fn piece() -> impl Strategy<Value = String> {
    prop_oneof![
        4 => "[a-z]{1,6}",
        1 => Just("*em* ".to_owned()),
        1 => Just("**strong words** ".to_owned()),
        1 => Just("[link](/x) ".to_owned()),
        1 => Just("`code`".to_owned()),
        1 => Just("\n\n".to_owned()),
        1 => Just("\n> ".to_owned()),
        1 => Just("\n- ".to_owned()),
        1 => Just("\n# ".to_owned()),
        1 => Just("&amp;".to_owned()),
        1 => Just("<b>".to_owned()),
        1 => Just("</b>".to_owned()),
        1 => Just("<a href='/h'>".to_owned()),
        1 => Just("</a>".to_owned()),
        1 => Just("![alt](p.svg)".to_owned()),
        1 => "[\\[\\]()*_`!<>&|~#-]",
        2 => Just(" ".to_owned()),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn a_link_put_on_any_words_changes_nothing_else(pieces in prop::collection::vec(piece(), 1..24), at in 0usize..200, len in 1usize..24) {
        let markdown = pieces.concat();
        let document = Document::from_markdown(markdown.as_str());
        let text = document.text().as_str();
        let start = at % text.len().max(1);
        let words = TextSpan::new(start, (start + len).min(text.len()));
        prop_assume!(text.is_char_boundary(words.start) && text.is_char_boundary(words.end));
        let Ok(edit) = document.put_link(words, &LinkTarget::to("/new/")) else { return Ok(()) };
        let after = edit.apply(&markdown).unwrap();
        let (before, now) = (Document::from_html(html(&markdown)), Document::from_html(html(&after)));
        prop_assert_eq!(words_of(before.text().as_str()), words_of(now.text().as_str()), "{} → {}", markdown, after);
        prop_assert_eq!(before.links().len() + 1, now.links().len(), "{} → {}", markdown, after);
        // And out again, byte for byte.
        let document = Document::from_markdown(after.as_str());
        let ordinal = document.links().iter().position(|link| link.href == "/new/").unwrap();
        let out = document.take_out_link(ordinal).unwrap();
        prop_assert_eq!(out.apply(&after).unwrap(), markdown);
    }

    #[test]
    fn any_text_is_read(markdown in any::<String>()) {
        let document = Document::from_markdown(markdown);
        for run in document.text().runs() {
            prop_assert!(document.source().get(run.source.range()).is_some());
        }
    }
}
