//! What titles and headings consist of beside words: numbers of chapters and versions, names of code.

use percent_encoding::percent_decode_str;

use crate::document::title::is_dotted_number;
use crate::site::PageFacts;

/// Whether a text is one name of code made of several words, none of which need say anything: `d.his`, `a::is`.
pub(super) fn is_compound(text: &str) -> bool {
    let is_joint = |c: char| matches!(c, '.' | '_' | ':');
    let has_joint = text.trim_matches(is_joint).contains(is_joint);
    has_joint && text.chars().all(|c| c.is_alphanumeric() || is_joint(c)) && text.contains(char::is_alphabetic)
}

/// Whether the last word is the number of a version: with it a common word is a name, as in “Release 3.6”.
pub(super) fn ends_in_version(text: &str) -> bool {
    text.rsplit_once(char::is_whitespace).is_some_and(|(_, last)| is_dotted_number(last, 2))
}

/// Whether a stretch of text is a piece of a compound such as “git-rev-list”.
pub(super) fn is_cut_from_a_word(text: &str, start: usize, end: usize) -> bool {
    let is_joint = |c: char| matches!(c, '-' | '_' | '.' | '/' | ':' | '@');
    let is_inside = |c: char| !c.is_whitespace();
    let before = text[..start].ends_with(is_joint) && text[..start].trim_end_matches(is_joint).ends_with(is_inside);
    let after = text[end..].starts_with(is_joint) && text[end..].trim_start_matches(is_joint).starts_with(is_inside);
    before || after
}

/// What is called in titles such as “random()”, “git-log(1)” and “listen(2) Manual Page”: the name itself.
pub(super) fn before_call(title: &str) -> Option<&str> {
    let (name, _) = title.split_once('(')?;
    (name.ends_with(char::is_alphanumeric) && !name.contains(char::is_whitespace)).then_some(name)
}

/// A title without the number of its chapter or section, as “Chapter 4. Seeing”, “A.2. Seeing” or “第4章 Seeing”; not
/// without what may be a name, as “X.509 certificates”.
pub(in crate::phrases) fn without_number(title: &str) -> &str {
    let title = title.trim();
    let mut rest = title;
    for _ in 0..2 {
        let (word, after) = rest.split_once(char::is_whitespace).unwrap_or((rest, ""));
        let after = after.trim_start();
        if after.is_empty() {
            return title;
        }
        let is_number = word.contains(|c: char| c.is_ascii_digit()) || word.chars().count() <= 2 || is_roman(word);
        let is_numbering = is_number
            && word.ends_with(['.', ':', ')', '章', '節'])
            && word.chars().all(|c| c.is_ascii_digit() || ".:)第章節".contains(c) || c.is_ascii_uppercase());
        let is_plain_number = word.split('.').all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit()));
        if is_numbering || (is_plain_number && word.len() < title.len()) {
            return after;
        }
        // A word such as “Chapter” may come first, in any language.
        if !word.chars().all(char::is_alphabetic) || word.chars().count() > 12 {
            return title;
        }
        rest = after;
    }
    title
}

/// Whether a word is written in capitals throughout.
pub(in crate::phrases) fn is_shouted(word: &str) -> bool {
    word.chars().count() > 1 && !word.contains(char::is_lowercase) && word.contains(char::is_uppercase)
}

fn is_roman(word: &str) -> bool {
    let word = word.trim_end_matches(['.', ':', ')']);
    !word.is_empty() && word.chars().all(|c| "IVXLC".contains(c))
}

/// A title that is an address, as `Rich_Text` is in many wikis, with spaces: `None` for one that has some, or that is the
/// name of a piece of code.
pub(super) fn spaced(title: &str) -> Option<String> {
    let mut pieces = title.split('_');
    let mut first = pieces.next()?.chars();
    let is_word = first.next().is_some_and(char::is_uppercase) && first.next().is_some_and(char::is_lowercase);
    let is_address = pieces.clone().count() > 0 && pieces.all(|piece| piece.starts_with(char::is_alphanumeric));
    (is_word && is_address && !title.contains(char::is_whitespace)).then(|| title.replace('_', " "))
}

/// What stands before the last brackets of a title, and in them, when it ends with these.
pub(super) fn ends_in_brackets(title: &str) -> Option<(&str, &str)> {
    let (before, inside) = title.trim_end().strip_suffix([')', '）'])?.rsplit_once(['(', '（'])?;
    (before.ends_with(char::is_whitespace) && !inside.is_empty()).then_some((before.trim(), inside.trim()))
}

/// The last part of an address that says something, without its ending.
pub(super) fn slug(page: &PageFacts) -> String {
    let path = page.address.as_url().path();
    let part = path.rsplit('/').find(|part| !part.is_empty() && !part.starts_with("index.")).unwrap_or_default();
    let part = percent_decode_str(part).decode_utf8_lossy();
    part.rsplit_once('.').map_or(&*part, |(stem, _)| stem).to_owned()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn numbers_of_chapters_are_cut_off_and_no_others() {
        for (title, rest) in [
            ("Chapter 4. Seeing", "Seeing"),
            ("X.509 certificates", "X.509 certificates"),
            ("A.2. Seeing", "Seeing"),
            ("4.1 Seeing", "Seeing"),
            ("12) Seeing", "Seeing"),
            ("IV. Seeing", "Seeing"),
            ("Kapitel 3: Die Luft", "Die Luft"),
            ("第4章 Seeing", "Seeing"),
            ("Seeing", "Seeing"),
            ("Seeing 4", "Seeing 4"),
            ("4", "4"),
            ("Chapter", "Chapter"),
            ("os.path 3 things", "os.path 3 things"),
        ] {
            assert_eq!(without_number(title), rest, "{title}");
        }
    }

    #[test]
    fn addresses_as_titles_are_read_as_words_and_code_is_not() {
        for (title, read) in [
            ("Rich_Text_Attributes", Some("Rich Text Attributes")),
            ("Day_2_day", Some("Day 2 day")),
            ("Seeing", None),
            ("pg_stat_activity", None),
            ("LC_ALL", None),
            ("Rich_", None),
            ("Rich_Text and more", None),
        ] {
            assert_eq!(spaced(title).as_deref(), read, "{title}");
        }
    }

    #[test]
    fn calls_are_named_by_what_stands_before_their_brackets() {
        for (title, name) in [
            ("random()", Some("random")),
            ("git-log(1)", Some("git-log")),
            ("listen(2) Manual Page", Some("listen")),
            ("seeing (in the air)", None),
            ("no brackets", None),
            ("(all)", None),
        ] {
            assert_eq!(before_call(title), name, "{title}");
        }
    }

    #[test]
    fn brackets_at_the_end_hold_another_name() {
        let title = "Star maps (north/south, all) (maps)";
        assert_eq!(ends_in_brackets(title), Some(("Star maps (north/south, all)", "maps")));
        for none in ["(maps)", "maps()", "Maps (all) of stars", "Maps ()", "Maps", "Maps )"] {
            assert_eq!(ends_in_brackets(none), None, "{none}");
        }
    }

    #[test]
    fn names_of_code_and_versions_are_told_from_words() {
        for name in ["d.his", "a::is", "os.path", "_all_the"] {
            assert!(is_compound(name), "{name}");
        }
        for name in ["seeing", "and so on", "3.6", "...", "end."] {
            assert!(!is_compound(name), "{name}");
        }
        assert!(ends_in_version("Release 3.6") && ends_in_version("Release 3.6.1"));
        assert!(!ends_in_version("3.6") && !ends_in_version("Release 3") && !ends_in_version("Release 3.6b"));
        assert!(is_dotted_number("1.2.3", 3) && !is_dotted_number("1.2", 3) && !is_dotted_number("1..2", 2));
        assert!(is_shouted("DO") && is_shouted("UTF-8") && !is_shouted("A") && !is_shouted("Do") && !is_shouted("12"));
    }

    #[test]
    fn pieces_of_compounds_are_no_stretches_of_a_title() {
        let text = "The git-rev-list command (see help)";
        let at = |piece: &str| {
            let start = text.find(piece).unwrap();
            is_cut_from_a_word(text, start, start + piece.len())
        };
        assert!(at("rev-list") && at("git") && at("list command"));
        assert!(!at("git-rev-list") && !at("command") && !at("see help"));
    }

    proptest! {
        #[test]
        fn whatever_is_cut_is_cut_at_letters(title in "\\PC{0,40}") {
            prop_assert!(title.ends_with(without_number(&title)) || title.trim().ends_with(without_number(&title)));
            if let Some(name) = before_call(&title) {
                prop_assert!(title.starts_with(name) && !name.is_empty());
            }
            let _ = (is_compound(&title), ends_in_version(&title), is_shouted(&title));
        }
    }
}
