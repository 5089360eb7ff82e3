//! How Markdown writes links and text, in the document's own manner.

use std::ops::Range;

use crate::document::edit::{Edit, Splice};
use crate::document::hash::ContentHash;
use crate::document::link::{Link, Manner};
use crate::document::span::{SourceSpan, TextSpan};
use crate::document::{Document, Refusal};

/// How a link of Markdown ends, after its words.
pub(crate) struct WrittenEnd {
    pub end: String,
    /// What has to be added at the end of the document for it.
    pub definition: Option<Splice>,
}

impl Document {
    /// The end of a new link in the document's own manner: with a reference where most of its links have one.
    pub(crate) fn markdown_end(&self, href: &str) -> WrittenEnd {
        let count = |manner| self.links().iter().filter(|link| link.manner == manner).count();
        let inline = || WrittenEnd { end: format!("]({})", destination(href)), definition: None };
        if count(Manner::Reference) <= count(Manner::Inline) {
            return inline();
        }
        let known = self.definitions.iter().find(|definition| definition.href == href);
        if let Some(definition) = known.filter(|definition| is_plain_label(&definition.label)) {
            return WrittenEnd { end: format!("][{}]", definition.label), definition: None };
        }
        let Some(label) = self.new_label(href) else { return inline() };
        let at = SourceSpan::new(self.source().len(), self.source().len());
        let follows = self
            .definitions
            .last()
            .is_some_and(|last| self.source().get(last.source.end..).unwrap_or_default().trim().is_empty());
        let gap = match (self.source().ends_with('\n'), follows) {
            (true, true) => "",
            (true, false) | (false, true) => "\n",
            (false, false) => "\n\n",
        };
        let with = format!("{gap}[{label}]: {}\n", destination(href));
        WrittenEnd { end: format!("][{label}]"), definition: Some(Splice { at, with }) }
    }

    /// A label that tells what it leads to and is not used for anything else. It follows from the target alone, so that
    /// edits that are made apart agree.
    fn new_label(&self, href: &str) -> Option<String> {
        let path = href.split(['?', '#']).next().unwrap_or_default();
        let name = path.split('/').rfind(|part| !part.is_empty()).unwrap_or("page");
        let name = name.rsplit_once('.').map_or(name, |(stem, _)| stem);
        let kept: String =
            name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
        let kept = kept.trim_matches('-');
        let kept = if kept.is_empty() { "page" } else { kept };
        let digest: String = ContentHash::of(href).to_string().chars().take(6).collect();
        let is_free = |label: &String| !self.definitions.iter().any(|known| known.label.eq_ignore_ascii_case(label));
        [kept.to_owned(), format!("{kept}-{digest}")].into_iter().find(is_free)
    }

    /// The lines of the definition to which this link alone refers, with what [`Document::markdown_end`] puts before it.
    pub(crate) fn lone_definition(&self, ordinal: usize) -> Option<SourceSpan> {
        let link = self.links().get(ordinal).filter(|link| link.manner == Manner::Reference)?;
        let refers = |other: &&Link| other.manner == Manner::Reference && other.href == link.href;
        if self.links().iter().filter(refers).count() != 1 {
            return None;
        }
        let mut alike = self.definitions.iter().filter(|definition| definition.href.trim() == link.href);
        let definition = alike.next().filter(|_| alike.next().is_none())?;
        // Only one at the end of the document, as we write it, goes without leaving a gap.
        let (before, after) =
            (self.source().get(..definition.source.start)?, self.source().get(definition.source.end..)?);
        if !after.trim().is_empty() || !before.ends_with('\n') {
            return None;
        }
        let is_last_of_many = self.definitions.iter().any(|other| {
            other.source.end <= definition.source.start
                && before.get(other.source.end..).is_some_and(|gap| gap.trim().is_empty())
        });
        let start = if before.ends_with("\n\n") && !is_last_of_many {
            definition.source.start - 1
        } else {
            definition.source.start
        };
        Some(SourceSpan::new(start, self.source().len()))
    }

    /// Gives one link of Markdown another target.
    ///
    /// # Errors
    /// [`Refusal::AddressIsText`] for `<https://…>`; [`Refusal::ChangesMore`] when more than this link would change.
    pub(crate) fn retarget_markdown(&self, ordinal: usize, href: &str) -> Result<Edit, Refusal> {
        let link = self.links().get(ordinal).ok_or(Refusal::NotThere)?;
        let end = link.end_tag.ok_or(Refusal::NoEnd)?;
        let edit = match link.manner {
            Manner::Autolink => return Err(Refusal::AddressIsText),
            Manner::Element => return Err(Refusal::ChangesMore),
            Manner::Inline => {
                let written = self.source().get(end.range()).unwrap_or_default();
                let at = destination_in(written).ok_or(Refusal::ChangesMore)?;
                let at = SourceSpan::new(end.start + at.start, end.start + at.end);
                Edit::new(self.hash(), vec![Splice { at, with: destination(href) }])
            }
            Manner::Reference => {
                let written = self.markdown_end(href);
                let splice = Splice { at: end, with: written.end };
                Edit::new(self.hash(), vec![splice]).map(|edit| edit.sharing(written.definition))
            }
        };
        let edit = edit.map_err(|_| Refusal::ChangesMore)?;
        let after = edit.apply(self.source()).map(Document::from_markdown).map_err(|_| Refusal::ChangesMore)?;
        let as_meant = after.text().as_str() == self.text().as_str()
            && after.links().len() == self.links().len()
            && after.links().iter().zip(self.links()).enumerate().all(|(at, (new, old))| {
                new.text == old.text && new.href == if at == ordinal { href.trim() } else { old.href.as_str() }
            });
        as_meant.then_some(edit).ok_or(Refusal::ChangesMore)
    }
}

/// Labels that need no escapes and that no white space is folded in.
fn is_plain_label(label: &str) -> bool {
    label.chars().all(|c| c.is_alphanumeric() || "-_ .".contains(c)) && !label.contains("  ")
}

/// Text in which nothing means anything else to Markdown.
pub(crate) fn escape(text: &str) -> String {
    let mut out = String::with_capacity(text.len() + 8);
    for (at, c) in text.char_indices() {
        let begins = text[..at].trim().is_empty();
        let is_mark = "\\`*_[]<>&~|".contains(c) || (begins && "#+-=:".contains(c));
        let is_number_mark = matches!(c, '.' | ')') && !begins && text[..at].trim().bytes().all(|b| b.is_ascii_digit());
        if is_mark || is_number_mark {
            out.push('\\');
        }
        out.push(c);
    }
    out
}

/// Where the destination stands in `](destination "title")`.
fn destination_in(end: &str) -> Option<Range<usize>> {
    let inner = end.strip_prefix("](")?;
    let start = "](".len() + inner.len() - inner.trim_start().len();
    let rest = end.get(start..)?;
    if rest.starts_with('<') {
        let mut escaped = false;
        let close = rest.char_indices().skip(1).find(|(_, c)| {
            let is_close = *c == '>' && !escaped;
            escaped = *c == '\\' && !escaped;
            is_close
        })?;
        return Some(start..start + close.0 + 1);
    }
    let (mut depth, mut escaped) = (0usize, false);
    for (at, c) in rest.char_indices() {
        match c {
            _ if escaped => {
                escaped = false;
                continue;
            }
            '\\' => escaped = true,
            '(' => depth += 1,
            ')' if depth == 0 => return Some(start..start + at),
            ')' => depth -= 1,
            c if c.is_whitespace() => return Some(start..start + at),
            _ => {}
        }
    }
    None
}

/// A link's destination as Markdown writes it.
pub(crate) fn destination(href: &str) -> String {
    let is_plain =
        !href.is_empty() && href.chars().all(|c| !c.is_whitespace() && !c.is_control() && !"()<>\\".contains(c));
    if is_plain {
        return href.to_owned();
    }
    let escaped: String = href
        .chars()
        .map(|c| match c {
            '<' => "%3C".to_owned(),
            '>' => "%3E".to_owned(),
            '\\' => "%5C".to_owned(),
            c if c.is_control() => String::new(),
            c => c.to_string(),
        })
        .collect();
    format!("<{escaped}>")
}

/// Whether an edit leaves all visible text as it is and adds exactly one link, on these words.
pub(crate) fn proves(document: &Document, words: TextSpan, edit: &Edit) -> bool {
    let Ok(after) = edit.apply(document.source()) else { return false };
    let after = Document::from_markdown(after);
    let is_new = |link: &&Link| link.text == words;
    after.text().as_str() == document.text().as_str()
        && after.links().len() == document.links().len() + 1
        && after.tree().len() == document.tree().len() + 1
        && after.links().iter().filter(is_new).count() == 1
}
