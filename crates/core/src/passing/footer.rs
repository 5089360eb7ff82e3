//! Links at the foot of every page of a site.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::document::put_link::escape_attribute;
use crate::ids::PageId;

/// More are no footer.
pub const MOST_FOOTER_LINKS: usize = 100;

/// The markup around the links is no longer, in bytes.
pub const LONGEST_FOOTER_MARKUP: usize = 10_000;

/// Links at the foot of every page, in markup of the editor's own.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct FooterLinks {
    /// Whether pages get them as they pass.
    pub is_on: bool,
    /// Markup before the links, between two of them and after them.
    pub before: String,
    pub between: String,
    pub after: String,
    pub links: Vec<FooterLink>,
}

/// A link of the footer.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FooterLink {
    pub text: String,
    pub target: FooterTarget,
}

/// Where a link of the footer leads.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FooterTarget {
    /// A page of the site: it is followed when its address changes.
    Page(PageId),
    /// An address of another site.
    Outside(String),
}

impl Default for FooterLinks {
    fn default() -> Self {
        let [before, between, after] = ["<p>", " · ", "</p>"].map(str::to_owned);
        Self { is_on: false, before, between, after, links: Vec::new() }
    }
}

/// Why a footer cannot be.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FooterError {
    #[error("a footer has {MOST_FOOTER_LINKS} links at most")]
    TooMany,
    #[error("the markup around the links is longer than {LONGEST_FOOTER_MARKUP} bytes")]
    TooLong,
    #[error("the link to “{0}” has no words")]
    NoWords(String),
    #[error("“{0}” is no address: it should look like https://www.example.org/")]
    NoAddress(String),
}

impl FooterLinks {
    /// Whether it can be put on pages.
    ///
    /// # Errors
    /// [`FooterError`].
    pub fn check(&self) -> Result<(), FooterError> {
        if self.links.len() > MOST_FOOTER_LINKS {
            return Err(FooterError::TooMany);
        }
        if [&self.before, &self.between, &self.after].iter().any(|markup| markup.len() > LONGEST_FOOTER_MARKUP) {
            return Err(FooterError::TooLong);
        }
        for link in &self.links {
            let name = match &link.target {
                FooterTarget::Page(page) => format!("page {}", page.0),
                FooterTarget::Outside(address) => address.clone(),
            };
            if let FooterTarget::Outside(address) = &link.target
                && crate::site::Target::outside(address).is_err()
            {
                return Err(FooterError::NoAddress(name));
            }
            if link.text.trim().is_empty() {
                return Err(FooterError::NoWords(name));
            }
        }
        Ok(())
    }

    /// As it is written into a page. `href` tells how the address of a page is written there; links to pages that are gone are
    /// left out. `None` when there are no links. O(length).
    pub fn html(&self, mut href: impl FnMut(PageId) -> Option<String>) -> Option<String> {
        let mut link = |link: &FooterLink| {
            let href = match &link.target {
                FooterTarget::Page(page) => href(*page)?,
                FooterTarget::Outside(address) => address.clone(),
            };
            Some(format!("<a href=\"{}\">{}</a>", escape_attribute(&href), escape_attribute(link.text.trim())))
        };
        let links: Vec<String> = self.links.iter().filter_map(&mut link).collect();
        (!links.is_empty()).then(|| format!("{}{}{}", self.before, links.join(&self.between), self.after))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_footer_is_written_as_its_editor_says_and_what_is_said_stays_text() {
        let outside = |text: &str, address: &str| FooterLink {
            text: text.to_owned(),
            target: FooterTarget::Outside(address.to_owned()),
        };
        let mut footer = FooterLinks {
            links: vec![
                FooterLink { text: "Moon & <stars>".to_owned(), target: FooterTarget::Page(PageId(1)) },
                FooterLink { text: "Gone".to_owned(), target: FooterTarget::Page(PageId(2)) },
                outside("Maps", "https://maps.example/?a=1&b=\"2\""),
            ],
            ..FooterLinks::default()
        };
        let href = |page: PageId| (page.0 == 1).then(|| "/moon".to_owned());
        assert_eq!(
            footer.html(href).unwrap(),
            "<p><a href=\"/moon\">Moon &amp; &lt;stars&gt;</a> · \
             <a href=\"https://maps.example/?a=1&amp;b=&quot;2&quot;\">Maps</a></p>"
        );
        assert_eq!(FooterLinks::default().html(href), None);
        assert_eq!(footer.check(), Ok(()));
        footer.links.push(outside("", "https://maps.example/"));
        assert!(matches!(footer.check(), Err(FooterError::NoWords(_))));
        footer.links[3] = outside("Run", "javascript:alert(1)");
        assert!(matches!(footer.check(), Err(FooterError::NoAddress(_))));
    }
}
