//! Folders of this machine that may be read as sites.

use std::path::{Component, Path, PathBuf};

use thiserror::Error;

/// The file of settings that is read when none is named.
pub const SETTINGS_FILE: &str = "strelm.toml";

/// Why a folder is not read.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum FolderRefusal {
    #[error("there is no folder {0} at the moment: was it moved, or is the disk that it is on not mounted?")]
    Missing(PathBuf),
    #[error(
        "the folder {0} is not one that may be read: whoever runs Strelm starts it with STRELM_FOLDERS={0}, or writes \
         folders = [\"{0}\"] into {SETTINGS_FILE}"
    )]
    NotAllowed(PathBuf),
}

/// Folders below which sites may be read and edited.
#[derive(Debug, Clone, Default)]
pub struct Folders {
    /// Those that whoever runs Strelm named.
    pub named: Vec<PathBuf>,
    /// Where sites that were sent as archives are.
    pub uploads: PathBuf,
}

impl Folders {
    /// The real path of a folder, if it is allowed.
    ///
    /// # Errors
    /// [`FolderRefusal`]. Of what is not allowed nobody learns whether it is there.
    pub fn allowed(&self, folder: &Path) -> Result<PathBuf, FolderRefusal> {
        let below = |path: &Path| {
            let mut roots = self.named.iter().chain([&self.uploads]);
            roots.any(|root| root.canonicalize().is_ok_and(|real| path.starts_with(real)) || path.starts_with(root))
        };
        let is_plain = folder.components().all(|part| !matches!(part, Component::ParentDir));
        match folder.canonicalize() {
            Ok(real) => {
                let mut roots = self.named.iter().chain([&self.uploads]);
                let is_below = roots.any(|root| root.canonicalize().is_ok_and(|root| real.starts_with(root)));
                if is_below { Ok(real) } else { Err(FolderRefusal::NotAllowed(folder.to_owned())) }
            }
            Err(_) if is_plain && below(folder) => Err(FolderRefusal::Missing(folder.to_owned())),
            Err(_) => Err(FolderRefusal::NotAllowed(folder.to_owned())),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_folder_that_is_missing_is_not_one_that_is_not_allowed() {
        let root = tempfile::tempdir().unwrap();
        let folders = Folders { named: vec![root.path().to_owned()], uploads: root.path().join("uploads") };
        let site = root.path().join("site");
        assert_eq!(folders.allowed(&site), Err(FolderRefusal::Missing(site.clone())));
        std::fs::create_dir(&site).unwrap();
        assert_eq!(folders.allowed(&site), Ok(site.canonicalize().unwrap()));
        for elsewhere in ["/etc", "/nowhere/at/all"].map(PathBuf::from).into_iter().chain([site.join("../../x")]) {
            assert_eq!(folders.allowed(&elsewhere), Err(FolderRefusal::NotAllowed(elsewhere.clone())));
        }
    }
}
