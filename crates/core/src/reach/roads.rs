//! Which page leads to which, by the page on one end.

use crate::document::{LinkMarks, Region};

/// How much a link is worth to whoever weighs it: by where it stands, and whether it asks not to be followed.
///
/// Greater is stronger: what is followed before what is not, then content before menus before footers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Strength(u8);

/// Where a link stands, as far as its worth goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Carrier {
    /// The foot of the page, or a box beside the text.
    Footer,
    /// A menu, a header, the way from the entry page, a table of contents.
    Menu,
    /// The page's own text.
    Content,
}

impl Carrier {
    /// All carriers, the weakest first.
    pub const ALL: [Self; 3] = [Self::Footer, Self::Menu, Self::Content];

    /// That of a region.
    pub const fn of(region: Region) -> Self {
        match region {
            Region::Content => Self::Content,
            Region::Menu | Region::Breadcrumb | Region::Contents | Region::Header => Self::Menu,
            Region::Footer | Region::Aside => Self::Footer,
        }
    }
}

impl Strength {
    /// Of a link in the page's own text that is followed.
    pub const CONTENT: Self = Self(5);

    /// Of a link in a region.
    pub const fn of(region: Region, marks: LinkMarks) -> Self {
        let followed = if marks.has(LinkMarks::NOFOLLOW) { 0 } else { 3 };
        Self(followed + Carrier::of(region) as u8)
    }

    /// All strengths, the weakest first.
    pub const ALL: [Self; 6] = [Self(0), Self(1), Self(2), Self(3), Self(4), Self(5)];

    /// Its place in [`Strength::ALL`].
    pub const fn rank(self) -> usize {
        self.0 as usize
    }

    /// Where the link stands.
    pub const fn carrier(self) -> Carrier {
        match self.0 % 3 {
            0 => Carrier::Footer,
            1 => Carrier::Menu,
            _ => Carrier::Content,
        }
    }

    /// Whether it is to be followed.
    pub const fn is_followed(self) -> bool {
        self.0 >= 3
    }
}

/// A road from one page to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Road {
    /// The number of the page on its other end.
    pub to: u32,
    /// That of its strongest link.
    pub strength: Strength,
}

/// Roads by the page on one end, sorted by the page on the other; each pair of pages once.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Roads {
    /// Where the roads of each page begin, and at last where those of the last one end.
    starts: Vec<u32>,
    ends: Vec<u32>,
    strengths: Vec<Strength>,
}

impl Roads {
    /// Of so many pages; `roads_of` adds the roads of each, in any order and as often as it likes.
    pub(super) fn new(pages: usize, mut roads_of: impl FnMut(u32, &mut Vec<Road>)) -> Self {
        let (mut starts, mut ends, mut strengths) = (Vec::with_capacity(pages + 1), Vec::new(), Vec::new());
        starts.push(0);
        let mut roads = Vec::new();
        for page in 0..u32::try_from(pages).unwrap_or(u32::MAX) {
            roads.clear();
            roads_of(page, &mut roads);
            // The strongest of a pair comes first, and is the one that stays.
            roads.sort_unstable_by(|one, other| one.to.cmp(&other.to).then(other.strength.cmp(&one.strength)));
            roads.dedup_by_key(|road| road.to);
            ends.extend(roads.iter().map(|road| road.to));
            strengths.extend(roads.iter().map(|road| road.strength));
            starts.push(u32::try_from(ends.len()).unwrap_or(u32::MAX));
        }
        Self { starts, ends, strengths }
    }

    fn range(&self, page: u32) -> std::ops::Range<usize> {
        let at = page as usize;
        let start = self.starts.get(at).copied().unwrap_or_default() as usize;
        let end = self.starts.get(at + 1).copied().unwrap_or_default() as usize;
        start..end.max(start)
    }

    /// The pages on the other ends of a page's roads, in the order of their numbers. O(1).
    pub fn ends(&self, page: u32) -> &[u32] {
        &self.ends[self.range(page)]
    }

    /// The roads of a page.
    pub fn of(&self, page: u32) -> impl Iterator<Item = Road> + '_ {
        let range = self.range(page);
        let ends = &self.ends[range.clone()];
        ends.iter().zip(&self.strengths[range]).map(|(to, strength)| Road { to: *to, strength: *strength })
    }

    /// Whether there is a road between two pages in this direction. O(log of the roads of `page`).
    pub fn leads(&self, page: u32, to: u32) -> bool {
        self.ends(page).binary_search(&to).is_ok()
    }

    /// How many pages there are.
    pub fn pages(&self) -> usize {
        self.starts.len() - 1
    }

    /// How many roads there are.
    pub fn len(&self) -> usize {
        self.ends.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.ends.is_empty()
    }

    /// The same roads by the page to which they lead. O(pages + roads).
    pub fn reversed(&self) -> Self {
        let mut starts = vec![0u32; self.starts.len()];
        for end in &self.ends {
            starts[*end as usize + 1] += 1;
        }
        for at in 1..starts.len() {
            starts[at] += starts[at - 1];
        }
        let mut free = starts.clone();
        let mut ends = vec![0u32; self.ends.len()];
        let mut strengths = vec![Strength::CONTENT; self.ends.len()];
        for from in 0..u32::try_from(self.pages()).unwrap_or(u32::MAX) {
            for road in self.of(from) {
                let at = &mut free[road.to as usize];
                ends[*at as usize] = from;
                strengths[*at as usize] = road.strength;
                *at += 1;
            }
        }
        Self { starts, ends, strengths }
    }
}
