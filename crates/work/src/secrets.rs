//! Tokens of editing interfaces: files outside of the database, readable by Strelm alone. Each is kept with the origin
//! that it is for, and given out for no other: a token that was saved for one server never goes to another.

use std::fs;
use std::io::{self, Write};
use std::os::unix::fs::{DirBuilderExt, PermissionsExt};
use std::path::{Path, PathBuf};

use strelm_store::SiteId;
use url::Url;

/// The tokens, each in a file of its own.
#[derive(Debug, Clone)]
pub struct Secrets {
    folder: PathBuf,
}

/// What was kept for a site.
pub struct KeptToken(Option<String>);

impl Secrets {
    /// Those in a folder, which is made when the first is kept.
    pub fn new(folder: &Path) -> Self {
        Self { folder: folder.to_owned() }
    }

    /// The token of a site for an editing interface, if one was given for its origin.
    ///
    /// # Errors
    /// When the file is there but cannot be read.
    pub fn token(&self, site: SiteId, endpoint: &Url) -> io::Result<Option<String>> {
        let KeptToken(Some(kept)) = self.kept(site)? else { return Ok(None) };
        let mut lines = kept.lines().map(str::trim);
        let token = lines.next().filter(|token| !token.is_empty());
        // Files of earlier versions name no origin; theirs is that of the endpoint that is set.
        let is_for = lines.next().is_none_or(|origin| origin == origin_of(endpoint));
        Ok(token.filter(|_| is_for).map(str::to_owned))
    }

    /// Keeps a token for the origin of an editing interface: whole and on disk, or not at all.
    ///
    /// # Errors
    /// When the file cannot be written; what was there stays then.
    pub fn set_token(&self, site: SiteId, endpoint: &Url, token: &str) -> io::Result<()> {
        self.write(site, &format!("{}\n{}\n", token.trim(), origin_of(endpoint)))
    }

    fn write(&self, site: SiteId, text: &str) -> io::Result<()> {
        fs::DirBuilder::new().recursive(true).mode(0o700).create(&self.folder)?;
        let only_ours = fs::Permissions::from_mode(0o600);
        let mut new = tempfile::Builder::new().prefix(".token-").permissions(only_ours).tempfile_in(&self.folder)?;
        new.write_all(text.as_bytes())?;
        new.as_file().sync_all()?;
        new.persist(self.file(site)).map_err(|error| error.error)?;
        fs::File::open(&self.folder)?.sync_all()
    }

    /// What is kept for a site, to be put back by [`Self::put_back`] if what was done besides fails.
    ///
    /// # Errors
    /// When the file is there but cannot be read.
    pub fn kept(&self, site: SiteId) -> io::Result<KeptToken> {
        match fs::read_to_string(self.file(site)) {
            Ok(kept) => Ok(KeptToken(Some(kept))),
            Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(KeptToken(None)),
            Err(error) => Err(error),
        }
    }

    /// # Errors
    /// When the file cannot be written.
    pub fn put_back(&self, site: SiteId, kept: KeptToken) -> io::Result<()> {
        match kept.0 {
            Some(kept) => self.write(site, &kept),
            None => self.remove_token(site),
        }
    }

    /// Forgets the token of a site.
    ///
    /// # Errors
    /// When its file is there and cannot be removed.
    pub fn remove_token(&self, site: SiteId) -> io::Result<()> {
        match fs::remove_file(self.file(site)) {
            Err(error) if error.kind() != io::ErrorKind::NotFound => Err(error),
            _ => Ok(()),
        }
    }

    fn file(&self, site: SiteId) -> PathBuf {
        self.folder.join(format!("site-{}.token", site.0))
    }
}

fn origin_of(endpoint: &Url) -> String {
    endpoint.origin().ascii_serialization()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn url(text: &str) -> Url {
        Url::parse(text).unwrap()
    }

    #[test]
    fn a_token_is_given_out_for_the_origin_that_it_was_kept_for() {
        let folder = tempfile::tempdir().unwrap();
        let secrets = Secrets::new(&folder.path().join("secrets"));
        let site = SiteId(7);
        secrets.set_token(site, &url("https://sky.example/micropub"), " s3cret ").unwrap();
        let token = |address: &str| secrets.token(site, &url(address)).unwrap();
        assert_eq!(token("https://sky.example/other/path").as_deref(), Some("s3cret"));
        for elsewhere in ["https://sky.example:8443/micropub", "http://sky.example/micropub", "https://evil.example/"] {
            assert_eq!(token(elsewhere), None, "{elsewhere}");
        }
        assert_eq!(secrets.token(SiteId(8), &url("https://sky.example/")).unwrap(), None);
        let file = secrets.file(site);
        assert_eq!(fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o600);
        assert_eq!(fs::read_dir(file.parent().unwrap()).unwrap().count(), 1, "nothing is left beside it");
        // As an earlier version kept it.
        fs::write(&file, "old").unwrap();
        assert_eq!(token("https://sky.example/micropub").as_deref(), Some("old"));
        let kept = secrets.kept(site).unwrap();
        secrets.set_token(site, &url("https://sky.example/micropub"), "new").unwrap();
        secrets.put_back(site, kept).unwrap();
        assert_eq!(token("https://sky.example/micropub").as_deref(), Some("old"));
        secrets.remove_token(site).unwrap();
        secrets.remove_token(site).unwrap();
        assert_eq!(token("https://sky.example/micropub"), None);
    }

    #[test]
    fn a_token_that_cannot_be_kept_leaves_the_one_that_was_there() {
        let folder = tempfile::tempdir().unwrap();
        let secrets = Secrets::new(folder.path());
        let endpoint = url("https://sky.example/micropub");
        // In its place stands a folder, which no file can replace.
        fs::create_dir(folder.path().join("site-1.token")).unwrap();
        assert!(secrets.set_token(SiteId(1), &endpoint, "new").is_err());
        assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 1);
    }
}
