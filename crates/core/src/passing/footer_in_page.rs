//! Links at the foot of a page that is kept with them: they are known again, so that others can take their place.

use super::edit::PassingEdit;
use super::passage::Passage;

/// Between these stands what was put into the page.
const BEGIN: &str = "<!-- footer links -->";
const END: &str = "<!-- end of footer links -->";

/// The page with these links at its foot in the place of those that it has, or with none. O(n).
pub fn with_footer(page: &str, footer: Option<&str>) -> String {
    let page = without(page);
    let Some(footer) = footer else { return page };
    let edit = PassingEdit::default().with_end(&format!("{BEGIN}{footer}{END}"));
    String::from_utf8(Passage::over(&edit, page.as_bytes())).unwrap_or(page)
}

fn without(page: &str) -> String {
    let mut kept = String::with_capacity(page.len());
    let mut rest = page;
    while let Some((before, after)) = rest.split_once(BEGIN) {
        let Some((_, after)) = after.split_once(END) else { break };
        kept.push_str(before);
        rest = after;
    }
    kept + rest
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const FOOTER: &str = "<p><a href=\"/moon\">Moon</a></p>";

    #[test]
    fn a_footer_stands_before_the_body_ends_and_others_take_its_place() {
        let page = "<html><body><p>Text</p><script>'</body>'</script></body></html>\n";
        let footed = with_footer(page, Some(FOOTER));
        let expected = format!("{BEGIN}{FOOTER}{END}</body></html>\n");
        assert!(footed.ends_with(&expected), "{footed}");
        assert_eq!(with_footer(&footed, Some(FOOTER)), footed);
        assert_eq!(with_footer(&footed, Some("<p>Sun</p>")), with_footer(page, Some("<p>Sun</p>")));
        assert_eq!(with_footer(&footed, None), page);
        // What has no end is no footer of ours.
        let torn = format!("<p>{BEGIN} text</p>");
        assert_eq!(with_footer(&torn, None), torn);
    }

    proptest! {
        #[test]
        fn whatever_the_page_is_it_is_the_same_again_without(
            parts in prop::collection::vec(prop::sample::select(vec![
                "<body>", "</body>", "<p>", "text", "<!--", "-->", "<script>", "</script>", "é", "</html>", "<textarea>", "\"", "<",
            ]), 0..12),
        ) {
            let page = parts.concat();
            let footed = with_footer(&page, Some(FOOTER));
            prop_assert_eq!(with_footer(&footed, None), page);
            prop_assert_eq!(with_footer(&footed, Some(FOOTER)), footed);
        }
    }
}
