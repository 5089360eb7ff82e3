//! Looking at a site before it is added: what would be read, or what is wrong with what was typed.

use std::path::{Path, PathBuf};

use actix_web::{post, web};
use serde::{Deserialize, Serialize};
use strelm_core::document::Entrance;
use strelm_core::site::Address;
use strelm_sources::captured::Plan;
use strelm_sources::crawl::{CrawlError, CrawlLimits, glance};
use strelm_sources::editing::SourceError;
use strelm_sources::fetch::FetchError;
use strelm_sources::folder::Folder;
use strelm_sources::micropub::Micropub;
use strelm_sources::pace::Patience;
use strelm_store::site;
use url::{Host, Url};
use utoipa::ToSchema;
use uuid::Uuid;

use super::listed::Listed;
use crate::api::uploads::send::Columns;
use crate::api::{ApiError, Problem, State};
use crate::new_site::unpublished;
use strelm_work::folders::FolderRefusal;
use strelm_work::words::sentence;

/// Where a site is to be read from.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum SourceWish {
    Web {
        /// As typed; a missing https:// is added.
        address: String,
        micropub: Option<String>,
        token: Option<String>,
    },
    Folder {
        path: String,
        /// Where the folder is published, if it is.
        address: Option<String>,
        /// Whether releases may change its files; they may where nothing is said.
        writes: Option<bool>,
    },
    /// An archive of pages that was sent.
    Archive {
        upload: Uuid,
        /// Where its pages are published, if they are.
        address: Option<String>,
    },
    /// A list of addresses that was sent.
    List {
        upload: Uuid,
        columns: Columns,
        /// The entry page, where it is not the first page of the host.
        address: Option<String>,
    },
}

#[derive(Debug, Serialize, ToSchema)]
pub struct Look {
    /// The address of the entry page as it will be kept.
    pub entry: String,
    /// What the site calls itself.
    pub name: Option<String>,
    /// What would be read, in plain words, one sentence after the other.
    pub says: Vec<String>,
    /// The editing interface that the site names.
    pub micropub: Option<String>,
    /// A page to start from instead, where the entry page holds nothing of its own.
    pub start_at: Option<String>,
    /// What is wrong with one of the fields; nothing can be added then.
    pub problem: Option<FieldProblem>,
    /// The site that has this entry page already.
    pub known_as: Option<i32>,
}

#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct FieldProblem {
    pub field: Field,
    pub message: String,
}

#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Field {
    Address,
    Micropub,
    Token,
    Folder,
    /// The file that was sent.
    Upload,
    /// What the columns of a list are.
    Columns,
}

#[utoipa::path(operation_id = "sites_look", request_body = SourceWish, responses((status = 200, body = Look), (status = 500, body = Problem)))]
#[post("/sites/look")]
pub async fn look(state: web::Data<State>, wish: web::Json<SourceWish>) -> Result<web::Json<Look>, ApiError> {
    let looked = match wish.into_inner() {
        // Whoever types has not said yet that the token may go out.
        SourceWish::Web { address, micropub, token: _ } => look_at_web(&state, &address, micropub).await,
        SourceWish::Folder { path, address, writes } => match typed_folder(&state, &path, address.as_deref()) {
            Ok((folder, entry)) => {
                look_at_folder(folder, entry, name_of(Path::new(path.trim())), writes.unwrap_or(true)).await
            }
            Err(problem) => Err(problem),
        },
        SourceWish::Archive { upload, address } => match sent_folder(&state, upload, address.as_deref()) {
            Ok((path, folder, entry)) => look_at_folder(folder, entry, name_of(&path), true).await,
            Err(problem) => Err(problem),
        },
        SourceWish::List { upload, columns, address } => {
            look_at_list(&state, upload, columns, address.as_deref()).await
        }
    };
    let look = match looked {
        Ok(look) => look,
        Err(problem) => Look {
            entry: String::new(),
            name: None,
            says: Vec::new(),
            micropub: None,
            start_at: None,
            problem: Some(problem),
            known_as: None,
        },
    };
    let known = site::all(&state.pool).await?;
    let known_as = known.into_iter().find(|site| site.entry.as_str() == look.entry).map(|site| site.id.0);
    Ok(web::Json(Look { known_as, ..look }))
}

/// An editing interface to try.
#[derive(Debug, Deserialize, ToSchema)]
pub struct InterfaceWish {
    micropub: String,
    token: String,
}

/// What came of trying an editing interface.
#[derive(Debug, Serialize, ToSchema)]
pub struct Tried {
    /// What is wrong; nothing where it takes the token.
    pub problem: Option<FieldProblem>,
}

/// Sends the token to the interface, so that somebody must have pressed for it.
#[utoipa::path(operation_id = "sites_try_interface", responses((status = 200, body = Tried)))]
#[post("/sites/try-interface")]
pub async fn try_interface(state: web::Data<State>, wish: web::Json<InterfaceWish>) -> web::Json<Tried> {
    let tried = match checked_endpoint(wish.micropub.trim()) {
        Ok(endpoint) => check_interface(&state, &endpoint, Some(&wish.token)).await,
        Err(problem) => Err(problem),
    };
    web::Json(Tried { problem: tried.err() })
}

fn problem(field: Field, message: impl Into<String>) -> FieldProblem {
    FieldProblem { field, message: message.into() }
}

/// An address as people type it.
pub fn typed_address(text: &str) -> Result<Address, FieldProblem> {
    let text = text.trim();
    let wrong = |message: &str| problem(Field::Address, message);
    if text.is_empty() {
        return Err(wrong("Type the address of the page on which readers start, such as www.example.org."));
    }
    if text.contains(char::is_whitespace) {
        return Err(wrong("An address has no spaces in it."));
    }
    if text.contains('@') && !text.contains('/') {
        return Err(wrong("This looks like a mail address. Type the address of a web site."));
    }
    let with_scheme = if text.contains("://") { text.to_owned() } else { format!("https://{text}") };
    let address = Address::parse(&with_scheme).map_err(|error| problem(Field::Address, format!("{error}.")))?;
    let host = address.host();
    if !host.contains('.') && !host.contains(':') && host != "localhost" {
        return Err(problem(
            Field::Address,
            format!("“{host}” is not the whole name of a host: something like .org is missing."),
        ));
    }
    Ok(address)
}

async fn look_at_web(state: &State, address: &str, micropub: Option<String>) -> Result<Look, FieldProblem> {
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

/// The address of an editing interface to which a token may be sent: over HTTPS, or within this machine.
pub fn checked_endpoint(endpoint: &str) -> Result<Url, FieldProblem> {
    let wrong = |message: &str| problem(Field::Micropub, message);
    let url = Url::parse(endpoint).ok().filter(|url| matches!(url.scheme(), "http" | "https"));
    let url =
        url.ok_or_else(|| wrong("This is not a web address: it should look like https://www.example.org/micropub."))?;
    let is_here = match url.host() {
        Some(Host::Ipv4(address)) => address.is_loopback(),
        Some(Host::Ipv6(address)) => address.is_loopback(),
        Some(Host::Domain(name)) => name == "localhost",
        None => false,
    };
    if url.scheme() == "http" && !is_here {
        return Err(wrong("A token is sent over HTTPS only: the address must begin with https://."));
    }
    if !url.username().is_empty() || url.password().is_some() {
        return Err(wrong("Leave name and password out of the address; the token stands for them."));
    }
    Ok(url)
}

/// Whether an editing interface answers and takes the token, which is sent to it: to be called when somebody pressed for
/// it, not while an address is typed.
pub async fn check_interface(state: &State, url: &Url, token: Option<&str>) -> Result<(), FieldProblem> {
    let wrong = |message: String| problem(Field::Micropub, message);
    let token = token.map(str::trim).filter(|token| !token.is_empty());
    let token = token.ok_or_else(|| {
        problem(Field::Token, "The editing interface needs a token. Whoever runs the site can give you one.")
    })?;
    if token.contains(char::is_whitespace) || !token.is_ascii() {
        return Err(problem(Field::Token, "A token has no spaces and no accented letters. Was it copied as a whole?"));
    }
    let micropub = Micropub::new(state.client.clone(), url.clone(), token.to_owned());
    micropub.check().await.map_err(|error| match error {
        SourceError::Unauthorised => problem(Field::Token, "The editing interface refuses this token."),
        SourceError::Unreachable(why) => wrong(format!("The editing interface does not answer ({why}).")),
        SourceError::NotEditable | SourceError::Unintelligible(_) => {
            wrong("There is something at this address, but it does not speak Micropub.".to_owned())
        }
        other => wrong(sentence(&other.to_string())),
    })
}

fn name_of(path: &Path) -> Option<String> {
    path.file_name().map(|name| name.to_string_lossy().into_owned())
}

/// The list that was sent, and what it tells.
pub fn sent_list(
    state: &State,
    upload: Uuid,
    columns: Columns,
    address: Option<&str>,
) -> Result<(Address, Listed), FieldProblem> {
    let list = state.uploads.list(upload);
    let list = list.map_err(|_| problem(Field::Upload, "The file is no longer here. Send it once more."))?;
    if columns.address.is_none() {
        return Err(problem(Field::Columns, "Say which column holds the addresses."));
    }
    let typed = address.map(str::trim).filter(|address| !address.is_empty()).map(typed_address).transpose()?;
    let listed = Listed::of(&list, columns, typed.as_ref());
    let root = listed.root.clone().ok_or_else(|| {
        let why = "There is no address in this column. Paths such as /about need the address of the site above.";
        problem(Field::Columns, why)
    })?;
    let entry = match typed {
        Some(typed) if typed.same_origin(&root) => typed,
        Some(typed) => {
            let why = format!("The list is of {}, and not of {}.", root.host(), typed.host());
            return Err(problem(Field::Address, why));
        }
        None => root,
    };
    Ok((entry, listed))
}

async fn look_at_list(
    state: &State,
    upload: Uuid,
    columns: Columns,
    address: Option<&str>,
) -> Result<Look, FieldProblem> {
    let (entry, listed) = sent_list(state, upload, columns, address)?;
    let looked = look_at_web(state, entry.as_str(), None).await?;
    let names: usize = listed.pages.iter().map(|page| page.names.len()).sum();
    let mut says = vec![format!("{} addresses of {} are listed and will be read.", listed.pages.len(), entry.host())];
    if names > 0 {
        says.push(format!("{names} titles and phrases name them; openings are looked for by these too."));
    }
    if let Some(row) = listed.first_unusable {
        says.push(format!("{} rows have no address and are left out, row {row} first.", listed.unusable));
    }
    if listed.elsewhere > 0 {
        says.push(format!("{} rows are of other sites and are left out.", listed.elsewhere));
    }
    says.extend(looked.says);
    Ok(Look { says, ..looked })
}

/// The folder of an archive that was sent, and the address that its pages get.
pub fn sent_folder(
    state: &State,
    upload: Uuid,
    address: Option<&str>,
) -> Result<(PathBuf, Folder, Address), FieldProblem> {
    let wrong = |message: &str| problem(Field::Upload, message);
    let path = state.uploads.site(upload).ok_or_else(|| wrong("The file is no longer here. Send it once more."))?;
    let real = path.canonicalize().map_err(|_| wrong("The file is no longer here. Send it once more."))?;
    let plan = Plan::of(&real).map_err(|error| wrong(&format!("The file cannot be read any more: {error}.")))?;
    let captured = plan.and_then(|plan| plan.origin);
    let typed = address.map(str::trim).filter(|address| !address.is_empty()).map(typed_address).transpose()?;
    let entry = match (typed, captured) {
        (Some(typed), Some(captured)) if !typed.same_origin(&captured) => {
            let why = format!("The pages are of {}, and not of {}.", captured.host(), typed.host());
            return Err(problem(Field::Address, why));
        }
        (Some(address), _) | (None, Some(address)) => address,
        (None, None) => {
            unpublished(Path::new(&format!("{}-{}", name_of(&real).unwrap_or_default(), &upload.to_string()[..8])))
        }
    };
    let folder = Folder::open(&real, entry.clone()).map_err(|error| problem(Field::Upload, format!("{error}.")))?;
    Ok((real, folder, entry))
}

async fn look_at_folder(
    folder: Folder,
    entry: Address,
    name: Option<String>,
    writes: bool,
) -> Result<Look, FieldProblem> {
    let at = entry.clone();
    let glance = web::block(move || folder.glance(&at)).await;
    let glance = glance.map_err(|_| problem(Field::Folder, "The folder cannot be read at the moment."))?;
    if glance.pages == 0 {
        return Err(problem(Field::Folder, "There are no HTML or Markdown files in this folder."));
    }
    let titles: Vec<_> = glance.titles.iter().map(|title| format!("“{title}”")).collect();
    let (about, first) = if glance.is_cut { ("About ", "Of the first of them ") } else { ("", "") };
    let mut says = vec![format!("{about}{} pages would be read, {} among them.", glance.pages, titles.join(", "))];
    if glance.drafts > 0 {
        says.push(format!("{first}{} drafts would be left out.", glance.drafts));
    }
    if glance.others > 0 {
        says.push(format!("{about}{} other files can be linked to.", glance.others));
    }
    if glance.redirects > 0 {
        says.push(format!("{} addresses send on to others.", glance.redirects));
    }
    if let Some(unread) = glance.unread.first() {
        let path = unread.address.from_root();
        says.push(format!("{first}{} cannot be read; one is {path}: {}.", glance.unread.len(), unread.why));
    }
    if !glance.has_entry {
        says.push("There is no index file at the top of the folder. When it is read, Today proposes a page where readers start.".to_owned());
    }
    says.push(match writes {
        true => "Releases are written into the files directly.".to_owned(),
        false => "The files stay as they are: what you decide is handed over, as a list to work by.".to_owned(),
    });
    Ok(Look { entry: entry.to_string(), name, says, micropub: None, start_at: None, problem: None, known_as: None })
}

/// How whoever runs Strelm lets a folder be read.
fn how_to_allow(path: &Path) -> String {
    let path = path.display();
    format!(
        "To allow it, whoever runs Strelm starts it with STRELM_FOLDERS={path}, or writes folders = [\"{path}\"] into \
         strelm.toml. To try it out: cargo xtask demo --site {path}"
    )
}

/// The folder that was typed, and the address that its pages get.
pub fn typed_folder(state: &State, path: &str, address: Option<&str>) -> Result<(Folder, Address), FieldProblem> {
    let wrong = |message: String| problem(Field::Folder, message);
    let path = Path::new(path.trim());
    if path.as_os_str().is_empty() {
        return Err(wrong("Type the path of the folder, such as /srv/site.".to_owned()));
    }
    if !path.is_absolute() {
        return Err(wrong("Type the whole path, beginning with /.".to_owned()));
    }
    let real = state.folders.allowed(path).map_err(|refusal| match state.folders.named.as_slice() {
        _ if matches!(refusal, FolderRefusal::Missing(_)) => wrong(sentence(&refusal.to_string())),
        [] => wrong(format!("No folder may be read yet. {}", how_to_allow(path))),
        _ => wrong(format!("This folder is not below those that may be read. {}", how_to_allow(path))),
    })?;
    let entry = match address.map(str::trim).filter(|address| !address.is_empty()) {
        Some(text) => typed_address(text)?,
        None => unpublished(&real),
    };
    let folder = Folder::open(&real, entry.clone()).map_err(|error| wrong(format!("{error}.")))?;
    Ok((folder, entry))
}
