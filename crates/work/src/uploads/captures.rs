//! Pages that come with their addresses, from web archives and files of pages: kept as a folder with a plan.

use std::collections::HashMap;
use std::fs::File;
use std::io::{self, BufReader};
use std::path::Path;

use strelm_core::site::{Address, Destination};
use strelm_formats::archive::ArchiveLimits;
use strelm_formats::page_lines::{self, PageLine};
use strelm_formats::warc;
use strelm_sources::captured::CapturedFolder;

use super::UploadError;

/// Keeps what the site of most captured pages answered: pages, files and redirects. Other sites are left out. Reads the
/// archive twice. O(bytes unpacked); memory O(addresses).
///
/// # Errors
/// [`UploadError`]; the folder may be half filled then.
pub fn keep_warc(archive: &Path, into: &Path, limits: ArchiveLimits) -> Result<usize, UploadError> {
    let mut pages: HashMap<String, (Address, usize)> = HashMap::new();
    warc::read(File::open(archive)?, limits, |capture, _| {
        if capture.status == 200
            && is_html(&capture.media_type)
            && let Ok(address) = Address::parse(&capture.address)
        {
            let origin = address.as_url().origin().ascii_serialization();
            pages.entry(origin).or_insert((address, 0)).1 += 1;
        }
        Ok(())
    })?;
    let most = pages.into_iter().max_by(|a, b| (a.1.1, &b.0).cmp(&(b.1.1, &a.0)));
    let (origin, (page, _)) = most.ok_or(UploadError::NoCaptures)?;
    let origin = Address::parse(&origin).map_err(|_| UploadError::NoCaptures)?;
    let mut folder = CapturedFolder::create(into)?;
    warc::read(File::open(archive)?, limits, |capture, content| {
        let address = Address::parse(&capture.address).map(|address| address.in_scheme_of(&page));
        let Some(address) = address.ok().filter(|address| address.same_origin(&origin)) else { return Ok(()) };
        match (capture.status, &capture.location) {
            (200, _) => {
                let ending = ending_of(&address, &capture.media_type);
                folder.put(&address.from_root(), ending, capture.charset.as_deref(), content)
            }
            (301 | 302 | 303 | 307 | 308, Some(location)) => {
                if let Destination::Page { address: to, .. } = address.follow(location) {
                    let to = to.in_scheme_of(&page);
                    if to.same_origin(&origin) && to != address {
                        folder.put_redirect(&address.from_root(), &to.from_root());
                    }
                }
                Ok(())
            }
            _ => Ok(()),
        }
    })?;
    let count = folder.len();
    folder.finish(Some(&origin))?;
    Ok(count)
}

/// Keeps pages of a file with one page a line. All are of one site, or told by their paths alone. O(bytes).
///
/// # Errors
/// [`UploadError`]; the folder may be half filled then.
pub fn keep_page_lines(file: &Path, into: &Path) -> Result<usize, UploadError> {
    let mut folder = CapturedFolder::create(into)?;
    let mut origin: Option<Address> = None;
    let mut other_site = None;
    let mut number = 0;
    // Paths alone are put together with some host, which is forgotten again.
    let nowhere = Address::parse("http://site.invalid/").map_err(|_| UploadError::Unknown)?;
    page_lines::read(BufReader::new(File::open(file)?), |page| {
        number += 1;
        let Destination::Page { address, .. } = nowhere.follow(&page.address) else {
            return Err(io::Error::new(io::ErrorKind::InvalidData, format!("“{}” is no address", page.address)));
        };
        if !address.same_origin(&nowhere) {
            let address = origin.as_ref().map_or(address.clone(), |origin| address.clone().in_scheme_of(origin));
            let known = origin.get_or_insert_with(|| address.clone());
            if !known.same_origin(&address) {
                other_site.get_or_insert(number);
                return Ok(());
            }
        }
        let ending = if page.is_markdown { "md" } else { "html" };
        folder.put(&address.from_root(), ending, Some("utf-8"), &mut whole(&page).as_bytes())
    })?;
    if let Some(line) = other_site {
        return Err(UploadError::SeveralSites(line));
    }
    let count = folder.len();
    let origin = origin.and_then(|page| Address::parse(&page.as_url().origin().ascii_serialization()).ok());
    folder.finish(origin.as_ref())?;
    Ok(count)
}

/// The text of a page after what is known of it besides, as front matter. JSON is YAML, too.
fn whole(page: &PageLine) -> String {
    let known = serde_json::json!({
        "title": page.title, "date": page.date, "category": page.category, "description": page.description,
        "tags": page.tags,
    });
    let is_plain = page.title.is_none() && page.date.is_none() && page.category.is_none() && page.tags.is_empty();
    // What brings front matter of its own keeps that.
    if is_plain && page.description.is_none() || page.text.starts_with("---") || page.text.starts_with("+++") {
        return page.text.clone();
    }
    format!("---\n{known}\n---\n{}", page.text)
}

fn is_html(media_type: &str) -> bool {
    matches!(media_type, "text/html" | "application/xhtml+xml")
}

/// The ending that tells what is in a file: that of its address, unless it is a page.
fn ending_of<'a>(address: &'a Address, media_type: &str) -> &'a str {
    if is_html(media_type) {
        return "html";
    }
    let name = address.as_url().path().rsplit('/').next().unwrap_or_default();
    let ending = name
        .rsplit_once('.')
        .map(|(_, ending)| ending)
        .filter(|ending| (1..=8).contains(&ending.len()) && ending.bytes().all(|byte| byte.is_ascii_alphanumeric()));
    match ending {
        // What is called a page and is none must not be read as one.
        Some(ending) if !["html", "htm", "xhtml", "md", "markdown"].contains(&ending.to_ascii_lowercase().as_str()) => {
            ending
        }
        _ => "bin",
    }
}
