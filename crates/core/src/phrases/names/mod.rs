//! The names of a page: its title without the site's name, its headings, what it defines, its address, and the parts
//! of all these.

pub(super) mod cut;
mod gather;
mod namer;
mod origin;
mod outline;

use rustc_hash::FxHashSet;

use self::cut::{before_call, is_compound, slug, spaced, without_number};
use self::gather::Names;
pub(super) use self::namer::{MOST_IDEOGRAPHS, Namer, Tongue, is_short_enough};
pub use self::namer::{Name, NameSource};
pub use self::outline::{NamedPlace, Outline};
use super::lexicon::TermId;
use super::title_ends::own_title;
use crate::language::Stemmer;
use crate::site::PageFacts;

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
}
