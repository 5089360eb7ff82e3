//! How good a name words are.

use crate::phrases::{Mention, NameSource};

/// From no name of its own to a title.
pub(super) const GRADES: usize = 9;

/// How good a name the words of a mention are, from 0 to 8: those of a link to the target stand between its headings and
/// parts of its title.
pub(super) const fn grade(mention: &Mention) -> usize {
    let own = match mention.naming.source {
        Some(NameSource::Listed | NameSource::Title) => 8,
        Some(NameSource::Heading) => 7,
        Some(NameSource::Part) => 6,
        Some(NameSource::Section) => 4,
        Some(NameSource::Term) => 3,
        Some(NameSource::Slug) => 2,
        Some(NameSource::Telling | NameSource::Word) => 1,
        None => 0,
    };
    if mention.naming.anchors > 0 && own < 5 { 5 } else { own }
}
