//! The ways in which what is written about a page becomes names.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::cut::{before_call, ends_in_brackets, ends_in_version, is_compound, is_cut_from_a_word, is_shouted};
use super::namer::{MOST_IDEOGRAPHS, Name, NameSource, Namer, is_short_enough};
use super::origin::origins;
use super::outline::{NamedPlace, Spot};
use crate::document::TextSpan;
use crate::document::title::is_dotted_number;
use crate::language::{Stemmer, Word, folded, words};
use crate::phrases::lexicon::TermId;
use crate::phrases::trie::PhraseId;

/// Longer titles have too many parts.
const MOST_STRETCHED: usize = 6;

/// Shorter words of a title do not name its page alone.
const LEAST_LETTERS: usize = 3;

/// The names of one page as they gather.
pub(super) struct Names<'n, 'l> {
    pub namer: &'n mut Namer<'l>,
    /// Of the languages, in their order.
    pub stemmers: Vec<Stemmer>,
    pub found: Vec<(Name, Vec<TermId>)>,
    pub known: FxHashSet<PhraseId>,
    /// Of the place whose names are added.
    pub place: Option<Arc<NamedPlace>>,
}

impl Names<'_, '_> {
    /// Adds a name, where these words can be one and it is not there yet.
    pub fn add(&mut self, text: &str, source: NameSource) {
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
    pub fn add_parts(&mut self, text: &str, source: NameSource) {
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
    pub fn add_last_piece(&mut self, text: &str, source: NameSource) {
        let text = text.trim_end_matches("()");
        if let Some((_, last)) = text.rsplit_once(['.', ':', '/', '#'])
            && !text.contains(char::is_whitespace)
        {
            self.add(last, source);
        }
    }

    /// An id that is the full name of what stands there, such as `os.path.join` where the text says “function join()”; and
    /// its last piece.
    pub fn add_id(&mut self, spot: &Spot, source: NameSource) {
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
    pub fn add_stretches(&mut self, text: &str) {
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
    pub fn add_code(&mut self, text: &str) {
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
    pub fn add_words(&mut self, text: &str) {
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
    pub fn add_version(&mut self, text: &str) {
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
    pub fn add_bare(&mut self, text: &str, source: NameSource) {
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
