//! What a page says in its headings and lists of terms, from which names come.

use std::sync::Arc;

use crate::document::text::fold_heading;
use crate::document::{BlockId, BlockKind, Document, LabelKind, Link, Region, TextSpan};
use crate::language::Language;
use crate::weight::{list, piece};

/// Further headings and terms of one page are not taken for names.
const MOST_WEAK_NAMES: usize = 400;

/// Longer headings and terms are not taken for names either.
const LONGEST_SPOT: usize = 200;

/// Letters of a heading beside a link that is all else of it, at most.
const MOST_BESIDE: usize = 4;

/// What a page says in its headings and lists of terms, from which names come.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Outline {
    pub(super) sections: Vec<Spot>,
    pub(super) terms: Vec<Spot>,
    /// Phrases of which it speaks again and again.
    pub(super) telling: Vec<String>,
    /// Those of its passages, in order.
    languages: Vec<Language>,
}

/// A heading or a term of a page to which a fragment can point.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct NamedPlace {
    pub id: Box<str>,
    /// What stands there.
    pub text: Arc<str>,
}

/// A heading or a term, and the place that it is when it has an id.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(super) struct Spot {
    pub text: Arc<str>,
    pub place: Option<Arc<NamedPlace>>,
}

impl Outline {
    /// Bytes on the heap. O(headings and terms).
    pub(in crate::phrases) fn weight(&self) -> usize {
        let spots = self.sections.iter().chain(&self.terms);
        // A text that is shared has two counters before it.
        let spot = |spot: &Spot| {
            let place = spot.place.as_ref();
            piece(spot.text.len() + 16)
                + place.map_or(0, |place| piece(size_of::<NamedPlace>() + 16) + piece(place.id.len()))
        };
        spots.map(spot).sum::<usize>()
            + list::<Spot>(self.sections.capacity() + self.terms.capacity())
            + list::<String>(self.telling.capacity())
            + self.telling.iter().map(|text| piece(text.capacity())).sum::<usize>()
    }

    /// With the phrases of which the page's prose speaks again and again, and the languages in which it does.
    /// `leads_away` tells whether a link leads to another page of the site: what is headed by such a link, as in lists of
    /// articles and tables of contents, is the other page. O(blocks × log links).
    pub fn of(
        document: &Document,
        telling: Vec<String>,
        languages: Vec<Language>,
        leads_away: impl Fn(&Link) -> bool,
    ) -> Self {
        let content = (0..).map(BlockId).zip(document.blocks()).filter(|(_, block)| block.region == Region::Content);
        let mut outline = Self { telling, languages, ..Self::default() };
        let mut is_first = true;
        for (id, block) in content {
            let list = match block.kind {
                // The first main heading names the page itself.
                BlockKind::Heading(1) if std::mem::take(&mut is_first) => continue,
                BlockKind::Heading(_) => &mut outline.sections,
                BlockKind::Term => &mut outline.terms,
                _ => continue,
            };
            list.extend(spot(document, list.len(), id, block.text, &leads_away));
        }
        for label in document.labels() {
            let list = match label.kind {
                LabelKind::Title => &mut outline.sections,
                LabelKind::Term => &mut outline.terms,
            };
            list.extend(spot(document, list.len(), label.block, label.text, &leads_away));
        }
        outline.sections.shrink_to_fit();
        outline.terms.shrink_to_fit();
        outline
    }

    /// The languages in which the page is written, its own first.
    pub fn languages(&self) -> &[Language] {
        &self.languages
    }
}

/// A heading or a term of a block, unless there are so many before it, it is long, or a link that leads away is nearly all
/// of it.
fn spot(
    document: &Document,
    before: usize,
    block: BlockId,
    text: TextSpan,
    leads_away: impl Fn(&Link) -> bool,
) -> Option<Spot> {
    if before >= MOST_WEAK_NAMES || text.len() >= LONGEST_SPOT {
        return None;
    }
    let links = document.links();
    let first = links.partition_point(|link| link.text.end <= text.start);
    let mut inside = links[first..].iter().take_while(|link| link.text.start < text.end);
    if inside.any(|link| is_nearly_all(document, link.text, text) && leads_away(link)) {
        return None;
    }
    let text: Arc<str> = fold_heading(document.text().slice(text)).into();
    let place = |id: &str| Arc::new(NamedPlace { id: id.into(), text: text.clone() });
    Some(Spot { place: document.id_of(block).map(place), text })
}

/// Whether a part of a text is all of it but for a number or a mark.
fn is_nearly_all(document: &Document, part: TextSpan, all: TextSpan) -> bool {
    let said = |span: TextSpan| document.text().slice(span).chars().filter(|c| c.is_alphabetic()).count();
    let part = said(part);
    part > 0 && part + MOST_BESIDE >= said(all)
}
