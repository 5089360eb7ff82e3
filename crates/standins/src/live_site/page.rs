//! One page of the live site as a file: front matter in TOML between lines of `+++`, then the content, an HTML
//! fragment that is kept byte for byte.

use serde::Deserialize;
use thiserror::Error;

/// What kind of page a file is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum PageType {
    Page,
    Post,
    Product,
    Collection,
}

/// What stands above the text of a page.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields, rename_all = "kebab-case")]
pub struct FrontMatter {
    pub title: String,
    /// The main heading where it differs from the title.
    pub heading: Option<String>,
    #[serde(rename = "type")]
    pub page_type: PageType,
    pub category: Option<String>,
    #[serde(default)]
    pub tags: Vec<String>,
    /// Its language, where it is not that of the site.
    pub language: Option<String>,
    /// `YYYY-MM-DD`.
    pub date: Option<String>,
    pub summary: Option<String>,
    /// Whether collections and term archives list the page.
    #[serde(default = "yes")]
    pub listed: bool,
    /// Where the page has moved to: whoever asks for it is sent there.
    pub moved_to: Option<String>,
    /// For a collection: list at most so many pages of its folder, the newest first.
    pub newest: Option<usize>,
}

fn yes() -> bool {
    true
}

/// A page of the site as its file says it.
#[derive(Debug, Clone)]
pub struct PageFile {
    pub front: FrontMatter,
    /// The file up to the content, byte for byte.
    front_source: String,
    pub content: String,
}

/// Why a file is no page.
#[derive(Debug, Error)]
pub enum PageFileError {
    #[error("the front matter must stand between two lines of +++")]
    NoFrontMatter,
    #[error("the front matter cannot be read: {0}")]
    FrontMatter(#[from] toml::de::Error),
}

impl PageFile {
    /// # Errors
    /// [`PageFileError`] when the front matter is missing or wrong.
    pub fn parse(source: &str) -> Result<Self, PageFileError> {
        let rest = source.strip_prefix("+++\n").ok_or(PageFileError::NoFrontMatter)?;
        let (front, content) = rest.split_once("\n+++\n").ok_or(PageFileError::NoFrontMatter)?;
        let front_source = source[..source.len() - content.len()].to_owned();
        Ok(Self { front: toml::from_str(front)?, front_source, content: content.to_owned() })
    }

    /// The file with other content and untouched front matter.
    pub fn with_content(&self, content: &str) -> Self {
        Self { content: content.to_owned(), ..self.clone() }
    }

    /// The file as text.
    pub fn to_source(&self) -> String {
        format!("{}{}", self.front_source, self.content)
    }

    /// The version of the content, as an HTTP entity tag.
    pub fn etag(&self) -> String {
        format!("\"{}\"", &blake3::hash(self.content.as_bytes()).to_hex()[..24])
    }
}
