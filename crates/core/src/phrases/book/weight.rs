//! How much memory a phrase book takes.

use super::{Phrase, PhraseBook};
use crate::phrases::abbreviations::Abbreviation;
use crate::phrases::names::Name;
use crate::weight::{facts, in_order, list, piece, table};

impl PhraseBook {
    /// Bytes on the heap, counted from what is there. O(pages + phrases + terms).
    pub fn weight(&self) -> usize {
        let phrase = |phrase: &Phrase| {
            let named = if phrase.named.spilled() { phrase.named.capacity() } else { 0 };
            list::<crate::phrases::TermId>(phrase.terms.len()) + list::<(u64, u64)>(named)
        };
        let phrases = list::<Phrase>(self.phrases.capacity()) + self.phrases.iter().map(phrase).sum::<usize>();
        let name = |name: &Name| piece(name.text.len());
        let names = self.names.values().map(|names| list::<Name>(names.len()) + names.iter().map(name).sum::<usize>());
        let known = self.facts.values().map(|known| in_order::<u32, crate::site::PageFacts>() + facts(known));
        let listed = self.listed.values().flatten().map(|text| piece(text.len()));
        let short = self.abbreviated.values().flatten();
        let short = short.map(|short| 2 * (piece(short.short.len()) + piece(short.long.len())));
        phrases
            + table(&self.names)
            + names.sum::<usize>()
            + known.sum::<usize>()
            + table(&self.outlines)
            + self.outlines.values().map(|outline| outline.weight()).sum::<usize>()
            + table(&self.prose)
            + self.prose.values().map(|prose| prose.weight()).sum::<usize>()
            + table(&self.listed)
            + listed.sum::<usize>()
            + self.abbreviated.len() * size_of::<Abbreviation>()
            + short.sum::<usize>()
            + self.lexicon.weight()
            + self.trie.weight()
            + self.ends.weight()
            + self.anchors.weight()
            + self.pages_with.weight()
            + self.named_with.weight()
            + list::<f32>(self.pages_with_ln.capacity())
    }
}
