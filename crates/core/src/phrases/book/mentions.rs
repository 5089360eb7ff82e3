//! What the prose of a page mentions.

use rustc_hash::FxHashMap;

use super::PhraseBook;
use super::naming::MOST_NAMED;
use crate::language::{CommonWords, Language, fold, words};
use crate::phrases::anchors::bare;
use crate::phrases::meaning::{is_mere_word, is_near, is_once_used, is_ordinary, stands_out, without_parts};
use crate::phrases::mention::{Mention, Naming};
use crate::phrases::names::is_shouted;
use crate::phrases::places::{each_phrase, may_carry};
use crate::phrases::prose::{Prose, Token};
use crate::phrases::trie::PhraseId;
use crate::site::PageId;

/// Words that stand on more pages are special to none of them.
const MOST_RARE: usize = 50;

impl PhraseBook {
    /// What the prose of `source` mentions and could link, in the order of its words. O(tokens × longest phrase).
    pub fn mentions_by(&self, source: PageId) -> Vec<Mention> {
        let Some(prose) = self.prose.get(&source) else { return Vec::new() };
        let mut known: FxHashMap<PhraseId, Vec<Naming>> = FxHashMap::default();
        let mut forms: FxHashMap<(PageId, &str), bool> = FxHashMap::default();
        let mut thin: FxHashMap<(PageId, PhraseId), bool> = FxHashMap::default();
        let mut special: FxHashMap<(PhraseId, &str, bool), bool> = FxHashMap::default();
        // In German every noun has one.
        let capitals_tell = self.facts.get(&source).is_none_or(|facts| facts.language != Language::German);
        let mut found = Vec::new();
        // Names of several words, whosever they are, this page's own among them.
        let mut wholes = Vec::new();
        each_phrase(&self.trie, prose, |phrase, first, len, is_linked| {
            if is_linked || !may_carry(prose, first, len) {
                return;
            }
            let shown = |token: &Token| prose.text().get(token.span().range()).unwrap_or_default();
            if self.phrases[phrase.0 as usize].is_shouted
                && !prose.tokens()[first..first + len].iter().all(|token| is_shouted(shown(token)))
            {
                return;
            }
            let named = known.entry(phrase).or_insert_with(|| self.named_by(phrase));
            let total: f64 = named.iter().map(Naming::weight).sum();
            let pages = u32::try_from(named.len()).unwrap_or(u32::MAX);
            if len > 1 && named.iter().any(|naming| naming.source.is_some_and(|source| !source.is_guess())) {
                wholes.push((first, first + len));
            }
            let stands_out = stands_out(prose, first);
            let mut is_thin = |page| *thin.entry((page, phrase)).or_insert_with(|| self.is_thin(page, phrase));
            let word = shown(&prose.tokens()[first]);
            let mut is_form = |page| *forms.entry((page, word)).or_insert_with(|| self.is_form_of(page, phrase, word));
            let mut is_special = || {
                let is_special = || self.is_special(source, phrase, word, stands_out && capitals_tell);
                len == 1 && *special.entry((phrase, word, stands_out)).or_insert_with(is_special)
            };
            let names = |naming: &&Naming| {
                naming.page != source
                    && !(is_once_used(naming) && len > 1 && self.tells_once(source, prose, first, len))
                    && (stands_out || !is_ordinary(naming) || is_special() || len > 1 && !is_thin(naming.page))
                    && (!is_mere_word(naming) || is_special())
                    && (len > 1
                        || naming.source.is_none()
                        || is_form(naming.page)
                        || self.is_often_a_link(phrase, word))
            };
            for naming in named.iter().filter(names).take(MOST_NAMED) {
                let share = naming.weight() / total;
                found.push(Mention { source, phrase, naming: *naming, share, named: pages, first, len });
            }
        });
        without_parts(found, &wholes)
    }

    /// Whether a phrase stands on no more than one page in ten, and on few: what everybody speaks of names no page by the
    /// way. It bounds what is judged for such names, too.
    fn is_rare(&self, phrase: PhraseId) -> bool {
        let pages = self.standing(phrase).pages as usize;
        10 * pages <= self.prose.len() && pages <= MOST_RARE
    }

    /// Whether a word is special to a few pages: neither spoken of everywhere on the site nor common in the language. Where
    /// nothing is known of that, what is written as a name is.
    fn is_special(&self, page: PageId, phrase: PhraseId, word: &str, is_as_a_name: bool) -> bool {
        self.is_rare(phrase) && self.commonness(page, word).map_or(is_as_a_name, |grade| grade < CommonWords::EVERYDAY)
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
    fn tells_once(&self, page: PageId, prose: &Prose, first: usize, len: usize) -> bool {
        let language = self.facts.get(&page).map(|facts| facts.language);
        let Some(stop_words) = language.and_then(|language| self.stop_words.get(&language)) else { return false };
        let shown = |token: &Token| prose.text().get(token.span().range()).unwrap_or_default();
        stop_words.telling(prose.tokens()[first..first + len].iter().map(shown)) < 2
    }

    /// Whether a name of a page is a single word but for words that tell nothing, as “using it”.
    fn is_thin(&self, page: PageId, phrase: PhraseId) -> bool {
        let mut names = self.names(page).iter().filter(|name| name.phrase == phrase);
        names.any(|name| name.telling < 2)
    }

    /// Whether a word is a name of a page in about the same form: “eyepieces” for “Eyepiece”, but not “see” for “Seeing”,
    /// which only share a stem.
    fn is_form_of(&self, page: PageId, phrase: PhraseId, word: &str) -> bool {
        let word = fold(bare(word));
        let mut names = self.names(page).iter().filter(|name| name.phrase == phrase);
        names.any(|name| {
            let name = fold(&name.text);
            let mut forms = words(&name).map(|form| form.text);
            forms.any(|form| is_near(bare(form), &word))
        })
    }
}
