//! Pages as JSON Lines: one object a line, with an address and HTML or Markdown, and what is known of the page besides.

use std::io::{self, BufRead, Read};

use serde_json::{Map, Value};
use thiserror::Error;

/// A longer line is no page.
const LONGEST_LINE: u64 = 32 << 20;

const MOST_LINES: usize = 200_000;

/// Why JSON Lines are no pages.
#[derive(Debug, Error)]
pub enum PageLinesError {
    #[error("line {0} is no JSON object: {1}")]
    NotAnObject(usize, String),
    #[error("line {0} is longer than {most} MB", most = LONGEST_LINE >> 20)]
    TooLong(usize),
    #[error("line {0} has no address (a field such as url, address or path)")]
    NoAddress(usize),
    #[error("line {0} has no text (a field such as html, markdown or content)")]
    NoText(usize),
    #[error("the file holds more than {MOST_LINES} pages")]
    TooManyLines,
    #[error("the file holds no pages")]
    Empty,
    #[error("the file cannot be read: {0}")]
    Read(#[from] io::Error),
}

/// A page as a line tells it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PageLine {
    pub address: String,
    pub is_markdown: bool,
    pub text: String,
    pub title: Option<String>,
    pub date: Option<String>,
    pub category: Option<String>,
    pub description: Option<String>,
    pub tags: Vec<String>,
}

const ADDRESS_NAMES: [&str; 8] = ["url", "address", "link", "permalink", "path", "loc", "uri", "id"];
const HTML_NAMES: [&str; 5] = ["html", "content_html", "body_html", "content", "body"];
const MARKDOWN_NAMES: [&str; 5] = ["markdown", "md", "content_markdown", "content_text", "text"];

/// Gives each page to `keep`, in order. O(bytes); memory O(longest line).
///
/// # Errors
/// [`PageLinesError`] names the line; `keep` may have got the pages before it.
pub fn read(
    mut lines: impl BufRead,
    mut keep: impl FnMut(PageLine) -> io::Result<()>,
) -> Result<usize, PageLinesError> {
    let mut count = 0;
    for number in 1.. {
        let mut line = Vec::new();
        let read = lines.by_ref().take(LONGEST_LINE + 1).read_until(b'\n', &mut line)?;
        if read == 0 {
            break;
        }
        if read as u64 > LONGEST_LINE {
            return Err(PageLinesError::TooLong(number));
        }
        let line = line.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(&line);
        if line.iter().all(u8::is_ascii_whitespace) {
            continue;
        }
        count += 1;
        if count > MOST_LINES {
            return Err(PageLinesError::TooManyLines);
        }
        keep(page(number, line)?)?;
    }
    if count == 0 { Err(PageLinesError::Empty) } else { Ok(count) }
}

fn page(number: usize, line: &[u8]) -> Result<PageLine, PageLinesError> {
    let fields: Map<String, Value> =
        serde_json::from_slice(line).map_err(|error| PageLinesError::NotAnObject(number, error.to_string()))?;
    let fields = Fields(fields.into_iter().map(|(name, value)| (name.to_lowercase(), value)).collect());
    let address = fields.first(&ADDRESS_NAMES).ok_or(PageLinesError::NoAddress(number))?;
    let html = fields.first(&HTML_NAMES);
    let is_markdown = html.is_none();
    let text = html.or_else(|| fields.first(&MARKDOWN_NAMES)).ok_or(PageLinesError::NoText(number))?;
    Ok(PageLine {
        address,
        is_markdown,
        text,
        title: fields.first(&["title", "name"]),
        date: fields.first(&["date", "published", "date_published"]),
        category: fields.first(&["category", "section"]),
        description: fields.first(&["description", "summary", "excerpt"]),
        tags: fields.words("tags"),
    })
}

struct Fields(Map<String, Value>);

impl Fields {
    /// The first of these fields that has a text.
    fn first(&self, names: &[&str]) -> Option<String> {
        names.iter().find_map(|name| match self.0.get(*name)? {
            Value::String(text) if !text.trim().is_empty() => Some(text.clone()),
            Value::Number(number) => Some(number.to_string()),
            _ => None,
        })
    }

    fn words(&self, name: &str) -> Vec<String> {
        let text = |value: &Value| value.as_str().map(str::trim).filter(|text| !text.is_empty()).map(str::to_owned);
        match self.0.get(name) {
            Some(Value::Array(values)) => values.iter().filter_map(text).collect(),
            Some(Value::String(words)) => words.split([',', ';']).map(|word| word.trim().to_owned()).collect(),
            _ => Vec::new(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(text: &str) -> Result<Vec<PageLine>, PageLinesError> {
        let mut pages = Vec::new();
        read(text.as_bytes(), |page| {
            pages.push(page);
            Ok(())
        })?;
        Ok(pages)
    }

    #[test]
    fn fields_are_known_by_their_usual_names() {
        let text = "\u{feff}{\"URL\": \"/a\", \"html\": \"<p>A\", \"title\": \"A\", \"tags\": [\"x\", 1, \"y\"]}\r\n\n\
                    {\"path\": \"/b\", \"html\": \"\", \"markdown\": \"# B\", \"tags\": \"x, y\", \"date\": 2026}";
        let pages = all(text).unwrap();
        let a = PageLine {
            address: "/a".into(),
            text: "<p>A".into(),
            title: Some("A".into()),
            tags: vec!["x".into(), "y".into()],
            ..PageLine::default()
        };
        assert_eq!(pages[0], a);
        assert_eq!((pages[1].is_markdown, pages[1].text.as_str()), (true, "# B"));
        assert_eq!((pages[1].tags.len(), pages[1].date.as_deref()), (2, Some("2026")));
    }

    #[test]
    fn what_is_wrong_names_its_line() {
        let good = "{\"url\": \"/a\", \"html\": \"<p>\"}\n";
        let wrong = |line: &str| all(&format!("{good}\n{line}")).unwrap_err().to_string();
        assert!(wrong("[1]").starts_with("line 3 is no JSON object"));
        assert!(wrong("{\"html\": \"x\"}").starts_with("line 3 has no address"));
        assert!(wrong("{\"url\": \"/x\"}").starts_with("line 3 has no text"));
        assert!(matches!(all(&"x".repeat(40 << 20)), Err(PageLinesError::TooLong(1))));
        assert!(matches!(all("\n \n"), Err(PageLinesError::Empty)));
    }
}
