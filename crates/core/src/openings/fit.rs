//! The fit of an opening: five parts that only add up, so that what is shown part by part is all there is.
//!
//! The weights and curves here are a first estimate by hand, not yet trained: they order finds sensibly, and are not
//! yet the probability that an editor keeps one.

use std::collections::HashMap;

use super::reasons::Reason;
use crate::document::BlockKind;
use crate::language::{Word, fold, words};
use crate::phrases::{Mention, NameSource, PhraseBook, Prose, TermId};
use crate::site::{Figures, PageId};

/// Words on fewer pages are not called common, however small the site.
const FEW_PAGES: usize = 5;

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    Topic,
    Wording,
    Place,
    Need,
    Variety,
}

impl Part {
    pub const ALL: [Self; 5] = [Self::Topic, Self::Wording, Self::Place, Self::Need, Self::Variety];

    /// The most that the part adds to a fit; all together 100.
    pub const fn weight(self) -> f64 {
        match self {
            Self::Topic => 25.0,
            Self::Wording => 35.0,
            Self::Place => 15.0,
            Self::Need => 15.0,
            Self::Variety => 10.0,
        }
    }

    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Topic => "topic",
            Self::Wording => "wording",
            Self::Place => "place",
            Self::Need => "need",
            Self::Variety => "variety",
        }
    }
}

/// One part of a fit with what led to it.
#[derive(Debug, Clone, PartialEq)]
pub struct PartScore {
    pub part: Part,
    /// 0 to 1.
    pub strength: f64,
    pub reasons: Vec<Reason>,
}

/// The parts in the order of [`Part::ALL`].
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    pub parts: Vec<PartScore>,
}

impl Fit {
    /// 0 to 100, the weighted sum of the parts.
    pub fn total(&self) -> f64 {
        self.parts.iter().map(|score| score.strength.clamp(0.0, 1.0) * score.part.weight()).sum()
    }
}

/// Words of a page weighed by how telling they are, for comparing many pages with one.
pub(super) struct Theme {
    weights: HashMap<TermId, f64>,
    length: f64,
}

impl Theme {
    /// TF-IDF with logarithmic term frequency. O(tokens).
    pub fn of(book: &PhraseBook, page: PageId) -> Option<Self> {
        let pages = book.prose_count() as f64;
        let idf = |term| (pages / book.document_frequency(term).max(1) as f64).ln();
        let counts = book.prose(page)?.frequencies();
        let weights: HashMap<_, _> =
            counts.into_iter().map(|(term, n)| (term, (1.0 + f64::from(n).ln()) * idf(term))).collect();
        let length = weights.values().map(|w| w * w).sum::<f64>().sqrt();
        Some(Self { weights, length })
    }

    /// Cosine of the angle between two themes, 0 to 1.
    fn likeness(&self, other: &Self) -> f64 {
        let (small, large) = if self.weights.len() < other.weights.len() { (self, other) } else { (other, self) };
        let dot: f64 = small.weights.iter().filter_map(|(t, w)| Some(w * large.weights.get(t)?)).sum();
        let lengths = self.length * other.length;
        // Processes add up in different orders; rounding makes them agree.
        if lengths > 0.0 { (dot / lengths * 1e6).round() / 1e6 } else { 0.0 }
    }
}

pub(super) fn topic(source: Option<&Theme>, target: Option<&Theme>) -> PartScore {
    let (strength, reason) = match source.zip(target) {
        Some((source, target)) => {
            let likeness = source.likeness(target);
            // A cosine of 0.35 between two pages of one site is already high.
            let strength = (likeness / 0.35).min(1.0);
            let reason = match strength {
                s if s >= 0.6 => Reason::SameTopic,
                s if s >= 0.25 => Reason::RelatedTopic,
                _ => Reason::OtherTopic,
            };
            (strength, reason)
        }
        None => (0.3, Reason::NoTextToCompare),
    };
    PartScore { part: Part::Topic, strength, reasons: vec![reason] }
}

pub(super) fn wording(book: &PhraseBook, prose: &Prose, mention: &Mention) -> PartScore {
    let count = mention.name.terms.len();
    let rarest = mention.name.terms.iter().map(|term| book.document_frequency(*term)).min().unwrap_or(0);
    let share = rarest as f64 / book.prose_count().max(1) as f64;
    let mut strength: f64 = match count {
        1 => 0.55,
        2 => 0.85,
        _ => 1.0,
    };
    let mut reasons = vec![match mention.name.source {
        NameSource::Title => Reason::WholeTitle,
        NameSource::Heading => Reason::WholeHeading,
        NameSource::Listed => Reason::WholePhrase,
    }];
    if count == 1 {
        reasons.push(Reason::SingleWord);
    }
    if !same_form(prose, mention) {
        // A single word in another form often means something else: “seen” is not “Seeing”.
        strength *= if count == 1 { 0.4 } else { 0.9 };
        reasons.push(Reason::OtherForm);
    }
    if share > 0.3 && rarest >= FEW_PAGES && count < 3 {
        strength *= 0.5;
        reasons.push(Reason::CommonWords { pages: rarest });
    }
    PartScore { part: Part::Wording, strength, reasons }
}

/// Whether the words stand in the text as they stand in the name, but for case, accents and a plural's s.
fn same_form(prose: &Prose, mention: &Mention) -> bool {
    let shown = prose.text().get(mention.words.range()).unwrap_or_default();
    let form = |word: Word<'_>| fold(word.text).trim_end_matches("'s").trim_end_matches('s').to_owned();
    words(shown).map(form).eq(words(&mention.name.text).map(form))
}

pub(super) fn place(prose: &Prose, mention: &Mention, first: bool) -> PartScore {
    let share = mention.token as f64 / prose.tokens().len().max(1) as f64;
    let mut strength = 1.0 - 0.4 * share;
    let mut reasons = vec![match share {
        s if s < 1.0 / 3.0 => Reason::EarlyOnPage,
        s if s < 2.0 / 3.0 => Reason::MidPage,
        _ => Reason::LateOnPage,
    }];
    if !first {
        strength *= 0.6;
        reasons.push(Reason::NamedBefore);
    }
    match prose.block_around(mention.words).map(|(_, kind)| kind) {
        Some(BlockKind::Cell | BlockKind::Caption) => {
            strength *= 0.7;
            reasons.push(Reason::TableOrCaption);
        }
        Some(BlockKind::Quote) => {
            strength *= 0.5;
            reasons.push(Reason::InsideQuotation);
        }
        _ => {}
    }
    PartScore { part: Part::Place, strength, reasons }
}

pub(super) fn need(figures: &Figures) -> PartScore {
    let (strength, reason) = match figures {
        Figures { links_in: 0, .. } => (1.0, Reason::TargetIsOrphan),
        Figures { depth: None, .. } => (1.0, Reason::TargetUnreachable),
        Figures { links_in: 1, .. } => (0.75, Reason::TargetHangsOnOnePage),
        Figures { content_links_in: in_content @ 0..=2, .. } => (0.5, Reason::TargetHasFewLinks { pages: *in_content }),
        Figures { content_links_in, .. } => {
            (0.5 / f64::from(*content_links_in).sqrt(), Reason::TargetHasLinks { pages: *content_links_in })
        }
    };
    PartScore { part: Part::Need, strength, reasons: vec![reason] }
}

pub(super) fn variety(book: &PhraseBook, mention: &Mention) -> PartScore {
    let others = book.also_named(&mention.name.terms, mention.target).len();
    let (strength, reason) = match others {
        0 => (1.0, Reason::NamesOnlyThisPage),
        n => (0.2, Reason::NamesOtherPagesToo { pages: n }),
    };
    PartScore { part: Part::Variety, strength, reasons: vec![reason] }
}
