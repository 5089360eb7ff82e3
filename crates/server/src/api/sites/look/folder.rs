//! Looking at a folder of files.

use std::path::Path;

use actix_web::web;
use strelm_core::site::Address;
use strelm_sources::folder::Folder;

use super::looked::{Field, FieldProblem, Look, problem, typed_address};
use crate::api::State;
use crate::new_site::unpublished;
use strelm_work::folders::FolderRefusal;
use strelm_work::words::sentence;

/// A name for a site in a folder: that of the folder.
pub fn name_of(path: &Path) -> Option<String> {
    path.file_name().map(|name| name.to_string_lossy().into_owned())
}

/// Looks at a folder that may become a site.
pub async fn look_at_folder(
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
