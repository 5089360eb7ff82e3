//! Inline elements around words: what is written as code, and what stands out.

use super::Document;
use super::elements::Element;
use super::span::TextSpan;
use super::tree::ROOT;

/// A stretch of text inside the same inline elements.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Inline {
    pub text: TextSpan,
    /// The text of the innermost piece of code around it.
    pub code: Option<TextSpan>,
    pub emphasised: bool,
}

impl Document {
    /// The text in stretches, in order. O(stretches × depth of inline elements).
    pub fn inlines(&self) -> Vec<Inline> {
        let mut found: Vec<Inline> = Vec::with_capacity(self.text().runs().len());
        // Runs of one element follow each other, with those of elements inside of it between them.
        let mut code: Option<(u32, usize)> = None;
        for run in self.text().runs() {
            let mut inline = Inline { text: run.text, code: None, emphasised: false };
            let mut element = None;
            let mut node = run.node;
            while node != ROOT && !self.tree().node(node).is_block {
                let here = self.tree().node(node);
                if here.element.is_inline_code() && element.is_none() {
                    element = Some(node);
                }
                inline.emphasised |= matches!(here.element, Element::B | Element::Em | Element::I | Element::Strong);
                node = here.parent;
            }
            let first = match (element, code) {
                (Some(element), Some((before, first))) if element == before => first,
                _ => found.len(),
            };
            code = element.map(|element| (element, first));
            found.push(inline);
            if element.is_some() {
                let whole = TextSpan::new(found[first].text.start, run.text.end);
                found[first..].iter_mut().for_each(|inline| inline.code = Some(whole));
            }
        }
        found
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn code_and_emphasis_are_told() {
        let document =
            Document::from_html("<p>Run <code>make <i>all</i> now</code> or <b>not</b><p><tt>x</tt><tt>y</tt>");
        let told: Vec<_> = document
            .inlines()
            .into_iter()
            .map(|inline| {
                let text = document.text().slice(inline.text).trim().to_owned();
                (text, inline.code.map(|code| document.text().slice(code).to_owned()), inline.emphasised)
            })
            .collect();
        let code = |text: &str| Some(text.to_owned());
        let expected = [
            ("Run", None, false),
            ("make", code("make all now"), false),
            ("all", code("make all now"), true),
            ("now", code("make all now"), false),
            ("or", None, false),
            ("not", None, true),
            ("x", code("x"), false),
            ("y", code("y"), false),
        ];
        assert_eq!(told, expected.map(|(text, code, emphasised)| (text.to_owned(), code, emphasised)));
    }
}
