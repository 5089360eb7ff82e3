//! A folder of HTML and Markdown files as a site: its files and their addresses.

use std::collections::HashMap;
use std::path::{Component, Path, PathBuf};
use std::sync::{Arc, OnceLock};

use percent_encoding::percent_decode_str;
use strelm_core::site::{Address, FileNames, Root};

use crate::captured::Plan;
pub use crate::folder_files::{FolderFile, file, files, paths};
use crate::folder_files::{INDEXES, all_paths, file_in, format_of};
use crate::folder_links::Names;
pub use crate::folder_unread::{FolderError, Unread};

/// A folder as a site: each file has an address below `base`.
#[derive(Debug, Clone)]
pub struct Folder {
    pub(crate) root: PathBuf,
    base: Address,
    /// Where each file belongs, when that is not told by its path.
    pub(crate) plan: Option<Arc<Plan>>,
    /// From where paths from the root count, as far as it was learnt from all of its links.
    link_root: Root,
    /// What its links find, once somebody asked.
    pub(crate) names: Arc<OnceLock<Names>>,
}

impl Folder {
    /// # Errors
    /// [`FolderError::NotAFolder`] when there is no such folder, [`FolderError::Plan`].
    pub fn open(root: &Path, base: Address) -> Result<Self, FolderError> {
        let root = root.canonicalize().map_err(|_| FolderError::NotAFolder(root.to_owned()))?;
        if !root.is_dir() {
            return Err(FolderError::NotAFolder(root));
        }
        let plan = Plan::of(&root).map_err(FolderError::Plan)?.map(Arc::new);
        Ok(Self { root, base, plan, link_root: Root::Folder, names: Arc::default() })
    }

    /// With what was learnt when all of it was read.
    #[must_use]
    pub fn with_link_root(mut self, root: Root) -> Self {
        self.link_root = root;
        self.names = Arc::default();
        self
    }

    /// An address of the site by its path and query.
    pub(crate) fn at(&self, from_root: &str) -> Option<Address> {
        let url = self.base.as_url().join(from_root).ok()?;
        Address::parse(url.as_str()).ok().filter(|address| address.same_origin(&self.base))
    }

    /// The address of a file: that of its folder for an index file.
    pub(crate) fn address_of(&self, path: &str) -> Option<Address> {
        if let Some(plan) = &self.plan {
            return self.at(plan.address_of(path)?);
        }
        let (folder, name) = path.rsplit_once('/').unwrap_or(("", path));
        let parts = path.split('/').filter(|part| !part.is_empty());
        let mut url = self.base.as_url().clone();
        if INDEXES.contains(&name) {
            let folder = folder.split('/').filter(|part| !part.is_empty());
            url.path_segments_mut().ok()?.clear().extend(folder).push("");
        } else {
            url.path_segments_mut().ok()?.clear().extend(parts);
        }
        Address::parse(url.as_str()).ok()
    }

    /// Whether there is a file behind an address, of whatever kind and with whatever text.
    pub fn has(&self, address: &Address) -> bool {
        self.real_file(address).is_some()
    }

    /// The page's file behind an address.
    pub(crate) fn file_of(&self, page: &Address) -> Option<PathBuf> {
        self.real_file(page).filter(|file| format_of(file).is_some())
    }

    /// The file behind an address, inside the folder. What begins with a dot is not there.
    fn real_file(&self, page: &Address) -> Option<PathBuf> {
        if !page.same_origin(&self.base) {
            return None;
        }
        let path = match &self.plan {
            Some(plan) => plan.file_of(page)?.into(),
            None => percent_decode_str(page.as_url().path()).decode_utf8().ok()?,
        };
        let relative = Path::new(path.trim_start_matches('/'));
        let is_shown = |part| matches!(part, Component::Normal(name) if !name.to_string_lossy().starts_with('.'));
        if !relative.components().all(is_shown) {
            return None;
        }
        let direct = self.root.join(relative);
        let file = if path.ends_with('/') {
            INDEXES.iter().map(|index| direct.join(index)).find(|file| file.is_file())?
        } else {
            direct
        };
        let real = file.canonicalize().ok()?;
        (real.starts_with(&self.root) && real.is_file()).then_some(real)
    }

    /// A picture of the folder with its media type, if there is one at this address and it has at most `most` bytes.
    pub fn picture(&self, address: &Address, most: u64) -> Option<(Vec<u8>, String)> {
        let file = self.real_file(address)?;
        let kind = mime_guess::from_path(&file).first()?;
        let is_small = std::fs::metadata(&file).is_ok_and(|known| known.len() <= most);
        (kind.type_() == "image" && is_small).then_some(())?;
        Some((std::fs::read(&file).ok()?, kind.essence_str().to_owned()))
    }

    pub(crate) fn no_names(&self) -> Names {
        match self.plan {
            Some(_) => Names::Captured(HashMap::new()),
            None => Names::Files(FileNames::default().with_root(self.link_root.clone())),
        }
    }

    /// The address of a file by its very path.
    pub(crate) fn by_path(&self, path: &str) -> Option<Address> {
        let mut url = self.base.as_url().clone();
        url.path_segments_mut().ok()?.clear().extend(path.split('/').filter(|part| !part.is_empty()));
        Address::parse(url.as_str()).ok()
    }

    pub(crate) fn paths(&self) -> impl Iterator<Item = Result<PathBuf, FolderError>> {
        all_paths(&self.root)
    }

    pub(crate) fn file(&self, path: &Path) -> Result<FolderFile, FolderError> {
        file_in(&self.root, path, self.plan.as_deref())
    }

    /// Paths of addresses that came more than once with captured pages.
    pub(crate) fn again(&self) -> &[String] {
        self.plan.as_deref().map_or(&[], |plan| &plan.again)
    }

    pub(crate) fn redirects(&self) -> &[(String, String)] {
        self.plan.as_deref().map_or(&[], |plan| &plan.redirects)
    }

    /// The address of a file that is a page by its name.
    pub(crate) fn page_at(&self, path: &Path) -> Option<Address> {
        format_of(path)?;
        self.address_of(&self.relative(path)?)
    }

    /// The path of a file of the folder from there.
    pub(crate) fn relative(&self, path: &Path) -> Option<String> {
        let relative = path.strip_prefix(&self.root).ok()?;
        let parts: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
        Some(parts.join("/"))
    }

    /// What an error keeps from being known.
    pub(crate) fn unread(&self, error: &FolderError) -> Option<Unread> {
        let path = error.path().unwrap_or(&self.root);
        let relative = path.strip_prefix(&self.root).unwrap_or(Path::new(""));
        let parts: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
        let name = parts.join("/");
        let is_folder = matches!(error, FolderError::Walk(_) | FolderError::NotAFolder(_));
        let address = match is_folder {
            true => self.at(&if name.is_empty() { "/".to_owned() } else { format!("/{name}/") }),
            false => self.address_of(&name),
        };
        Some(Unread { address: address?, is_folder, why: error.reason() })
    }
}
