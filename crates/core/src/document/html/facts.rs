//! What the attributes of a start tag say, gathered in one pass.

use std::borrow::Cow;

use super::references::attribute_value;
use super::tokenizer::RawAttribute;
use crate::document::elements::Element;
use crate::document::region::RegionSigns;

/// Values as they are written, character references not resolved.
#[derive(Debug, Clone, Copy, Default)]
pub struct TagFacts<'s> {
    pub id: Option<&'s str>,
    pub class: Option<&'s str>,
    pub name: Option<&'s str>,
    pub href: Option<&'s str>,
    pub rel: Option<&'s str>,
    pub role: Option<&'s str>,
    pub lang: Option<&'s str>,
    pub xml_lang: Option<&'s str>,
    pub hreflang: Option<&'s str>,
    pub property: Option<&'s str>,
    pub content: Option<&'s str>,
    pub http_equiv: Option<&'s str>,
    pub item_type: Option<&'s str>,
    pub item_property: Option<&'s str>,
    pub date_time: Option<&'s str>,
    pub label: Option<&'s str>,
    pub kind: Option<&'s str>,
    alt: Option<&'s str>,
}

/// No name that is looked for is longer.
const LONGEST_NAME: usize = 10;

impl<'s> TagFacts<'s> {
    /// O(attributes).
    pub fn of(source: &'s str, attributes: &[RawAttribute]) -> Self {
        let mut facts = Self::default();
        for attribute in attributes {
            let name = source.get(attribute.name.range()).unwrap_or_default();
            let mut lower = [0; LONGEST_NAME];
            let Some(lower) = lower.get_mut(..name.len()) else { continue };
            lower.copy_from_slice(name.as_bytes());
            lower.make_ascii_lowercase();
            let slot = match &*lower {
                b"id" => &mut facts.id,
                b"class" => &mut facts.class,
                b"name" => &mut facts.name,
                b"href" => &mut facts.href,
                b"type" => &mut facts.kind,
                b"rel" => &mut facts.rel,
                b"role" => &mut facts.role,
                b"lang" => &mut facts.lang,
                b"xml:lang" => &mut facts.xml_lang,
                b"hreflang" => &mut facts.hreflang,
                b"property" => &mut facts.property,
                b"content" => &mut facts.content,
                b"http-equiv" => &mut facts.http_equiv,
                b"itemtype" => &mut facts.item_type,
                b"itemprop" => &mut facts.item_property,
                b"datetime" => &mut facts.date_time,
                b"aria-label" => &mut facts.label,
                b"alt" => &mut facts.alt,
                _ => continue,
            };
            // Of two attributes with the same name the first counts.
            if slot.is_none() {
                *slot = source.get(attribute.value.range());
            }
        }
        facts
    }

    /// The `href` with its character references resolved.
    pub fn href(&self) -> Option<Cow<'s, str>> {
        self.href.map(attribute_value)
    }

    /// The `alt` with its character references resolved.
    pub fn alt(&self) -> Option<Cow<'s, str>> {
        self.alt.map(attribute_value)
    }

    /// What of it tells to which region of a page it belongs.
    pub fn region_signs(&self) -> RegionSigns<'s> {
        RegionSigns { role: self.role, id: self.id, class: self.class, label: self.label, item_type: self.item_type }
    }

    /// The place of this element below another place: FNV-1a over names, ids and classes. Digits are left out, which
    /// tell pages apart and not places.
    pub fn place_below(&self, outer: u64, element: Element) -> u64 {
        const PRIME: u64 = 0x0100_0000_01b3;
        let mut hash = (outer ^ 0xcbf2_9ce4_8422_2325).wrapping_mul(PRIME) ^ element as u64;
        if self.id.is_none() && self.class.is_none() {
            return hash;
        }
        let names = self.id.into_iter().chain(["#"]).chain(self.class).flat_map(str::bytes);
        for byte in names.filter(|byte| !byte.is_ascii_digit()) {
            hash = (hash ^ u64::from(byte)).wrapping_mul(PRIME);
        }
        hash
    }
}

/// The value of an attribute as written, with its character references resolved. O(length).
pub fn value_of(raw: &str) -> String {
    attribute_value(raw).into_owned()
}

/// Where `<meta http-equiv=refresh>` sends: `5; url=/there`. `None` when it only loads the page again.
pub fn refresh_target(content: &str) -> Option<String> {
    let rest = content.trim_start().trim_start_matches(|c: char| c.is_ascii_digit() || c == '.');
    let rest = rest.trim_start().trim_start_matches([';', ',']).trim_start();
    let after_name = rest.get(..3).filter(|name| name.eq_ignore_ascii_case("url")).and(rest.get(3..));
    let rest = match after_name.map(str::trim_start).and_then(|after| after.strip_prefix('=')) {
        Some(value) => value.trim_start(),
        None => rest,
    };
    let target = match rest.chars().next() {
        Some(quote @ ('"' | '\'')) => rest[1..].split(quote).next().unwrap_or_default(),
        _ => rest,
    };
    let target = target.trim();
    (!target.is_empty()).then(|| target.to_owned())
}

/// After how many whole seconds it sends; at once where it does not say.
pub fn refresh_seconds(content: &str) -> u32 {
    let content = content.trim_start();
    let digits = content.find(|c: char| !c.is_ascii_digit()).unwrap_or(content.len());
    match &content[..digits] {
        "" => 0,
        // More than fits is for ever.
        digits => digits.parse().unwrap_or(u32::MAX),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_refresh_names_its_target_in_many_ways() {
        for content in ["0;url=/there", "5; URL='/there'", "0, url = \"/there\"", "3 /there", "0;/there"] {
            assert_eq!(refresh_target(content).as_deref(), Some("/there"), "{content}");
        }
        assert_eq!(refresh_target("30"), None);
        let seconds = ["0;url=/there", " 5.9; URL=/there", "url=/there", "99999999999;/there"].map(refresh_seconds);
        assert_eq!(seconds, [0, 5, 0, u32::MAX]);
    }
}
