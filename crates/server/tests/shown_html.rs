//! Imported pages are hostile: whatever they hold, nothing of it runs, and nothing of it looks like ours.

#![allow(clippy::unwrap_used)]

use proptest::prelude::*;
use strelm_core::document::{Document, TextSpan};
use strelm_core::site::Address;
use strelm_server::api::shown::{Mark, Marked, shown};

fn show(html: &str, marks: &[Mark]) -> String {
    shown(&Document::from_html(html), &Address::parse("https://site.example/a/").unwrap(), 1, marks).html
}

const PAYLOADS: [&str; 30] = [
    "<script>x()</script>",
    "<SCRIPT SRC=//e.example/x.js></SCRIPT>",
    "<img src=x onerror=x()>",
    "<svg onload=x()><script>x()</script></svg>",
    "<svg><a xlink:href='javascript:x()'><text>t</text></a></svg>",
    "<math><mi xlink:href='javascript:x()'>t</mi></math>",
    "<iframe src='javascript:x()'></iframe>",
    "<iframe srcdoc='<script>x()</script>'></iframe>",
    "<object data='javascript:x()'></object>",
    "<embed src='javascript:x()'>",
    "<a href='javascript:x()'>t</a>",
    "<a href=' JaVaScRiPt:x()'>t</a>",
    "<a href='java\tscript:x()'>t</a>",
    "<a href='&#106;avascript:x()'>t</a>",
    "<a href='data:text/html,<script>x()</script>'>t</a>",
    "<a href='vbscript:x()'>t</a>",
    "<a href=x onclick=x() onmouseover=x()>t</a>",
    "<p style='background:url(javascript:x())'>t</p>",
    "<style>@import 'javascript:x()';</style>",
    "<link rel=stylesheet href='javascript:x()'>",
    "<meta http-equiv=refresh content='0;url=javascript:x()'>",
    "<base href='javascript:x()//'>",
    "<form action='javascript:x()'><button formaction='javascript:x()'>t</button><input autofocus onfocus=x()></form>",
    "<video src=x onerror=x()><source onerror=x()></video>",
    "<details open ontoggle=x()><summary>t</summary></details>",
    "<noscript><p title='</noscript><img src=x onerror=x()>'></noscript>",
    "<template><script>x()</script></template>",
    "<!--><img src=x onerror=x()>-->",
    "<table background='javascript:x()'><td background='javascript:x()'>t</table>",
    "<p id=window class='btn modal' name=x data-opening=1 data-tray=2>t</p>",
];

/// What the shown HTML holds for a browser: names of elements, and of attributes with their values.
fn contents(html: &str) -> (Vec<String>, Vec<(String, String)>) {
    let document = Document::from_html(html);
    assert_eq!(document.source(), html);
    let (mut elements, mut attributes) = (Vec::new(), Vec::new());
    for token in html5gum::Tokenizer::new(html).flatten() {
        if let html5gum::Token::StartTag(tag) = token {
            elements.push(String::from_utf8_lossy(&tag.name).into_owned());
            for (name, value) in &tag.attributes {
                let value = String::from_utf8_lossy(&value.value).into_owned();
                attributes.push((String::from_utf8_lossy(name).into_owned(), value));
            }
        }
    }
    (elements, attributes)
}

fn assert_harmless(html: &str, shown: &str) {
    let (elements, attributes) = contents(shown);
    let bad = [
        "script", "style", "iframe", "object", "embed", "svg", "math", "form", "input", "button", "link", "meta",
        "base", "template", "noscript", "video", "source",
    ];
    for element in elements {
        assert!(!bad.contains(&element.as_str()), "<{element}> of {html} in {shown}");
    }
    for (name, value) in attributes {
        let is_ours = matches!(
            name.as_str(),
            "href"
                | "src"
                | "rel"
                | "title"
                | "alt"
                | "lang"
                | "dir"
                | "data-link"
                | "data-opening"
                | "data-part"
                | "data-tray"
                | "data-picture"
                | "colspan"
                | "rowspan"
                | "headers"
                | "width"
                | "height"
                | "align"
                | "cite"
                | "datetime"
                | "start"
                | "hreflang"
                | "scope"
                | "span"
                | "char"
                | "charoff"
                | "size"
                | "summary"
        );
        assert!(is_ours, "{name} of {html} in {shown}");
        if name == "href" {
            assert!(value.starts_with("https://") || value.starts_with("http://"), "{value} of {html}");
        }
        if name == "data-picture" {
            assert!(value.parse::<usize>().is_ok(), "{value} of {html}");
        }
        if name == "src" {
            assert!(value.starts_with("/api/sites/1/pictures?address="), "{value} of {html}");
        }
    }
}

#[test]
fn nothing_of_a_payload_runs_wherever_it_stands() {
    for payload in PAYLOADS {
        let quoted = payload.replace('"', "&quot;");
        let places = [
            payload.to_owned(),
            format!("<p>before {payload} after</p>"),
            format!("<ul><li><em>{payload}</ul>"),
            format!("<img src=x alt=\"{quoted}\" title=\"{quoted}\">"),
            format!("<a href=\"/x?{quoted}\">t</a>"),
        ];
        for html in places {
            assert_harmless(&html, &show(&html, &[]));
        }
    }
}

#[test]
fn marks_stand_around_the_words_and_inside_links_is_none() {
    let html = "<p>See the <em>dark</em> adaptation and <a href=/x>the moon</a>.</p>";
    let document = Document::from_html(html);
    let find = |words: &str| {
        let start = document.text().as_str().find(words).unwrap();
        TextSpan::new(start, start + words.len())
    };
    let marks = [
        Mark { place: Marked::Words(find("dark adaptation")), what: "opening", number: 1 },
        Mark { place: Marked::Words(find("moon")), what: "opening", number: 2 },
    ];
    let shown = show(html, &marks);
    assert!(shown.contains("<mark data-opening=\"1\"><em>dark</em> adaptation</mark>"), "{shown}");
    assert!(!shown.contains("data-opening=\"2\""), "{shown}");
    assert!(shown.contains("data-link=\"0\""), "{shown}");
}

#[test]
fn a_page_s_own_marks_do_not_pass_for_ours() {
    // Where the content begins and ends is ours to say.
    let shown = show("<nav><a href=/>Home</a></nav><p><mark data-part=7>One</mark>.</p><footer>Foot</footer>", &[]);
    assert_eq!((shown.matches("data-part").count(), shown.contains("data-part=\"7\"")), (2, false), "{shown}");
    let shown = show("<p><mark data-opening=7>x</mark><a data-link=9 href=/y>y</a></p>", &[]);
    assert!(!shown.contains("data-opening"), "{shown}");
    assert!(shown.contains("data-link=\"0\"") && !shown.contains("data-link=\"9\""), "{shown}");
}

proptest! {
    #[test]
    fn whatever_bytes_come_in_only_harmless_ones_go_out(
        html in "(<(script|img|a|p|svg|style|math|/p|/a|!--)[ />]|on[a-z]{3,5}=x|href=javascript:x|src=x|[ a-z\"'<>&;=/-]){0,40}"
    ) {
        assert_harmless(&html, &show(&html, &[]));
    }
}
