//! The rows of a worklist: for each link where it goes, and how its block reads afterwards.

use std::collections::HashMap;

use strelm_core::document::text::fold_space;
use strelm_core::document::{BlockKind, Document, Format, TextSpan};
use strelm_core::language::sentence_around;
use strelm_core::site::{PageId, Target};
use strelm_core::tray::{Change, PlannedLink, TrayEntry, TrayState, held_in_source};
use strelm_formats::table::{Cell, Table};

use crate::api::pages::PageRef;
use strelm_live::Model;

/// One link to put in.
pub struct WorkItem {
    pub page: String,
    pub address: String,
    /// The headings above it, outermost first.
    pub headings: Vec<String>,
    pub sentence_before: String,
    pub doing: &'static str,
    /// The sentence as it is, around the words.
    pub before: String,
    pub words: String,
    pub after: String,
    /// Nothing when a link is taken off.
    pub leads_to: String,
    /// The source of the block with all that is handed over for it.
    pub block_after: String,
}

impl WorkItem {
    /// The sentence in one piece, as it is to be.
    pub fn sentence(&self) -> String {
        format!("{}{}{}", self.before, self.words, self.after)
    }
}

struct Page {
    title: String,
    address: String,
    format: Format,
    links: Vec<TrayEntry>,
}

/// The pages of a release with the links that are still to be put in.
pub struct Pages {
    pages: HashMap<PageId, Page>,
    /// Where targets are.
    targets: HashMap<PageId, String>,
}

impl Pages {
    /// The items of links that were handed over, in the order of pages and places.
    pub fn of(model: &Model, links: Vec<TrayEntry>, formats: &HashMap<PageId, Format>) -> Self {
        let address = |page: PageId| {
            let gone = model.gone.get(&page).map(|known| &known.facts);
            gone.or_else(|| model.site.page(page)).map(|page| page.address.to_string()).unwrap_or_default()
        };
        let mut all = Self { pages: HashMap::new(), targets: HashMap::new() };
        for taken in links.into_iter().filter(|taken| taken.state == TrayState::HandedOver) {
            if let Some(target) = taken.link.target_page() {
                all.targets.entry(target).or_insert_with(|| address(target));
            }
            let source = taken.link.source;
            let page = all.pages.entry(source).or_insert_with(|| Page {
                title: PageRef::of(model, source.0).map(|page| page.title).unwrap_or_default(),
                address: address(source),
                format: formats.get(&source).copied().unwrap_or_default(),
                links: Vec::new(),
            });
            page.links.push(taken);
        }
        all
    }

    /// The rows in the order of pages and words. O(bytes of the pages).
    pub fn rows(&self, versions: &[(PageId, String, String)]) -> Vec<WorkItem> {
        let mut rows = Vec::new();
        for (id, before, after) in versions {
            let Some(page) = self.pages.get(id) else { continue };
            let before = Document::read(before.as_str(), page.format);
            let after = Document::read(after.as_str(), page.format);
            let mut placed: Vec<_> = page.links.iter().map(|taken| (held_in_source(&before, taken), taken)).collect();
            placed.sort_by_key(|(place, taken)| (place.map(|place| place.start), taken.id));
            rows.extend(placed.into_iter().map(|(place, taken)| self.row(page, &before, &after, place, taken)));
        }
        rows
    }

    fn row(
        &self,
        page: &Page,
        before: &Document,
        after: &Document,
        place: Option<TextSpan>,
        taken: &TrayEntry,
    ) -> WorkItem {
        let link = &taken.link;
        let block = place.and_then(|place| before.block_at(place.start));
        // Only tags come and go, or words within a sentence: blocks stay as many and in their order.
        let ordinal = block.and_then(|block| before.blocks().iter().position(|other| other.text == block.text));
        let block_after = ordinal.filter(|_| before.blocks().len() == after.blocks().len());
        let block_after = block_after.and_then(|ordinal| after.source_of_block(after.blocks().get(ordinal)?));
        WorkItem {
            page: page.title.clone(),
            address: page.address.clone(),
            headings: place.map(|place| before.heading_path(place.start)).unwrap_or_default(),
            sentence_before: place.map(|place| sentence_before(before, place)).unwrap_or_default(),
            doing: match link.change {
                Change::Put => "Put a link on the words",
                Change::Retarget(_) => "Let the link on the words lead elsewhere",
                Change::Unlink(_) => "Take the link off the words",
                Change::Reword(_) => "Word the sentence anew, with a link",
                Change::PutOnPicture(_) => "Put a link on the picture",
                Change::Attributes(_) => "Let the link on the words say other things",
            },
            before: link.said.before.clone(),
            words: link.said.anchor.clone(),
            after: link.said.after.clone(),
            leads_to: self.leads_to(link),
            block_after: block_after.and_then(|span| after.source().get(span.range())).unwrap_or_default().to_owned(),
        }
    }
}

impl Pages {
    /// The whole address of a target, with the place on it.
    fn leads_to(&self, link: &PlannedLink) -> String {
        match (&link.target, link.target_page().and_then(|target| self.targets.get(&target))) {
            (None, _) => String::new(),
            (_, Some(target)) => match link.href.split_once('#') {
                Some((_, place)) => format!("{target}#{place}"),
                None => target.clone(),
            },
            (Some(Target::File(address)), None) => address.to_string(),
            (Some(_), None) => link.href.clone(),
        }
    }
}

/// The sentence before that of some words: in their block, else the last of the block before; none where that is a heading,
/// which is told by itself.
fn sentence_before(document: &Document, words: TextSpan) -> String {
    let Some(block) = document.block_at(words.start) else { return String::new() };
    let text = document.text().slice(block.text);
    let at = words.start.saturating_sub(block.text.start).min(text.len());
    let here = sentence_around(text, TextSpan::new(at, (at + words.len()).min(text.len())));
    let lead = &text[..here.start.min(text.len())];
    if !lead.trim().is_empty() {
        return last_sentence(lead);
    }
    let earlier = document.blocks().iter().rev().filter(|other| other.text.end <= block.text.start);
    let mut said = earlier.map(|other| (other.kind, document.text().slice(other.text)));
    let last = said.find(|(_, text)| !text.trim().is_empty());
    last.filter(|(kind, _)| !matches!(kind, BlockKind::Heading(_)))
        .map(|(_, text)| last_sentence(text))
        .unwrap_or_default()
}

fn last_sentence(text: &str) -> String {
    let end = text.trim_end().len();
    let last = text[..end].char_indices().next_back().map_or(0, |(at, _)| at);
    let sentence = sentence_around(text, TextSpan::new(last, end));
    fold_space(&text[sentence.range()])
}

/// The items as a table.
pub fn table(rows: &[WorkItem]) -> Table {
    let headings = [
        "Page",
        "Address",
        "Under the heading",
        "Sentence before",
        "What to do",
        "Sentence",
        "Words",
        "Leads to",
        "HTML of the block afterwards",
    ];
    let cells = |row: &WorkItem| {
        [
            row.page.clone(),
            row.address.clone(),
            row.headings.join(" › "),
            row.sentence_before.clone(),
            row.doing.to_owned(),
            row.sentence(),
            row.words.clone(),
            row.leads_to.clone(),
            row.block_after.clone(),
        ]
        .map(Cell::Text)
        .into()
    };
    Table { headings: headings.map(str::to_owned).into(), rows: rows.iter().map(cells).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_sentence_before_is_in_the_block_or_at_the_end_of_the_one_before() {
        let document =
            Document::from_html("<h2>Sky</h2><p>One is. Two\n is. Three moons are.</p><p>Four moons are.</p>");
        let before = |words: &str| {
            let at = document.text().as_str().find(words).unwrap();
            sentence_before(&document, TextSpan::new(at, at + words.len()))
        };
        assert_eq!(before("Three moons"), "Two is.");
        assert_eq!(before("One"), "", "a heading is told by itself");
        assert_eq!(before("Four"), "Three moons are.");
        assert_eq!(before("Sky"), "");
    }
}
