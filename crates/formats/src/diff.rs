//! Unified diffs of texts, as `patch` reads them.

use similar::TextDiff;

/// Lines around a change.
const AROUND: usize = 2;

/// What turns `before` into `after`, under the names `a/path` and `b/path`; empty when they are the same.
///
/// O(n + d²) for d differing lines; links change few.
pub fn unified(path: &str, before: &str, after: &str) -> String {
    if before == after {
        return String::new();
    }
    let path = path.replace(['\n', '\r', '\t'], "_");
    let diff = TextDiff::from_lines(before, after);
    diff.unified_diff().context_radius(AROUND).header(&format!("a/{path}"), &format!("b/{path}")).to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_changed_line_is_told_with_those_around_it() {
        let before = "one\ntwo\nthree\nfour\nfive\nsix";
        let after = before.replace("four", "<a href=x>four</a>");
        let diff = unified("guides/moon.html", before, &after);
        assert!(diff.starts_with("--- a/guides/moon.html\n+++ b/guides/moon.html\n@@ -2,5 +2,5 @@\n two\n"), "{diff}");
        assert!(diff.contains("-four\n+<a href=x>four</a>\n five\n"), "{diff}");
        assert_eq!(unified("x", before, before), "");
    }
}
