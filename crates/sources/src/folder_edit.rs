//! Reading and changing single pages of a folder.

use std::collections::BTreeSet;
use std::io::Write;
use std::path::Path;

use strelm_core::document::encoding::{Decoded, decode};
use strelm_core::document::{ContentHash, Document};
use strelm_core::site::{Address, FormCounts};

use crate::crawled_page::CrawledPage;
use crate::folder::Folder;
use crate::folder_files::format_of;
use crate::folder_links::Names;
use crate::front_matter::{self, FrontMatter};
use crate::page_source::{PageSource, SourceError};
use strelm_core::site::Validators;

impl Folder {
    /// By what the links of the folder find files: looked up once for all pages that are read anew. O(files) at first, then
    /// O(1).
    fn all_names(&self) -> &Names {
        self.names.get_or_init(|| {
            let mut names = self.no_names();
            for path in self.paths().flatten() {
                let Some(relative) = self.relative(&path) else { continue };
                let Some(address) = self.address_of(&relative) else { continue };
                match format_of(&path) {
                    Some(_) => names.put_page(&relative, &address),
                    None => names.put_file(&relative, &address),
                }
            }
            names
        })
    }

    /// Reads one page anew, with its links as the folder has them now.
    ///
    /// # Errors
    /// [`SourceError::NotEditable`] when it is not there.
    pub fn read_page(&self, page: &Address) -> Result<CrawledPage, SourceError> {
        let (source, front) = self.source_with_front(page)?;
        let names = self.all_names();
        let document = Document::read(source.text.as_str(), source.format);
        let mut counts = FormCounts::default();
        let destinations = Some(names.destinations(page, &document, &mut BTreeSet::new(), &mut counts));
        let validators = Validators::default();
        Ok(CrawledPage { address: page.clone(), document, validators, source: Some(source), front, destinations })
    }

    /// The text of a page's file without its front matter.
    ///
    /// # Errors
    /// [`SourceError::NotEditable`] when there is no such file in the folder, or its bytes could not be written again.
    pub fn source(&self, page: &Address) -> Result<PageSource, SourceError> {
        Ok(self.source_with_front(page)?.0)
    }

    fn source_with_front(&self, page: &Address) -> Result<(PageSource, FrontMatter), SourceError> {
        let file = self.file_of(page).ok_or(SourceError::NotEditable)?;
        let format = format_of(&file).ok_or(SourceError::NotEditable)?;
        let bytes = std::fs::read(&file).map_err(|_| SourceError::NotEditable)?;
        let Decoded { text: whole, is_faithful, .. } = self.decode(&file, bytes);
        if !is_faithful {
            return Err(SourceError::NotEditable);
        }
        let (front, start) = front_matter::split(&whole).map_err(|_| SourceError::NotEditable)?;
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
    /// [`SourceError::ChangedMeanwhile`], [`SourceError::NotEditable`], [`SourceError::File`]; the file is then as it was.
    pub fn replace(&self, page: &Address, current: &PageSource, with: &str) -> Result<(), SourceError> {
        let file = self.file_of(page).ok_or(SourceError::NotEditable)?;
        let failed = |error: std::io::Error| SourceError::File(error.to_string());
        let Decoded { text: whole, encoding, is_faithful } = self.decode(&file, std::fs::read(&file).map_err(failed)?);
        let is_current = |whole: &str| match &current.version {
            Some(version) => ContentHash::of(whole).to_string() == *version,
            None => whole.ends_with(&current.text),
        };
        if !is_current(&whole) {
            return Err(SourceError::ChangedMeanwhile);
        }
        if !is_faithful {
            return Err(SourceError::NotEditable);
        }
        let (_, start) = front_matter::split(&whole).map_err(|_| SourceError::NotEditable)?;
        let folder = file.parent().ok_or(SourceError::NotEditable)?;
        let mut new = tempfile::Builder::new().prefix(".strelm-").tempfile_in(folder).map_err(failed)?;
        // Since the text gives the file's very bytes, what is the same in it is the same in them.
        new.write_all(&encoding.encode(&format!("{}{with}", &whole[..start]))).map_err(failed)?;
        let permissions = std::fs::metadata(&file).map_err(failed)?.permissions();
        new.as_file().set_permissions(permissions).map_err(failed)?;
        new.as_file().sync_all().map_err(failed)?;
        // Once more, as late as can be: an editor may save in this very moment.
        if !is_current(&self.decode(&file, std::fs::read(&file).map_err(failed)?).text) {
            return Err(SourceError::ChangedMeanwhile);
        }
        new.persist(&file).map_err(|error| failed(error.error))?;
        std::fs::File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed)
    }
}
