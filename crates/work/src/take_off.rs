//! The end of a reading: pages that it no longer found are taken off the site, unless they are too many to do so without
//! asking.

use std::collections::{HashMap, HashSet};

use strelm_core::site::{Address, PageId, is_too_much};
use strelm_store::page::{self, Gone};
use strelm_store::reading::{self, Left};
use strelm_store::redirect;
use strelm_store::site::Site;

use super::keeper::Keeper;
use super::place_anew::place_anew;
use super::{JobError, Tools};

/// Takes pages off; the question, if there are too many and nobody has answered it yet.
pub async fn settle(tools: &Tools, keeper: &Keeper<'_>) -> Result<Option<String>, JobError> {
    let leaving = reading::leaving(&tools.pool, keeper.reading).await?;
    let there = keeper.known.values().filter(|version| version.is_there());
    let there: HashSet<PageId> = there.map(|version| version.number).collect();
    let (lost, there) = (lost(&leaving, &there), there.len());
    if is_too_much(lost, there) && !reading::may_take_off(&tools.pool, keeper.reading).await? {
        return Ok(Some(format!(
            "{lost} of {there} pages were not found any more. All of them are kept until you say whether they are to be \
             taken off: is the site, or the disk that it is on, as it should be?"
        )));
    }
    take_off(tools, keeper, &leaving).await?;
    Ok(None)
}

/// Pages that are known and not of the part of the site that is read any more: they are no pages of it, and nobody asks.
pub async fn leave_rest(tools: &Tools, site: &Site, keeper: &Keeper<'_>) -> Result<(), JobError> {
    let part = &site.settings.part;
    if part.is_all() {
        return Ok(());
    }
    let is_rest = |address: &Address| !part.holds(address) && *address != site.entry;
    let rest = keeper.known.values().filter(|version| version.is_there() && is_rest(&version.address));
    let rest: Vec<_> = rest.map(|version| version.number).collect();
    page::mark_gone(&tools.pool, site.id, &rest.iter().map(|page| (*page, Gone::Vanished)).collect::<Vec<_>>()).await?;
    let dead = redirect::dead(&tools.pool, site.id).await?.into_iter().map(|(address, _)| address);
    let unknown: Vec<_> = dead.filter(is_rest).collect();
    if !unknown.is_empty() {
        redirect::put_dead(&tools.pool, site.id, &[], &unknown).await?;
    }
    if !rest.is_empty() {
        place_anew(&tools.pool, site.id, &rest).await?;
    }
    Ok(())
}

/// How many of the pages that are there the site would be smaller by: of those that send on, each that does so to a page of
/// its own stays.
fn lost(leaving: &[(PageId, Left)], there: &HashSet<PageId>) -> usize {
    let leaving: Vec<_> = leaving.iter().filter(|(page, _)| there.contains(page)).collect();
    let targets: HashSet<&Address> = leaving.iter().filter_map(|(_, left)| moved_to(left)).collect();
    leaving.len() - targets.len()
}

fn moved_to(left: &Left) -> Option<&Address> {
    match left {
        Left::Moved(to) => Some(to),
        Left::Absent(_) => None,
    }
}

/// May be done twice: what is taken off already stays so.
async fn take_off(tools: &Tools, keeper: &Keeper<'_>, leaving: &[(PageId, Left)]) -> Result<(), JobError> {
    let addresses: HashMap<PageId, &Address> =
        keeper.known.values().map(|version| (version.number, &version.address)).collect();
    let (mut redirects, mut dead, mut gone) = (Vec::new(), Vec::new(), Vec::new());
    for (page, left) in leaving {
        let Some(address) = addresses.get(page).copied().cloned() else { continue };
        match left {
            Left::Moved(to) => {
                redirects.push((address, to.clone()));
                gone.push((*page, Gone::Moved));
            }
            Left::Absent(absence) => {
                dead.push((address, *absence));
                gone.push((*page, Gone::Vanished));
            }
        }
    }
    redirect::put_all(&tools.pool, keeper.site, &redirects).await?;
    if !dead.is_empty() {
        redirect::put_dead(&tools.pool, keeper.site, &dead, &[]).await?;
    }
    page::mark_gone(&tools.pool, keeper.site, &gone).await?;
    let pages: Vec<_> = gone.into_iter().map(|(page, _)| page).collect();
    if !pages.is_empty() {
        place_anew(&tools.pool, keeper.site, &pages).await?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use strelm_core::site::Absence;

    use super::*;

    #[test]
    fn pages_that_moved_one_by_one_are_not_lost_and_pages_that_were_gone_do_not_count() {
        let moved = |to: &str| Left::Moved(Address::parse(&format!("http://sky.example/{to}")).unwrap());
        let there: HashSet<PageId> = (1..=6).map(PageId).collect();
        let one_by_one = [(PageId(1), moved("a")), (PageId(2), moved("b")), (PageId(9), Left::Absent(Absence::Draft))];
        assert_eq!(lost(&one_by_one, &there), 0);
        // All to one page, as when a site is being worked on.
        let to_one: Vec<_> = (1..=6).map(|page| (PageId(page), moved("back-soon"))).collect();
        assert_eq!(lost(&to_one, &there), 5);
        assert_eq!(lost(&[(PageId(3), Left::Absent(Absence::Status(404)))], &there), 1);
    }
}
