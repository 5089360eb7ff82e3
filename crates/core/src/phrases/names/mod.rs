//! The names of a page: its title without the site's name, its headings, what it defines, its address, and the parts
//! of all these.

pub(super) mod cut;
mod origin;
mod outline;

use std::sync::Arc;

use rustc_hash::FxHashSet;

use self::cut::{
    before_call, ends_in_brackets, ends_in_version, is_compound, is_cut_from_a_word, is_shouted, slug, spaced,
    without_number,
};
use self::origin::origins;
use self::outline::Spot;
pub use self::outline::{NamedPlace, Outline};
use super::abbreviations::Abbreviations;
use super::lexicon::{Lexicon, TermId};
use super::title_ends::{TitleEnds, own_title};
use super::trie::{PhraseId, Trie};
use crate::document::TextSpan;
use crate::document::title::is_dotted_number;
use crate::language::{Language, Stemmer, Stems, StopWords, Word, folded, is_ideograph, words};
use crate::site::PageFacts;

/// Longer names are sentences, and sentences are not repeated word by word elsewhere.
pub(super) const MOST_WORDS: usize = 8;

/// The same for characters that stand for words, or for parts of them.
pub(super) const MOST_IDEOGRAPHS: usize = 20;

/// Whether a row of words is short enough for a name or the words of a link. What stands between ideographs, such as kana,
/// is cut into characters, too.
pub(super) fn is_short_enough(found: &[&str]) -> bool {
    let ideographs = found.iter().filter(|word| is_ideograph(word)).count();
    let most = if ideographs > 0 { MOST_IDEOGRAPHS } else { MOST_WORDS };
    (1..=most).contains(&found.len())
}

/// Longer titles have too many parts.
const MOST_STRETCHED: usize = 6;

/// Shorter words of a title do not name its page alone.
const LEAST_LETTERS: usize = 3;

/// Where a name comes from, the most telling first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum NameSource {
    /// A phrase by which whoever owns the page wants it to be found.
    Listed,
    Title,
    Heading,
    /// A part of the title or of the main heading, such as what stands before a dash.
    Part,
    /// A heading of a section.
    Section,
    /// A term that the page defines.
    Term,
    /// The last part of the address.
    Slug,
    /// A phrase of which the page speaks again and again.
    Telling,
    /// One of the words of a short title.
    Word,
}

impl NameSource {
    /// Whether it is about the page as a whole, so that many pages with the same name are ambiguous and not just alike.
    pub const fn is_own(self) -> bool {
        matches!(self, Self::Listed | Self::Title | Self::Heading)
    }

    /// Whether the page nowhere says that it is called so; it may be, where nothing else is.
    pub const fn is_guess(self) -> bool {
        matches!(self, Self::Telling | Self::Word)
    }
}

/// A phrase that names a page.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Name {
    pub phrase: PhraseId,
    /// As it is written where it comes from.
    pub text: Box<str>,
    pub source: NameSource,
    /// How many of the words say something by themselves, and not in capitals alone.
    pub telling: u8,
    /// The place on the page that has the name, when it is not the page as a whole.
    pub place: Option<Arc<NamedPlace>>,
}

/// A language in which the names of a page may be written.
#[derive(Clone, Copy)]
pub(super) struct Tongue<'n> {
    pub language: Language,
    pub stop_words: &'n StopWords,
}

/// What makes names of what is written about a page.
pub(super) struct Namer<'n> {
    pub site_name: Option<&'n str>,
    pub ends: &'n TitleEnds,
    /// The page's own first.
    pub tongues: &'n [Tongue<'n>],
    pub abbreviations: &'n Abbreviations,
    pub stems: &'n Stems,
    pub lexicon: &'n mut Lexicon,
    pub trie: &'n mut Trie,
}

impl Namer<'_> {
    /// The names of a page with their terms, longest first, no phrase twice: of two sources the more telling one counts.
    ///
    /// A name of nothing but stop words and numbers, of a single character, or of more than eight words names nothing. Each
    /// is known as its words are in all of the languages.
    pub fn names_of(&mut self, page: &PageFacts, listed: &[String], outline: &Outline) -> Vec<(Name, Vec<TermId>)> {
        let stemmers = self.tongues.iter().map(|tongue| Stemmer::new(tongue.language)).collect();
        let title = own_title(&page.title, self.site_name);
        let read = spaced(title);
        let heading = page.heading.as_deref();
        let mut names = Names { namer: self, stemmers, found: Vec::new(), known: FxHashSet::default(), place: None };
        listed.iter().for_each(|phrase| names.add(phrase, NameSource::Listed));
        names.add(without_number(title), NameSource::Title);
        read.iter().for_each(|title| names.add(title, NameSource::Title));
        let title = read.as_deref().unwrap_or(title);
        heading.into_iter().for_each(|heading| names.add(without_number(heading), NameSource::Heading));
        let wholes = [Some((title, NameSource::Title)), heading.map(|heading| (heading, NameSource::Heading))];
        for (whole, source) in wholes.into_iter().flatten() {
            let whole = without_number(whole);
            before_call(whole).into_iter().for_each(|name| names.add(name, source));
            names.add_parts(whole, NameSource::Part);
            let kindless = names.namer.ends.without_kind(whole).map(str::to_owned);
            if let Some(kindless) = &kindless {
                names.add_bare(kindless, NameSource::Part);
                names.add_last_piece(kindless, NameSource::Part);
            }
            names.add_stretches(whole);
            names.add_code(whole);
            names.add_version(whole);
        }
        let other = |(name, _): &(Name, _)| names.namer.abbreviations.other_form(&name.text);
        let others: Vec<String> = names.found.iter().filter_map(other).collect();
        others.iter().for_each(|other| names.add(other, NameSource::Part));
        for section in &outline.sections {
            names.place.clone_from(&section.place);
            names.add(without_number(&section.text), NameSource::Section);
            names.add_parts(without_number(&section.text), NameSource::Section);
            names.add_id(section, NameSource::Section);
        }
        for term in &outline.terms {
            names.place.clone_from(&term.place);
            names.add(&term.text, NameSource::Term);
            names.add_parts(&term.text, NameSource::Term);
            names.add_id(term, NameSource::Term);
        }
        names.place = None;
        let slug = slug(page);
        names.add(&slug.replace(['-', '_', '+', '.'], " "), NameSource::Slug);
        if is_compound(&slug) {
            names.add(&slug, NameSource::Slug);
        }
        wholes.into_iter().flatten().for_each(|(whole, _)| names.add_words(without_number(whole)));
        outline.telling.iter().for_each(|phrase| names.add(phrase, NameSource::Telling));
        let mut found = names.found;
        found.sort_by_key(|(_, terms)| std::cmp::Reverse(terms.len()));
        found
    }

    /// Whether a word says something by itself in every language.
    fn tells(&self, word: &str) -> bool {
        self.tongues.iter().all(|tongue| tongue.stop_words.tells(word))
    }

    /// How many words say something by themselves, in the language in which the fewest do.
    fn telling(&self, words: &[&str]) -> usize {
        let telling = self.tongues.iter().map(|tongue| tongue.stop_words.telling(words.iter().copied()));
        telling.min().unwrap_or_default()
    }
}

struct Names<'n, 'l> {
    namer: &'n mut Namer<'l>,
    /// Of the languages, in their order.
    stemmers: Vec<Stemmer>,
    found: Vec<(Name, Vec<TermId>)>,
    known: FxHashSet<PhraseId>,
    /// Of the place whose names are added.
    place: Option<Arc<NamedPlace>>,
}

impl Names<'_, '_> {
    fn add(&mut self, text: &str, source: NameSource) {
        let text = text.trim();
        let found: Vec<_> = words(text).map(|word| word.text).take(MOST_IDEOGRAPHS + 1).collect();
        // Of a name of code and of a long number every piece tells; that of a version makes the word before it a name.
        let is_whole = source.is_own() && is_compound(text) || is_dotted_number(text, 3);
        let more = if is_whole { found.len() } else { usize::from(ends_in_version(text)) };
        let telling = self.namer.telling(&found) + more;
        // A command may be called DO. Words in capitals name it, and no others.
        let is_shouted = source.is_own() && found.iter().all(|word| is_shouted(word));
        if !is_short_enough(&found) || !(telling > 0 || is_shouted) {
            return;
        }
        for stemmer in &self.stemmers {
            let Namer { stems, lexicon, trie, .. } = &mut *self.namer;
            let term = |word: &&str| stems.stem_to(stemmer, word, |stem| lexicon.intern(stem));
            let terms: Vec<_> = found.iter().map(term).collect();
            let (phrase, _) = trie.intern(&terms);
            if self.known.insert(phrase) {
                let (text, place, telling) = (text.into(), self.place.clone(), telling.try_into().unwrap_or(u8::MAX));
                self.found.push((Name { phrase, text, source, telling, place }, terms));
            }
        }
    }

    /// What stands before and after the first mark that parts a name, without the stop words at its ends; before brackets
    /// at the end, and in them; and [`Names::add_last_piece`].
    fn add_parts(&mut self, text: &str, source: NameSource) {
        let parting = |(at, c): (usize, char)| {
            let is_mark =
                matches!(c, '(' | '[' | '{' | ',' | ';' | ':' | '=' | '<' | '¶' | '–' | '—' | '|' | '/' | '：' | '（');
            let is_dash = c == '-' && text[..at].ends_with(' ');
            (is_mark && !text[at..].starts_with("::") && !text[..at].ends_with(':') || is_dash).then_some(at)
        };
        let at = text.char_indices().find_map(parting);
        if let Some(at) = at {
            self.add(&text[..at], source);
            self.add_trimmed(&text[..at], source);
            let rest = text[at..].trim_start_matches(|c: char| !c.is_alphanumeric());
            let end = rest.find([')', ']', '}', ',', ';', '>', '）']).unwrap_or(rest.len());
            self.add(&rest[..end], source);
            before_call(rest).into_iter().for_each(|name| self.add(name, source));
        } else {
            self.add_trimmed(text, source);
        }
        if let Some((before, inside)) = ends_in_brackets(text) {
            self.add(before, source);
            self.add(inside, source);
        }
        self.add_last_piece(text, source);
    }

    /// Of a name without spaces, such as `os.path`, its last piece.
    fn add_last_piece(&mut self, text: &str, source: NameSource) {
        let text = text.trim_end_matches("()");
        if let Some((_, last)) = text.rsplit_once(['.', ':', '/', '#'])
            && !text.contains(char::is_whitespace)
        {
            self.add(last, source);
        }
    }

    /// An id that is the full name of what stands there, such as `os.path.join` where the text says “function join()”; and
    /// its last piece.
    fn add_id(&mut self, spot: &Spot, source: NameSource) {
        let Some(id) = spot.place.as_ref().map(|place| place.id.as_ref()) else { return };
        if let Some((_, last)) = id.rsplit_once('.').or_else(|| id.rsplit_once("::"))
            && last.chars().count() > 1
            && words(&spot.text).any(|word| word.text == last)
        {
            self.add(id, source);
            self.add(last, source);
        }
    }

    /// Two words and more of a short title, from one that tells to one that does: “List of regular expressions” is about
    /// “regular expressions”. Not a place or an owner alone.
    fn add_stretches(&mut self, text: &str) {
        let found: Vec<_> = words(text).take(MOST_STRETCHED + 1).collect();
        if !(3..=MOST_STRETCHED).contains(&found.len()) {
            return;
        }
        let tells: Vec<_> = found.iter().map(|word| self.namer.tells(word.text)).collect();
        let origins = self.origins(text);
        for first in (0..found.len()).filter(|at| tells[*at]) {
            for last in (first + 1..found.len()).filter(|at| tells[*at]) {
                let (start, end) = (found[first].span.start, found[last].span.end);
                let is_origin = origins.iter().any(|origin| origin.start <= start && end <= origin.end);
                if !is_origin
                    && found[first + 1..=last].iter().all(|word| word.joined)
                    && !is_cut_from_a_word(text, start, end)
                {
                    self.add(&text[start..end], NameSource::Part);
                }
            }
        }
    }

    fn origins(&self, title: &str) -> Vec<TextSpan> {
        origins(title, self.namer.tongues.iter().map(|tongue| tongue.language))
    }

    /// The only name of code in a short title: “Module mod_sql” is about `mod_sql`.
    fn add_code(&mut self, text: &str) {
        let mut pieces = text.split_whitespace().map(|piece| piece.trim_end_matches([',', '.', ':', ';']));
        let mut code = pieces.by_ref().take(MOST_STRETCHED).filter(|piece| is_compound(piece));
        if let (Some(only), None) = (code.next(), code.next())
            && pieces.next().is_none()
        {
            self.add(only, NameSource::Part);
        }
    }

    /// Each word of a short title but those of the site's name, of places and of owners: nothing but “Demote outline level”
    /// may be about “demote”.
    fn add_words(&mut self, text: &str) {
        let site = self.namer.site_name.unwrap_or_default();
        let found: Vec<_> = words(text).take(MOST_STRETCHED + 1).collect();
        if (2..=MOST_STRETCHED).contains(&found.len()) {
            let origins = self.origins(text);
            let is_origin = |word: &Word<'_>| {
                origins.iter().any(|origin| origin.start <= word.span.start && word.span.end <= origin.end)
            };
            let is_of_page = |word: &Word<'_>| !is_origin(word) && words(site).all(|of_site| of_site.text != word.text);
            let long = found.into_iter().filter(|word| word.text.chars().count() >= LEAST_LETTERS);
            long.filter(is_of_page).for_each(|word| self.add(word.text, NameSource::Word));
        }
    }

    /// The number of a version, with the word before it and, where it has three parts and more, alone: “Release 3.6.1”.
    fn add_version(&mut self, text: &str) {
        let pieces: Vec<&str> = text.split_whitespace().collect();
        let Some(at) = pieces.iter().position(|piece| is_dotted_number(piece, 2)) else { return };
        if let Some(word) = at.checked_sub(1).and_then(|before| pieces.get(before))
            && word.ends_with(char::is_alphabetic)
            && self.namer.tells(word)
        {
            self.add(&format!("{word} {}", pieces[at]), NameSource::Part);
        }
        self.add(pieces[at], NameSource::Part);
    }

    /// Without stop words at the ends, or as it is where there are none.
    fn add_bare(&mut self, text: &str, source: NameSource) {
        let before = self.found.len();
        self.add_trimmed(text, source);
        if self.found.len() == before {
            self.add(text, source);
        }
    }

    /// Without stop words at the ends: “How to clean a mirror” is about “clean a mirror”.
    fn add_trimmed(&mut self, text: &str, source: NameSource) {
        let found: Vec<_> = words(text).take(MOST_IDEOGRAPHS + 1).collect();
        let tells = |word: &Word<'_>| {
            let folded = folded(word.text);
            !self.namer.tongues.iter().any(|tongue| tongue.stop_words.holds(&folded))
        };
        let Some(first) = found.iter().position(tells) else { return };
        let last = found.iter().rposition(tells).unwrap_or(first);
        if first > 0 || last + 1 < found.len() {
            self.add(&text[found[first].span.start..found[last].span.end], source);
        }
    }
}
