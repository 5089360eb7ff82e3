//! What a file says of itself ahead of its text: YAML between lines of `---`, or TOML between lines of `+++`.

use serde::Deserialize;
use serde::de::IgnoredAny;
use thiserror::Error;

/// Front matter longer than this is not read.
const MOST_BYTES: usize = 64 * 1024;

/// The fields that Strelm knows. Others may be there and are left alone.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct FrontMatter {
    pub title: Option<String>,
    pub date: Option<String>,
    pub category: Option<String>,
    pub tags: Vec<String>,
    pub description: Option<String>,
    pub language: Option<String>,
    pub draft: bool,
}

/// Why what stands above a page cannot be read.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FrontMatterError {
    #[error("the front matter does not end: a line of {0} is missing")]
    Unended(&'static str),
    #[error("the front matter is longer than {MOST_BYTES} bytes")]
    TooLong,
    #[error("the front matter cannot be read: {0}")]
    Unreadable(String),
}

/// Text in front matter, a number or a date too, as it is written.
#[derive(Deserialize)]
#[serde(untagged)]
enum Word {
    Text(String),
    Whole(i64),
    Fraction(f64),
    Truth(bool),
    Moment(toml::value::Datetime),
    Other(IgnoredAny),
}

impl Word {
    fn into_text(self) -> Option<String> {
        let text = match self {
            Self::Text(text) => text,
            Self::Whole(number) => number.to_string(),
            Self::Fraction(number) => number.to_string(),
            Self::Truth(truth) => truth.to_string(),
            Self::Moment(at) => at.to_string(),
            Self::Other(_) => return None,
        };
        Some(text.trim().to_owned()).filter(|text| !text.is_empty())
    }
}

#[derive(Deserialize)]
#[serde(untagged)]
enum Words {
    Many(Vec<Word>),
    One(Word),
}

impl Words {
    fn into_texts(self) -> Vec<String> {
        let words = match self {
            Self::Many(words) => words,
            Self::One(word) => vec![word],
        };
        words.into_iter().filter_map(Word::into_text).collect()
    }
}

#[derive(Deserialize, Default)]
#[serde(default)]
struct Fields {
    title: Option<Word>,
    date: Option<Word>,
    #[serde(alias = "categories")]
    category: Option<Words>,
    tags: Option<Words>,
    #[serde(alias = "summary")]
    description: Option<Word>,
    draft: Option<Word>,
    language: Option<Word>,
    lang: Option<Word>,
    /// What Strelm does not know.
    #[serde(flatten)]
    _other: std::collections::BTreeMap<String, IgnoredAny>,
}

/// The front matter of a file, and the byte at which its text begins. A file without front matter is all text. O(n) in
/// the front matter.
///
/// # Errors
/// [`FrontMatterError`] when it begins like front matter and is none.
pub fn split(text: &str) -> Result<(FrontMatter, usize), FrontMatterError> {
    let body = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mark = match body.split_inclusive('\n').next().map(str::trim_end) {
        Some("---") => "---",
        Some("+++") => "+++",
        _ => return Ok((FrontMatter::default(), 0)),
    };
    let start = text.len() - body.len() + body.find('\n').map_or(body.len(), |at| at + 1);
    let mut end = start;
    for line in text[start..].split_inclusive('\n') {
        if line.trim_end() == mark {
            let fields = parse(&text[start..end], mark)?;
            return Ok((fields, end + line.len()));
        }
        end += line.len();
        if end - start > MOST_BYTES {
            return Err(FrontMatterError::TooLong);
        }
    }
    // A file may begin with a rule of three hyphens and have no front matter.
    if mark == "---" { Ok((FrontMatter::default(), 0)) } else { Err(FrontMatterError::Unended(mark)) }
}

fn parse(text: &str, mark: &str) -> Result<FrontMatter, FrontMatterError> {
    let unreadable = |error: &dyn std::fmt::Display| FrontMatterError::Unreadable(error.to_string());
    let fields: Option<Fields> = match mark {
        "---" => serde_norway::from_str(text).map_err(|error| unreadable(&error))?,
        _ => Some(toml::from_str(text).map_err(|error| unreadable(&error))?),
    };
    let fields = fields.unwrap_or_default();
    Ok(FrontMatter {
        title: fields.title.and_then(Word::into_text),
        date: fields.date.and_then(Word::into_text),
        category: fields.category.map(Words::into_texts).unwrap_or_default().into_iter().next(),
        tags: fields.tags.map(Words::into_texts).unwrap_or_default(),
        description: fields.description.and_then(Word::into_text),
        language: fields.language.or(fields.lang).and_then(Word::into_text),
        draft: matches!(fields.draft, Some(Word::Truth(true))),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_kinds_say_the_same() {
        let yaml = "---\ntitle: \"The moor: a guide\"\ndate: 2026-03-01\ncategories: [Guides, Other]\ntags:\n  - dark\n  - 7\n\
            description: Short.\ndraft: true\nlang: de-AT\nlayout: {a: [1]}\n---\nText";
        let toml = "+++\ntitle = \"The moor: a guide\"\ndate = 2026-03-01\ncategory = \"Guides\"\ntags = [\"dark\", \"7\"]\n\
            summary = \"Short.\"\ndraft = true\nlanguage = \"de-AT\"\n[layout]\na = 1\n+++\r\nText";
        for text in [yaml, toml] {
            let (front, body) = split(text).unwrap();
            assert_eq!(&text[body..], "Text");
            assert_eq!(front.title.as_deref(), Some("The moor: a guide"));
            assert_eq!(front.date.as_deref(), Some("2026-03-01"));
            assert_eq!(front.category.as_deref(), Some("Guides"));
            assert_eq!(front.tags, ["dark", "7"]);
            assert_eq!(front.description.as_deref(), Some("Short."));
            assert_eq!(front.language.as_deref(), Some("de-AT"));
            assert!(front.draft);
        }
    }

    #[test]
    fn what_is_no_front_matter_is_text() {
        for text in ["", "Text", "---\n\nA rule above", " ---\ntitle: x\n---\n", "--- \nno end"] {
            assert_eq!(split(text), Ok((FrontMatter::default(), 0)), "{text}");
        }
        assert_eq!(split("\u{feff}---\n---\nText"), Ok((FrontMatter::default(), 11)));
        assert!(matches!(split("+++\ntitle = 1"), Err(FrontMatterError::Unended(_))));
        assert!(matches!(split("---\n{: [\n---\n"), Err(FrontMatterError::Unreadable(_))));
    }
}
