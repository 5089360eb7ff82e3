//! What titles hold beside the name of their page: the name of the site, and numbers.

/// What separates a page's title from the name of its site.
const SEPARATORS: [&str; 7] = [" | ", " – ", " — ", " · ", " - ", " :: ", " » "];

/// What stands before and after the last separator of a title.
pub(crate) fn split_end(title: &str) -> Option<(&str, &str)> {
    let split = |separator: &&str| title.rfind(*separator).map(|at| (at, separator.len()));
    let (at, len) = SEPARATORS.iter().filter_map(split).max()?;
    Some((title[..at].trim(), title[at + len..].trim()))
}

/// What stands before and after the first.
pub(crate) fn split_beginning(title: &str) -> Option<(&str, &str)> {
    let split = |separator: &&str| title.find(*separator).map(|at| (at, separator.len()));
    let (at, len) = SEPARATORS.iter().filter_map(split).min()?;
    Some((title[..at].trim(), title[at + len..].trim()))
}

/// Whether a text is a number of at least so many parts between dots.
pub(crate) fn is_dotted_number(text: &str, parts: usize) -> bool {
    let is_number = |part: &str| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit());
    text.split('.').count() >= parts && text.split('.').all(is_number)
}
