//! Why a page has no openings, in plain words.

use strelm_core::openings::Unwanted;
use strelm_core::phrases::{Prose, Token, TokenMarks};
use strelm_core::site::{PageFacts, PageId};

use strelm_live::Model;

const ON_THEIR_WAY: &str = "Openings come when the texts of all pages are in memory.";

/// Why no opening leads to a page. O(names of the page + links of up to 1,000 pages that have its words).
pub fn inbound(model: &Model, page: &PageFacts) -> String {
    if model.texts_to_come().is_some() {
        return ON_THEIR_WAY.to_owned();
    }
    let (_, waiting) = model.openings_progress();
    let waiting = waiting + model.texts_waiting();
    if waiting > 0 {
        return format!("Not all pages are looked at yet: {waiting} are still to come.");
    }
    if model.linkable().is_too_old(page.id) {
        return "It is older than pages that are led to may be, by the limits in Setup.".to_owned();
    }
    let mentioning = model.book.pages_that_may_mention(page.id, 1000);
    let any_is_open = mentioning.iter().any(|source| is_open(model, *source, page.id));
    match mentioning.len() {
        0 => "No other page has the words of its title, headings or phrases.".to_owned(),
        all if !any_is_open => format!(
            "{} its words, but {} by the limits in Setup.",
            counted(all, "other page has", "other pages have"),
            match all {
                1 => "it leads here already, was passed, or is left out",
                _ => "each of them leads here already, was passed, or is left out",
            },
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
    if model.texts_to_come().is_some() {
        return ON_THEIR_WAY.to_owned();
    }
    if model.language_of_unread(page.id).is_some() {
        return "Its text was read a moment ago and waits to be looked at until the reading is through.".to_owned();
    }
    let Some(prose) = model.book.prose(page.id).filter(|prose| running_text(prose).next().is_some()) else {
        return "There is no running text of its own on this page.".to_owned();
    };
    let tokens = prose.tokens();
    let is_linked = |at: usize| tokens[at].has(TokenMarks::LINKED);
    let links = (0..tokens.len()).filter(|at| is_linked(*at) && (*at == 0 || !is_linked(at - 1))).count();
    let links = links + model.linkable().planned(page.id).len();
    let most = model.limits().links.of_page(tokens.len());
    if links >= most {
        return format!("Its text carries {links} links, and {most} are as many as its length allows (Setup).");
    }
    if is_torn(prose) {
        return "Most of its text stands where no link can go, as a rule in markup that is opened and never closed, such as \
                <b> or <a name>: a link there could change how the page looks. Close it in the page’s source."
            .to_owned();
    }
    let mentions = model.book.mentions_by(page.id);
    match mentions.iter().any(|mention| is_open(model, page.id, mention.target())) {
        true => "It has words of other pages’ names, but not in a way that is likely to mean them.".to_owned(),
        false if mentions.is_empty() && links > 0 => {
            "But for its links, its text has no words that name another page.".to_owned()
        }
        false if mentions.is_empty() => "Its text has no words that name another page.".to_owned(),
        false => "The pages that it names are linked already, passed, or left out by the limits in Setup.".to_owned(),
    }
}

/// Whether one page may still come to lead to another. O(links of the page).
fn is_open(model: &Model, source: PageId, target: PageId) -> bool {
    !model.linkable().pair(source, target) && !model.book.anchors().is_linked_in_prose(source, target)
}

/// The words of a page but for its headings, terms and listings of code.
fn running_text(prose: &Prose) -> impl Iterator<Item = &Token> + Clone {
    let blocks = prose.blocks().iter().filter(|block| block.kind.is_prose());
    blocks.flat_map(|block| &prose.tokens()[block.first as usize..block.end as usize])
}

/// Whether more than half of a page's text can carry no link, though it is neither linked nor code. O(words).
fn is_torn(prose: &Prose) -> bool {
    let plain = running_text(prose).filter(|word| !word.has(TokenMarks::LINKED) && !word.has(TokenMarks::CODE));
    let closed = plain.clone().filter(|word| !word.has(TokenMarks::LINKABLE)).count();
    2 * closed > plain.count()
}

fn counted(number: usize, one: &str, many: &str) -> String {
    if number == 1 { format!("One {one}") } else { format!("{number} {many}") }
}
