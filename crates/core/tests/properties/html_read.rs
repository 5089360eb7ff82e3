//! What is read from a page beside its text: links with their regions, ids, the head.

use strelm_core::document::{Aim, BlockKind, Document, LinkKind, Mail, Region};
use strelm_core::site::{Address, Standing};

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
    assert_eq!(document.ids().collect::<Vec<_>>(), ["two", "one", "three"]);
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
    let drawn = "<title>Plugins</title><p>See<svg><title>a cluster</title><g><title>of events</title></g></svg>";
    assert_eq!(
        Document::from_html(drawn).head().title.as_deref(),
        Some("Plugins"),
        "drawings have titles of their own"
    );
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
fn the_day_of_publication_is_told_in_three_ways_by_a_page_about_itself() {
    for (html, published) in [
        ("<meta property='article:published_time' content='2026-02-03T04:05Z'>", Some("2026-02-03")),
        ("<article class=h-entry><time class='x dt-published' datetime=2026-02-03>3 Feb</time>", Some("2026-02-03")),
        ("<time itemprop=datePublished datetime='2026-02-03 10:00'>then</time>", Some("2026-02-03")),
        (
            "<time itemprop='datePublished' datetime=2025-01-01></time><time itemprop=datePublished datetime=2026-01-01>",
            Some("2025-01-01"),
        ),
        ("<time datetime=2026-02-03>an event</time>", None),
        ("<main class=h-feed><article class=h-entry><time class=dt-published datetime=2026-02-03>", None),
        ("<meta itemprop=datePublished content='3 février'>", None),
        ("<meta itemprop=datePublished content='2026-02-31'>", None),
    ] {
        let standing =
            Standing::of(Document::from_html(html).head(), &Address::parse("https://site.example/").unwrap());
        assert_eq!(standing.published.map(|day| day.to_string()).as_deref(), published, "{html}");
    }
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
fn of_several_main_headings_the_one_of_the_page_counts() {
    let heading = |html: &str| Document::from_html(html).main_heading();
    let site = "<title>Settings | Docs</title><div><h1><a href=/>Docs</a></h1></div>";
    assert_eq!(heading(&format!("{site}<h1>Settings<a href=#s>¶</a></h1>")).as_deref(), Some("Settings"));
    assert_eq!(heading(&format!("{site}<h1>How to set it</h1>")).as_deref(), Some("How to set it"));
    assert_eq!(heading(&format!("{site}<p>Text")).as_deref(), Some("Docs"), "it has no other");
    let lesser = format!("{site}<h2>More</h2><h2>Settings</h2>");
    assert_eq!(heading(&lesser).as_deref(), Some("Settings"), "the title begins with it");
    let man = "<title>Sky manual - moon(8)</title><h1>moon(8)</h1><p>Shows it.<h1>OPTIONS</h1>";
    assert_eq!(heading(man).as_deref(), Some("moon(8)"), "the name of the site comes first");
    let part = "<title>Set it: Docs</title><h1>Docs</h1><h1>How to set it</h1>";
    assert_eq!(heading(part).as_deref(), Some("Docs"), "nothing tells");
    assert_eq!(heading("<header><h1>Docs</h1></header><h1>Setting</h1>").as_deref(), Some("Setting"));
    assert_eq!(heading("<header><h1>Docs</h1></header><p>Text").as_deref(), Some("Docs"));
    assert_eq!(heading("<h1>C#</h1>").as_deref(), Some("C#"));
    assert_eq!(heading("<h1>Moon <a href=#m>#</a></h1>").as_deref(), Some("Moon"));
}

#[test]
fn a_page_of_a_manual_without_a_title_is_headed_by_the_name_that_it_explains() {
    let heading = |html: &str| Document::from_html(html).main_heading();
    let name = "<h1>NAME</h1><pre>  Moon::Phase - a phase of the moon</pre><h1>METHODS</h1>";
    assert_eq!(heading(name).as_deref(), Some("Moon::Phase"));
    assert_eq!(heading(&format!("<title>Phases</title>{name}")).as_deref(), Some("NAME"), "the title tells");
    assert_eq!(heading("<h1>The moon</h1><p>Phases - all of them").as_deref(), Some("The moon"));
    assert_eq!(heading("<h1>Moon</h1><p>No dash here.<p>But - here").as_deref(), Some("Moon"));
    assert_eq!(heading("<h1>Moon</h1>").as_deref(), Some("Moon"));
    assert_eq!(heading("<h1>Moon</h1><p> - nothing").as_deref(), Some("Moon"));
}

#[test]
fn a_box_beside_the_text_is_content_unless_it_is_of_links() {
    let note = "<div class=sidebar><p id=git><b>CULTURE Git</b><p>See <a href=/a>the manual</a> about it all.</div>";
    let links =
        "<div class=sidebar><h3>More</h3><ul><li><a href=/b>Another page</a><li><a href=/c>And one more</a></ul></div>";
    let aside = "<aside class=sidebar><p>Words of an aside.</p></aside>";
    let document = Document::from_html(format!("<p>One.</p>{note}<p>Two.</p>{links}{aside}"));
    let regions: Vec<_> = document.links().iter().map(|link| (link.href.as_str(), link.region)).collect();
    assert_eq!(regions, [("/a", Region::Content), ("/b", Region::Aside), ("/c", Region::Aside)]);
    let of_words = |words: &str| {
        document.blocks().iter().find(|block| document.text().slice(block.text).contains(words)).unwrap().region
    };
    assert_eq!((of_words("CULTURE"), of_words("Two")), (Region::Content, Region::Content));
    assert_eq!((of_words("More"), of_words("an aside")), (Region::Aside, Region::Aside));
}

#[test]
fn what_scripts_show_later_is_read_like_the_rest() {
    let document = Document::from_html(
        "<p>Open <a href=/a>this</a>.</p><div role=tabpanel hidden><h2>More</h2><p hidden=until-found>See <a href=/b>that</a>.</p></div>",
    );
    let links: Vec<_> = document.links().iter().map(|link| (link.href.as_str(), document.anchor(link))).collect();
    assert_eq!(links, [("/a", "this".to_owned()), ("/b", "that".to_owned())]);
    let (at, _) = document.text().as_str().match_indices("See").next().unwrap();
    assert_eq!(document.heading_path(at), ["More"]);
}

#[test]
fn passages_tell_their_language() {
    let document = Document::from_html(
        "<html lang=en><body lang=EN><p>One</p><blockquote lang='fr'><p>Deux</p><p lang=en>Two</p><p lang=''>Deux</p></blockquote>\
         <p>Three <span lang=de>vier</span></p></html>",
    );
    let languages: Vec<_> = document.blocks().iter().map(|block| document.language_of(block)).collect();
    assert_eq!(languages, [None, Some("fr"), None, None, None]);
}

#[test]
fn a_picture_carries_a_link_by_its_alternative_text() {
    let document = Document::from_html("<a href=x><img src=i alt='the Moon'></a> <a href=y><img alt=z>words</a>");
    assert_eq!(document.links()[0].kind, LinkKind::Picture);
    assert_eq!(document.links()[0].alt.as_deref(), Some("the Moon"));
    assert_eq!(document.links()[1].kind, LinkKind::Mixed);
    assert_eq!(document.anchor(&document.links()[0]), "the Moon");
    assert_eq!(document.anchor(&document.links()[1]), "words");
}

#[test]
fn links_of_every_kind_are_read_with_their_facts() {
    let source = "<h1>Sky</h1><p>Intro words here.</p><h2 id=m>Moon</h2><p><a class='x y' TITLE='a &amp; b' target=_blank \
        rel='NoFollow noopener' hreflang=de download href='/f.pdf'>file</a> <a href='mailto:a@b.example,c%40d.example?subject=Hi%20you'>m</a> \
        <a href=tel:123>t</a> <a href='SMS:123'>s</a> <a href='#m'>here</a> <a role=button href=/b>Buy</a> <a href='javascript:x()'>j</a></p>\
        <map><area href=/area alt='North'></map><svg><a href=/hidden>x</a></svg>";
    let document = Document::from_html(source);
    let kinds: Vec<_> = document.links().iter().map(|link| (link.aim(), link.kind)).collect();
    let text = |aim| (aim, LinkKind::Text);
    let expected = [
        text(Aim::Page),
        text(Aim::Mail),
        text(Aim::Phone),
        text(Aim::Message),
        text(Aim::Place),
        (Aim::Page, LinkKind::Button),
        text(Aim::Script),
        (Aim::Page, LinkKind::Area),
    ];
    assert_eq!(kinds, expected);
    let file = &document.links()[0];
    let says: Vec<_> = document.attributes(file).map(|a| (a.name.into_owned(), a.value.into_owned())).collect();
    let expected = [
        ("class", "x y"),
        ("title", "a & b"),
        ("target", "_blank"),
        ("rel", "NoFollow noopener"),
        ("hreflang", "de"),
        ("download", ""),
        ("href", "/f.pdf"),
    ];
    assert_eq!(says, expected.map(|(name, value)| (name.to_owned(), value.to_owned())));
    let title = document.attributes(file).find(|attribute| attribute.name == "title").unwrap();
    assert_eq!(&source[title.value_source.range()], "a &amp; b");
    assert_eq!(&source[title.source.range()], "TITLE='a &amp; b'");
    assert_eq!(
        &source[file.source.range()],
        &source[source.find("<a class").unwrap()..source.find(" <a href='mailto").unwrap()]
    );
    assert_eq!(document.heading_path(file.text.start), ["Sky", "Moon"]);
    let share = document.share_before(file.text.start);
    assert!(share > 0.4 && share < 0.7, "{share}");
    let mail = Mail::of(&document.links()[1].href).unwrap();
    assert_eq!(mail.to, ["a@b.example", "c@d.example"]);
    assert_eq!(mail.fields, [("subject".to_owned(), "Hi you".to_owned())]);
    assert_eq!(document.anchor(&document.links()[7]), "North");
}

#[test]
fn the_head_says_where_else_a_page_is() {
    let document = Document::from_html(
        "<meta http-equiv=Refresh content='3; URL=/new'><meta name=robots content='none'>\
         <link rel=canonical href=/c><link rel='alternate' hreflang=de href=/de/><link rel=next href=/2><p>x",
    );
    let head = document.head();
    assert_eq!(head.refresh.as_deref(), Some("/new"));
    assert!(head.noindex);
    assert_eq!(head.link("canonical"), Some("/c"));
    assert_eq!(head.links[1].language.as_deref(), Some("de"));
    assert_eq!(head.link("next"), Some("/2"));
    assert_eq!(document.blocks().len(), 1, "text after the head is seen, although it was not closed");
}

#[test]
fn lists_of_links_are_told_from_prose() {
    let document = Document::from_html(
        "<ul><li><a href=/1>One</a><li><a href=/2>Two</a><li><a href=/3>Three</a></ul><h1>Title</h1>\
         <ul><li><a href='#a'>A</a><li><a href='#b'>B</a><li><a href='#c'>C</a></ul>\
         <ul><li><a href=/4>Four</a><li><a href=/5>Five</a><li><a href=/6>Six</a></ul>\
         <nav aria-label=Breadcrumb><a href=/>Home</a></nav>\
         <div itemtype='https://schema.org/BreadcrumbList'><a href=/>Home</a></div>",
    );
    let regions: Vec<_> = document.links().iter().map(|link| link.region).collect();
    let expected =
        [[Region::Menu; 3].as_slice(), &[Region::Contents; 3], &[Region::Content; 3], &[Region::Breadcrumb; 2]]
            .concat();
    assert_eq!(regions, expected);
    assert!(
        document.blocks().iter().zip(document.links()).all(|(block, _)| !document.text().slice(block.text).is_empty())
    );
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

#[test]
fn a_complaint_before_the_page_does_not_hide_its_body() {
    let source = "Warning: out of ink<br><html><head><title>Moon</title></head><body><p>Pale by day.</p></body></html>";
    let document = Document::from_html(source);
    assert_eq!(&source[document.main_span().range()], "<p>Pale by day.</p>");
    assert_eq!(document.head().title.as_deref(), Some("Moon"));
}
