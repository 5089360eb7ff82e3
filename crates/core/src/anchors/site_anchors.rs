//! All anchor texts of a site, counted page by page.

use std::collections::BTreeMap;
use std::hash::Hash;

use rustc_hash::{FxHashMap, FxHashSet};
use smallvec::SmallVec;

use super::fault::AnchorFault;
use super::said::LookedLink;
use super::tally::Tally;
use crate::document::LinkMarks;
use crate::ids::PageId;
use crate::language::words;

/// A target with fewer links is not said to be called by one text alone.
const SAID_OFTEN: u32 = 5;

/// A target that is called by more texts has no name that readers could remember.
const MOST_TEXTS: u32 = 8;

/// An anchor text of a site.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
struct AnchorId(u32);

/// An anchor text with what is counted of its links.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnchorRow {
    /// By which it is known as long as it is counted here.
    pub number: u32,
    /// All texts are one that have the same: those that differ in case, accents or marks alone.
    pub key: String,
    /// As most links write it.
    pub text: String,
    pub words: usize,
    /// Links in the content of pages, on how many pages, and to how many targets.
    pub links: usize,
    pub pages: usize,
    pub targets: usize,
    /// Links in menus, headers and footers.
    pub repeated: usize,
    /// Of links in the content, the gravest first.
    pub faults: Vec<AnchorFault>,
}

/// Where a link of an anchor text stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnchorPlace<'a> {
    pub page: PageId,
    /// Which of the links of its page it is, if it is one of its own text.
    pub ordinal: Option<usize>,
    /// As it is written.
    pub text: &'a str,
    pub to: &'a str,
    pub is_repeated: bool,
    pub marks: LinkMarks,
}

/// The anchor texts of a site, kept up to date page by page. Texts and targets that nobody uses any more stay known, and
/// are no rows.
#[derive(Debug, Default)]
pub struct SiteAnchors {
    texts: Numbered,
    targets: Numbered,
    keys: Numbered,
    anchors: Vec<Anchor>,
    led_to: Vec<LedTo>,
    pages: BTreeMap<PageId, Box<[Said]>>,
}

/// Strings by their numbers.
#[derive(Debug, Default)]
struct Numbered {
    numbers: FxHashMap<Box<str>, u32>,
    strings: Vec<Box<str>>,
}

impl Numbered {
    fn number(&mut self, string: &str) -> u32 {
        if let Some(number) = self.numbers.get(string) {
            return *number;
        }
        let number = u32::try_from(self.strings.len()).unwrap_or(u32::MAX);
        self.numbers.insert(string.into(), number);
        self.strings.push(string.into());
        number
    }

    fn get(&self, string: &str) -> Option<u32> {
        self.numbers.get(string).copied()
    }

    /// Bytes on the heap. O(strings).
    fn weight(&self) -> usize {
        self.strings.iter().map(|string| 2 * (string.len() + size_of::<Box<str>>()) + size_of::<u32>()).sum()
    }

    fn string(&self, number: u32) -> &str {
        self.strings.get(number as usize).map_or("", |string| string)
    }
}

/// A link of a page.
#[derive(Debug)]
struct Said {
    anchor: AnchorId,
    text: u32,
    to: u32,
    ordinal: Option<u32>,
    is_repeated: bool,
    is_filing: bool,
    marks: LinkMarks,
    faults: SmallVec<[AnchorFault; 0]>,
}

#[derive(Debug, Default)]
struct Anchor {
    /// As it is written.
    written: Tally<u32>,
    links: u32,
    pages: u32,
    repeated: u32,
    targets: Tally<u32>,
    /// Archives of terms under which pages are filed with it: these are called by their names, and by nothing else.
    filed_under: Tally<u32>,
    faults: Tally<AnchorFault>,
}

#[derive(Debug, Default)]
struct LedTo {
    links: u32,
    /// How many different texts lead there.
    texts: u32,
}

/// One more or one less; whether it is the first, or was the last.
fn count<T: Copy + Eq + Hash>(tally: &mut Tally<T>, one: T, is_more: bool) -> bool {
    if is_more { tally.add(one) } else { tally.take(one) }
}

/// As many as before, and one more or less.
const fn step(count: u32, is_more: bool) -> u32 {
    if is_more { count.saturating_add(1) } else { count.saturating_sub(1) }
}

impl SiteAnchors {
    /// Replaces the links of a page. O(links × texts and targets of their anchors, which are few).
    pub fn put(&mut self, page: PageId, links: &[LookedLink]) {
        self.remove(page);
        let said: Box<[Said]> = links.iter().map(|link| self.said(link)).collect();
        self.note(&said, true);
        self.pages.insert(page, said);
    }

    /// As [`Self::put`].
    pub fn remove(&mut self, page: PageId) {
        if let Some(said) = self.pages.remove(&page) {
            self.note(&said, false);
        }
    }

    fn said(&mut self, link: &LookedLink) -> Said {
        let anchor = AnchorId(self.keys.number(&link.key));
        if self.anchors.len() <= anchor.0 as usize {
            self.anchors.resize_with(anchor.0 as usize + 1, Anchor::default);
        }
        let to = self.targets.number(&link.to);
        if self.led_to.len() <= to as usize {
            self.led_to.resize_with(to as usize + 1, LedTo::default);
        }
        Said {
            anchor,
            text: self.texts.number(&link.text),
            to,
            ordinal: link.ordinal,
            is_repeated: link.is_repeated,
            is_filing: link.is_filing,
            marks: link.marks,
            faults: link.faults.iter().copied().collect(),
        }
    }

    fn note(&mut self, said: &[Said], is_more: bool) {
        let mut on_page: Vec<AnchorId> = Vec::new();
        for link in said {
            let Some(anchor) = self.anchors.get_mut(link.anchor.0 as usize) else { continue };
            count(&mut anchor.written, link.text, is_more);
            if link.is_repeated {
                anchor.repeated = step(anchor.repeated, is_more);
                continue;
            }
            on_page.push(link.anchor);
            anchor.links = step(anchor.links, is_more);
            for fault in &link.faults {
                count(&mut anchor.faults, *fault, is_more);
            }
            if link.is_filing {
                count(&mut anchor.filed_under, link.to, is_more);
                continue;
            }
            let is_new_or_last = count(&mut anchor.targets, link.to, is_more);
            if let Some(led_to) = self.led_to.get_mut(link.to as usize) {
                led_to.links = step(led_to.links, is_more);
                if is_new_or_last {
                    led_to.texts = step(led_to.texts, is_more);
                }
            }
        }
        on_page.sort_unstable();
        on_page.dedup();
        for anchor in on_page {
            if let Some(anchor) = self.anchors.get_mut(anchor.0 as usize) {
                anchor.pages = step(anchor.pages, is_more);
            }
        }
    }

    /// The texts, those with the most links first. O(texts · log texts).
    pub fn rows(&self) -> Vec<AnchorRow> {
        let numbered = self.anchors.iter().zip(0..).filter(|(anchor, _)| anchor.written.len() > 0);
        let mut rows: Vec<_> = numbered.map(|(anchor, number)| self.row(AnchorId(number), anchor)).collect();
        rows.sort_by(|a, b| (b.links, b.repeated, &a.text).cmp(&(a.links, a.repeated, &b.text)));
        rows
    }

    fn row(&self, id: AnchorId, anchor: &Anchor) -> AnchorRow {
        let written = anchor.written.iter().map(|(text, times)| (self.texts.string(text), times));
        let written = written.max_by(|a, b| a.1.cmp(&b.1).then_with(|| b.0.cmp(a.0)));
        let text = written.map(|(text, _)| text.to_owned()).unwrap_or_default();
        let count = words(&text).count();
        let mut faults: Vec<_> = anchor.faults.iter().map(|(fault, _)| fault).collect();
        // What says nothing names no target, be it one or many.
        if count > 0 {
            faults.extend(self.faults_of_targets(anchor));
        }
        faults.sort_unstable();
        let only_filed_under = anchor.filed_under.iter().filter(|(to, _)| !anchor.targets.has(*to));
        AnchorRow {
            number: id.0,
            key: self.keys.string(id.0).to_owned(),
            words: count,
            text,
            links: anchor.links as usize,
            pages: anchor.pages as usize,
            targets: anchor.targets.len() + only_filed_under.count(),
            repeated: anchor.repeated as usize,
            faults,
        }
    }

    /// What is wrong with where a text leads.
    fn faults_of_targets(&self, anchor: &Anchor) -> impl Iterator<Item = AnchorFault> {
        let targets = || anchor.targets.iter().filter_map(|(to, _)| self.led_to.get(to as usize));
        let several = Some(anchor.targets.len()).filter(|targets| *targets > 1);
        let only = targets().find(|target| target.texts == 1 && target.links >= SAID_OFTEN);
        let many = targets().map(|target| target.texts).max().filter(|texts| *texts > MOST_TEXTS);
        let several = several.map(|targets| AnchorFault::SeveralTargets { targets });
        let only = only.map(|target| AnchorFault::OnlyText { links: target.links as usize });
        let many = many.map(|texts| AnchorFault::ManyTexts { texts: texts as usize });
        several.into_iter().chain(only).chain(many)
    }

    /// The links of some anchor texts by their keys, in the order of pages and links; those in content come with their ordinals.
    /// O(links of the site).
    pub fn places(&self, keys: &[String]) -> impl Iterator<Item = AnchorPlace<'_>> {
        let asked: FxHashSet<AnchorId> = keys.iter().filter_map(|key| self.keys.get(key)).map(AnchorId).collect();
        self.links(move |link| asked.contains(&link.anchor))
    }

    /// The links whose targets pass a test, which each target is put to once. O(links and targets of the site).
    pub fn leading(&self, mut is_asked: impl FnMut(&str) -> bool) -> impl Iterator<Item = AnchorPlace<'_>> {
        let asked: Vec<bool> = self.targets.strings.iter().map(|to| is_asked(to)).collect();
        self.links(move |link| asked.get(link.to as usize).is_some_and(|is_asked| *is_asked))
    }

    fn links<'a>(&'a self, is_asked: impl Fn(&Said) -> bool + 'a) -> impl Iterator<Item = AnchorPlace<'a>> {
        let on_pages = self.pages.iter().flat_map(|(page, said)| said.iter().map(move |link| (*page, link)));
        on_pages.filter(move |(_, link)| is_asked(link)).map(|(page, link)| AnchorPlace {
            page,
            ordinal: link.ordinal.map(|ordinal| ordinal as usize),
            text: self.texts.string(link.text),
            to: self.targets.string(link.to),
            is_repeated: link.is_repeated,
            marks: link.marks,
        })
    }

    /// About how many bytes it takes. O(texts + pages).
    pub fn weight(&self) -> usize {
        let said: usize = self.pages.values().map(|said| said.len()).sum();
        self.texts.weight()
            + self.targets.weight()
            + self.keys.weight()
            + said * size_of::<Said>()
            + self.anchors.len() * size_of::<Anchor>()
            + self.led_to.len() * size_of::<LedTo>()
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use proptest::prelude::*;

    use super::*;
    use crate::anchors::SaidLink;
    use crate::document::LinkKind;
    use crate::language::Language;

    fn link<'l>(text: &'l str, to: &'l str) -> SaidLink<'l> {
        SaidLink {
            language: Language::English,
            text,
            kind: LinkKind::Text,
            to,
            ordinal: Some(0),
            is_repeated: false,
            is_filing: false,
            marks: LinkMarks::default(),
        }
    }

    fn counted<'l>(pages: impl IntoIterator<Item = (u32, Vec<SaidLink<'l>>)>) -> SiteAnchors {
        let mut anchors = SiteAnchors::default();
        for (page, links) in pages {
            let links: Vec<_> = links.into_iter().map(LookedLink::of).collect();
            anchors.put(PageId(page), &links);
        }
        anchors
    }

    #[test]
    fn texts_that_say_the_same_are_one_and_their_faults_are_told() {
        let anchors = counted([
            (1, vec![link("Here", "/moon")]),
            (2, vec![link("here", "/sun"), link("here.", "/sun")]),
            (
                3,
                vec![
                    link("The moon", "/moon"),
                    SaidLink { is_repeated: true, ..link("Home", "/") },
                    SaidLink { kind: LinkKind::Picture, ..link("", "/sun") },
                ],
            ),
            (4, vec![link("", "/sun")]),
        ]);
        let rows = anchors.rows();
        let told = |row: &AnchorRow| {
            let faults: Vec<_> = row.faults.iter().map(ToString::to_string).collect();
            let AnchorRow { text, links, pages, targets, repeated, .. } = row;
            format!("{text}: {links} {pages} {targets} {repeated}; {}", faults.join(", "))
        };
        assert_eq!(
            rows.iter().map(told).collect::<Vec<_>>(),
            [
                "Here: 3 2 2 0; the words say nothing of where they lead, the same words lead to 2 targets",
                ": 1 1 1 0; the picture has no alternative text, so the link says nothing to whoever does not see it",
                ": 1 1 1 0; there is nothing to press",
                "The moon: 1 1 1 0; ",
                "Home: 0 0 0 1; ",
            ]
        );
        let places: Vec<_> = anchors
            .places(&[rows[0].key.clone()])
            .map(|place| format!("{} {} {}", place.page.0, place.text, place.to))
            .collect();
        assert_eq!(places, ["1 Here /moon", "2 here /sun", "2 here. /sun"]);
    }

    #[test]
    fn a_target_with_one_name_or_too_many_is_told() {
        let same = |pages: u32| counted((1..=pages).map(|page| (page, vec![link("dark adaptation", "/dark")])));
        assert_eq!(same(5).rows()[0].faults, [AnchorFault::OnlyText { links: 5 }]);
        assert_eq!(same(4).rows()[0].faults, []);
        // The archive of a term is called by its name.
        let filed = (1..=9).map(|page| (page, vec![SaidLink { is_filing: true, ..link("moons", "/tag/moon") }]));
        let filed = counted(filed).rows();
        assert_eq!((filed[0].links, filed[0].targets, filed[0].faults.as_slice()), (9, 1, &[][..]));
        let names: Vec<_> = (0..9).map(|at| format!("name {at}")).collect();
        let many = counted([(1, names.iter().map(|name| link(name, "/dark")).collect())]);
        assert!(many.rows().iter().all(|row| row.faults == [AnchorFault::ManyTexts { texts: 9 }]));
    }

    const TEXTS: [&str; 6] = ["moon", "Moon!", "sun", "red  sun", "…", "here"];
    const TARGETS: [&str; 3] = ["/a", "/b", "/c"];

    /// Links of a page: text, target, whether it is repeated.
    type Plain = Vec<(usize, usize, bool)>;

    fn said(links: &Plain) -> Vec<SaidLink<'static>> {
        let said = |(text, to, is_repeated): &(usize, usize, bool)| SaidLink {
            is_repeated: *is_repeated,
            ..link(TEXTS[*text], TARGETS[*to])
        };
        links.iter().map(said).collect()
    }

    /// What is counted of an anchor text: links, pages, targets, repeated links.
    type Counted = (usize, BTreeSet<u32>, BTreeSet<usize>, usize);

    fn plain_count(pages: &BTreeMap<u32, Plain>) -> BTreeMap<&'static str, (usize, usize, usize, usize)> {
        let mut plain: BTreeMap<&str, Counted> = BTreeMap::new();
        for (page, (text, to, is_repeated)) in
            pages.iter().flat_map(|(page, links)| links.iter().map(move |l| (page, l)))
        {
            let count = plain.entry(["moon", "moon", "sun", "red sun", "…", "here"][*text]).or_default();
            if *is_repeated {
                count.3 += 1;
            } else {
                count.0 += 1;
                count.1.insert(*page);
                count.2.insert(*to);
            }
        }
        plain
            .into_iter()
            .map(|(key, (links, pages, targets, repeated))| (key, (links, pages.len(), targets.len(), repeated)))
            .collect()
    }

    proptest! {
        /// After any changes the counts are those of a plain count, and the rows those of a count from nothing.
        #[test]
        fn whatever_changes_the_counts_are_those_of_a_plain_count(
            steps in prop::collection::vec(
                (1..5u32, prop::option::of(prop::collection::vec((0..6usize, 0..3usize, any::<bool>()), 0..12))),
                0..20,
            ),
        ) {
            let mut anchors = SiteAnchors::default();
            let mut pages: BTreeMap<u32, Plain> = BTreeMap::new();
            for (page, links) in steps {
                match links {
                    Some(links) => {
                        let looked: Vec<_> = said(&links).into_iter().map(LookedLink::of).collect();
                        anchors.put(PageId(page), &looked);
                        pages.insert(page, links);
                    }
                    None => {
                        anchors.remove(PageId(page));
                        pages.remove(&page);
                    }
                }
            }
            let rows = anchors.rows();
            let folded = |row: &AnchorRow| row.text.to_lowercase().replace('!', "").replace("  ", " ");
            let of_row = |row: &AnchorRow| (folded(row), (row.links, row.pages, row.targets, row.repeated));
            let counts: BTreeMap<_, _> = rows.iter().map(of_row).collect();
            let plain: BTreeMap<_, _> =
                plain_count(&pages).into_iter().map(|(key, count)| (key.to_owned(), count)).collect();
            prop_assert_eq!(counts, plain);
            let anew = counted(pages.iter().map(|(page, links)| (*page, said(links)))).rows();
            let bare = |rows: &[AnchorRow]| -> Vec<_> {
                rows.iter().map(|row| AnchorRow { number: 0, ..row.clone() }).collect()
            };
            prop_assert_eq!(bare(&rows), bare(&anew));
            let places: usize = rows.iter().map(|row| anchors.places(std::slice::from_ref(&row.key)).count()).sum();
            prop_assert_eq!(places, rows.iter().map(|row| row.links + row.repeated).sum::<usize>());
        }
    }
}
