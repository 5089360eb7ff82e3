//! Folders that may be read, to be chosen when a site is added.

use std::path::{Component, Path, PathBuf};

use actix_web::{get, web};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use crate::api::{ApiError, State};
use strelm_work::folders::Folders;

/// More are not shown: who looks for one of so many types its path.
const MOST: usize = 200;

/// Where folders of sites may be.
#[derive(Debug, Serialize, ToSchema)]
pub struct AllowedFolders {
    /// By name.
    pub folders: Vec<AllowedFolder>,
    /// The folder around the one that was asked for: empty for all allowed ones, null when they are what is shown.
    pub above: Option<String>,
}

/// A folder that may be chosen.
#[derive(Debug, Serialize, ToSchema)]
pub struct AllowedFolder {
    pub path: String,
    pub name: String,
}

/// Which folder is looked into; nothing for the allowed ones.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Query {
    /// Whose folders are wanted; those that are allowed when it is missing, or is not one of them.
    below: Option<String>,
}

/// O(entries of the folder).
#[utoipa::path(operation_id = "folders_list", params(Query), responses((status = 200, body = AllowedFolders)))]
#[get("/folders")]
pub async fn list(state: web::Data<State>, query: web::Query<Query>) -> Result<web::Json<AllowedFolders>, ApiError> {
    let folders = state.folders.clone();
    let below = query.into_inner().below;
    let found = web::block(move || found(&folders, below.as_deref().map(Path::new))).await;
    found.map(web::Json).map_err(|error| ApiError::Internal(error.into()))
}

fn found(folders: &Folders, below: Option<&Path>) -> AllowedFolders {
    let named =
        || AllowedFolders { folders: folders.named.iter().map(|path| allowed(path, true)).collect(), above: None };
    // Where uploads are unpacked is nobody's to choose.
    let is_named = |path: &Path| folders.named.iter().any(|root| path.starts_with(root));
    let is_plain = |path: &&Path| path.is_absolute() && path.components().all(|part| part != Component::ParentDir);
    let Some(below) = below.filter(is_plain).filter(|path| is_named(path)) else { return named() };
    let Ok(real) = folders.allowed(below) else { return named() };
    let entries = std::fs::read_dir(&real).into_iter().flatten().flatten();
    let is_shown = |entry: &std::fs::DirEntry| {
        !entry.file_name().to_string_lossy().starts_with('.') && entry.file_type().is_ok_and(|kind| kind.is_dir())
    };
    let mut inside: Vec<PathBuf> = entries.filter(is_shown).map(|entry| below.join(entry.file_name())).collect();
    inside.sort();
    inside.truncate(MOST);
    let above = below.parent().filter(|parent| is_named(parent));
    AllowedFolders {
        folders: inside.iter().map(|path| allowed(path, false)).collect(),
        above: Some(above.map(|path| path.display().to_string()).unwrap_or_default()),
    }
}

fn allowed(path: &Path, whole: bool) -> AllowedFolder {
    let path_text = path.display().to_string();
    let name = path.file_name().filter(|_| !whole).map(|name| name.to_string_lossy().into_owned());
    AllowedFolder { name: name.unwrap_or_else(|| path_text.clone()), path: path_text }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_allowed_folders_are_told() {
        let root = tempfile::tempdir().unwrap();
        let site = root.path().join("site");
        for folder in ["site/guides", "site/.git", "other"] {
            std::fs::create_dir_all(root.path().join(folder)).unwrap();
        }
        let folders = Folders { named: vec![site.clone()], uploads: root.path().join("other") };
        let names = |below: Option<&Path>| -> Vec<String> {
            found(&folders, below).folders.into_iter().map(|folder| folder.name).collect()
        };
        assert_eq!(names(None), [site.display().to_string()]);
        assert_eq!(names(Some(&site)), ["guides"]);
        for elsewhere in ["/etc", "..", "site"].map(Path::new).into_iter().chain([root.path(), &site.join("../other")])
        {
            assert_eq!(names(Some(elsewhere)), [site.display().to_string()], "{}", elsewhere.display());
        }
        assert_eq!(found(&folders, Some(&site)).above.as_deref(), Some(""));
        assert_eq!(found(&folders, Some(&site.join("guides"))).above, Some(site.display().to_string()));
    }
}
