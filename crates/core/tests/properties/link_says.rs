//! What links say in their attributes, judged by an independent HTML parser.

use std::collections::BTreeMap;

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};
use proptest::prelude::*;
use strelm_core::document::{Document, LinkSays, Refusal};

/// The attributes of the first link, and the text of the page.
fn read(html: &str) -> (BTreeMap<String, String>, String) {
    fn walk(handle: &Handle, found: &mut Option<BTreeMap<String, String>>, text: &mut String) {
        match &handle.data {
            NodeData::Text { contents } => text.push_str(&contents.borrow()),
            NodeData::Element { name, attrs, .. } if &*name.local == "a" && found.is_none() => {
                let attributes = attrs.borrow();
                *found = Some(attributes.iter().map(|a| (a.name.local.to_string(), a.value.to_string())).collect());
            }
            _ => {}
        }
        handle.children.borrow().iter().for_each(|child| walk(child, found, text));
    }
    let dom = parse_document(RcDom::default(), ParseOpts::default()).one(html);
    let (mut found, mut text) = (None, String::new());
    walk(&dom.document, &mut found, &mut text);
    (found.unwrap_or_default(), text)
}

fn rel(attributes: &BTreeMap<String, String>) -> Vec<&str> {
    attributes.get("rel").map(|rel| rel.split_ascii_whitespace().collect()).unwrap_or_default()
}

const RELS: [&str; 8] = ["nofollow", "NoFollow", "follow", "sponsored", "ugc", "noopener", "opener", "me"];

/// A start tag as people write them.
fn tag() -> impl Strategy<Value = String> {
    let value = |value: &'static str| {
        prop_oneof![Just(format!("\"{value}\"")), Just(format!("'{value}'")), Just(value.to_owned())]
    };
    let rel = prop::option::of(prop::collection::vec(prop::sample::select(RELS.to_vec()), 0..4));
    let title = prop::option::of(prop_oneof![value("seen"), Just("\"a &amp; b\"".to_owned()), Just("''".to_owned())]);
    (value("/there"), rel, title, prop::option::of(value("_blank")), prop::bool::ANY).prop_map(
        |(href, rel, title, target, download)| {
            let mut tag = "<a".to_owned();
            tag.extend(rel.map(|rel| format!(" rel=\"{}\"", rel.join("  "))));
            tag.push_str(&format!("\n href={href} "));
            tag.extend(title.map(|title| format!("TITLE = {title}")));
            tag.extend(target.map(|target| format!(" target={target}")));
            tag.push_str(if download { " download>" } else { " >" });
            tag
        },
    )
}

fn says() -> impl Strategy<Value = LinkSays> {
    prop_oneof![
        any::<bool>().prop_map(LinkSays::Follow),
        any::<bool>().prop_map(LinkSays::Sponsored),
        any::<bool>().prop_map(LinkSays::UserContent),
        any::<bool>().prop_map(LinkSays::NewTab),
        prop::option::of("[a-z<>\"'& ]{0,8}").prop_map(|value| LinkSays::Attribute("title".to_owned(), value)),
    ]
}

proptest! {
    #[test]
    fn a_link_says_what_it_was_told_and_all_else_as_before(
        tag in tag(),
        says in prop::collection::vec(says(), 1..5),
        href in prop::option::of("/[a-z&\"'=?]{0,8}"),
    ) {
        let source = format!("<p>One {tag}two</a> &amp; three.</p>");
        let document = Document::from_html(source.as_str());
        let edit = document.change_link(0, href.as_deref(), &says).unwrap();
        let after = edit.apply(&source).unwrap();
        let ((before, text), (now, text_now)) = (read(&source), read(&after));
        prop_assert_eq!(&text, &text_now);
        prop_assert_eq!(now.get("href").unwrap(), href.as_deref().unwrap_or("/there"));
        // The last word on each counts.
        let last = |pick: fn(&LinkSays) -> Option<bool>| says.iter().filter_map(pick).next_back();
        for (token, said) in [
            ("nofollow", last(|says| if let LinkSays::Follow(is) = says { Some(!is) } else { None })),
            ("sponsored", last(|says| if let LinkSays::Sponsored(is) = says { Some(*is) } else { None })),
            ("ugc", last(|says| if let LinkSays::UserContent(is) = says { Some(*is) } else { None })),
            ("noopener", last(|says| if let LinkSays::NewTab(is) = says { Some(*is) } else { None })),
        ] {
            let has = |attributes: &BTreeMap<String, String>| {
                rel(attributes).iter().any(|known| known.eq_ignore_ascii_case(token))
            };
            prop_assert_eq!(has(&now), said.unwrap_or(has(&before)), "{} in {}", token, &after);
        }
        prop_assert_eq!(rel(&now).contains(&"me"), rel(&before).contains(&"me"), "what nobody spoke of stays");
        let mut titles = says.iter().filter_map(|says| match says {
            LinkSays::Attribute(_, value) => Some(value.clone()),
            _ => None,
        });
        let title = titles.next_back().unwrap_or(before.get("title").cloned());
        prop_assert_eq!(now.get("title"), title.as_ref());
        prop_assert_eq!(now.contains_key("download"), before.contains_key("download"));
        // Said again it changes nothing, and it can be undone.
        let again = Document::from_html(after.as_str()).change_link(0, href.as_deref(), &says).unwrap();
        let again = read(&again.apply(&after).unwrap()).0;
        let sorted = |attributes: &BTreeMap<String, String>| {
            let mut tokens: Vec<_> = rel(attributes).into_iter().map(str::to_owned).collect();
            tokens.sort_unstable();
            let others = attributes.iter().filter(|(name, _)| *name != "rel");
            (tokens, others.map(|(name, value)| (name.clone(), value.clone())).collect::<Vec<_>>())
        };
        prop_assert_eq!(sorted(&again), sorted(&now), "but for the order of its tokens");
        prop_assert_eq!(edit.inverse(&source).unwrap().apply(&after).unwrap(), source);
    }
}

#[test]
fn what_runs_scripts_or_leads_elsewhere_cannot_be_said() {
    let document = Document::from_html("<p><a href=/x>one</a></p>");
    for name in ["onclick", "ONLOAD", "href", "rel", "style", "", "a b", "x\"y", "x>"] {
        let says = [LinkSays::Attribute(name.to_owned(), Some("alert(1)".to_owned()))];
        assert!(matches!(document.change_link(0, None, &says), Err(Refusal::ChangesMore)), "{name}");
    }
    assert!(matches!(document.change_link(1, None, &[]), Err(Refusal::NotThere)));
    let markdown = Document::from_markdown("One [two](/x).");
    assert!(matches!(markdown.change_link(0, None, &[LinkSays::Follow(false)]), Err(Refusal::NotInMarkdown)));
}
