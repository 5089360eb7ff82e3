//! Words in use as links: what leads where on the site, and by which words.

use std::hash::BuildHasher;

use rustc_hash::{FxBuildHasher, FxHashMap};

use super::lexicon::TermId;
use super::names::{MOST_IDEOGRAPHS, is_short_enough};
use super::prose::Prose;
use super::token::TokenMarks;
use super::trie::PhraseId;
use crate::document::{Document, Region};
use crate::language::{StopWords, fold};
use crate::site::{Address, PageId};
use crate::weight::{list, piece, table};

/// A block of which more than this is linked is a list of links, and no prose.
pub(crate) const MOST_LINKED: f64 = 0.6;

/// A link in the content of a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Anchor {
    pub to: Address,
    /// Its words, when they are few enough for a phrase.
    pub terms: Option<Vec<TermId>>,
    /// Whether it stands in running text.
    pub in_prose: bool,
    /// The word before it, in the same block.
    pub after: Option<TermId>,
    /// How it is written, when it is a single word.
    pub form: Option<Form>,
}

/// A word without the marks around it. Of a piece of code, such as `<part>` or `__len__`, these belong to the words.
pub(super) fn bare(word: &str) -> &str {
    word.trim_matches(|c: char| !c.is_alphanumeric())
}

/// A word as it is written, but for case, accents and marks around it; by a number, which two words may share by chance.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Form(u32);

impl Form {
    /// Of a word as it is written: case, accents and marks at its ends do not count.
    pub fn of(word: &str) -> Self {
        let number = FxBuildHasher.hash_one(fold(bare(word)));
        Self((number >> 32) as u32)
    }
}

impl Anchor {
    /// The links of a page in order. O(links × log tokens).
    pub fn all_of(
        document: &Document,
        prose: &Prose,
        stop_words: &StopWords,
        follow: impl Fn(&str) -> Option<Address>,
    ) -> Vec<Self> {
        let tokens = prose.tokens();
        let links = document.links().iter().filter(|link| link.region == Region::Content);
        links
            .filter_map(|link| {
                let to = follow(&link.href)?;
                let first = tokens.partition_point(|token| token.span().end <= link.text.start);
                let len = tokens[first..].iter().take_while(|token| token.span().start < link.text.end).count();
                // Longer anchors are sentences.
                let shown: Vec<&str> = tokens[first..first + len.min(MOST_IDEOGRAPHS + 1)]
                    .iter()
                    .map(|token| prose.text().get(token.span().range()).unwrap_or_default())
                    .collect();
                // What a page is filed under stands below its text; in the text the words would mean what they say.
                let is_tag = link.rel.iter().any(|rel| rel == "tag");
                let is_phrase = !is_tag && is_short_enough(&shown) && stop_words.telling(shown.iter().copied()) > 0;
                let block = prose.block_of(first).filter(|_| len > 0);
                let in_prose = block.is_some_and(|block| {
                    block.kind.is_prose() && f64::from(block.linked) <= MOST_LINKED * f64::from(block.end - block.first)
                });
                let before = block.filter(|block| (block.first as usize) < first).map(|_| tokens[first - 1]);
                Some(Self {
                    to,
                    terms: is_phrase.then(|| tokens[first..first + len].iter().map(|token| token.term()).collect()),
                    in_prose,
                    after: before.filter(|token| !token.has(TokenMarks::LINKED)).map(|token| token.term()),
                    form: (is_phrase && len == 1).then(|| Form::of(shown[0])),
                })
            })
            .collect()
    }
}

type LinkedAt = u32;

/// A link as it is kept.
#[derive(Debug, Clone, Copy)]
pub(super) struct Kept {
    to: LinkedAt,
    phrase: Option<PhraseId>,
    in_prose: bool,
    after: Option<TermId>,
    form: Option<Form>,
}

/// The links of all pages with the counts that follow from them. Memory: O(links).
#[derive(Debug, Default)]
pub struct Anchors {
    places: FxHashMap<Address, LinkedAt>,
    page_at: Vec<Option<PageId>>,
    place_of: FxHashMap<PageId, LinkedAt>,
    /// Numbers for folders of addresses.
    folders: FxHashMap<String, u32>,
    folder_of: Vec<u32>,
    by_page: FxHashMap<PageId, Vec<Kept>>,
    /// Links by words and by where they lead.
    led: FxHashMap<PhraseId, FxHashMap<LinkedAt, u32>>,
    /// Links in prose by their words.
    linked: FxHashMap<PhraseId, u32>,
    /// Of those with a single word, by how it is written.
    linked_as: FxHashMap<(PhraseId, Form), u32>,
    /// Phrases with which links lead to a place.
    phrases_to: FxHashMap<LinkedAt, FxHashMap<PhraseId, u32>>,
    /// Links in prose by the word before them, and all of them.
    after: FxHashMap<TermId, u32>,
    in_prose: u32,
    /// Links in content from a folder to a place.
    from_folder: FxHashMap<(u32, LinkedAt), u32>,
    /// Links in content to a place.
    to_place: FxHashMap<LinkedAt, u32>,
    /// Links in prose to a place.
    prose_to: FxHashMap<LinkedAt, u32>,
}

impl Anchors {
    /// Bytes on the heap. O(addresses + phrases of links).
    pub(super) fn weight(&self) -> usize {
        let addresses = self.places.keys().map(|address| piece(address.as_str().len()));
        let led = self.led.values().map(table).chain(self.phrases_to.values().map(table));
        table(&self.places)
            + addresses.sum::<usize>()
            + list::<Option<PageId>>(self.page_at.capacity())
            + table(&self.place_of)
            + table(&self.folders)
            + list::<u32>(self.folder_of.capacity())
            + table(&self.by_page)
            + self.by_page.values().map(|links| list::<Kept>(links.capacity())).sum::<usize>()
            + table(&self.led)
            + table(&self.phrases_to)
            + led.sum::<usize>()
            + table(&self.linked)
            + table(&self.linked_as)
            + table(&self.after)
            + table(&self.from_folder)
            + table(&self.to_place)
            + table(&self.prose_to)
    }

    pub(super) fn put_address(&mut self, address: &Address, page: PageId) {
        let place = self.place(address);
        self.page_at[place as usize] = Some(page);
        self.place_of.insert(page, place);
    }

    pub(super) fn remove_address(&mut self, address: &Address) {
        if let Some(place) = self.places.get(address)
            && let Some(page) = self.page_at[*place as usize].take()
        {
            self.place_of.remove(&page);
        }
    }

    fn place(&mut self, address: &Address) -> LinkedAt {
        if let Some(place) = self.places.get(address) {
            return *place;
        }
        let place = LinkedAt::try_from(self.page_at.len()).unwrap_or(LinkedAt::MAX);
        self.places.insert(address.clone(), place);
        self.page_at.push(None);
        let path = address.as_url().path();
        let folder = path.rsplit_once('/').map_or("", |(folder, _)| folder).to_owned();
        let fresh = u32::try_from(self.folders.len()).unwrap_or(u32::MAX);
        self.folder_of.push(*self.folders.entry(folder).or_insert(fresh));
        place
    }

    /// A link as it is kept, with the number of its words.
    pub(super) fn keep(&mut self, anchor: &Anchor, phrase: Option<PhraseId>) -> Kept {
        let to = self.place(&anchor.to);
        Kept { to, phrase, in_prose: anchor.in_prose, after: anchor.after, form: anchor.form }
    }

    /// O(its links).
    pub(super) fn put_page(&mut self, page: PageId, links: Vec<Kept>) {
        links.iter().for_each(|link| self.count(page, *link, 1));
        self.by_page.insert(page, links);
    }

    /// Gives the links that the page had. O(its links).
    pub(super) fn remove_page(&mut self, page: PageId) -> Vec<Kept> {
        let links = self.by_page.remove(&page).unwrap_or_default();
        links.iter().for_each(|link| self.count(page, *link, -1));
        links
    }

    fn count(&mut self, page: PageId, link: Kept, by: i32) {
        fn add<K: std::hash::Hash + Eq>(counts: &mut FxHashMap<K, u32>, key: K, by: i32) {
            let count = counts.entry(key).or_default();
            *count = count.saturating_add_signed(by);
        }
        if let Some(phrase) = link.phrase {
            add(self.led.entry(phrase).or_default(), link.to, by);
            add(self.phrases_to.entry(link.to).or_default(), phrase, by);
            if link.in_prose {
                add(&mut self.linked, phrase, by);
                if let Some(form) = link.form {
                    add(&mut self.linked_as, (phrase, form), by);
                }
            }
        }
        if let Some(after) = link.after.filter(|_| link.in_prose) {
            add(&mut self.after, after, by);
        }
        if link.in_prose {
            self.in_prose = self.in_prose.saturating_add_signed(by);
            add(&mut self.prose_to, link.to, by);
        }
        add(&mut self.to_place, link.to, by);
        if let Some(place) = self.place_of.get(&page) {
            let folder = self.folder_of[*place as usize];
            add(&mut self.from_folder, (folder, link.to), by);
        }
    }

    /// Links in prose with these words.
    pub fn linked(&self, phrase: PhraseId) -> u32 {
        self.linked.get(&phrase).copied().unwrap_or_default()
    }

    /// Links in prose whose only word this is, written like that.
    pub fn linked_as(&self, phrase: PhraseId, word: &str) -> u32 {
        self.linked_as.get(&(phrase, Form::of(word))).copied().unwrap_or_default()
    }

    /// Links in prose on the whole site.
    pub fn in_prose(&self) -> u32 {
        self.in_prose
    }

    /// Links in prose that follow a word.
    pub fn after(&self, term: TermId) -> u32 {
        self.after.get(&term).copied().unwrap_or_default()
    }

    /// Pages to which links with these words lead, and how many. In no particular order.
    pub fn led_to(&self, phrase: PhraseId) -> impl Iterator<Item = (PageId, u32)> {
        let led = self.led.get(&phrase).into_iter().flatten().filter(|(_, count)| **count > 0);
        led.filter_map(|(place, count)| Some((self.page_at[*place as usize]?, *count)))
    }

    /// Phrases with which links lead to a page, in no particular order.
    pub fn phrases_to(&self, page: PageId) -> impl Iterator<Item = PhraseId> {
        let place = self.place_of.get(&page);
        let phrases = place.and_then(|place| self.phrases_to.get(place)).into_iter().flatten();
        phrases.filter(|(_, count)| **count > 0).map(|(phrase, _)| *phrase)
    }

    /// Links in content to a page.
    pub fn to_page(&self, page: PageId) -> u32 {
        self.place_of.get(&page).and_then(|place| self.to_place.get(place)).copied().unwrap_or_default()
    }

    /// Links in content to `to` from pages in the folder of `page`.
    pub fn from_folder_of(&self, page: PageId, to: PageId) -> u32 {
        let key = || Some((self.folder_of[*self.place_of.get(&page)? as usize], *self.place_of.get(&to)?));
        key().and_then(|key| self.from_folder.get(&key)).copied().unwrap_or_default()
    }

    /// The number of the folder in which a page is.
    pub fn folder_of(&self, page: PageId) -> Option<u32> {
        self.place_of.get(&page).map(|place| self.folder_of[*place as usize])
    }

    /// Pages to which the content of a page leads, each once, ascending.
    pub fn out_of(&self, page: PageId) -> Vec<PageId> {
        let kept = self.by_page.get(&page).into_iter().flatten();
        let mut pages: Vec<_> = kept.filter_map(|link| self.page_at[link.to as usize]).collect();
        pages.sort_unstable();
        pages.dedup();
        pages
    }

    /// Whether running text of a page leads to another. O(links of the page).
    pub fn is_linked_in_prose(&self, page: PageId, to: PageId) -> bool {
        let kept = self.by_page.get(&page).into_iter().flatten();
        self.place_of.get(&to).is_some_and(|place| kept.into_iter().any(|link| link.in_prose && link.to == *place))
    }

    /// Links in prose to a page.
    pub fn prose_to(&self, page: PageId) -> u32 {
        self.place_of.get(&page).and_then(|place| self.prose_to.get(place)).copied().unwrap_or_default()
    }

    /// Links in content of a page, and those in prose among them.
    pub fn counts_on(&self, page: PageId) -> (usize, usize) {
        let kept = self.by_page.get(&page).map_or(&[][..], Vec::as_slice);
        (kept.len(), kept.iter().filter(|link| link.in_prose).count())
    }
}
