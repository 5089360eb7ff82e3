//! Which names pages have, and which pages a phrase names.

use super::{Phrase, PhraseBook};
use crate::language::{Stemmer, StopWords, words};
use crate::phrases::mention::Naming;
use crate::phrases::names::{NameSource, Namer, Outline, Tongue};
use crate::phrases::trie::PhraseId;
use crate::site::PageId;

/// Headings, terms and addresses with the same words on more pages than this name none of them; nor do parts of titles,
/// unless [`MOST_NAMED`] titles have them at most.
const MOST_ALIKE: usize = 5;

/// Pages that one phrase is taken to name, at most.
pub(super) const MOST_NAMED: usize = 12;

impl PhraseBook {
    /// Gives new names to a page, to those that its title changes, or to all when the name of the site is another.
    pub(super) fn rename(&mut self, page: PageId, mut changed: Vec<PageId>) {
        if self.follow_site_name() {
            changed = self.facts.keys().copied().collect();
        }
        changed.push(page);
        changed.sort_unstable();
        changed.dedup();
        changed.into_iter().for_each(|page| self.put_names(page));
    }

    /// Whether the name of the site is another by now.
    pub(super) fn follow_site_name(&mut self) -> bool {
        let site_name = self.ends.site_name();
        let is_another = site_name != self.site_name;
        self.site_name = site_name;
        self.site_names += u64::from(is_another);
        is_another
    }

    /// Gives new names to the pages that have one of these texts as a name: another form of it may be known now.
    pub(super) fn rename_those_called(&mut self, texts: &[String]) {
        let mut pages = Vec::new();
        for text in texts {
            let languages: Vec<_> = self.stop_words.keys().copied().collect();
            for language in languages {
                let stemmer = Stemmer::new(language);
                let terms: Option<Vec<_>> =
                    words(text).map(|word| self.lexicon.get(&stemmer.stem(word.text))).collect();
                let phrase = terms.and_then(|terms| self.trie.find(&terms));
                let named = phrase.map(|phrase| self.phrases[phrase.0 as usize].named.iter().map(|(page, _)| *page));
                pages.extend(named.into_iter().flatten());
            }
        }
        pages.sort_unstable();
        pages.dedup();
        pages.into_iter().for_each(|page| self.put_names(page));
    }

    pub(super) fn put_names(&mut self, page: PageId) {
        self.unnamed.remove(&page);
        for name in self.names.remove(&page).unwrap_or_default() {
            let known = &mut self.phrases[name.phrase.0 as usize];
            known.named.retain(|(named, _)| *named != page);
            known.terms.iter().for_each(|term| self.named_with.remove(*term, page));
        }
        let Some(facts) = self.facts.get(&page) else { return };
        let mut languages = vec![facts.language];
        languages.extend(self.languages.iter().filter(|language| **language != facts.language));
        for language in &languages {
            self.stop_words.entry(*language).or_insert_with(|| StopWords::of(*language));
        }
        let tongue = |language| Some(Tongue { language, stop_words: self.stop_words.get(&language)? });
        let tongues: Vec<_> = languages.into_iter().filter_map(tongue).collect();
        let none = Outline::default();
        let mut namer = Namer {
            site_name: self.site_name.as_deref(),
            ends: &self.ends,
            tongues: &tongues,
            abbreviations: &self.abbreviations,
            stems: &self.stems,
            lexicon: &mut self.lexicon,
            trie: &mut self.trie,
        };
        let listed = self.listed.get(&page).map_or(&[][..], Vec::as_slice);
        let names = namer.names_of(facts, listed, self.outlines.get(&page).unwrap_or(&none));
        let mut fresh = Vec::new();
        for (name, terms) in &names {
            terms.iter().for_each(|term| self.named_with.add(*term, page));
            // Numbers are given in the order in which phrases are met.
            if name.phrase.0 as usize >= self.phrases.len() {
                self.phrases.resize_with(name.phrase.0 as usize + 1, Phrase::default);
            }
            let known = &mut self.phrases[name.phrase.0 as usize];
            if known.terms.is_empty() {
                known.terms = terms.as_slice().into();
                known.is_shouted = name.telling == 0;
                fresh.push(name.phrase);
            }
            known.named.push((page, name.source));
        }
        self.names.insert(page, names.into_iter().map(|(name, _)| name).collect());
        fresh.into_iter().for_each(|phrase| self.count_new(phrase));
    }

    /// The pages that a phrase names or leads to, those first that it names most. O(pages that it names).
    pub fn named_by(&self, phrase: PhraseId) -> Vec<Naming> {
        let known = &self.phrases[phrase.0 as usize];
        let count = |is: fn(NameSource) -> bool| known.named.iter().filter(|(_, source)| is(*source)).count();
        let (parts, guesses) = (count(|source| source == NameSource::Part), count(NameSource::is_guess));
        let weak = known.named.len() - count(NameSource::is_own) - guesses;
        let mut found: Vec<Naming> = Vec::new();
        let named = known.named.iter().filter(|(_, source)| match source {
            source if source.is_guess() => false,
            // What titles have in common with headings is still a part of the titles.
            NameSource::Part => weak <= MOST_ALIKE || parts <= MOST_NAMED,
            source => source.is_own() || weak <= MOST_ALIKE,
        });
        for (page, source) in named {
            found.push(Naming { page: *page, source: Some(*source), anchors: 0 });
        }
        for (page, anchors) in self.anchors.led_to(phrase) {
            match found.iter_mut().find(|naming| naming.page == page) {
                Some(naming) => naming.anchors = anchors,
                None => found.push(Naming { page, source: None, anchors }),
            }
        }
        // What pages only may be called is asked where nobody has a name for it.
        if found.is_empty() && weak == 0 && guesses <= MOST_ALIKE {
            found.extend(known.named.iter().map(|(page, source)| Naming {
                page: *page,
                source: Some(*source),
                anchors: 0,
            }));
        }
        found.sort_by(|a, b| b.weight().total_cmp(&a.weight()).then(a.page.cmp(&b.page)));
        found
    }
}
