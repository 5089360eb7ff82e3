//! All anchor texts of a site, counted.

use rustc_hash::{FxHashMap, FxHashSet};

use super::empty_words::folded_words;
use super::fault::AnchorFault;
use crate::document::LinkKind;
use crate::ids::PageId;
use crate::language::{Language, words};

/// A target with fewer links is not said to be called by one text alone.
const SAID_OFTEN: usize = 5;

/// A target that is called by more texts has no name that readers could remember.
const MOST_TEXTS: usize = 8;

/// A link as its reader sees it.
#[derive(Debug, Clone, Copy)]
pub struct SaidLink<'l> {
    pub page: PageId,
    pub language: Language,
    /// Its words; of a picture its alternative text.
    pub text: &'l str,
    pub kind: LinkKind,
    /// Where it leads, with the place on the page.
    pub to: &'l str,
    /// Whether it stands on many pages alike, in a menu or footer.
    pub is_repeated: bool,
}

/// An anchor text with what is counted of its links.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct AnchorRow {
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

/// Counts anchor texts: texts that differ in case, accents or marks alone are one.
#[derive(Debug, Default)]
pub struct AnchorTexts {
    by_words: FxHashMap<String, usize>,
    texts: Vec<Text>,
    by_target: FxHashMap<String, usize>,
    targets: Vec<Target>,
}

#[derive(Debug, Default)]
struct Text {
    /// How often it is written in which way.
    written: FxHashMap<String, usize>,
    links: usize,
    repeated: usize,
    pages: FxHashSet<PageId>,
    targets: FxHashSet<usize>,
    faults: Vec<AnchorFault>,
}

#[derive(Debug, Default)]
struct Target {
    links: usize,
    texts: FxHashSet<usize>,
}

impl AnchorTexts {
    /// O(length).
    pub fn add(&mut self, link: SaidLink<'_>) {
        let said = link.text.trim();
        let folded = folded_words(said);
        // What has no words is known by its marks; what has none either, by whether it is a picture.
        let key = match (folded.is_empty(), link.kind) {
            (true, LinkKind::Picture | LinkKind::Area) if said.is_empty() => "\u{0}".to_owned(),
            (true, _) => said.to_owned(),
            (false, _) => folded,
        };
        let at = *self.by_words.entry(key).or_insert_with(|| {
            self.texts.push(Text::default());
            self.texts.len() - 1
        });
        let Some(text) = self.texts.get_mut(at) else { return };
        *text.written.entry(said.to_owned()).or_default() += 1;
        if link.is_repeated {
            text.repeated += 1;
            return;
        }
        let to = match self.by_target.get(link.to) {
            Some(to) => *to,
            None => {
                self.targets.push(Target::default());
                self.by_target.insert(link.to.to_owned(), self.targets.len() - 1);
                self.targets.len() - 1
            }
        };
        text.links += 1;
        text.pages.insert(link.page);
        text.targets.insert(to);
        if let Some(target) = self.targets.get_mut(to) {
            target.links += 1;
            target.texts.insert(at);
        }
        for fault in AnchorFault::of_text(said, link.kind, link.language) {
            if !text.faults.contains(&fault) {
                text.faults.push(fault);
            }
        }
    }

    /// The texts, those with the most links first. O(texts · log texts).
    pub fn into_rows(self) -> Vec<AnchorRow> {
        let Self { texts, targets, .. } = self;
        let mut rows: Vec<_> = texts.into_iter().map(|text| text.row(&targets)).collect();
        rows.sort_by(|a, b| (b.links, b.repeated, &a.text).cmp(&(a.links, a.repeated, &b.text)));
        rows
    }
}

impl Text {
    fn row(self, targets: &[Target]) -> AnchorRow {
        let written = self.written.into_iter().max_by(|a, b| a.1.cmp(&b.1).then_with(|| b.0.cmp(&a.0)));
        let text = written.map(|(text, _)| text).unwrap_or_default();
        let count = words(&text).count();
        let mut faults = self.faults;
        // What says nothing names no target, be it one or many.
        if count > 0 {
            faults.extend(Self::faults_of_targets(self.targets.iter().filter_map(|to| targets.get(*to))));
        }
        faults.sort();
        AnchorRow {
            words: count,
            text,
            links: self.links,
            pages: self.pages.len(),
            targets: self.targets.len(),
            repeated: self.repeated,
            faults,
        }
    }

    /// What is wrong with a text that leads to these targets.
    fn faults_of_targets<'t>(led_to: impl Iterator<Item = &'t Target> + Clone) -> Vec<AnchorFault> {
        let several = Some(led_to.clone().count()).filter(|targets| *targets > 1);
        let only = led_to.clone().find(|target| target.texts.len() == 1 && target.links >= SAID_OFTEN);
        let many = led_to.map(|target| target.texts.len()).max().filter(|texts| *texts > MOST_TEXTS);
        let several = several.map(|targets| AnchorFault::SeveralTargets { targets });
        let only = only.map(|target| AnchorFault::OnlyText { links: target.links });
        several.into_iter().chain(only).chain(many.map(|texts| AnchorFault::ManyTexts { texts })).collect()
    }
}

#[cfg(test)]
mod tests {
    use std::collections::{BTreeMap, BTreeSet};

    use proptest::prelude::*;

    use super::*;

    fn link<'l>(page: u32, text: &'l str, to: &'l str) -> SaidLink<'l> {
        SaidLink { page: PageId(page), language: Language::English, text, kind: LinkKind::Text, to, is_repeated: false }
    }

    fn rows<'l>(links: impl IntoIterator<Item = SaidLink<'l>>) -> Vec<AnchorRow> {
        let mut texts = AnchorTexts::default();
        links.into_iter().for_each(|link| texts.add(link));
        texts.into_rows()
    }

    #[test]
    fn texts_that_say_the_same_are_one_and_their_faults_are_told() {
        let rows = rows([
            link(1, "Here", "/moon"),
            link(2, "here", "/sun"),
            link(2, "here.", "/sun"),
            link(3, "The moon", "/moon"),
            SaidLink { is_repeated: true, ..link(3, "Home", "/") },
            SaidLink { kind: LinkKind::Picture, ..link(3, "", "/sun") },
            link(4, "", "/sun"),
        ]);
        let told: Vec<_> = rows
            .iter()
            .map(|row| {
                let faults: Vec<_> = row.faults.iter().map(ToString::to_string).collect();
                format!(
                    "{}: {} {} {} {}; {}",
                    row.text,
                    row.links,
                    row.pages,
                    row.targets,
                    row.repeated,
                    faults.join(", ")
                )
            })
            .collect();
        assert_eq!(
            told,
            [
                "Here: 3 2 2 0; the words say nothing of where they lead, the same words lead to 2 targets",
                ": 1 1 1 0; the picture has no alternative text, so the link says nothing to whoever does not see it",
                ": 1 1 1 0; there is nothing to press",
                "The moon: 1 1 1 0; ",
                "Home: 0 0 0 1; ",
            ]
        );
    }

    #[test]
    fn a_target_with_one_name_or_too_many_is_told() {
        let same = (1..=5).map(|page| link(page, "dark adaptation", "/dark"));
        assert_eq!(rows(same.clone())[0].faults, [AnchorFault::OnlyText { links: 5 }]);
        assert_eq!(rows(same.take(4))[0].faults, []);
        let names: Vec<_> = (0..9).map(|at| format!("name {at}")).collect();
        let many = rows(names.iter().map(|name| link(1, name, "/dark")));
        assert!(many.iter().all(|row| row.faults == [AnchorFault::ManyTexts { texts: 9 }]));
    }

    /// Links, pages, targets and repeated links.
    type Plain = (usize, BTreeSet<u32>, BTreeSet<usize>, usize);

    proptest! {
        #[test]
        fn counts_are_those_of_a_plain_count(
            links in prop::collection::vec((1..4u32, 0..5usize, 0..3usize, any::<bool>()), 0..40),
        ) {
            const TEXTS: [&str; 5] = ["moon", "Moon!", "sun", "red  sun", "…"];
            const TARGETS: [&str; 3] = ["/a", "/b", "/c"];
            let said = |(page, text, to, is_repeated): &(u32, usize, usize, bool)| SaidLink {
                is_repeated: *is_repeated,
                ..link(*page, TEXTS[*text], TARGETS[*to])
            };
            let rows = rows(links.iter().map(said));
            let mut plain: BTreeMap<&str, Plain> = BTreeMap::new();
            for (page, text, to, is_repeated) in &links {
                let key = ["moon", "moon", "sun", "red sun", "…"][*text];
                let count = plain.entry(key).or_default();
                if *is_repeated {
                    count.3 += 1;
                    continue;
                }
                count.0 += 1;
                count.1.insert(*page);
                count.2.insert(*to);
            }
            let counted: BTreeMap<_, _> = rows
                .iter()
                .map(|row| {
                    let folded = folded_words(&row.text);
                    let key = if folded.is_empty() { row.text.clone() } else { folded };
                    (key, (row.links, row.pages, row.targets, row.repeated))
                })
                .collect();
            let plain: BTreeMap<_, _> = plain
                .into_iter()
                .map(|(key, (links, pages, targets, repeated))| (key.to_owned(), (links, pages.len(), targets.len(), repeated)))
                .collect();
            prop_assert_eq!(counted, plain);
            prop_assert!(rows.windows(2).all(|two| two[0].links >= two[1].links));
        }
    }
}
