//! Finding the phrases of all rules in one pass over the words of a page.

use rustc_hash::FxHashMap;

use super::mention::Mention;
use super::phrase::{Matching, Phrase};
use super::rule_set::RuleSet;
use super::vocabulary::{PhraseAt, Vocabulary};
use crate::document::TextSpan;
use crate::language::{Keeps, Language, Stemmer, Word, folded, folded_but, words};
use crate::phrases::TermId;
use crate::site::Target;

/// Words of one language whose symbols are remembered, at most.
const MOST_KNOWN: usize = 200_000;

/// A word of a page.
#[derive(Debug, Clone, Copy)]
pub(super) struct FoundWord {
    pub span: TextSpan,
    joined: bool,
    symbols: Symbols,
}

/// What a word is to phrases that stand for themselves, and to those that stand for other forms too.
#[derive(Debug, Clone, Copy)]
struct Symbols {
    exact: TermId,
    form: TermId,
}

/// Reads pages for one set of rules, one after the other: it remembers the words that it met. Each thread has its own.
/// Memory: O(different words).
pub struct Reader<'r, T = Target> {
    rules: &'r RuleSet<T>,
    known: FxHashMap<Language, Known<'r>>,
}

struct Known<'r> {
    stemmer: Stemmer,
    forms: &'r Vocabulary,
    words: FxHashMap<Box<str>, Symbols>,
}

impl<'r, T> Reader<'r, T> {
    /// O(1).
    pub fn new(rules: &'r RuleSet<T>) -> Self {
        Self { rules, known: FxHashMap::default() }
    }

    /// The rules that it looks for.
    pub const fn rules(&self) -> &'r RuleSet<T> {
        self.rules
    }

    /// The phrases in a block of text, in the order of their words. O(n + phrases).
    pub fn mentions(&mut self, text: &str, language: Language) -> Vec<Mention> {
        let (mut found, mut mentions) = (Vec::new(), Vec::new());
        self.read(text, TextSpan::new(0, text.len()), language, &mut found, &mut mentions);
        mentions
    }

    /// Adds the words of a block, and the phrases in it, to those before.
    pub(super) fn read(
        &mut self,
        text: &str,
        block: TextSpan,
        language: Language,
        found: &mut Vec<FoundWord>,
        mentions: &mut Vec<Mention>,
    ) {
        let rules = self.rules;
        let known = self.known.entry(language).or_insert_with(|| Known {
            stemmer: Stemmer::new(language),
            forms: rules.forms(language),
            words: FxHashMap::default(),
        });
        let shown = text.get(block.range()).unwrap_or_default();
        let before = found.len();
        found.extend(words(shown).map(|word| FoundWord {
            span: TextSpan::new(block.start + word.span.start, block.start + word.span.end),
            joined: word.joined,
            symbols: known.symbols(rules, word.text),
        }));
        let first_mention = mentions.len();
        let row = &found[before..];
        let mut tell = |(rule, phrase): PhraseAt, at: usize, length: usize| {
            let words = TextSpan::new(row[at].span.start, row[at + length - 1].span.end);
            mentions.push(Mention { rule, phrase, words, first: before + at, end: before + at + length });
        };
        let ways = [(rules.exact(), true), (known.forms, false)];
        for (at, (vocabulary, is_exact)) in (0..row.len()).flat_map(|at| ways.map(|way| (at, way))) {
            let symbol = |word: &FoundWord| if is_exact { word.symbols.exact } else { word.symbols.form };
            let joined =
                |distance: usize| row.get(at + distance).filter(|word| distance == 0 || word.joined).map(symbol);
            vocabulary.phrases_at(joined, |phrase, length| {
                let taken = &row[at..at + length];
                if known.are_meant(rules, phrase, taken.iter().map(|word| &text[word.span.range()])) {
                    tell(phrase, at, length);
                }
            });
            for gapped in vocabulary.gapped_at(symbol(&row[at])) {
                let is_meant = |distance: usize, number: usize| {
                    row.get(at + distance)
                        .is_some_and(|word| known.is_meant(rules, gapped.phrase, number, &text[word.span.range()]))
                };
                let length = gapped.length(|distance, number, term| {
                    row.get(at + distance).map(symbol) == Some(term)
                        && is_one_piece(text, &row[at..=at + distance])
                        && is_meant(distance, number)
                });
                if let Some(length) = length.filter(|_| is_meant(0, 0)) {
                    tell(gapped.phrase, at, length);
                }
            }
        }
        for (rule, number) in rules.expressions_in(shown) {
            let Phrase::Expression(expression) = &rules.rules()[rule].phrases[number] else { continue };
            for place in expression.find_iter(shown) {
                let trimmed = place.as_str().trim();
                let start = place.start() + (place.as_str().len() - place.as_str().trim_start().len());
                let words = TextSpan::new(block.start + start, block.start + start + trimmed.len());
                let first = before + row.partition_point(|word| word.span.end <= words.start);
                let end = before + row.partition_point(|word| word.span.start < words.end);
                if first < end {
                    mentions.push(Mention { rule, phrase: number, words, first, end });
                }
            }
        }
        mentions[first_mention..].sort_unstable_by_key(|mention| (mention.words, mention.rule, mention.phrase));
    }
}

impl Known<'_> {
    fn symbols<T>(&mut self, rules: &RuleSet<T>, word: &str) -> Symbols {
        if let Some(symbols) = self.words.get(word) {
            return *symbols;
        }
        let symbols =
            Symbols { exact: rules.exact().symbol(&folded(word)), form: self.forms.symbol(&self.stemmer.stem(word)) };
        if self.words.len() < MOST_KNOWN {
            self.words.insert(word.into(), symbols);
        }
        symbols
    }

    /// Whether words that are alike are also what the rule means.
    fn are_meant<'t, T>(
        &self,
        rules: &RuleSet<T>,
        (rule, phrase): PhraseAt,
        mut taken: impl Iterator<Item = &'t str>,
    ) -> bool {
        let rule = &rules.rules()[rule];
        let Phrase::Words(phrase) = &rule.phrases[phrase] else { return true };
        let is_same =
            |wanted: Word<'_>| taken.next().is_some_and(|word| self.is_same(&rule.matching, wanted.text, word));
        !rule.matching.is_choosy() || words(phrase).all(is_same)
    }

    /// The same for one word of a phrase.
    fn is_meant<T>(&self, rules: &RuleSet<T>, (rule, phrase): PhraseAt, number: usize, word: &str) -> bool {
        let rule = &rules.rules()[rule];
        let Phrase::Words(phrase) = &rule.phrases[phrase] else { return true };
        let wanted = || words(phrase).nth(number);
        !rule.matching.is_choosy() || wanted().is_some_and(|wanted| self.is_same(&rule.matching, wanted.text, word))
    }

    fn is_same(&self, matching: &Matching, wanted: &str, word: &str) -> bool {
        let Matching { forms, keeps_case, keeps_accents, .. } = *matching;
        if !forms {
            let keeps = Keeps { case: keeps_case, accents: keeps_accents };
            return folded_but(wanted, keeps) == folded_but(word, keeps);
        }
        // Forms differ at their ends.
        let is_same_case = || {
            let both = wanted.chars().zip(word.chars());
            let mut alike = both.take_while(|(a, b)| a.to_lowercase().eq(b.to_lowercase()));
            alike.all(|(a, b)| a == b)
        };
        (!keeps_case || is_same_case())
            && (!keeps_accents || self.stemmer.stem_with_accents(wanted) == self.stemmer.stem_with_accents(word))
    }
}

/// Whether no more than commas stands between words that follow each other.
fn is_one_piece(text: &str, row: &[FoundWord]) -> bool {
    row.windows(2).all(|pair| {
        let between = &text[pair[0].span.end..pair[1].span.start];
        pair[1].joined && !between.contains('.') || between.trim() == ","
    })
}
