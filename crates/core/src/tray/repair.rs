//! Mending links that are on a page: they get another target, or are taken off their words.

use std::collections::{HashMap, HashSet};

use thiserror::Error;

use super::planned_link::{Change, OldLink, PlannedLink};
use crate::document::{Document, Link, LinkKind, LinkSays, Refusal};
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
    #[error("This link leads to no address that is known. Change it on the page.")]
    LeadsNowhere,
    #[error("The address of this link does not begin so.")]
    BeginsOtherwise,
    #[error("This link would lead to no address any more.")]
    NoAddress,
    #[error("This link says all of this already.")]
    SaysSo,
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
        let leads = |(target, href): (&Target, &str)| match (target.page(), place) {
            (Some(page), Some(id)) => Mended::Leads(Target::Place { page, id: id.clone() }, format!("{href}#{id}")),
            (_, Some(place)) => Mended::Leads(target.clone(), format!("{href}#{place}")),
            (_, None) => Mended::Leads(target.clone(), href.to_owned()),
        };
        let becomes = self.becomes.map_or(Mended::Off, leads);
        let old = OldLink { href: link.href.clone(), to: self.to.clone(), fragment };
        mend_link(source, document, ordinal, old, becomes)
    }
}

/// What becomes of a link.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Mended {
    /// It is taken off its words.
    Off,
    /// It leads there, which is written so.
    Leads(Target, String),
    /// It leads where it did and says other things.
    Says(Vec<LinkSays>),
}

/// A change of a link of a page. O(n) in its source.
///
/// # Errors
/// [`RepairRefusal`].
pub fn mend_link(
    source: PageId,
    document: &Document,
    ordinal: usize,
    old: OldLink,
    becomes: Mended,
) -> Result<PlannedLink, RepairRefusal> {
    let link = document.links().get(ordinal).ok_or(RepairRefusal::ReadAnew)?;
    // What would be refused when it is released is refused now.
    match &becomes {
        Mended::Off => document.take_out_link(ordinal),
        Mended::Leads(_, href) => document.change_link(ordinal, Some(href), &[]),
        Mended::Says(says) => document.change_link(ordinal, None, says),
    }
    .map_err(RepairRefusal::Fixed)?;
    if let Mended::Says(says) = &becomes
        && says.iter().all(|says| says.as_on(document, link) == *says)
    {
        return Err(RepairRefusal::SaysSo);
    }
    let said = document.quote_around(link.text).filter(|_| link.kind != LinkKind::Picture);
    let (change, target, href, says) = match becomes {
        Mended::Off => (Change::Unlink(old), None, link.href.clone(), Vec::new()),
        Mended::Leads(target, href) => (Change::Retarget(old), Some(target), href, Vec::new()),
        Mended::Says(says) => (Change::Attributes(old), None, link.href.clone(), says),
    };
    Ok(PlannedLink {
        source,
        target,
        words: link.text,
        source_hash: document.hash(),
        said: said.ok_or(RepairRefusal::OnPicture)?,
        change,
        href,
        says,
        fit: None,
        by_rule: None,
    })
}
