//! Sites with some of their links hidden: what an author linked is known, and stands in the text without a link.

use std::collections::{HashMap, HashSet};
use std::path::Path;

use anyhow::Context;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::{Document, Link, TextSpan};
use strelm_core::openings::learning::{HiddenLink, hide_links};
use strelm_core::openings::{Corpus, CorpusPage};
use strelm_core::site::{Address, Destination, PageId};
use strelm_sources::folder::{self, FolderFile};

/// On which pages links are hidden.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Hide {
    /// On one in five: the others tell how the site links.
    Some,
    /// On all.
    All,
}

/// A site with hidden links.
pub struct HiddenSite {
    pub corpus: Corpus,
    /// By source and target, the words that carried links.
    pub hidden: HashMap<(PageId, PageId), Vec<TextSpan>>,
    /// Pages that had links and have them no more, in the order of their numbers.
    pub sources: Vec<PageId>,
}

/// Reads the pages of a folder. O(bytes).
///
/// # Errors
/// When a file cannot be read.
pub fn read(folder: &Path) -> anyhow::Result<Vec<(String, String)>> {
    let mut pages = Vec::new();
    for file in folder::files(folder) {
        if let FolderFile::Page { path, text, .. } = file? {
            pages.push((path, text));
        }
    }
    Ok(pages)
}

/// Hides links of a site and reads it. O(bytes).
///
/// # Errors
/// When a page has no usable address.
pub fn hide(pages: &[(String, String)], hide: Hide, seed: u64) -> anyhow::Result<HiddenSite> {
    let base = Address::parse("http://folder.invalid/")?;
    let address = |path: &str| {
        let mut url = base.as_url().clone();
        url.path_segments_mut().ok()?.clear().extend(path.split('/'));
        Address::parse(url.as_str()).ok()
    };
    let addresses: Vec<_> = pages
        .iter()
        .map(|(path, _)| address(path).context("a page has no usable address"))
        .collect::<Result<_, _>>()?;
    let numbers: HashMap<&Address, PageId> =
        (1..).zip(&addresses).map(|(number, address)| (address, PageId(number))).collect();
    let chosen: HashSet<usize> = match hide {
        Hide::All => (0..pages.len()).collect(),
        Hide::Some => {
            let mut random = fastrand::Rng::with_seed(seed);
            (0..pages.len()).filter(|_| random.usize(..5) == 0).collect()
        }
    };
    let read: Vec<(Document, Vec<HiddenLink>)> = (0..pages.len())
        .into_par_iter()
        .map(|at| {
            let document = Document::from_html(pages[at].1.as_str());
            if !chosen.contains(&at) {
                return (document, Vec::new());
            }
            let target = |link: &Link| match addresses[at].follow(&link.href) {
                Destination::Page { address, .. } => numbers.get(&address).copied(),
                _ => None,
            };
            let other = |link: &Link| target(link).filter(|target| target.0 as usize != at + 1);
            hide_links(&document, 0, other).unwrap_or((document, Vec::new()))
        })
        .collect();
    let mut hidden: HashMap<(PageId, PageId), Vec<TextSpan>> = HashMap::new();
    let mut corpus = Vec::new();
    for ((number, address), (document, links)) in (1..).zip(&addresses).zip(read) {
        for HiddenLink { target, words } in links {
            hidden.entry((PageId(number), target)).or_default().push(words);
        }
        corpus.push(CorpusPage { address: address.clone(), document });
    }
    let entry = address("index.html").context("the entry page has no address")?;
    let corpus = Corpus::of(entry, corpus);
    hidden.retain(|(source, target), _| !corpus.book.anchors().is_linked_in_prose(*source, *target));
    let mut sources: Vec<_> = hidden.keys().map(|(source, _)| *source).collect();
    sources.sort_unstable();
    sources.dedup();
    Ok(HiddenSite { corpus, hidden, sources })
}
