//! The phrase book: which phrases name which pages, where they stand, and how often they carry links. One structure
//! serves both directions and follows deltas.

mod counts;
mod mentions;
mod naming;
mod text;
mod tongues;
mod weight;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

use crate::document::Document;
use crate::language::{CommonWords, Language, Stemmer, Stems, StopWords, folded, words};
use crate::logarithms::ln;
use crate::phrases::abbreviations::{Abbreviation, Abbreviations};
use crate::phrases::anchors::Anchors;
use crate::phrases::lexicon::{Lexicon, TermId};
use crate::phrases::names::{Name, NameSource, Outline};
use crate::phrases::postings::Postings;
use crate::phrases::prose::{Prose, ReadProse};
use crate::phrases::title_ends::{TitleEnds, own_title};
use crate::phrases::trie::{PhraseId, Trie};
use crate::site::{Address, PageFacts, PageId};

pub use self::counts::{Counts, PhraseUse};
pub use self::text::BookText;

/// How common a word is that is not among the common ones of its language.
const UNLISTED: f32 = CommonWords::LEAST - 0.5;

#[derive(Debug, Default)]
struct Phrase {
    terms: Box<[TermId]>,
    /// Most phrases name one page.
    named: SmallVec<[(PageId, NameSource); 2]>,
    /// Whether the words name something only when they are written in capitals.
    is_shouted: bool,
    stands: u32,
    pages: u32,
}

/// Names and prose of a whole site.
#[derive(Debug, Default)]
pub struct PhraseBook {
    stems: Arc<Stems>,
    lexicon: Lexicon,
    trie: Trie,
    phrases: Vec<Phrase>,
    stop_words: FxHashMap<Language, StopWords>,
    /// The languages of the site as a whole.
    languages: BTreeSet<Language>,
    ends: TitleEnds,
    site_name: Option<String>,
    /// Counts names of the site.
    site_names: u64,
    facts: BTreeMap<PageId, PageFacts>,
    outlines: FxHashMap<PageId, Outline>,
    /// What pages say of short forms.
    abbreviations: Abbreviations,
    abbreviated: FxHashMap<PageId, Vec<Abbreviation>>,
    names: FxHashMap<PageId, Box<[Name]>>,
    /// Phrases by which pages want to be found, beyond what stands on them.
    listed: FxHashMap<PageId, Vec<String>>,
    anchors: Anchors,
    /// Pages in whose prose a term stands.
    pages_with: Postings,
    /// Logarithms of how many these are.
    pages_with_ln: Vec<f32>,
    /// Pages with a name in which a term stands.
    named_with: Postings,
    prose: FxHashMap<PageId, Prose>,
    /// Whether the counts of phrases are those of the prose.
    is_counted: bool,
    /// Counts texts that came or went.
    prose_changed: u64,
    /// Pages whose names are not those of their facts yet.
    unnamed: BTreeSet<PageId>,
    /// Whether prose came or went since the languages of all passages were looked at.
    passages_changed: bool,
}

impl PhraseBook {
    /// Takes note of a page's title and heading. O(its names), and O(pages) on the rare occasion that the name of the
    /// site becomes clear.
    pub fn put_page(&mut self, facts: &PageFacts) {
        let changed = self.put_facts(facts);
        self.rename(facts.id, changed);
    }

    /// The same with the phrases by which the page wants to be found, and with its source, read in the language of the
    /// facts: as one after the other, but its names are worked out once. Cost of all three.
    pub fn put_whole(
        &mut self,
        facts: &PageFacts,
        listed: Vec<String>,
        read: Option<(&Document, ReadProse)>,
        follow: impl Fn(&str) -> Option<Address>,
    ) {
        let page = facts.id;
        let changed = self.put_facts(facts);
        self.put_listed(page, listed);
        let text = read.and_then(|(document, read)| self.understand(page, document, read, follow));
        let (_, abbreviated) = self.swap(page, text);
        self.rename(page, changed);
        self.rename_those_called(&abbreviated);
    }

    /// Takes note of a page's title and heading, and of the phrases by which it wants to be found, but gives nobody a name:
    /// that is done by [`PhraseBook::put_read`] and [`PhraseBook::name_some`]. O(pages) on the rare occasion that the
    /// name of the site becomes clear, else O(log pages).
    pub fn put_facts_alone(&mut self, facts: &PageFacts, listed: Vec<String>) {
        let changed = self.put_facts(facts);
        self.put_listed(facts.id, listed);
        self.unnamed.insert(facts.id);
        self.unnamed.extend(changed);
        if self.follow_site_name() {
            self.unnamed.extend(self.facts.keys());
        }
    }

    /// Gives names to some of the pages that wait for theirs, at most `most`; whether there were any. O(their names).
    pub fn name_some(&mut self, most: usize) -> bool {
        let some: Vec<_> = std::iter::from_fn(|| self.unnamed.pop_first()).take(most).collect();
        some.iter().for_each(|page| self.put_names(*page));
        !some.is_empty()
    }

    /// Gives the pages that have other names now because of the page's title.
    fn put_facts(&mut self, facts: &PageFacts) -> Vec<PageId> {
        let mut changed = Vec::new();
        if let Some(old) = self.facts.insert(facts.id, facts.clone()) {
            changed.extend(self.ends.remove(&old));
            self.anchors.remove_address(&old.address);
        }
        changed.extend(self.ends.add(facts));
        self.anchors.put_address(&facts.address, facts.id);
        changed
    }

    /// Takes note of phrases by which a page wants to be found. O(its names).
    pub fn put_phrases(&mut self, page: PageId, phrases: Vec<String>) {
        self.put_listed(page, phrases);
        self.put_names(page);
    }

    fn put_listed(&mut self, page: PageId, phrases: Vec<String>) {
        match phrases.is_empty() {
            true => self.listed.remove(&page),
            false => self.listed.insert(page, phrases),
        };
    }

    /// Forgets a page that is no longer there.
    pub fn remove_page(&mut self, page: PageId) {
        self.exchange(page, None);
        let Some(old) = self.facts.remove(&page) else { return };
        let changed = self.ends.remove(&old);
        self.anchors.remove_address(&old.address);
        self.rename(page, changed);
    }

    /// The names of a page, longest first; none of an unknown one.
    pub fn names(&self, page: PageId) -> &[Name] {
        self.names.get(&page).map_or(&[], |names| names)
    }

    /// The words of a page; `None` of an unknown one.
    pub fn prose(&self, page: PageId) -> Option<&Prose> {
        self.prose.get(&page)
    }

    /// Pages with prose, in no particular order.
    pub fn pages_with_prose(&self) -> impl Iterator<Item = PageId> {
        self.prose.keys().copied()
    }

    /// What the book knows about a page.
    pub fn facts(&self, page: PageId) -> Option<&PageFacts> {
        self.facts.get(&page)
    }

    /// The words of the site's links.
    pub fn anchors(&self) -> &Anchors {
        &self.anchors
    }

    /// How often the name of the site became another one: by then titles without it are others, too.
    pub const fn site_names(&self) -> u64 {
        self.site_names
    }

    /// A page's title without the name of the site.
    pub fn own_title<'t>(&self, title: &'t str) -> &'t str {
        own_title(title, self.site_name.as_deref())
    }

    /// What is known of stems, to read the prose of its pages with.
    pub fn stems(&self) -> Arc<Stems> {
        Arc::clone(&self.stems)
    }

    /// In how many pages' prose a term stands.
    pub fn document_frequency(&self, term: TermId) -> usize {
        self.pages_with.of(term).len()
    }

    /// How telling a term is: the logarithm of pages with prose over pages with the term. What stands on every page
    /// tells nothing.
    pub fn rarity(&self, term: TermId) -> f32 {
        let with = self.pages_with_ln.get(term.0 as usize).copied().unwrap_or_default();
        (ln(self.prose.len()) - with).max(0.0)
    }

    /// The terms of the site are numbered from 0 to this.
    pub fn term_count(&self) -> usize {
        self.lexicon.len()
    }

    /// Whether a word says something by itself, in the language of a page.
    pub fn is_telling(&self, page: PageId, word: &str) -> bool {
        let language = self.facts.get(&page).map(|facts| facts.language);
        language.and_then(|language| self.stop_words.get(&language)).is_none_or(|stop_words| stop_words.tells(word))
    }

    /// How common a word of a page is in its language or, where it is more common there, in another one of the site, on the
    /// scale of [`CommonWords::grade`]; a little less than any listed word for others. `None` where nothing is known of
    /// the word, as of any that stands in a language without a list alone.
    pub fn commonness(&self, page: PageId, word: &str) -> Option<f32> {
        let of_page = self.facts.get(&page).map_or(Language::Other, |facts| facts.language);
        let others = self.languages.iter().copied().filter(|language| *language != of_page);
        let (own, others) = (CommonWords::of(of_page), others.filter_map(CommonWords::of));
        let folded = folded(word);
        let grades = own.into_iter().chain(others).filter_map(|list| list.grade(&folded));
        grades.reduce(f32::max).or_else(|| own.map(|_| UNLISTED))
    }

    /// The words of any text that the site knows and that say something, as the language of a page has them. O(n).
    pub fn telling_terms(&self, page: PageId, text: &str) -> Vec<TermId> {
        let Some(facts) = self.facts.get(&page) else { return Vec::new() };
        let stemmer = Stemmer::new(facts.language);
        let telling = words(text).filter(|word| self.is_telling(page, word.text));
        telling.filter_map(|word| self.lexicon.get(&stemmer.stem(word.text))).collect()
    }

    /// Pages in whose prose a term stands, ascending.
    pub fn pages_with_term(&self, term: TermId) -> &[PageId] {
        self.pages_with.of(term)
    }

    /// Pages with a name in which a term stands, ascending.
    pub fn pages_named_with(&self, term: TermId) -> &[PageId] {
        self.named_with.of(term)
    }

    /// How many pages have prose.
    pub fn prose_count(&self) -> usize {
        self.prose.len()
    }

    /// The stems of a phrase, in their order.
    pub fn terms_of(&self, phrase: PhraseId) -> &[TermId] {
        &self.phrases[phrase.0 as usize].terms
    }

    /// The phrase that so many words of a page are, from the `first` on; `None` when they name nothing. O(words).
    pub fn phrase_at(&self, page: PageId, first: usize, len: usize) -> Option<PhraseId> {
        let tokens = self.prose.get(&page)?.tokens().get(first..first.checked_add(len)?)?;
        let terms: Vec<_> = tokens.iter().map(|token| token.term()).collect();
        self.trie.find(&terms)
    }

    /// Pages whose prose holds all words of a phrase that names or leads to `target`, each once, ascending; at most `most`
    /// for each phrase.
    pub fn pages_that_may_mention(&self, target: PageId, most: usize) -> Vec<PageId> {
        let names = self.names(target).iter().map(|name| name.phrase);
        let phrases: FxHashSet<PhraseId> = names.chain(self.anchors.phrases_to(target)).collect();
        let pages = phrases.iter().flat_map(|phrase| {
            let known = &self.phrases[phrase.0 as usize];
            self.pages_with_all(&known.terms).into_iter().take(most)
        });
        let mut pages: Vec<_> = pages.filter(|page| *page != target).collect();
        pages.sort_unstable();
        pages.dedup();
        pages
    }

    /// Pages whose prose holds all words of one of some rows of stems, each once, ascending. O(postings of the rarest).
    pub fn pages_with_words(&self, rows: &[Vec<String>]) -> Vec<PageId> {
        let terms = |row: &Vec<String>| row.iter().map(|stem| self.lexicon.get(stem)).collect::<Option<Vec<_>>>();
        let mut pages: Vec<_> = rows.iter().filter_map(terms).flat_map(|terms| self.pages_with_all(&terms)).collect();
        pages.sort_unstable();
        pages.dedup();
        pages
    }

    fn pages_with_all(&self, terms: &[TermId]) -> Vec<PageId> {
        let mut postings: Vec<&[PageId]> = terms.iter().map(|term| self.pages_with.of(*term)).collect();
        postings.sort_by_key(|pages| pages.len());
        let Some((rarest, others)) = postings.split_first() else { return Vec::new() };
        rarest.iter().filter(|page| others.iter().all(|o| o.binary_search(page).is_ok())).copied().collect()
    }
}
