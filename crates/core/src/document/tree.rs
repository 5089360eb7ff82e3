//! The elements of a document with their places, as far as edits need them. Not a DOM: no attributes, no text.

use super::elements::Element;
use super::span::SourceSpan;

/// Elements nested deeper than this hang from the deepest one, as browsers do it.
pub const MAX_DEPTH: usize = 512;

/// The node that holds everything.
pub const ROOT: u32 = 0;

/// An element in the tree of a page's tags.
#[derive(Debug, Clone, Copy)]
pub struct Node {
    pub parent: u32,
    pub element: Element,
    pub start_tag: SourceSpan,
    /// `None` when the element was closed without an end tag of its own.
    pub end_tag: Option<SourceSpan>,
    pub is_block: bool,
    /// Whether a browser mends the markup in which it starts.
    pub mended: bool,
}

/// The tree of a page's tags, as far as edits need it. The root is node 0.
#[derive(Debug, Clone)]
pub struct MarkupTree {
    nodes: Vec<Node>,
    /// Where end tags stand that end nothing, in source order.
    strays: Vec<usize>,
    /// Where the first end tag stands that ends formatting from within a block: from there on a browser may have more
    /// blocks open than the source shows.
    first_crossing: Option<usize>,
}

impl Default for MarkupTree {
    fn default() -> Self {
        let nowhere = SourceSpan::new(0, 0);
        let root = Node {
            parent: ROOT,
            element: Element::Other,
            start_tag: nowhere,
            end_tag: None,
            is_block: true,
            mended: false,
        };
        Self { nodes: vec![root], strays: Vec::new(), first_crossing: None }
    }
}

impl MarkupTree {
    /// A tree of nothing but the root, with room for so many nodes.
    pub fn with_capacity(nodes: usize) -> Self {
        let mut tree = Self::default();
        tree.nodes.reserve(nodes);
        tree
    }

    /// Adds a node and gives its number. O(1) amortised.
    pub fn push(&mut self, node: Node) -> u32 {
        self.nodes.push(node);
        u32::try_from(self.nodes.len() - 1).unwrap_or(u32::MAX)
    }

    /// Notes the offset of an end tag that ends nothing.
    pub fn push_stray(&mut self, at: usize) {
        self.strays.push(at);
    }

    /// Notes where formatting and blocks cross; the first such place counts.
    pub fn note_crossing(&mut self, at: usize) {
        self.first_crossing.get_or_insert(at);
    }

    /// Whether formatting and blocks crossed before `at`.
    pub fn is_crossed_before(&self, at: usize) -> bool {
        self.first_crossing.is_some_and(|crossing| crossing < at)
    }

    /// The innermost element of a kind around a node, or itself. O(depth).
    pub fn around(&self, mut node: u32, element: Element) -> Option<u32> {
        while node != ROOT {
            if self.node(node).element == element {
                return Some(node);
            }
            node = self.node(node).parent;
        }
        None
    }

    /// How many elements there are.
    pub fn len(&self) -> usize {
        self.nodes.len() - 1
    }

    /// Whether an end tag that ends nothing stands in `span`. O(log strays).
    pub fn has_stray_in(&self, span: SourceSpan) -> bool {
        let next = self.strays.partition_point(|at| *at < span.start);
        self.strays.get(next).is_some_and(|at| *at < span.end)
    }

    /// Whether an element that passes `test` has no end tag of its own. O(nodes).
    pub fn has_unended(&self, test: impl Fn(Element) -> bool) -> bool {
        self.nodes.iter().skip(1).any(|node| node.end_tag.is_none() && test(node.element))
    }

    /// Whether an element that starts in `span` has no end tag of its own there. O(log nodes + nodes in the span).
    pub fn has_unended_in(&self, span: SourceSpan) -> bool {
        let first = self.nodes.partition_point(|node| node.start_tag.start < span.start);
        let inside = self.nodes.iter().skip(first.max(1)).take_while(|node| node.start_tag.start < span.end);
        inside.into_iter().any(|node| node.end_tag.is_none_or(|end| end.end > span.end))
    }

    /// Whether an element that passes `test` starts in `span`. O(log nodes + nodes in the span).
    pub fn has_in(&self, span: SourceSpan, test: impl Fn(Element) -> bool) -> bool {
        let first = self.nodes.partition_point(|node| node.start_tag.start < span.start);
        let inside = self.nodes.iter().skip(first.max(1)).take_while(|node| node.start_tag.start < span.end);
        inside.into_iter().any(|node| test(node.element))
    }

    /// All elements in the order in which they start, behind the one that holds everything.
    pub fn nodes(&self) -> &[Node] {
        &self.nodes
    }

    /// The node with a number that [`MarkupTree::push`] gave.
    pub fn node(&self, id: u32) -> &Node {
        &self.nodes[id as usize]
    }

    /// As [`MarkupTree::node`], to be changed.
    pub fn node_mut(&mut self, id: u32) -> &mut Node {
        &mut self.nodes[id as usize]
    }

    /// Whether `above` is `below` or one of its ancestors. O(depth).
    pub fn holds(&self, above: u32, mut below: u32) -> bool {
        loop {
            if above == below {
                return true;
            }
            if below == ROOT {
                return false;
            }
            below = self.node(below).parent;
        }
    }

    /// What stands between the tags of the first such element, when it has both.
    pub fn inner_span_of(&self, element: Element) -> Option<SourceSpan> {
        let node = self.nodes.iter().find(|node| node.element == element)?;
        Some(SourceSpan::new(node.start_tag.end, node.end_tag?.start))
    }
}
