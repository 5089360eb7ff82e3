//! Versions of pages that are altered as they pass: what a reader's browser holds is the site's version and what was put into it.
//!
//! An entity tag that goes out is the site's own with the tag of the plan behind it, and always a weak one (RFC 9110, section
//! 8.8.1), since a page that is altered anew is not the same byte by byte. One that comes back is asked of the site without that
//! part, unless another plan holds by now: then the page is asked for as though nobody had it.

use reqwest::header::{HeaderMap, HeaderValue, IF_MODIFIED_SINCE, IF_NONE_MATCH};

/// Between the site's tag and ours: whether the site's is a strong one.
const STRONG: &str = "~s.";
const WEAK: &str = "~w.";

/// The tag of a page that was altered after a plan.
pub fn tag_out(tag: &str, plan: &str) -> Option<String> {
    let (mark, inner) = match tag.strip_prefix("W/") {
        Some(weak) => (WEAK, weak),
        None => (STRONG, tag),
    };
    let inner = inner.strip_prefix('"')?.strip_suffix('"')?;
    Some(format!("W/\"{inner}{mark}{plan}\""))
}

/// The site's own tag behind one of ours, and the plan of that.
fn tag_in(tag: &str) -> Option<(String, &str)> {
    let inner = tag.trim().strip_prefix("W/").unwrap_or(tag.trim()).strip_prefix('"')?.strip_suffix('"')?;
    let (at, mark) = [STRONG, WEAK].into_iter().filter_map(|mark| Some((inner.rfind(mark)?, mark))).max()?;
    let weak = if mark == WEAK { "W/" } else { "" };
    Some((format!("{weak}\"{}\"", &inner[..at]), &inner[at + mark.len()..]))
}

/// Rewrites what a browser says of the version that it holds, where a page passes after this plan, or as it is.
pub fn ask_for_version(headers: &mut HeaderMap, plan: Option<&str>) {
    let held: Vec<String> = headers
        .get_all(IF_NONE_MATCH)
        .iter()
        .filter_map(|value| value.to_str().ok())
        .flat_map(|value| value.split(','))
        .map(|tag| tag.trim().to_owned())
        .collect();
    let own = |tag: &String| match (tag_in(tag), plan) {
        (Some((tag, of)), Some(plan)) => (of == plan).then_some(tag),
        (None, None) => Some(tag.clone()),
        _ => None,
    };
    let left: Vec<String> = held.iter().filter_map(own).collect();
    if left.len() < held.len() || plan.is_some() {
        // The page has changed by what is put into it, whatever its day says.
        headers.remove(IF_MODIFIED_SINCE);
    }
    if held.is_empty() {
        return;
    }
    headers.remove(IF_NONE_MATCH);
    if let Ok(value) = HeaderValue::from_str(&left.join(", "))
        && !left.is_empty()
    {
        headers.insert(IF_NONE_MATCH, value);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn asked(held: &[&str], plan: Option<&str>) -> (Option<String>, bool) {
        let mut headers = HeaderMap::new();
        headers.insert(IF_MODIFIED_SINCE, HeaderValue::from_static("Tue, 01 Dec 2026 00:00:00 GMT"));
        for tag in held {
            headers.append(IF_NONE_MATCH, HeaderValue::from_str(tag).unwrap());
        }
        ask_for_version(&mut headers, plan);
        let tags = headers.get(IF_NONE_MATCH).map(|value| value.to_str().unwrap().to_owned());
        (tags, headers.contains_key(IF_MODIFIED_SINCE))
    }

    #[test]
    fn a_version_is_the_sites_and_the_plans() {
        assert_eq!(tag_out("\"a~b\"", "1f").as_deref(), Some("W/\"a~b~s.1f\""));
        assert_eq!(tag_out("W/\"a\"", "1f").as_deref(), Some("W/\"a~w.1f\""));
        assert_eq!(tag_out("a", "1f"), None);
        assert_eq!(
            asked(&["W/\"a~b~s.1f\", \"c\"", "W/\"d~w.1f\""], Some("1f")),
            (Some("\"a~b\", W/\"d\"".into()), false)
        );
        // Another plan, or none, holds now.
        assert_eq!(asked(&["W/\"a~s.1f\""], Some("2e")), (None, false));
        assert_eq!(asked(&["W/\"a~s.1f\""], None), (None, false));
        // A version from before there was a plan.
        assert_eq!(asked(&["\"a\""], Some("1f")), (None, false));
        assert_eq!(asked(&["\"a\""], None), (Some("\"a\"".into()), true));
        assert_eq!(asked(&[], None), (None, true));
        assert_eq!(asked(&[], Some("1f")), (None, false));
    }
}
