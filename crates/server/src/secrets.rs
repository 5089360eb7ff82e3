//! Tokens of editing interfaces: files outside of the database, readable by Strelm alone.

use std::fs;
use std::io::Write;
use std::os::unix::fs::{DirBuilderExt, OpenOptionsExt};
use std::path::{Path, PathBuf};

use strelm_store::SiteId;

#[derive(Debug, Clone)]
pub struct Secrets {
    folder: PathBuf,
}

impl Secrets {
    pub fn new(folder: &Path) -> Self {
        Self { folder: folder.to_owned() }
    }

    /// The token of a site's editing interface, if one was given.
    ///
    /// # Errors
    /// When the file is there but cannot be read.
    pub fn token(&self, site: SiteId) -> std::io::Result<Option<String>> {
        match fs::read_to_string(self.file(site)) {
            Ok(token) => Ok(Some(token.trim().to_owned()).filter(|token| !token.is_empty())),
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => Ok(None),
            Err(error) => Err(error),
        }
    }

    /// # Errors
    /// When the file cannot be written.
    pub fn set_token(&self, site: SiteId, token: &str) -> std::io::Result<()> {
        fs::DirBuilder::new().recursive(true).mode(0o700).create(&self.folder)?;
        let mut options = fs::OpenOptions::new();
        let mut file = options.write(true).create(true).truncate(true).mode(0o600).open(self.file(site))?;
        file.write_all(token.trim().as_bytes())
    }

    /// Forgets the token of a site.
    ///
    /// # Errors
    /// When its file is there and cannot be removed.
    pub fn remove_token(&self, site: SiteId) -> std::io::Result<()> {
        match fs::remove_file(self.file(site)) {
            Err(error) if error.kind() != std::io::ErrorKind::NotFound => Err(error),
            _ => Ok(()),
        }
    }

    fn file(&self, site: SiteId) -> PathBuf {
        self.folder.join(format!("site-{}.token", site.0))
    }
}
