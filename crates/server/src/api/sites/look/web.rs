//! Looking at a site on the web.

use strelm_core::document::Entrance;
use strelm_core::site::Address;
use strelm_sources::crawl::{CrawlError, CrawlLimits, glance};
use strelm_sources::fetch::FetchError;
use strelm_sources::pace::Patience;

use super::interface::checked_endpoint;
use super::looked::{Field, FieldProblem, Look, problem, typed_address};
use crate::api::State;
use strelm_work::words::sentence;

/// Looks at a site on the web.
pub async fn look_at_web(state: &State, address: &str, micropub: Option<String>) -> Result<Look, FieldProblem> {
    let entry = typed_address(address)?;
    let patience = Patience { tries: 1, ..Patience::default() };
    let limits = CrawlLimits { patience, most_sitemaps: 20, ..CrawlLimits::default() };
    let seen = glance(&state.client, &entry, limits).await.map_err(|error| web_problem(&entry, &error))?;
    let micropub = micropub.map(|text| text.trim().to_owned()).filter(|text| !text.is_empty());
    if let Some(endpoint) = &micropub {
        checked_endpoint(endpoint)?;
    }
    let mut says = Vec::new();
    if seen.entry != entry {
        says.push(format!("{address} sends readers on to {}.", seen.entry));
    }
    let start_at = seen.entrance.as_ref().and_then(|(_, onward)| onward.as_ref()).map(ToString::to_string);
    says.extend(seen.entrance.as_ref().map(|(entrance, onward)| held_by(entrance, onward.as_ref())));
    says.push(match (seen.listed, seen.linked) {
        (0, linked) => format!(
            "There is no sitemap; the entry page leads to {linked} other pages, and reading goes on from there."
        ),
        (listed, _) => format!("The sitemap lists {listed} addresses, and reading follows links beyond them."),
    });
    if !seen.delay.is_zero() {
        says.push(format!("robots.txt asks for {} seconds between requests, and gets them.", seen.delay.as_secs_f32()));
    }
    says.push(match (&micropub, &seen.micropub) {
        (Some(endpoint), _) => format!("When you add the site, the token is sent to {endpoint}, and nowhere before."),
        (None, Some(named)) => {
            format!(
                "The site names an editing interface, {named}. With its token, releases are written to it directly."
            )
        }
        (None, None) => {
            "The site is read and not written to: what you decide is handed over, as a list to work by, and \
                         the next reading sees what of it was put in."
                .to_owned()
        }
    });
    Ok(Look {
        entry: seen.entry.to_string(),
        name: Some(seen.title.unwrap_or_else(|| seen.entry.host().to_owned())),
        says,
        micropub: seen.micropub.map(|address| address.to_string()),
        start_at,
        problem: None,
        known_as: None,
    })
}

/// What an entry page is that holds no text, and where readers get on.
fn held_by(entrance: &Entrance, onward: Option<&Address>) -> String {
    let what = match entrance {
        Entrance::Frames(_) => "a frame set, which shows other pages and has no text",
        Entrance::Script(_) => "empty, and a script sends readers on",
        Entrance::Listing => "a listing of files that the server made, and no page of the site",
        Entrance::Empty => "empty",
    };
    match onward {
        Some(onward) => format!("The entry page is {what}. Better start at {onward}."),
        None => format!("The entry page is {what}. Type the address of a page from which readers get on."),
    }
}

fn web_problem(entry: &Address, error: &CrawlError) -> FieldProblem {
    let host = entry.host();
    let message = match error {
        CrawlError::EntryNotHtml(_) => "There is something at this address, but it is not a web page.".to_owned(),
        CrawlError::EntryDisallowed(_) => "robots.txt of the site asks programs not to read this page.".to_owned(),
        CrawlError::Entry { error, .. } => match error {
            FetchError::Blocked(blocked) => sentence(&blocked.to_string()),
            FetchError::Unreachable(why) => format!("{host} does not answer ({why}). Is the address right?"),
            FetchError::Status { status, .. } if status.as_u16() == 404 => {
                format!("{host} answers, but there is no page at this address (status 404).")
            }
            FetchError::Status { status, .. } if matches!(status.as_u16(), 401 | 403) => {
                format!("{host} does not let Strelm read this page (status {}).", status.as_u16())
            }
            FetchError::Status { status, .. } => {
                format!("{host} answers with an error at the moment (status {}).", status.as_u16())
            }
            FetchError::LeadsAway(to) => {
                format!("This address sends readers away to {to}. Type that address if it is the site.")
            }
            other => sentence(&other.to_string()),
        },
        other => sentence(&other.to_string()),
    };
    problem(Field::Address, message)
}
