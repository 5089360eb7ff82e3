//! Mending links that are on a page: they get another target, or are taken off their words.

use std::collections::{HashMap, HashSet};

use thiserror::Error;

use super::planned_link::{Change, OldLink, PlannedLink};
use crate::document::{Document, Link, LinkKind, Refusal};
use crate::ids::PageId;
use crate::site::{Address, Target};

/// What is written on a page for links to one place, each with the place on their page that it names.
pub type StoredHrefs = HashMap<String, Option<String>>;

/// Links to one address, on one page of perhaps many.
#[derive(Debug, Clone, Copy)]
pub struct Repair<'r> {
    /// Where they lead.
    pub to: &'r Address,
    /// What leads there on this page.
    pub hrefs: &'r StoredHrefs,
    /// Where they lead afterwards, and how that is written on this page; `None` takes them off.
    pub becomes: Option<(&'r Target, &'r str)>,
    /// Places that the new page has, too: a link goes on to the same place.
    pub kept: &'r HashSet<String>,
}

/// Why the links of a page are not mended, in words for the editor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum RepairRefusal {
    #[error("This page cannot be edited from here.")]
    NotEditable,
    #[error("The page was read anew meanwhile. Look at its links once more.")]
    ReadAnew,
    #[error("This link is not in the page's own text: it comes from a menu or a template. Change it there.")]
    NotItsOwn,
    #[error("This link cannot be changed from here: {0}. Change it on the page.")]
    Fixed(Refusal),
    #[error("This link cannot be changed from here: a picture carries it, and no words. Change it on the page.")]
    OnPicture,
}

impl Repair<'_> {
    /// The changes of one page. O(n) in its source for each link.
    ///
    /// # Errors
    /// [`RepairRefusal`].
    pub fn on_page(&self, source: PageId, document: &Document) -> Result<Vec<PlannedLink>, RepairRefusal> {
        let links = document.links().iter().enumerate();
        let links = links.filter_map(|(ordinal, link)| Some((ordinal, link, self.hrefs.get(&link.href)?)));
        let changes =
            links.map(|(ordinal, link, fragment)| self.change(source, document, (ordinal, link), fragment.clone()));
        let changes = changes.collect::<Result<Vec<_>, _>>()?;
        if changes.is_empty() { Err(RepairRefusal::NotItsOwn) } else { Ok(changes) }
    }

    fn change(
        &self,
        source: PageId,
        document: &Document,
        (ordinal, link): (usize, &Link),
        fragment: Option<String>,
    ) -> Result<PlannedLink, RepairRefusal> {
        let place = fragment.clone().filter(|place| self.kept.contains(place));
        let href = self.becomes.map(|(_, href)| match &place {
            Some(place) => format!("{href}#{place}"),
            None => href.to_owned(),
        });
        // What would be refused when it is released is refused now.
        match &href {
            Some(href) => document.change_link(ordinal, Some(href), &[]).map_err(RepairRefusal::Fixed)?,
            None => document.take_out_link(ordinal).map_err(RepairRefusal::Fixed)?,
        };
        let said = document.quote_around(link.text).filter(|_| link.kind != LinkKind::Picture);
        let target = self.becomes.map(|(target, _)| match (target.page(), place) {
            (Some(page), Some(id)) => Target::Place { page, id },
            _ => target.clone(),
        });
        let old = OldLink { href: link.href.clone(), to: self.to.clone(), fragment };
        Ok(PlannedLink {
            source,
            target,
            words: link.text,
            source_hash: document.hash(),
            said: said.ok_or(RepairRefusal::OnPicture)?,
            change: if href.is_some() { Change::Retarget(old) } else { Change::Unlink(old) },
            href: href.unwrap_or_else(|| link.href.clone()),
            says: Vec::new(),
            fit: None,
            by_rule: None,
        })
    }
}
