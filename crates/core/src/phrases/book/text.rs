//! The texts of pages in the phrase book: they come, go, and make way for others for a while.

use super::{Phrase, PhraseBook};
use crate::document::{Document, Link};
use crate::language::{Language, StopWords};
use crate::logarithms::ln;
use crate::phrases::abbreviations::Abbreviation;
use crate::phrases::anchors::{Anchor, Kept};
use crate::phrases::lexicon::TermId;
use crate::phrases::names::Outline;
use crate::phrases::prose::{Prose, ReadProse};
use crate::phrases::telling::phrases_of;
use crate::phrases::trie::PhraseId;
use crate::site::{Address, PageId};

/// All that is known of a page's text, by the numbers of one phrase book. It takes as much room as in the book.
#[derive(Debug)]
pub struct BookText {
    prose: Prose,
    outline: Outline,
    /// What the page says of short forms.
    short_forms: Vec<Abbreviation>,
    links: Vec<Kept>,
}

impl BookText {
    fn bag(text: Option<&Self>) -> &[(TermId, u32)] {
        text.map_or(&[], |text| text.prose.bag())
    }

    fn short_forms(text: Option<&Self>) -> &[Abbreviation] {
        text.map_or(&[], |text| &text.short_forms)
    }
}

impl PhraseBook {
    /// Takes note of a page's source, or that it has none; `follow` tells where an `href` of the page leads on the site.
    /// O(its length + postings of its terms), once the phrases are counted also O(pages with the words of new phrases).
    pub fn put_prose(&mut self, page: PageId, document: Option<&Document>, follow: impl Fn(&str) -> Option<Address>) {
        let language = self.facts.get(&page).map_or(Language::Other, |facts| facts.language);
        self.put_read(page, document.map(|document| (document, ReadProse::of(document, language))), follow);
    }

    /// The same when the prose was read before, in the language of the page's facts. Gives what was known of its text until
    /// now.
    pub fn put_read(
        &mut self,
        page: PageId,
        read: Option<(&Document, ReadProse)>,
        follow: impl Fn(&str) -> Option<Address>,
    ) -> Option<BookText> {
        let mut text = read.and_then(|(document, read)| self.understand(page, document, read, follow));
        if let Some((text, known)) = text.as_mut().zip(self.prose.get(&page)) {
            // For when both are kept.
            text.prose.share_with(known);
        }
        self.exchange(page, text)
    }

    /// Puts a text that was known of a page in place of the one that it has, which is given: what was exchanged before
    /// may come back without being read again. O(its words + postings of the terms that only one of them has).
    pub fn exchange(&mut self, page: PageId, text: Option<BookText>) -> Option<BookText> {
        let (old, abbreviated) = self.swap(page, text);
        self.put_names(page);
        self.rename_those_called(&abbreviated);
        old
    }

    /// The same but for names. Gives also the texts of which other forms may be known now, or no more.
    pub(super) fn swap(&mut self, page: PageId, text: Option<BookText>) -> (Option<BookText>, Vec<String>) {
        self.passages_changed = true;
        self.prose_changed += 1;
        self.count(page, -1);
        let old = self.prose.remove(&page).map(|prose| BookText {
            prose,
            outline: self.outlines.remove(&page).unwrap_or_default(),
            short_forms: self.abbreviated.remove(&page).unwrap_or_default(),
            links: self.anchors.remove_page(page),
        });
        let mut abbreviated = self.abbreviations.count(BookText::short_forms(old.as_ref()), false);
        abbreviated.extend(self.abbreviations.count(BookText::short_forms(text.as_ref()), true));
        self.put_terms(page, BookText::bag(old.as_ref()), BookText::bag(text.as_ref()));
        if let Some(BookText { prose, outline, short_forms, links }) = text {
            self.outlines.insert(page, outline);
            if !short_forms.is_empty() {
                self.abbreviated.insert(page, short_forms);
            }
            self.prose.insert(page, prose);
            self.anchors.put_page(page, links);
        }
        // Names come after counting: what they bring is counted on this page too.
        self.count(page, 1);
        (old, abbreviated)
    }

    /// What is to be known of a text, of which all words and phrases have numbers from now on; `None` where nothing is
    /// known of the page. O(its length), once the phrases are counted also O(pages with the words of new phrases).
    pub(super) fn understand(
        &mut self,
        page: PageId,
        document: &Document,
        read: ReadProse,
        follow: impl Fn(&str) -> Option<Address>,
    ) -> Option<BookText> {
        let facts = self.facts.get(&page)?;
        let language = facts.language;
        let stop_words = self.stop_words.entry(language).or_insert_with(|| StopWords::of(language));
        let languages = read.languages().iter().copied().collect();
        let leads_away = |link: &Link| follow(&link.href).is_some_and(|to| to != facts.address);
        let outline = Outline::of(document, phrases_of(&read, stop_words), languages, leads_away);
        let prose = read.number(&mut self.lexicon);
        let short_forms = Abbreviation::all_of(document, stop_words);
        let mut fresh = Vec::new();
        let links = Anchor::all_of(document, &prose, stop_words, follow)
            .into_iter()
            .map(|anchor| {
                let phrase = anchor.terms.as_ref().map(|terms| self.intern(terms, &mut fresh));
                self.anchors.keep(&anchor, phrase)
            })
            .collect();
        fresh.into_iter().for_each(|phrase| self.count_new(phrase));
        Some(BookText { prose, outline, short_forms, links })
    }

    fn intern(&mut self, terms: &[TermId], fresh: &mut Vec<PhraseId>) -> PhraseId {
        let (phrase, is_new) = self.trie.intern(terms);
        if is_new {
            self.phrases.push(Phrase { terms: terms.into(), ..Phrase::default() });
            fresh.push(phrase);
        }
        phrase
    }

    /// Takes note of the terms of a page instead of those that it had. O(terms) where only its links changed, else with
    /// their postings.
    fn put_terms(&mut self, page: PageId, old: &[(TermId, u32)], new: &[(TermId, u32)]) {
        if old == new {
            return;
        }
        self.pages_with_ln.resize(self.lexicon.len(), 0.0);
        for (term, _) in old {
            self.pages_with.remove(*term, page);
        }
        for (term, _) in new {
            self.pages_with.add(*term, page);
        }
        for (term, _) in old.iter().chain(new) {
            self.pages_with_ln[term.0 as usize] = ln(self.pages_with.of(*term).len());
        }
    }
}
