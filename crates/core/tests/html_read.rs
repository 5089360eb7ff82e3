//! What is read from a page beside its text: links with their regions, ids, the head.

#![allow(clippy::unwrap_used)]

use strelm_core::document::{BlockKind, Document, LinkKind, Region};

fn regions(html: &str) -> Vec<(String, Region)> {
    let document = Document::from_html(html);
    document.links().iter().map(|link| (link.href.clone(), link.region)).collect()
}

#[test]
fn landmarks_and_roles_tell_the_region_of_a_link() {
    let html = "<body><header><a href=h>h</a><nav><a href=n>n</a></nav></header><div role=navigation><a href=r>r</a></div>\
                <main><article><header><a href=c>c</a></header><p><a href=d>d</a></p><aside><a href=a>a</a></aside>\
                <footer><a href=e>e</a></footer></article></main><footer><a href=f>f</a></footer></body>";
    use Region::{Aside, Content, Footer, Header, Menu};
    let expected = [
        ("h", Header),
        ("n", Menu),
        ("r", Menu),
        ("c", Content),
        ("d", Content),
        ("a", Aside),
        ("e", Content),
        ("f", Footer),
    ];
    assert_eq!(regions(html), expected.map(|(href, region)| (href.to_owned(), region)));
}

#[test]
fn classes_tell_the_region_where_there_are_no_landmarks() {
    let html = "<div class='navheader'><a href=1>1</a></div><div class=sect1><a href=2>2</a></div><div id=footer><a href=3>3</a></div>";
    let expected = [("1", Region::Menu), ("2", Region::Content), ("3", Region::Footer)];
    assert_eq!(regions(html), expected.map(|(href, region)| (href.to_owned(), region)));
}

#[test]
fn both_the_id_and_the_name_of_an_anchor_can_be_pointed_at() {
    let document = Document::from_html("<a name=one id=two>x</a><p id=three>y</p><input name=four>");
    assert_eq!(document.ids(), ["two", "one", "three"]);
}

#[test]
fn the_head_tells_title_language_and_kind() {
    let document = Document::from_html(
        "<html lang=de-AT><head><title>Über\n uns &amp; mehr</title><meta property=og:type content=article>\
         <meta name=robots content='NOINDEX, follow'><link rel='micropub x' href=/mp></head>\
         <body><article class='wide h-entry'><h1>Über <em>uns</em></h1><a class=p-category rel=TAG href=/t>Haus</a>",
    );
    let head = document.head();
    assert_eq!(head.title.as_deref(), Some("Über uns & mehr"));
    assert_eq!(head.language.as_deref(), Some("de-AT"));
    assert_eq!(head.open_graph_type.as_deref(), Some("article"));
    assert_eq!(head.microformat.as_deref(), Some("h-entry"));
    assert_eq!(head.category.as_deref(), Some("Haus"));
    assert_eq!(head.link("micropub"), Some("/mp"));
    assert!(head.noindex);
    assert_eq!(document.main_heading().as_deref(), Some("Über uns"));
    assert_eq!(document.links()[0].rel, ["tag"]);
}

#[test]
fn hidden_text_is_not_read_and_blocks_keep_apart() {
    let document = Document::from_html(
        "<p>one<script>no()</script><p>two<style>no{}</style><ul><li>three<li>four</ul><pre>five</pre><svg><text>no</text></svg>",
    );
    let blocks: Vec<_> =
        document.blocks().iter().map(|b| (document.text().slice(b.text).trim().to_owned(), b.kind)).collect();
    let kinds = [BlockKind::Paragraph, BlockKind::Paragraph, BlockKind::ListItem, BlockKind::ListItem, BlockKind::Code];
    let expected: Vec<_> = ["one", "two", "three", "four", "five"].map(str::to_owned).into_iter().zip(kinds).collect();
    assert_eq!(blocks, expected);
}

#[test]
fn a_picture_carries_a_link_by_its_alternative_text() {
    let document = Document::from_html("<a href=x><img src=i alt='the Moon'></a> <a href=y><img alt=z>words</a>");
    assert_eq!(document.links()[0].kind, LinkKind::Picture);
    assert_eq!(document.links()[0].alt.as_deref(), Some("the Moon"));
    assert_eq!(document.links()[1].kind, LinkKind::Text);
}

#[test]
fn deep_nesting_and_many_attributes_cost_no_more_than_their_bytes() {
    let sources = [
        "<div>".repeat(100_000),
        "<b><p>".repeat(50_000),
        "</x>".repeat(100_000),
        format!("<a {}>x</a>", "y=z ".repeat(100_000)),
        "&amp;&#x41;&".repeat(60_000),
        "<a href=x>".repeat(50_000),
    ];
    for source in sources {
        let document = Document::from_html(source.clone());
        assert_eq!(document.source().len(), source.len());
    }
}
