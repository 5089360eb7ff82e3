//! Words for a terminal.

use strelm_core::document::text::fold_space;

/// What a page says as one line for a terminal: white space folded, and without the signs that tell a terminal what to do.
pub fn in_a_line(text: &str) -> String {
    fold_space(&text.replace(|c: char| c.is_control(), " "))
}

/// A number of things in words.
pub fn many(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_page_says_does_not_tell_a_terminal_what_to_do() {
        assert_eq!(in_a_line("General Public\nLicense"), "General Public License");
        assert_eq!(in_a_line("a \u{1b}[2Jred\u{9b}31m \u{7}torch\r"), "a [2Jred 31m torch");
    }
}
