//! A folder of HTML and Markdown files as a site: read as a whole, edited file by file.

use std::collections::{BTreeSet, HashMap};
use std::io::Write;
use std::path::{Component, Path, PathBuf};
use std::sync::Arc;

use percent_encoding::percent_decode_str;
use strelm_core::document::encoding::{Decoded, PageEncoding, decode};
use strelm_core::document::{ContentHash, Document, Format};
use strelm_core::site::{Address, FileNames, FormCounts, Root};
use walkdir::WalkDir;

use crate::captured::Plan;
use crate::crawl::CrawledPage;
use crate::editing::{EditError, PageSource};
use crate::fetch::Validators;
use crate::folder_links::Names;
pub use crate::folder_unread::{FolderError, Unread};
use crate::front_matter::{self, FrontMatter};

/// A file larger than this is not read.
pub(crate) const MOST_BYTES: u64 = 32 * 1024 * 1024;

/// Names under which a folder's own page is written. Of several in one folder the first of these is read.
const INDEXES: [&str; 9] = [
    "index.html",
    "index.htm",
    "index.xhtml",
    "index.md",
    "index.markdown",
    "_index.md",
    "README.md",
    "readme.md",
    "README.markdown",
];

/// A file of the folder. Paths are relative, with `/` between their parts on every system.
#[derive(Debug, Clone)]
pub enum FolderFile {
    Page { path: String, format: Format, text: String, encoding: PageEncoding, is_faithful: bool },
    Other { path: String },
}

/// All files of a folder in the order of their paths. A symbolic link to a file counts as that file when it stays in
/// the folder; links to folders are not followed, and what begins with a dot is left out. O(bytes of pages).
///
/// # Errors
/// [`FolderError`] for each thing that cannot be read; the others follow.
pub fn files(folder: &Path) -> impl Iterator<Item = Result<FolderFile, FolderError>> {
    paths(folder).map(move |path| file(folder, &path?))
}

/// The paths of [`files`], for whoever reads them on several cores by [`file`]. Links that lead nowhere are left out.
///
/// # Errors
/// As [`files`].
pub fn paths(folder: &Path) -> impl Iterator<Item = Result<PathBuf, FolderError>> {
    all_paths(folder).filter(|path| !matches!(path, Err(FolderError::Link { .. })))
}

/// As [`paths`], with an error for each link that leads nowhere.
fn all_paths(folder: &Path) -> impl Iterator<Item = Result<PathBuf, FolderError>> {
    let refused = (!folder.is_dir()).then(|| Err(FolderError::NotAFolder(folder.to_owned())));
    let is_shown =
        |entry: &walkdir::DirEntry| entry.depth() == 0 || !entry.file_name().to_string_lossy().starts_with('.');
    let walk = refused.is_none().then(|| WalkDir::new(folder).sort_by_file_name().into_iter().filter_entry(is_shown));
    let paths = walk.into_iter().flatten().filter_map(move |entry| match entry {
        Ok(entry) if entry.file_type().is_file() => Some(Ok(entry.into_path())),
        Ok(entry) if entry.path_is_symlink() => linked(folder, entry.into_path()).transpose(),
        Ok(_) => None,
        Err(error) => Some(Err(error.into())),
    });
    refused.into_iter().chain(paths)
}

/// A symbolic link that leads to a file within the folder; `None` when it leads to a folder or elsewhere.
fn linked(folder: &Path, path: PathBuf) -> Result<Option<PathBuf>, FolderError> {
    match folder.canonicalize().and_then(|folder| Ok((folder, path.canonicalize()?))) {
        Ok((folder, target)) => Ok((target.starts_with(folder) && target.is_file()).then_some(path)),
        Err(error) => Err(FolderError::Link { path, error }),
    }
}

/// Whether readers open a file of this kind by itself, though no page may lead to it.
pub(crate) fn is_document(media_type: &str) -> bool {
    const OFFICE: [&str; 6] = [
        "application/pdf",
        "application/msword",
        "application/rtf",
        "application/epub",
        "application/vnd.oasis.opendocument",
        "application/vnd.openxmlformats",
    ];
    OFFICE.iter().any(|kind| media_type.starts_with(kind))
}

fn format_of(path: &Path) -> Option<Format> {
    let extension = path.extension().and_then(|extension| extension.to_str()).unwrap_or_default();
    match extension.to_ascii_lowercase().as_str() {
        "html" | "htm" | "xhtml" => Some(Format::Html),
        "md" | "markdown" => Some(Format::Markdown),
        _ => None,
    }
}

/// Reads one file of a folder. O(bytes of a page).
///
/// # Errors
/// [`FolderError`] when it cannot be read.
pub fn file(folder: &Path, path: &Path) -> Result<FolderFile, FolderError> {
    file_in(folder, path, None)
}

/// `plan` may know the encoding with which the file came.
fn file_in(folder: &Path, path: &Path, plan: Option<&Plan>) -> Result<FolderFile, FolderError> {
    let relative = path.strip_prefix(folder).unwrap_or(path);
    let parts: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
    let name = parts.join("/");
    let Some(format) = format_of(path) else { return Ok(FolderFile::Other { path: name }) };
    let failed = |error| FolderError::File { path: path.to_owned(), error };
    if std::fs::metadata(path).map_err(failed)?.len() > MOST_BYTES {
        return Err(FolderError::TooLarge(path.to_owned()));
    }
    let bytes = std::fs::read(path).map_err(failed)?;
    let Decoded { text, encoding, is_faithful } = decode(bytes, plan.and_then(|plan| plan.charset_of(&name)));
    Ok(FolderFile::Page { path: name, format, text, encoding, is_faithful })
}

/// A folder as a site: each file has an address below `base`.
#[derive(Debug, Clone)]
pub struct Folder {
    root: PathBuf,
    base: Address,
    /// Where each file belongs, when that is not told by its path.
    plan: Option<Arc<Plan>>,
    /// From where paths from the root count, as far as it was learnt from all of its links.
    link_root: Root,
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
        Ok(Self { root, base, plan, link_root: Root::Folder })
    }

    /// With what was learnt when all of it was read.
    #[must_use]
    pub fn with_link_root(mut self, root: Root) -> Self {
        self.link_root = root;
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
    fn file_of(&self, page: &Address) -> Option<PathBuf> {
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

    /// Reads one page anew, with its links as the folder has them now.
    ///
    /// # Errors
    /// [`EditError::NotEditable`] when it is not there.
    pub fn read_page(&self, page: &Address) -> Result<CrawledPage, EditError> {
        let (source, front) = self.source_with_front(page)?;
        let mut names = self.no_names();
        for entry in WalkDir::new(&self.root).into_iter().flatten().filter(|entry| entry.file_type().is_file()) {
            let Ok(relative) = entry.path().strip_prefix(&self.root) else { continue };
            let path: Vec<_> = relative.components().map(|part| part.as_os_str().to_string_lossy()).collect();
            let path = path.join("/");
            if let Some(address) = self.address_of(&path) {
                match format_of(relative) {
                    Some(_) => names.put_page(&path, &address),
                    None => names.put_file(&path, &address),
                }
            }
        }
        let document = Document::read(source.text.as_str(), source.format);
        let mut counts = FormCounts::default();
        let destinations = Some(names.destinations(page, &document, &mut BTreeSet::new(), &mut counts));
        let validators = Validators::default();
        Ok(CrawledPage { address: page.clone(), document, validators, source: Some(source), front, destinations })
    }

    /// The text of a page's file without its front matter.
    ///
    /// # Errors
    /// [`EditError::NotEditable`] when there is no such file in the folder, or its bytes could not be written again.
    pub fn source(&self, page: &Address) -> Result<PageSource, EditError> {
        Ok(self.source_with_front(page)?.0)
    }

    fn source_with_front(&self, page: &Address) -> Result<(PageSource, FrontMatter), EditError> {
        let file = self.file_of(page).ok_or(EditError::NotEditable)?;
        let format = format_of(&file).ok_or(EditError::NotEditable)?;
        let bytes = std::fs::read(&file).map_err(|_| EditError::NotEditable)?;
        let Decoded { text: whole, is_faithful, .. } = self.decode(&file, bytes);
        if !is_faithful {
            return Err(EditError::NotEditable);
        }
        let (front, start) = front_matter::split(&whole).map_err(|_| EditError::NotEditable)?;
        let version = Some(ContentHash::of(&whole).to_string());
        Ok((PageSource { text: whole[start..].to_owned(), format, version }, front))
    }

    /// Reads bytes of a file in the encoding with which it came.
    fn decode(&self, file: &Path, bytes: Vec<u8>) -> Decoded {
        let name = file.strip_prefix(&self.root).ok().map(|path| path.to_string_lossy().replace('\\', "/"));
        let charset = name.as_deref().and_then(|name| self.plan.as_ref()?.charset_of(name));
        decode(bytes, charset)
    }

    /// Writes a page's file with other text: whole and on disk, or not at all; and only while it is what `current` was
    /// read from. Its front matter and its permissions stay.
    ///
    /// # Errors
    /// [`EditError::ChangedMeanwhile`], [`EditError::NotEditable`], [`EditError::File`]; the file is then as it was.
    pub fn replace(&self, page: &Address, current: &PageSource, with: &str) -> Result<(), EditError> {
        let file = self.file_of(page).ok_or(EditError::NotEditable)?;
        let failed = |error: std::io::Error| EditError::File(error.to_string());
        let Decoded { text: whole, encoding, is_faithful } = self.decode(&file, std::fs::read(&file).map_err(failed)?);
        let is_current = |whole: &str| match &current.version {
            Some(version) => ContentHash::of(whole).to_string() == *version,
            None => whole.ends_with(&current.text),
        };
        if !is_current(&whole) {
            return Err(EditError::ChangedMeanwhile);
        }
        if !is_faithful {
            return Err(EditError::NotEditable);
        }
        let (_, start) = front_matter::split(&whole).map_err(|_| EditError::NotEditable)?;
        let folder = file.parent().ok_or(EditError::NotEditable)?;
        let mut new = tempfile::Builder::new().prefix(".strelm-").tempfile_in(folder).map_err(failed)?;
        // Since the text gives the file's very bytes, what is the same in it is the same in them.
        new.write_all(&encoding.encode(&format!("{}{with}", &whole[..start]))).map_err(failed)?;
        let permissions = std::fs::metadata(&file).map_err(failed)?.permissions();
        new.as_file().set_permissions(permissions).map_err(failed)?;
        new.as_file().sync_all().map_err(failed)?;
        // Once more, as late as can be: an editor may save in this very moment.
        if !is_current(&self.decode(&file, std::fs::read(&file).map_err(failed)?).text) {
            return Err(EditError::ChangedMeanwhile);
        }
        new.persist(&file).map_err(|error| failed(error.error))?;
        std::fs::File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed)
    }
}

/// Which of the names of a folder's own page goes before others; all other files are alike.
pub(crate) fn rank(path: &str) -> usize {
    let name = path.rsplit('/').next().unwrap_or(path);
    INDEXES.iter().position(|index| *index == name).unwrap_or(INDEXES.len())
}

/// Whether a file holds the page of the folder in which it is.
pub(crate) fn is_index(path: &str) -> bool {
    rank(path) < INDEXES.len()
}
