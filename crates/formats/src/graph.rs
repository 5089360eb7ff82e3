//! GraphML (graphml.graphdrawing.org): the pages of a site and the links between them, for programs that draw graphs.

use std::io::{self, Write};

/// A page, in the order of its number in the file.
#[derive(Debug, Clone)]
pub struct GraphNode {
    pub id: u32,
    pub address: String,
    pub title: String,
    pub kind: String,
    /// Clicks from the entry page.
    pub depth: Option<u32>,
}

/// A link between two pages.
#[derive(Debug, Clone, Copy)]
pub struct GraphEdge {
    pub from: u32,
    pub to: u32,
    /// Links of this page to that, from its text and from around it.
    pub content: u32,
    pub boilerplate: u32,
}

const KEYS: [(&str, &str, &str); 6] = [
    ("address", "node", "string"),
    ("title", "node", "string"),
    ("kind", "node", "string"),
    ("depth", "node", "int"),
    ("content", "edge", "int"),
    ("boilerplate", "edge", "int"),
];

/// Writes a directed graph. O(nodes + edges); nothing is kept in memory.
///
/// # Errors
/// What `out` gives.
pub fn write(
    out: &mut impl Write,
    nodes: impl Iterator<Item = GraphNode>,
    edges: impl Iterator<Item = GraphEdge>,
) -> io::Result<()> {
    writeln!(out, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>")?;
    writeln!(out, "<graphml xmlns=\"http://graphml.graphdrawing.org/xmlns\">")?;
    for (name, of, kind) in KEYS {
        writeln!(out, "  <key id=\"{name}\" for=\"{of}\" attr.name=\"{name}\" attr.type=\"{kind}\"/>")?;
    }
    writeln!(out, "  <graph edgedefault=\"directed\">")?;
    for node in nodes {
        writeln!(out, "    <node id=\"p{}\">", node.id)?;
        for (key, value) in [("address", &node.address), ("title", &node.title), ("kind", &node.kind)] {
            writeln!(out, "      <data key=\"{key}\">{}</data>", escape(value))?;
        }
        if let Some(depth) = node.depth {
            writeln!(out, "      <data key=\"depth\">{depth}</data>")?;
        }
        writeln!(out, "    </node>")?;
    }
    for GraphEdge { from, to, content, boilerplate } in edges {
        writeln!(out, "    <edge source=\"p{from}\" target=\"p{to}\">")?;
        writeln!(out, "      <data key=\"content\">{content}</data><data key=\"boilerplate\">{boilerplate}</data>")?;
        writeln!(out, "    </edge>")?;
    }
    writeln!(out, "  </graph>\n</graphml>")
}

/// Text of an XML element. What XML cannot hold at all is left out.
pub(crate) fn escape(text: &str) -> String {
    let allowed: String = text.chars().filter(|c| !c.is_control() || matches!(c, '\t' | '\n' | '\r')).collect();
    quick_xml::escape::escape(&allowed).into_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use quick_xml::events::Event;

    #[test]
    fn the_graph_is_well_formed_whatever_titles_hold() {
        let node = |id, title: &str| GraphNode {
            id,
            address: format!("http://a.example/?x={id}&y=<"),
            title: title.to_owned(),
            kind: "page".to_owned(),
            depth: (id == 1).then_some(0),
        };
        let nodes = [node(1, "]]> & \u{1} <b>\"x\"</b>"), node(2, "é")];
        let edges = [GraphEdge { from: 1, to: 2, content: 2, boilerplate: 0 }];
        let mut out = Vec::new();
        write(&mut out, nodes.into_iter(), edges.into_iter()).unwrap();
        let text = String::from_utf8(out).unwrap();
        let mut reader = quick_xml::Reader::from_str(&text);
        let (mut nodes, mut edges) = (0, 0);
        loop {
            match reader.read_event().unwrap() {
                Event::Start(tag) if tag.local_name().as_ref() == "node" => nodes += 1,
                Event::Start(tag) if tag.local_name().as_ref() == "edge" => edges += 1,
                Event::Eof => break,
                _ => {}
            }
        }
        assert_eq!((nodes, edges), (2, 1));
        assert!(text.contains("]]&gt; &amp;  &lt;b&gt;"), "{text}");
    }
}
