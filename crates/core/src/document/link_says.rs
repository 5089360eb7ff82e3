//! What a link says besides where it leads, and how that is written into its start tag.

use serde::{Deserialize, Serialize};

use super::Document;
use super::edit::{Edit, Splice};
use super::html::tokenizer::{AttributeQuote, RawAttribute};
use super::link::{Link, Manner};
use super::put_link::{Refusal, escape_attribute};
use super::span::SourceSpan;

/// One thing that a link says. Of two that exclude each other, saying one takes the other back.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum LinkSays {
    /// Whether search engines should count it: `nofollow` or nothing.
    Follow(bool),
    /// Whether somebody pays for it: `sponsored`.
    Sponsored(bool),
    /// Whether users of the site wrote it: `ugc`.
    UserContent(bool),
    /// Whether it opens beside the page that it is on: `target="_blank"` with `noopener`, or neither.
    NewTab(bool),
    /// Whether it has a further token of `rel`, in lower case.
    Rel(String, bool),
    /// A further attribute, such as `title`, `class`, `download` or `hreflang`; `None` clears it.
    Attribute(String, Option<String>),
}

/// Tokens to put into `rel` and to take out of it.
type RelChange<'s> = (Vec<&'s str>, Vec<&'s str>);

impl LinkSays {
    /// What takes it back; `None` where it only takes something back itself.
    pub fn taken_back(&self) -> Option<Self> {
        Some(match self {
            Self::Follow(false) => Self::Follow(true),
            Self::Sponsored(true) => Self::Sponsored(false),
            Self::UserContent(true) => Self::UserContent(false),
            Self::NewTab(true) => Self::NewTab(false),
            Self::Rel(token, true) => Self::Rel(token.clone(), false),
            Self::Attribute(name, Some(_)) => Self::Attribute(name.clone(), None),
            _ => return None,
        })
    }

    fn rel(&self) -> RelChange<'_> {
        match self {
            Self::Follow(true) => (vec![], vec!["nofollow"]),
            Self::Follow(false) => (vec!["nofollow"], vec!["follow"]),
            Self::Sponsored(true) => (vec!["sponsored"], vec![]),
            Self::Sponsored(false) => (vec![], vec!["sponsored"]),
            Self::UserContent(true) => (vec!["ugc"], vec![]),
            Self::UserContent(false) => (vec![], vec!["ugc"]),
            Self::NewTab(true) => (vec!["noopener"], vec!["opener"]),
            Self::NewTab(false) => (vec![], vec!["noopener", "opener"]),
            Self::Rel(token, _) if !is_token(token) => (vec![], vec![]),
            Self::Rel(token, true) => (vec![token], vec![]),
            Self::Rel(token, false) => (vec![], vec![token]),
            Self::Attribute(..) => (vec![], vec![]),
        }
    }

    fn attribute(&self) -> Option<(&str, Option<&str>)> {
        match self {
            Self::NewTab(is_new) => Some(("target", is_new.then_some("_blank"))),
            Self::Attribute(name, value) => Some((name, value.as_deref())),
            _ => None,
        }
    }

    /// All that a link on a page says, so that it can be put there again. O(attributes).
    pub fn all_of(document: &Document, link: &Link) -> Vec<Self> {
        let others = document.attributes(link).filter(|attribute| is_attribute_name(&attribute.name));
        let others =
            others.map(|attribute| Self::Attribute(attribute.name.into_owned(), Some(attribute.value.into_owned())));
        let tokens = link.rel.iter().map(|token| Self::Rel(token.clone(), true));
        others.chain(tokens).collect()
    }

    /// The same thing as a link on a page says it now. O(attributes).
    #[must_use]
    pub fn as_on(&self, document: &Document, link: &Link) -> Self {
        match self {
            Self::Follow(_) => Self::Follow(!link.has_rel("nofollow")),
            Self::Sponsored(_) => Self::Sponsored(link.has_rel("sponsored")),
            Self::UserContent(_) => Self::UserContent(link.has_rel("ugc")),
            Self::NewTab(_) => {
                let target = document.attribute(link, "target");
                Self::NewTab(target.is_some_and(|target| target.eq_ignore_ascii_case("_blank")))
            }
            Self::Rel(token, _) => Self::Rel(token.clone(), link.has_rel(token)),
            Self::Attribute(name, _) => {
                let value = document.attribute(link, &name.to_ascii_lowercase());
                Self::Attribute(name.clone(), value.map(|value| value.into_owned()))
            }
        }
    }

    /// The attributes of a new link that says all this.
    pub(super) fn attributes_of(says: &[Self]) -> Vec<(String, String)> {
        let mut attributes: Vec<(String, String)> = Vec::new();
        for (name, value) in says.iter().filter_map(Self::attribute).filter(|(name, _)| is_attribute_name(name)) {
            attributes.retain(|(known, _)| known != name);
            attributes.extend(value.map(|value| (name.to_owned(), value.to_owned())));
        }
        let rel = rel_after("", says);
        attributes.extend((!rel.is_empty()).then(|| ("rel".to_owned(), rel)));
        attributes
    }
}

/// `rel` after all of this was said; tokens that nobody speaks of stay as they are written.
fn rel_after(rel: &str, says: &[LinkSays]) -> String {
    let mut tokens: Vec<String> = rel.split_ascii_whitespace().map(str::to_owned).collect();
    for (put, take) in says.iter().map(LinkSays::rel) {
        tokens.retain(|token| !take.iter().any(|taken| token.eq_ignore_ascii_case(taken)));
        for new in put {
            if !tokens.iter().any(|token| token.eq_ignore_ascii_case(new)) {
                tokens.push(new.to_owned());
            }
        }
    }
    tokens.join(" ")
}

/// Whether it is one token of `rel`.
fn is_token(token: &str) -> bool {
    !token.is_empty() && !token.contains(|c: char| c.is_whitespace() || c.is_control())
}

fn is_attribute_name(name: &str) -> bool {
    !name.is_empty()
        && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_:.".contains(&byte))
        // What runs scripts or says where the link leads is not for here.
        && !name.get(..2).is_some_and(|start| start.eq_ignore_ascii_case("on"))
        && !["href", "rel", "style"].iter().any(|known| name.eq_ignore_ascii_case(known))
}

impl Document {
    /// The edit after which a link leads to `href`, if that is given, and says all of `says`. All else in its start tag
    /// stays. O(attributes); for a link that Markdown writes in its own way O(n), since the result is read once more.
    ///
    /// # Errors
    /// [`Refusal::NotThere`]; [`Refusal::NotInMarkdown`] for a link of Markdown that would have to say something;
    /// [`Refusal::AddressIsText`] for an address that is its own anchor text; [`Refusal::ChangesMore`] for attributes
    /// that cannot be set here: `href`, `rel`, `style` and handlers of events.
    pub fn change_link(&self, ordinal: usize, href: Option<&str>, says: &[LinkSays]) -> Result<Edit, Refusal> {
        let link = self.links().get(ordinal).ok_or(Refusal::NotThere)?;
        if link.manner != Manner::Element {
            if !says.is_empty() {
                return Err(Refusal::NotInMarkdown);
            }
            return href.map_or(Ok(Edit::nothing(self.hash())), |href| self.retarget_markdown(ordinal, href));
        }
        let raw = self.raw_attributes(link);
        let mut splices = Vec::new();
        if let Some(href) = href {
            let attribute = raw.iter().find(|raw| self.name_of(raw).eq_ignore_ascii_case("href"));
            splices.push(value_splice(attribute.ok_or(Refusal::NotThere)?, href));
        }
        let mut wanted: Vec<(String, Option<String>)> = Vec::new();
        for (name, value) in says.iter().filter_map(LinkSays::attribute) {
            if !is_attribute_name(name) {
                return Err(Refusal::ChangesMore);
            }
            wanted.retain(|(known, _)| !known.eq_ignore_ascii_case(name));
            wanted.push((name.to_ascii_lowercase(), value.map(str::to_owned)));
        }
        let rel = self.attribute(link, "rel").unwrap_or_default();
        let rel_wanted = rel_after(&rel, says);
        if rel_wanted != rel.split_ascii_whitespace().collect::<Vec<_>>().join(" ") {
            wanted.push(("rel".to_owned(), (!rel_wanted.is_empty()).then_some(rel_wanted)));
        }
        splices.extend(wanted.iter().flat_map(|(name, value)| self.attribute_splices(raw, name, value.as_deref())));
        let edit = Edit::new(self.hash(), splices).map_err(|_| Refusal::CrossesMarkup)?;
        Ok(edit.claiming(link.start_tag))
    }

    fn name_of(&self, attribute: &RawAttribute) -> &str {
        self.source().get(attribute.name.range()).unwrap_or_default()
    }

    /// None when there is nothing to change. Of several of the same name the first counts, so it is changed, but all go.
    fn attribute_splices(&self, raw: &[RawAttribute], name: &str, value: Option<&str>) -> Vec<Splice> {
        let mut known = raw.iter().filter(|attribute| self.name_of(attribute).eq_ignore_ascii_case(name));
        let Some(value) = value else { return known.map(|attribute| self.without_attribute(attribute)).collect() };
        // After the last attribute: a new one at the end moves nothing else.
        let after_last = || {
            let last = raw.last()?.source.end;
            let with = format!(" {name}=\"{}\"", escape_attribute(value));
            Some(Splice { at: SourceSpan::new(last, last), with })
        };
        known.next().map(|known| value_splice(known, value)).or_else(after_last).into_iter().collect()
    }

    fn without_attribute(&self, attribute: &RawAttribute) -> Splice {
        let before = self.source().get(..attribute.source.start).unwrap_or_default();
        let space = before.len() - before.trim_end_matches(|c: char| c.is_ascii_whitespace()).len();
        let at = SourceSpan::new(attribute.source.start - space, attribute.source.end);
        // A space stays only where it parts what is around.
        let next = self.source().as_bytes().get(at.end).copied().unwrap_or(b'>');
        let parts = next != b'>' && !next.is_ascii_whitespace();
        Splice { at, with: if parts { " ".to_owned() } else { String::new() } }
    }
}

/// The splice that gives an attribute another value, in the quotes that it has.
pub(super) fn value_splice(attribute: &RawAttribute, value: &str) -> Splice {
    let escaped = escape_attribute(value);
    match attribute.quote {
        AttributeQuote::Double => Splice { at: attribute.value, with: escaped },
        AttributeQuote::Single => Splice { at: attribute.value, with: escaped.replace('\'', "&#39;") },
        AttributeQuote::Unquoted => Splice { at: attribute.value, with: format!("\"{escaped}\"") },
        AttributeQuote::NoValue => Splice { at: attribute.value, with: format!("=\"{escaped}\"") },
    }
}
