//! The language of a page.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use crate::document::{Block, Document, Region};
use crate::language::{Language, recognise};

/// More text tells no more about its language.
const ENOUGH: usize = 4000;

/// The language of a page: as its `html` element says, or the elements around most of its prose; else the one by which its
/// longest blocks are recognised, for menus and labels may be in any. `None` when that is not clear.
///
/// O(blocks × log blocks), and what recognising costs.
pub fn language_of(document: &Document) -> Option<Language> {
    if let Some(tag) = document.head().language.as_deref().filter(|tag| !tag.trim().is_empty()) {
        return Some(Language::from_tag(tag));
    }
    let is_prose = |block: &&Block| block.region == Region::Content && block.kind.is_prose();
    let mut prose: Vec<&Block> = document.blocks().iter().filter(is_prose).collect();
    let mut letters: BTreeMap<Option<&str>, usize> = BTreeMap::new();
    for block in &prose {
        *letters.entry(document.language_of(block)).or_default() += block.text.len();
    }
    if let Some((Some(tag), _)) = letters.into_iter().max_by_key(|(_, letters)| *letters) {
        return Some(Language::from_tag(tag));
    }
    prose.sort_by_key(|block| Reverse(block.text.len()));
    let mut sample = String::new();
    for block in prose {
        if sample.len() >= ENOUGH {
            break;
        }
        sample.push_str(document.text().slice(block.text).trim());
        sample.push('\n');
    }
    recognise(if sample.is_empty() { document.text().as_str() } else { &sample })
}

#[cfg(test)]
mod tests {
    use super::*;

    const GERMAN: &str = "Wer den Mond durch ein Fernrohr betrachtet, sieht an der Grenze von Licht und Schatten die \
        meisten Einzelheiten, weil die Berge dort lange Schatten werfen.";
    const ENGLISH: &str = "Whoever looks at the moon through a telescope sees most where light and shadow meet, because \
        mountains throw long shadows there.";

    fn language(html: &str) -> Option<Language> {
        language_of(&Document::from_html(html))
    }

    #[test]
    fn a_page_tells_its_language_by_its_own_word_or_by_its_prose() {
        assert_eq!(language(&format!("<html lang=de><p>{ENGLISH}</p>")), Some(Language::German));
        let menu = "<ul><li><a href=/d>Download the book</a><li>Small and fast<li>Choose any three of these</ul>";
        assert_eq!(language(&format!("<html lang=''>{menu}<p>{GERMAN}</p>")), Some(Language::German));
        assert_eq!(language(&format!("{menu}<div lang=fr><p>{GERMAN}</p></div><p>Short</p>")), Some(Language::French));
        assert_eq!(
            language(&format!("<p>{ENGLISH}</p><blockquote lang=de>Kurz</blockquote>")),
            Some(Language::English)
        );
        assert_eq!(language("<p>x = y + 1;</p>"), None);
        assert_eq!(language(""), None);
    }

    #[test]
    fn tags_are_read_as_they_are_written() {
        for language in [Language::German, Language::Norwegian, Language::Tamil, Language::Other] {
            assert_eq!(Language::from_tag(language.tag()), language);
        }
    }
}
