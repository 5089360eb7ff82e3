//! The phrase book: which phrases name which pages, and where they are mentioned. One structure serves both
//! directions and follows deltas.

use std::collections::{BTreeMap, HashMap};

use super::lexicon::{Lexicon, TermId};
use super::names::{Name, TitleEnds, names_of, own_title};
use super::prose::Prose;
use crate::document::{Document, TextSpan};
use crate::site::{PageFacts, PageId};

/// A place where a name of `target` stands, unlinked, in the prose of `source`.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Mention {
    pub source: PageId,
    pub target: PageId,
    pub name: Name,
    /// In the text layer of the source page's document.
    pub words: TextSpan,
    /// Index of the first word among the tokens of the source page.
    pub token: usize,
}

/// Names and prose of a whole site.
#[derive(Debug, Default)]
pub struct PhraseBook {
    lexicon: Lexicon,
    ends: TitleEnds,
    site_name: Option<String>,
    facts: BTreeMap<PageId, PageFacts>,
    names: HashMap<PageId, Vec<Name>>,
    /// Phrases by which pages want to be found, beyond what stands on them.
    listed: HashMap<PageId, Vec<String>>,
    /// Pages and the index of their name, by the name's first term.
    by_first_term: HashMap<TermId, Vec<(PageId, usize)>>,
    /// Pages in whose prose a term stands, ascending.
    pages_with: HashMap<TermId, Vec<PageId>>,
    prose: HashMap<PageId, Prose>,
}

impl PhraseBook {
    /// Takes note of a page's title and heading. O(its names), and O(pages) on the rare occasion that the name of the
    /// site becomes clear.
    pub fn put_page(&mut self, facts: &PageFacts) {
        if let Some(old) = self.facts.insert(facts.id, facts.clone()) {
            self.ends.remove(&old.title);
        }
        self.ends.add(&facts.title);
        let site_name = self.ends.site_name();
        if site_name == self.site_name {
            self.put_names(facts.id);
        } else {
            self.site_name = site_name;
            let all: Vec<_> = self.facts.keys().copied().collect();
            all.into_iter().for_each(|page| self.put_names(page));
        }
    }

    /// Takes note of phrases by which a page wants to be found. O(its names).
    pub fn put_phrases(&mut self, page: PageId, phrases: Vec<String>) {
        match phrases.is_empty() {
            true => self.listed.remove(&page),
            false => self.listed.insert(page, phrases),
        };
        self.put_names(page);
    }

    /// Forgets a page that is no longer there.
    pub fn remove_page(&mut self, page: PageId) {
        self.put_prose(page, None);
        if let Some(old) = self.facts.remove(&page) {
            self.ends.remove(&old.title);
        }
        self.put_names(page);
    }

    /// Takes note of a page's source, or that it has none. O(its length + postings of its terms).
    pub fn put_prose(&mut self, page: PageId, document: Option<&Document>) {
        if let Some(old) = self.prose.remove(&page) {
            for term in old.frequencies().keys() {
                if let Some(pages) = self.pages_with.get_mut(term)
                    && let Ok(at) = pages.binary_search(&page)
                {
                    pages.remove(at);
                }
            }
        }
        let Some((document, facts)) = document.zip(self.facts.get(&page)) else { return };
        let prose = Prose::read(document, facts.language, &mut self.lexicon);
        for term in prose.frequencies().into_keys() {
            let pages = self.pages_with.entry(term).or_default();
            if let Err(at) = pages.binary_search(&page) {
                pages.insert(at, page);
            }
        }
        self.prose.insert(page, prose);
    }

    pub fn names(&self, page: PageId) -> &[Name] {
        self.names.get(&page).map_or(&[], Vec::as_slice)
    }

    pub fn prose(&self, page: PageId) -> Option<&Prose> {
        self.prose.get(&page)
    }

    /// A page's title without the name of the site.
    pub fn own_title<'t>(&self, title: &'t str) -> &'t str {
        own_title(title, self.site_name.as_deref())
    }

    /// In how many pages' prose a term stands.
    pub fn document_frequency(&self, term: TermId) -> usize {
        self.pages_with.get(&term).map_or(0, Vec::len)
    }

    /// How many pages have prose.
    pub fn prose_count(&self) -> usize {
        self.prose.len()
    }

    /// Other pages that these very terms name as well.
    pub fn also_named(&self, terms: &[TermId], except: PageId) -> Vec<PageId> {
        let named = terms.first().and_then(|first| self.by_first_term.get(first)).into_iter().flatten();
        named
            .filter(|(page, name)| *page != except && self.names[page][*name].terms == terms)
            .map(|(p, _)| *p)
            .collect()
    }

    /// What the prose of `source` mentions, in the order of its words; where names overlap, the longest counts.
    ///
    /// O(tokens × names that begin with the same term).
    pub fn mentions_by(&self, source: PageId) -> Vec<Mention> {
        let Some(prose) = self.prose.get(&source) else { return Vec::new() };
        (0..prose.tokens().len()).flat_map(|at| self.longest_at(source, prose, at)).collect()
    }

    /// Where other pages mention `target`, by page; where names overlap, the longest counts.
    ///
    /// O(words of the pages that hold all terms of a name); at most `most_pages` of them are read for each name.
    pub fn mentions_of(&self, target: PageId, most_pages: usize) -> Vec<Mention> {
        let mut found = Vec::new();
        for name in self.names(target) {
            for source in self.pages_with_all(&name.terms).into_iter().filter(|s| *s != target).take(most_pages) {
                let Some(prose) = self.prose.get(&source) else { continue };
                let starts = (0..prose.tokens().len()).filter(|at| prose.tokens()[*at].term == name.terms[0]);
                let mentions = starts.flat_map(|at| self.longest_at(source, prose, at));
                found.extend(mentions.filter(|mention| mention.target == target && mention.name == *name));
            }
        }
        found.sort_by_key(|mention| (mention.source, mention.token));
        found
    }

    /// Mentions that begin at a token and that no longer one overlaps.
    fn longest_at(&self, source: PageId, prose: &Prose, at: usize) -> Vec<Mention> {
        let mut found: Vec<Mention> = Vec::new();
        for (target, index) in self.matches_at(source, prose, at) {
            let name = &self.names[&target][index];
            let len = name.terms.len();
            if self.longer_overlaps(source, prose, at, len) {
                continue;
            }
            let tokens = prose.tokens();
            let words = TextSpan::new(tokens[at].span().start, tokens[at + len - 1].span().end);
            found.push(Mention { source, target, name: name.clone(), words, token: at });
        }
        found
    }

    fn matches_at<'a>(
        &'a self,
        source: PageId,
        prose: &'a Prose,
        at: usize,
    ) -> impl Iterator<Item = (PageId, usize)> + 'a {
        let tokens = &prose.tokens()[at..];
        let candidates = self.by_first_term.get(&tokens[0].term).into_iter().flatten().copied();
        candidates.filter(move |(target, index)| {
            let terms = &self.names[target][*index].terms;
            let stands = |(i, term): (usize, &TermId)| {
                tokens.get(i).is_some_and(|t| t.term == *term && t.linkable && (i == 0 || t.joined))
            };
            *target != source && terms.iter().enumerate().all(stands)
        })
    }

    /// Whether a name longer than `len` words overlaps the `len` words at `at`.
    fn longer_overlaps(&self, source: PageId, prose: &Prose, at: usize, len: usize) -> bool {
        // Names have at most eight words.
        (at.saturating_sub(7)..at + len).any(|start| {
            self.matches_at(source, prose, start).any(|(target, index)| {
                let other = self.names[&target][index].terms.len();
                other > len && start + other > at
            })
        })
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
        let mut postings: Vec<&[PageId]> =
            terms.iter().map(|term| self.pages_with.get(term).map_or(&[][..], Vec::as_slice)).collect();
        postings.sort_by_key(|pages| pages.len());
        let Some((rarest, others)) = postings.split_first() else { return Vec::new() };
        rarest.iter().filter(|page| others.iter().all(|o| o.binary_search(page).is_ok())).copied().collect()
    }

    fn put_names(&mut self, page: PageId) {
        for name in self.names.remove(&page).unwrap_or_default() {
            if let Some(named) = self.by_first_term.get_mut(&name.terms[0]) {
                named.retain(|(p, _)| *p != page);
            }
        }
        let Some(facts) = self.facts.get(&page) else { return };
        let listed = self.listed.get(&page).map_or(&[][..], Vec::as_slice);
        let names = names_of(facts, listed, self.site_name.as_deref(), &mut self.lexicon);
        for (index, name) in names.iter().enumerate() {
            self.by_first_term.entry(name.terms[0]).or_default().push((page, index));
        }
        self.names.insert(page, names);
    }
}
