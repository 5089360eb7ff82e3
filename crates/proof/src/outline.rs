//! What an independent parser sees on a page, as a flat list that can be compared.

use html5ever::tendril::TendrilSink;
use html5ever::{ParseOpts, parse_document};
use markup5ever_rcdom::{Handle, NodeData, RcDom};

/// An element, a text or an end, in the order of the document.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Item {
    /// Name and attributes, these in the order of their names.
    Start(String, Vec<(String, String)>),
    End(String),
    Text(String),
    Comment(String),
}

impl Item {
    /// The value of an attribute of an element; `None` of other items.
    pub fn attribute(&self, name: &str) -> Option<&str> {
        match self {
            Self::Start(_, attributes) => attributes.iter().find(|(known, _)| known == name).map(|(_, v)| v.as_str()),
            _ => None,
        }
    }
}

/// The tree that a browser builds, in document order. Neighbouring texts are one. O(n).
pub fn of_html(html: &str) -> Vec<Item> {
    let dom = parse_document(RcDom::default(), ParseOpts::default()).one(html);
    let mut items = Vec::new();
    walk(&dom.document, &mut items);
    items
}

/// Not recursive: hostile pages nest deep.
fn walk(root: &Handle, items: &mut Vec<Item>) {
    enum Step {
        Enter(Handle),
        Leave(String),
    }
    let mut steps = vec![Step::Enter(root.clone())];
    while let Some(step) = steps.pop() {
        let handle = match step {
            Step::Leave(name) => {
                items.push(Item::End(name));
                continue;
            }
            Step::Enter(handle) => handle,
        };
        match &handle.data {
            NodeData::Text { contents } => push_text(items, &contents.borrow()),
            NodeData::Comment { contents } => items.push(Item::Comment(contents.to_string())),
            NodeData::Element { name, attrs, template_contents, .. } => {
                let mut attributes: Vec<_> =
                    attrs.borrow().iter().map(|a| (a.name.local.to_string(), a.value.to_string())).collect();
                attributes.sort();
                items.push(Item::Start(name.local.to_string(), attributes));
                steps.push(Step::Leave(name.local.to_string()));
                steps.extend(template_contents.borrow().iter().cloned().map(Step::Enter));
            }
            _ => {}
        }
        steps.extend(handle.children.borrow().iter().rev().cloned().map(Step::Enter));
    }
}

/// Adds text; stretches that follow each other become one.
pub fn push_text(items: &mut Vec<Item>, text: &str) {
    match items.last_mut() {
        Some(Item::Text(before)) => before.push_str(text),
        _ => items.push(Item::Text(text.to_owned())),
    }
}

/// Without the elements that `is_meant` names; what they hold stays. Gives how many there were.
pub fn without(items: &[Item], is_meant: impl Fn(&Item) -> bool) -> (Vec<Item>, usize) {
    let mut kept = Vec::with_capacity(items.len());
    let mut open: Vec<bool> = Vec::new();
    let mut count = 0;
    for item in items {
        match item {
            Item::Start(..) => {
                let meant = is_meant(item);
                count += usize::from(meant);
                open.push(meant);
                if !meant {
                    kept.push(item.clone());
                }
            }
            Item::End(_) => {
                if open.pop() != Some(true) {
                    kept.push(item.clone());
                }
            }
            Item::Text(text) => push_text(&mut kept, text),
            Item::Comment(_) => kept.push(item.clone()),
        }
    }
    (kept, count)
}

/// All that stands between the tags of the elements that `is_meant` names, markup left out.
pub fn text_within(items: &[Item], is_meant: impl Fn(&Item) -> bool) -> String {
    let mut depth = 0usize;
    let mut text = String::new();
    let is_unseen = |name: &str| {
        matches!(name, "script" | "style" | "template" | "noscript" | "title" | "textarea" | "svg" | "math")
    };
    let mut unseen = 0usize;
    for item in items {
        match item {
            Item::Start(name, _) if is_unseen(name) => unseen += 1,
            Item::End(name) if is_unseen(name) => unseen -= 1,
            _ if unseen > 0 => {}
            Item::Start(..) if depth > 0 || is_meant(item) => depth += 1,
            Item::End(_) => depth = depth.saturating_sub(1),
            Item::Text(more) if depth > 0 => text.push_str(more),
            _ => {}
        }
    }
    text
}

/// All text of the page.
pub fn text(items: &[Item]) -> String {
    let mut text = String::new();
    for item in items {
        if let Item::Text(more) = item {
            text.push_str(more);
        }
    }
    text
}

/// Where two lists of equal length differ; `None` when they are not of equal length.
pub fn differences<'i>(before: &'i [Item], after: &'i [Item]) -> Option<Vec<(&'i Item, &'i Item)>> {
    (before.len() == after.len()).then(|| before.iter().zip(after).filter(|(a, b)| a != b).collect())
}
