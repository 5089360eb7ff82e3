//! Which page a link that leads nowhere was most likely meant for: the one whose address or title is most like it.

use std::collections::HashMap;

use crate::language::fold;
use crate::site::{Address, PageFacts, PageId};

/// Less similarity than this is chance.
const LEAST: f64 = 0.5;

/// Names of pages in pieces of three characters. O(characters of all names) memory.
#[derive(Debug, Default)]
pub struct Likeliest {
    /// Pages by piece; a page comes once for each of its names that has the piece.
    by_piece: HashMap<[char; 3], Vec<usize>>,
    names: Vec<Name>,
}

#[derive(Debug)]
struct Name {
    page: PageId,
    pieces: usize,
    is_title: bool,
}

impl Likeliest {
    /// O(characters of all names).
    pub fn of<'p>(pages: impl Iterator<Item = &'p PageFacts>) -> Self {
        let mut likeliest = Self::default();
        for page in pages {
            likeliest.add(page.id, &slug(&page.address), false);
            likeliest.add(page.id, &page.title, true);
        }
        likeliest
    }

    fn add(&mut self, page: PageId, name: &str, is_title: bool) {
        let pieces = pieces(name);
        for piece in &pieces {
            self.by_piece.entry(*piece).or_default().push(self.names.len());
        }
        self.names.push(Name { page, pieces: pieces.len(), is_title });
    }

    /// The page that `address`, or words that were linked to it, tell of. O(names that share a piece with them).
    pub fn page_for(&self, address: &Address, anchors: &[String]) -> Option<PageId> {
        let by_address = self.most_alike(&slug(address), false);
        let by_anchor = anchors.iter().filter_map(|anchor| self.most_alike(anchor, true));
        let best = by_address.into_iter().chain(by_anchor).max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)));
        best.map(|(_, page)| page)
    }

    fn most_alike(&self, name: &str, is_title: bool) -> Option<(f64, PageId)> {
        let wanted = pieces(name);
        let mut shared: HashMap<usize, usize> = HashMap::new();
        for piece in &wanted {
            for at in self.by_piece.get(piece).into_iter().flatten().filter(|at| self.names[**at].is_title == is_title)
            {
                *shared.entry(*at).or_default() += 1;
            }
        }
        // Sørensen–Dice: twice what is shared over what both have.
        let similarity = |(at, count): (usize, usize)| {
            let name = &self.names[at];
            (2.0 * count as f64 / (wanted.len() + name.pieces) as f64, name.page)
        };
        let alike = shared.into_iter().map(similarity).filter(|(similarity, _)| *similarity >= LEAST);
        alike.max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)))
    }
}

/// The last part of an address that names something, without its ending.
fn slug(address: &Address) -> String {
    let path = address.as_url().path();
    let part = path.rsplit('/').find(|part| !part.is_empty() && !part.starts_with("index.")).unwrap_or_default();
    let part = percent_encoding::percent_decode_str(part).decode_utf8_lossy().into_owned();
    part.rsplit_once('.').map_or(part.clone(), |(stem, _)| stem.to_owned())
}

/// Each piece once; ends of the name are pieces with spaces.
fn pieces(name: &str) -> Vec<[char; 3]> {
    let words: String = fold(name).chars().map(|c| if c.is_alphanumeric() { c } else { ' ' }).collect();
    let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
    if words.is_empty() {
        return Vec::new();
    }
    let chars: Vec<char> = format!(" {words} ").chars().collect();
    let mut pieces: Vec<_> = chars.windows(3).map(|three| [three[0], three[1], three[2]]).collect();
    pieces.sort_unstable();
    pieces.dedup();
    pieces
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::language::Language;
    use crate::site::{PageKind, Standing};

    fn pages() -> Vec<PageFacts> {
        let pages = [
            ("/guides/averted-vision/", "Averted vision"),
            ("/guides/red-torch/", "Why the torch is red"),
            ("/posts/2026/moon-maps.html", "Maps of the Moon"),
        ];
        let facts = |(number, (path, title)): (u32, (&str, &str))| PageFacts {
            id: PageId(number),
            address: Address::parse(&format!("http://sky.example{path}")).unwrap(),
            kind: PageKind::Page,
            title: title.to_owned(),
            heading: None,
            category: None,
            words: 0,
            language: Language::English,
            editable: true,
            standing: Standing::default(),
        };
        (1..).zip(pages).map(facts).collect()
    }

    #[test]
    fn addresses_with_slips_and_old_places_find_their_page() {
        let pages = pages();
        let likeliest = Likeliest::of(pages.iter());
        let of = |path: &str, anchors: &[&str]| {
            let anchors: Vec<_> = anchors.iter().map(|anchor| (*anchor).to_owned()).collect();
            likeliest.page_for(&Address::parse(&format!("http://sky.example{path}")).unwrap(), &anchors)
        };
        assert_eq!(of("/averted-vison", &[]), Some(PageId(1)));
        assert_eq!(of("/archive/Moon_Maps.htm", &[]), Some(PageId(3)));
        assert_eq!(of("/p?id=77", &["why the torch is red"]), Some(PageId(2)));
        assert_eq!(of("/contact", &["here"]), None);
    }
}
