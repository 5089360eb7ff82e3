//! Putting a link on words, judged by an independent HTML parser.

use std::fmt::Write as _;

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};
use proptest::prelude::*;
use strelm_core::document::{Document, Edit, LinkTarget, TextSpan};
use strelm_core::language::words;

const HREF: &str = "/target?a=1&b=\"2\"";

/// The tree as text; elements that link to [`HREF`] are left out (their children stay) and counted.
fn outline(html: &str) -> (String, usize) {
    outline_without(html, HREF)
}

/// The same without those that link somewhere else.
fn outline_without(html: &str, href: &str) -> (String, usize) {
    let dom = parse_document(RcDom::default(), ParseOpts::default()).one(html);
    let mut out = String::new();
    let mut links = 0;
    walk(&dom.document, href, &mut out, &mut links);
    (out, links)
}

fn walk(handle: &Handle, href: &str, out: &mut String, links: &mut usize) {
    let mut close = "";
    match &handle.data {
        NodeData::Text { contents } => out.push_str(&contents.borrow()),
        NodeData::Comment { contents } => write!(out, "<!--{contents}-->").unwrap(),
        NodeData::Element { name, attrs, .. } => {
            let attrs = attrs.borrow();
            if attrs.iter().any(|a| &*a.name.local == "href" && &*a.value == href) {
                *links += 1;
            } else {
                write!(out, "<{}", name.local).unwrap();
                attrs.iter().for_each(|a| write!(out, " {}={:?}", a.name.local, &*a.value).unwrap());
                out.push('>');
                close = "</>";
            }
        }
        _ => {}
    }
    handle.children.borrow().iter().for_each(|child| walk(child, href, out, links));
    out.push_str(close);
}

fn target() -> LinkTarget {
    LinkTarget::to(HREF)
}

/// Every run of one to four neighbouring words of every block.
fn spans(document: &Document) -> Vec<TextSpan> {
    let mut spans = Vec::new();
    for block in document.blocks() {
        let found: Vec<_> = words(document.text().slice(block.text)).map(|word| word.span).collect();
        for (first, start) in found.iter().enumerate() {
            for last in found.iter().skip(first).take(4) {
                spans.push(TextSpan::new(block.text.start + start.start, block.text.start + last.end));
            }
        }
    }
    spans
}

fn check(source: &str, document: &Document, words: TextSpan) -> Option<Edit> {
    let edit = document.put_link(words, &target()).ok()?;
    let after = edit.apply(source).unwrap();
    let read = Document::from_html(after.clone());
    assert_eq!(read.text().as_str(), document.text().as_str(), "visible text in {after}");
    assert_eq!(read.links().len(), document.links().len() + 1, "links in {after}");
    let ours = read.links().iter().find(|link| link.href == HREF).unwrap();
    assert_eq!(read.text().slice(ours.text).trim(), document.text().slice(words), "anchor text in {after}");
    let (before_tree, _) = outline(source);
    let (after_tree, elements) = outline(&after);
    assert_eq!(elements, 1, "elements in {after}");
    assert_eq!(after_tree, before_tree, "other elements in {after}");
    assert_eq!(edit.inverse(source).unwrap().apply(&after).unwrap(), source, "undone");
    Some(edit)
}

fn inline() -> impl Strategy<Value = String> {
    let word = prop_oneof![
        4 => "[a-z]{1,6} ",
        1 => Just("R&amp;D ".to_owned()),
        1 => Just("caf&eacute; ".to_owned()),
        1 => Just("naïve\r\n ".to_owned()),
        1 => Just("<br>".to_owned()),
        1 => Just("<img src=x alt='a moon'>".to_owned()),
        1 => Just("<!-- note -->".to_owned()),
        1 => Just("&notareference; ".to_owned()),
    ];
    word.prop_recursive(3, 24, 5, |inner| {
        let elements =
            prop::sample::select(vec!["em", "strong", "a href='/old'", "code", "span class=x", "button", "i"]);
        (elements, prop::collection::vec(inner, 1..5), prop::bool::weighted(0.95)).prop_map(|(tag, inner, closed)| {
            let name = tag.split(' ').next().unwrap();
            format!("<{tag}>{}{}", inner.concat(), if closed { format!("</{name}> ") } else { String::new() })
        })
    })
}

fn page() -> impl Strategy<Value = String> {
    let blocks = prop::sample::select(vec!["p", "h2", "li", "td", "div", "blockquote", "nav", "pre", "section", ""]);
    let block = (blocks, prop::collection::vec(inline(), 1..6), any::<bool>()).prop_map(|(tag, inner, closed)| {
        let text = inner.concat();
        match (tag, closed) {
            ("", _) => text,
            (_, true) => format!("<{tag}>{text}</{tag}>\n"),
            (_, false) => format!("<{tag}>{text}\n"),
        }
    });
    prop::collection::vec(block, 1..6).prop_map(|blocks| blocks.concat())
}

/// Tags of all kinds that belong nowhere, as pages have them that were put together by hand or cut in the midst.
fn torn_page() -> impl Strategy<Value = String> {
    const TAGS: [&str; 24] = [
        "a href=/old",
        "a",
        "b",
        "i",
        "font color=red",
        "p",
        "div",
        "li",
        "h2",
        "table",
        "tr",
        "td",
        "tbody",
        "caption",
        "template",
        "object",
        "button",
        "body",
        "html",
        "head",
        "svg",
        "math",
        "select",
        "foreignObject",
    ];
    let tag = (prop::sample::select(TAGS.to_vec()), any::<bool>()).prop_map(|(tag, ends)| match ends {
        true => format!("</{}>", tag.split(' ').next().unwrap()),
        false => format!("<{tag}>"),
    });
    let piece = prop_oneof![
        3 => tag,
        2 => "[a-z]{1,5} ",
        1 => prop::sample::select(vec!["\n", "&amp;", "<br>", "<!-- x -->", "<img alt=moon src=x>", "<script>1</script>", "<title>t</title>"])
            .prop_map(str::to_owned),
    ];
    prop::collection::vec(piece, 1..14).prop_map(|pieces| pieces.concat())
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn a_link_adds_one_element_and_nothing_else(source in page()) {
        let document = Document::from_html(source.clone());
        for words in spans(&document) {
            check(&source, &document, words);
        }
    }

    #[test]
    fn so_it_does_in_markup_that_browsers_mend(source in torn_page()) {
        let document = Document::from_html(source.clone());
        for words in spans(&document) {
            check(&source, &document, words);
        }
    }

    #[test]
    fn a_link_taken_out_takes_nothing_along(source in torn_page()) {
        // Each leads elsewhere, so that it is known again. Where a comment hangs nobody sees.
        let source = source.replace("<!-- x -->", "");
        let parts: Vec<&str> = source.split("/old").collect();
        let numbered = parts.iter().enumerate().map(|(at, part)| if at == 0 { (*part).to_owned() } else { format!("/old{at}{part}") });
        // An empty link may be all that begins the body.
        let source = format!("x {}", numbered.collect::<String>());
        let document = Document::from_html(source.clone());
        for (ordinal, link) in document.links().iter().enumerate() {
            let Ok(edit) = document.take_out_link(ordinal) else { continue };
            let after = edit.apply(&source).unwrap();
            prop_assert_eq!(outline(&after).0, outline_without(&source, &link.href).0, "{} out of {}", link.href, source);
            prop_assert_eq!(edit.inverse(&source).unwrap().apply(&after).unwrap(), source.clone());
        }
    }

    #[test]
    fn links_that_do_not_touch_compose_and_come_undone_together(source in page()) {
        let document = Document::from_html(source.clone());
        let mut edits = Vec::new();
        let mut free_from = 0;
        for words in spans(&document) {
            let place = document.may_link(words).ok().filter(|place| place.start >= free_from);
            if let Some(place) = place {
                free_from = place.end + 1;
                edits.push(document.put_link(words, &target()).unwrap());
            }
        }
        let count = edits.len();
        let edit = Edit::compose(document.hash(), edits).unwrap();
        let after = edit.apply(&source).unwrap();
        let (before_tree, _) = outline(&source);
        let (after_tree, elements) = outline(&after);
        prop_assert_eq!(elements, count);
        prop_assert_eq!(after_tree, before_tree);
        prop_assert_eq!(edit.inverse(&source).unwrap().apply(&after).unwrap(), source);
    }

    #[test]
    fn any_links_together_are_well_nested_or_refused(source in page(), picks in prop::collection::vec(any::<prop::sample::Index>(), 1..5)) {
        let document = Document::from_html(source.clone());
        let linkable: Vec<_> = spans(&document).into_iter().filter(|words| document.may_link(*words).is_ok()).collect();
        prop_assume!(!linkable.is_empty());
        let picked: Vec<_> = picks.iter().map(|pick| *pick.get(&linkable)).collect();
        let edits: Vec<_> = picked.iter().map(|words| document.put_link(*words, &target()).unwrap()).collect();
        let places: Vec<_> = picked.iter().map(|words| document.may_link(*words).unwrap()).collect();
        let clash = (0..places.len()).any(|i| (0..i).any(|j| places[i].overlaps(places[j])));
        match Edit::compose(document.hash(), edits) {
            Err(error) => {
                prop_assert!(clash);
                prop_assert_eq!(error, strelm_core::document::EditError::Overlap);
            }
            Ok(edit) => {
                prop_assert!(!clash);
                let after = edit.apply(&source).unwrap();
                let (before_tree, _) = outline(&source);
                let (after_tree, elements) = outline(&after);
                prop_assert_eq!(elements, picked.len(), "{}", after);
                prop_assert_eq!(after_tree, before_tree, "{}", after);
                prop_assert_eq!(edit.inverse(&source).unwrap().apply(&after).unwrap(), source);
            }
        }
    }

    #[test]
    fn every_character_knows_its_bytes(source in page()) {
        let document = Document::from_html(source.clone());
        let text = document.text();
        for run in text.runs() {
            let raw = &source[run.source.range()];
            let shown = text.slice(run.text);
            prop_assert!(raw == shown || htmlize::unescape(raw) == shown || shown == "\n", "{raw:?} shown as {shown:?}");
        }
    }

    #[test]
    fn arbitrary_bytes_are_read_without_panic(bytes in prop::collection::vec(any::<u8>(), 0..400)) {
        let source = String::from_utf8_lossy(&bytes).into_owned();
        let document = Document::from_html(source.clone());
        for words in spans(&document) {
            if let Ok(edit) = document.put_link(words, &target()) {
                let after = edit.apply(&source).unwrap();
                prop_assert_eq!(edit.inverse(&source).unwrap().apply(&after).unwrap(), source.clone());
            }
        }
    }

    #[test]
    fn hostile_markup_is_read_without_panic(source in "([<>/a&;=\"' !-]|<a |</a>|<p>|<b>|<!--|&amp;|<script>|</script>){0,80}") {
        let document = Document::from_html(source.clone());
        for words in spans(&document) {
            let _ = document.put_link(words, &target());
        }
    }
}

#[test]
fn words_over_emphasis_are_linked_around_it() {
    let source = "<p>See the <em>dark</em> adaptation guide.</p>";
    let document = Document::from_html(source);
    let start = document.text().as_str().find("dark").unwrap();
    let words = TextSpan::new(start, start + "dark adaptation".len());
    let after = check(source, &document, words).unwrap().apply(source).unwrap();
    assert_eq!(after, "<p>See the <a href=\"/target?a=1&amp;b=&quot;2&quot;\"><em>dark</em> adaptation</a> guide.</p>");
}

/// Found by changing pages of real sites at random.
#[test]
fn no_link_goes_where_a_browser_would_see_another_page() {
    for source in [
        "<head><title></title>\nwords after the head",
        "<html><table></html></>\nwords in a table",
        "<body><table><a></body><td></a></td>words in a table",
        "<body><template></body>words in a template",
        "<table><tr></tr><td></tr>\nwords after a row",
        "<math><code>words</code> beside a formula",
        "<table><th><a><object></table>words after a table",
        "<div><a></div>words<table></a></table>after a table",
        "<head><head>words after two heads",
        "<font color=red>words <button></font>around a button",
    ] {
        let document = Document::from_html(source);
        for words in spans(&document) {
            check(source, &document, words);
        }
    }
    let inert = Document::from_html("<body><template></body>inert");
    assert!(spans(&inert).is_empty(), "what stands in a template is not seen");
}

#[test]
fn what_a_cell_leaves_open_does_not_keep_links_from_the_rest_of_the_page() {
    let source = "<table><tr><td><b>Bold <font>words</td><td>plain words</td></tr></table><p>More words</p>";
    let document = Document::from_html(source);
    let linkable = |words: &str| {
        let start = document.text().as_str().find(words).unwrap();
        check(source, &document, TextSpan::new(start, start + words.len())).is_some()
    };
    assert!(linkable("plain words") && linkable("More words"));
}

#[test]
fn a_link_that_keeps_markup_apart_stays() {
    for source in
        ["<p>a <<a href=/x>b</a>", "<p>a &<a href=/x>amp;</a>", "<p><a href=/x>a &am</a>p;", "<p>a <<a href=/x></a>b"]
    {
        let document = Document::from_html(source);
        assert!(document.take_out_link(0).is_err(), "{source}");
    }
    let document = Document::from_html("<p>R&amp;D &<a href=/x> more</a>, 1 < <a href=/y>two</a>");
    assert!((0..2).all(|ordinal| document.take_out_link(ordinal).is_ok()));
}
