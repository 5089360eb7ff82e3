//! What the prose of a page mentions.

use std::cell::OnceCell;

use rustc_hash::FxHashMap;

use super::PhraseBook;
use super::naming::MOST_NAMED;
use crate::language::{CommonWords, Language, folded, words};
use crate::phrases::anchors::bare;
use crate::phrases::meaning::{is_mere_word, is_near, is_once_used, is_ordinary, stands_out, without_parts};
use crate::phrases::mention::{Mention, Naming};
use crate::phrases::names::cut::is_shouted;
use crate::phrases::places::{each_phrase, may_carry};
use crate::phrases::prose::Prose;
use crate::phrases::token::Token;
use crate::phrases::trie::PhraseId;
use crate::site::PageId;

/// Words that stand on more pages are special to none of them.
const MOST_RARE: usize = 50;

/// What words mean wherever they are written like that on a page.
#[derive(Default)]
struct Meaning {
    /// The pages that they name, with their shares of what the phrase names.
    named: Vec<(Naming, f64)>,
    /// How many pages the phrase names by itself.
    pages: u32,
    /// Whether they are a name of several words, whosever it is.
    is_whole: bool,
}

/// Words as they stand on a page.
#[derive(Clone, Copy)]
struct Words<'p> {
    source: PageId,
    prose: &'p Prose,
    phrase: PhraseId,
    tokens: &'p [Token],
    stands_out: bool,
}

impl<'p> Words<'p> {
    /// One after the other.
    fn shown(self) -> impl Iterator<Item = &'p str> + Clone {
        self.tokens.iter().map(move |token| self.prose.text().get(token.span().range()).unwrap_or_default())
    }
}

impl PhraseBook {
    /// What the prose of `source` mentions and could link, in the order of its words. O(tokens × longest phrase).
    pub fn mentions_by(&self, source: PageId) -> Vec<Mention> {
        let Some(prose) = self.prose.get(&source) else { return Vec::new() };
        let mut namings: FxHashMap<PhraseId, Vec<Naming>> = FxHashMap::default();
        let mut meanings: FxHashMap<(PhraseId, &str, bool), Meaning> = FxHashMap::default();
        let mut found = Vec::new();
        // Names of several words, this page's own among them.
        let mut wholes = Vec::new();
        each_phrase(&self.trie, prose, |phrase, first, len, is_linked| {
            if is_linked || !may_carry(prose, first, len) {
                return;
            }
            let shown = prose.text().get(prose.words(first, first + len).range()).unwrap_or_default();
            let stands_out = stands_out(prose, first);
            let meaning = meanings.entry((phrase, shown, stands_out)).or_insert_with(|| {
                let named = namings.entry(phrase).or_insert_with(|| self.named_by(phrase));
                let tokens = &prose.tokens()[first..first + len];
                self.meaning(named, Words { source, prose, phrase, tokens, stands_out })
            });
            if meaning.is_whole {
                wholes.push((first, first + len));
            }
            let named = meaning.pages;
            let mention = |(naming, share): &(Naming, f64)| Mention {
                source,
                phrase,
                naming: *naming,
                share: *share,
                named,
                first,
                len,
            };
            found.extend(meaning.named.iter().map(mention));
        });
        without_parts(found, &wholes)
    }

    /// What words of a page mean of all that their phrase may name. O(pages that it names).
    fn meaning(&self, named: &[Naming], words: Words<'_>) -> Meaning {
        let Words { source, phrase, stands_out, .. } = words;
        if self.phrases[phrase.0 as usize].is_shouted && !words.shown().all(is_shouted) {
            return Meaning::default();
        }
        let word = words.shown().next().unwrap_or_default();
        let is_single = words.tokens.len() == 1;
        let special = OnceCell::new();
        let is_special = || is_single && *special.get_or_init(|| self.is_special(words, word));
        let names = |naming: &&Naming| {
            naming.page != source
                && !(is_once_used(naming) && !is_single && self.tells_once(words))
                && (stands_out
                    || !is_ordinary(naming)
                    || is_special()
                    || !is_single && !self.is_thin(naming.page, phrase))
                && (!is_mere_word(naming) || is_special())
                && (!is_single
                    || naming.source.is_none()
                    || self.is_form_of(naming.page, phrase, word)
                    || self.is_often_a_link(phrase, word))
        };
        let total: f64 = named.iter().map(Naming::weight).sum();
        let is_own = |naming: &Naming| naming.source.is_some_and(|source| !source.is_guess());
        Meaning {
            named: named.iter().filter(names).take(MOST_NAMED).map(|n| (*n, n.weight() / total)).collect(),
            pages: u32::try_from(named.len()).unwrap_or(u32::MAX),
            is_whole: !is_single && named.iter().any(is_own),
        }
    }

    /// Whether a phrase stands on no more than one page in ten, and on few: what everybody speaks of names no page by the
    /// way. It bounds what is judged for such names, too.
    fn is_rare(&self, phrase: PhraseId) -> bool {
        let pages = self.standing(phrase).pages as usize;
        10 * pages <= self.prose.len() && pages <= MOST_RARE
    }

    /// Whether a word is special to a few pages: neither spoken of everywhere on the site nor common in the language. Where
    /// nothing is known of that, what is written as a name is.
    fn is_special(&self, Words { source, phrase, stands_out, .. }: Words<'_>, word: &str) -> bool {
        // In German every noun has a capital.
        let capitals_tell = self.facts.get(&source).is_none_or(|facts| facts.language != Language::German);
        let is_as_a_name = stands_out && capitals_tell;
        self.is_rare(phrase)
            && self.commonness(source, word).map_or(is_as_a_name, |grade| grade < CommonWords::EVERYDAY)
    }

    /// Whether one in ten of the places of a phrase is a link, and this form of it one somewhere: then it means what the
    /// others do.
    fn is_often_a_link(&self, phrase: PhraseId, form: &str) -> bool {
        let standing = self.standing(phrase);
        standing.linked > 1
            && 10 * standing.linked >= standing.linked + standing.stands
            && self.anchors.linked_as(phrase, form) > 0
    }

    /// Whether no more than one of some words of a page says something by itself, as in “this page”.
    fn tells_once(&self, words: Words<'_>) -> bool {
        let language = self.facts.get(&words.source).map(|facts| facts.language);
        let stop_words = language.and_then(|language| self.stop_words.get(&language));
        stop_words.is_some_and(|stop_words| stop_words.telling(words.shown()) < 2)
    }

    /// Whether a name of a page is a single word but for words that tell nothing, as “using it”.
    fn is_thin(&self, page: PageId, phrase: PhraseId) -> bool {
        let mut names = self.names(page).iter().filter(|name| name.phrase == phrase);
        names.any(|name| name.telling < 2)
    }

    /// Whether a word is a name of a page in about the same form: “eyepieces” for “Eyepiece”, but not “see” for “Seeing”,
    /// which only share a stem.
    fn is_form_of(&self, page: PageId, phrase: PhraseId, word: &str) -> bool {
        let word = folded(bare(word));
        let mut names = self.names(page).iter().filter(|name| name.phrase == phrase);
        names.any(|name| {
            let name = folded(&name.text);
            let mut forms = words(&name).map(|form| form.text);
            forms.any(|form| is_near(bare(form), &word))
        })
    }
}
