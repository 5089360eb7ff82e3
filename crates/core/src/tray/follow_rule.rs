//! Links that a rule made follow it: they lead where it leads now and say what it says, or are taken off.

use thiserror::Error;

use super::entry::TrayEntry;
use super::planned_link::{Change, OldLink, PlannedLink};
use crate::document::{Document, LinkSays, Refusal};
use crate::site::{Address, Target};

/// What becomes of a link that a rule made.
#[derive(Debug, Clone, PartialEq)]
pub enum Following {
    /// Its words carry no link any more.
    Off,
    /// It leads there, which is so written on its page, and says this.
    Leads { target: Target, href: String, says: Vec<LinkSays> },
}

/// Why a link stays as it is, in words for the editor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum FollowRefusal {
    #[error("This page cannot be edited from here.")]
    NotEditable,
    #[error("The link is not on the page any more as the rule made it.")]
    Gone,
    #[error("This link cannot be changed from here: {0}. Change it on the page.")]
    Fixed(Refusal),
    #[error("A link to mail or a telephone cannot be changed from here. Change it on the page.")]
    NoAddress,
}

/// The change of a link that a rule made, in the place where it stands now; `to` is the address to which it leads until then.
/// O(n).
///
/// # Errors
/// [`FollowRefusal`].
pub fn follow_rule(
    document: &Document,
    made: &TrayEntry,
    to: Option<&Address>,
    becomes: &Following,
) -> Result<PlannedLink, FollowRefusal> {
    let link = &made.link;
    let found = document.find_link(&link.quote(), &link.href).filter(|found| found.in_sentence);
    let found = found.ok_or(FollowRefusal::Gone)?;
    let words = document.links()[found.ordinal].text;
    let said = document.quote_around(words).ok_or(FollowRefusal::Gone)?;
    let fragment = match &link.target {
        Some(Target::Place { id, .. }) => Some(id.clone()),
        Some(Target::Outside { fragment, .. }) => fragment.clone(),
        _ => None,
    };
    let to = to.ok_or(FollowRefusal::NoAddress)?.clone();
    let old = OldLink { href: link.href.clone(), to, fragment };
    let (change, target, href, says) = match becomes {
        Following::Off => (Change::Unlink(old), None, link.href.clone(), Vec::new()),
        Following::Leads { target, href, says } => {
            let mut all: Vec<_> =
                link.says.iter().filter(|said| !says.contains(said)).filter_map(LinkSays::taken_back).collect();
            all.extend(says.iter().cloned());
            (Change::Retarget(old), Some(target.clone()), href.clone(), all)
        }
    };
    // What would be refused when it is released is refused now.
    match &change {
        Change::Unlink(_) => document.take_out_link(found.ordinal),
        _ => document.change_link(found.ordinal, Some(&href), &says),
    }
    .map_err(FollowRefusal::Fixed)?;
    Ok(PlannedLink {
        change,
        source: link.source,
        target,
        words,
        source_hash: document.hash(),
        said,
        href,
        says,
        fit: None,
        by_rule: link.by_rule,
    })
}

#[cfg(test)]
mod tests {
    use chrono::Utc;

    use super::*;
    use crate::document::{AlsoIn, Format};
    use crate::ids::{ChangeId, PageId, RuleId};
    use crate::tray::{ByRule, TrayState};

    const PAGE: &str = "<p>Take a <a href=\"/torch/\" rel=\"nofollow\" title=\"Light\">red torch</a> along.</p>";

    fn made() -> TrayEntry {
        let document = Document::read(PAGE, Format::Html);
        let words = document.links()[0].text;
        let link = PlannedLink {
            change: Change::Put,
            source: PageId(1),
            target: Some(Target::Page(PageId(2))),
            words,
            source_hash: document.hash(),
            said: document.quote_around(words).unwrap(),
            href: "/torch/".to_owned(),
            says: vec![LinkSays::Follow(false), LinkSays::Attribute("title".to_owned(), Some("Light".to_owned()))],
            fit: None,
            by_rule: Some(ByRule { rule: RuleId(4), also_in: AlsoIn::default() }),
        };
        TrayEntry { id: ChangeId(1), link, state: TrayState::Out, sighting: None, message: None, taken_at: Utc::now() }
    }

    fn followed(page: &str, becomes: &Following) -> Result<String, FollowRefusal> {
        let document = Document::read(page, Format::Html);
        let to = Address::parse("https://site.example/torch/").unwrap();
        let link = follow_rule(&document, &made(), Some(&to), becomes)?;
        assert_eq!(link.by_rule, made().link.by_rule);
        let entry = TrayEntry { link, state: TrayState::Tray, ..made() };
        Ok(crate::tray::edit_of(&document, &entry).unwrap().apply(page).unwrap())
    }

    #[test]
    fn a_link_leads_and_says_what_its_rule_does_now_or_is_taken_off() {
        let leads = Following::Leads {
            target: Target::Page(PageId(3)),
            href: "/lamp/".to_owned(),
            says: vec![LinkSays::NewTab(true), LinkSays::Follow(false)],
        };
        let after = followed(PAGE, &leads).unwrap();
        assert!(after.contains("href=\"/lamp/\"") && after.contains("_blank") && after.contains("nofollow"), "{after}");
        assert!(!after.contains("title"), "{after}");
        assert_eq!(followed(PAGE, &Following::Off).unwrap(), "<p>Take a red torch along.</p>");
        // Elsewhere on the page now, with a word more around it.
        let moved = format!("<p>First.</p>{PAGE}");
        assert_eq!(followed(&moved, &Following::Off).unwrap(), "<p>First.</p><p>Take a red torch along.</p>");
    }

    #[test]
    fn a_link_that_others_changed_is_left_alone() {
        for page in
            ["<p>Take a red torch along.</p>", &PAGE.replace("/torch/", "/other/"), &PAGE.replace("Take", "Bring")]
        {
            assert_eq!(followed(page, &Following::Off), Err(FollowRefusal::Gone), "{page}");
        }
    }
}
