//! Why a page has no openings, in plain words.

use strelm_core::openings::Unwanted;
use strelm_core::phrases::TokenMarks;
use strelm_core::site::PageFacts;

use crate::live::Model;

/// Why no opening leads to a page. O(names of the page).
pub fn inbound(model: &Model, page: &PageFacts) -> String {
    let (_, waiting) = model.openings_progress();
    if waiting > 0 {
        return format!("Not all pages are looked at yet: {waiting} are still to come.");
    }
    if model.wanted().is_too_old(page.id) {
        return "It is older than pages that are led to may be, by the rules in Setup.".to_owned();
    }
    let mentioning = model.book.pages_that_may_mention(page.id, 1000);
    let wanted = model.wanted();
    let unwanted = mentioning.iter().filter(|source| wanted.pair(**source, page.id)).count();
    match mentioning.len() {
        0 => "No other page has the words of its title, headings or phrases.".to_owned(),
        all if all == unwanted => format!(
            "{} its words, but {} there already, passed, or left out by the rules in Setup.",
            counted(all, "other page has", "other pages have"),
            if all == 1 { "it leads" } else { "all of them lead" },
        ),
        all => format!(
            "{} some of its words, but not in a way that is likely to mean it.",
            counted(all, "other page has", "other pages have"),
        ),
    }
}

/// Why no opening stands in the text of a page. O(words of the page).
pub fn outbound(model: &Model, page: &PageFacts) -> String {
    if !page.editable {
        return "This page cannot be edited from here, so it takes no links.".to_owned();
    }
    let Some(prose) = model.book.prose(page.id).filter(|prose| !prose.tokens().is_empty()) else {
        return "There is no text of its own on this page.".to_owned();
    };
    let tokens = prose.tokens();
    let is_linked = |at: usize| tokens[at].has(TokenMarks::LINKED);
    let links = (0..tokens.len()).filter(|at| is_linked(*at) && (*at == 0 || !is_linked(at - 1))).count();
    let links = links + model.wanted().planned(page.id).len();
    let most = model.rules().limits.of_page(tokens.len());
    if links >= most {
        return format!("Its text carries {links} links, and {most} are as many as its length allows (Setup).");
    }
    let places = model.judge().candidates(page.id, 200);
    let wanted = model.wanted();
    match places.iter().filter(|place| !wanted.pair(page.id, place.target)).count() {
        0 if places.is_empty() => "Its text has no words that name another page.".to_owned(),
        0 => "The pages that it names are linked already, passed, or left out by the rules in Setup.".to_owned(),
        _ => "It has words of other pages’ names, but not in a way that is likely to mean them.".to_owned(),
    }
}

fn counted(number: usize, one: &str, many: &str) -> String {
    if number == 1 { format!("One {one}") } else { format!("{number} {many}") }
}
