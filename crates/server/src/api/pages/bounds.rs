//! Whether HTML can be sanitised without taking the server's time: what it is made of is counted by the same parser,
//! piece by piece, and left when it is too much. A browser's rules of mending make a small page grow without bound:
//! elements that nest by the thousand are looked through for each tag, formatting that is never ended is opened again in
//! each paragraph.

use std::cell::{Cell, OnceCell};
use std::rc::Rc;
use std::time::{Duration, Instant};

use html5ever::interface::{ElementFlags, NodeOrText, QuirksMode};
use html5ever::tendril::{StrTendril, TendrilSink};
use html5ever::tree_builder::TreeSink;
use html5ever::{Attribute, ExpandedName, ParseOpts, QualName, local_name, ns, parse_fragment};

/// Deeper than any page is meant to be.
const DEEPEST: u32 = 256;
/// Elements and comments; a page of 3,000 links has about 30,000.
const MOST_NODES: usize = 400_000;
const LONGEST: Duration = Duration::from_secs(2);
/// Bytes of a page's content with our numbers on its links.
const MOST_BYTES: usize = 8 << 20;
/// What is parsed between two looks at the counts.
const PIECE: usize = 4096;

/// Whether a fragment is small, shallow and quick enough to be sanitised. O(bytes), and at most about two seconds.
pub fn may_be_sanitised(html: &str) -> bool {
    if html.len() > MOST_BYTES {
        return false;
    }
    let name = QualName::new(None, ns!(html), local_name!("div"));
    let mut parser = parse_fragment(Counting::default(), ParseOpts::default(), name, Vec::new(), false);
    let begin = Instant::now();
    let mut rest = html;
    while !rest.is_empty() {
        let (piece, behind) = rest.split_at(rest.ceil_char_boundary(PIECE));
        parser.process(StrTendril::from_slice(piece));
        rest = behind;
        let counted = &parser.tokenizer.sink.sink;
        if counted.nodes.get() > MOST_NODES || counted.deepest.get() > DEEPEST || begin.elapsed() > LONGEST {
            return false;
        }
    }
    true
}

/// Takes in a tree and keeps of it how deep each element is.
#[derive(Default)]
struct Counting {
    nodes: Cell<usize>,
    deepest: Cell<u32>,
}

type Handle = Rc<Node>;

struct Node {
    name: QualName,
    depth: Cell<u32>,
    /// What a template holds.
    contents: OnceCell<Handle>,
}

impl Counting {
    fn node(&self, name: QualName) -> Handle {
        self.nodes.set(self.nodes.get() + 1);
        Rc::new(Node { name, depth: Cell::new(0), contents: OnceCell::new() })
    }

    fn nameless(&self) -> Handle {
        self.node(QualName::new(None, ns!(), local_name!("")))
    }

    fn put(&self, parent: &Node, child: NodeOrText<Handle>) {
        if let NodeOrText::AppendNode(child) = child {
            child.depth.set(parent.depth.get() + 1);
            self.deepest.set(self.deepest.get().max(child.depth.get()));
        }
    }
}

impl TreeSink for Counting {
    type Handle = Handle;
    type Output = ();
    type ElemName<'a> = ExpandedName<'a>;

    fn finish(self) {}

    fn parse_error(&self, _: std::borrow::Cow<'static, str>) {}

    fn get_document(&self) -> Handle {
        self.nameless()
    }

    fn elem_name<'a>(&'a self, target: &'a Handle) -> ExpandedName<'a> {
        target.name.expanded()
    }

    fn create_element(&self, name: QualName, _: Vec<Attribute>, _: ElementFlags) -> Handle {
        self.node(name)
    }

    fn create_comment(&self, _: StrTendril) -> Handle {
        self.nameless()
    }

    fn create_pi(&self, _: StrTendril, _: StrTendril) -> Handle {
        self.nameless()
    }

    fn append(&self, parent: &Handle, child: NodeOrText<Handle>) {
        self.put(parent, child);
    }

    fn append_based_on_parent_node(&self, element: &Handle, _: &Handle, child: NodeOrText<Handle>) {
        self.put(element, child);
    }

    fn append_doctype_to_document(&self, _: StrTendril, _: StrTendril, _: StrTendril) {}

    fn get_template_contents(&self, target: &Handle) -> Handle {
        Rc::clone(target.contents.get_or_init(|| {
            let contents = self.nameless();
            contents.depth.set(target.depth.get());
            contents
        }))
    }

    fn same_node(&self, one: &Handle, other: &Handle) -> bool {
        Rc::ptr_eq(one, other)
    }

    fn set_quirks_mode(&self, _: QuirksMode) {}

    fn append_before_sibling(&self, sibling: &Handle, new: NodeOrText<Handle>) {
        if let NodeOrText::AppendNode(child) = new {
            child.depth.set(sibling.depth.get());
        }
    }

    fn add_attrs_if_missing(&self, _: &Handle, _: Vec<Attribute>) {}

    fn remove_from_parent(&self, _: &Handle) {}

    /// Children keep their depth: those that are moved are not moved by more than the elements that were misnested.
    fn reparent_children(&self, _: &Handle, _: &Handle) {}
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pages_as_people_write_them_may_be_shown() {
        let table = format!("<table>{}</table>", "<tr><td><b>x</b><td><a href=/y>y</a>".repeat(2_000));
        let nested = format!("{}x{}", "<div><ul><li>".repeat(40), "</ul></div>".repeat(40));
        let paragraphs = "<p>One line of text with <em>some</em> <a href=/b>links</a> &amp; signs — … ".repeat(10_000);
        for html in ["", "<p>x", &table, &nested, &paragraphs] {
            assert!(may_be_sanitised(html), "{} bytes", html.len());
        }
    }

    #[test]
    fn what_grows_without_bound_is_left() {
        let unended: String = (0..400).map(|n| format!("<p><font color={n}>")).collect();
        for html in [
            "<div>".repeat(100_000),
            "<table><td>".repeat(100_000),
            "<b><p>".repeat(100_000),
            format!("{unended}{}", "<p>x".repeat(100_000)),
            "<a><div>".repeat(50_000),
            "<svg><g>".repeat(50_000),
            "<template>".repeat(50_000),
            "<x>".repeat(500_000),
            "<!-->".repeat(500_000),
            " ".repeat(MOST_BYTES + 1),
        ] {
            let begin = Instant::now();
            assert!(!may_be_sanitised(&html), "{}", &html[..20]);
            assert!(begin.elapsed() < Duration::from_secs(10), "{}", &html[..20]);
        }
    }
}
