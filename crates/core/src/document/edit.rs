//! Edits: splices on the source bytes of one version of a page. A page is never written anew.

use thiserror::Error;

use super::hash::ContentHash;
use super::span::SourceSpan;

/// Bytes to replace, and what to put there. An empty span inserts.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Splice {
    pub at: SourceSpan,
    pub with: String,
}

/// Splices for one version of a page's source, in source order, none overlapping.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Edit {
    base: ContentHash,
    splices: Vec<Splice>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum EditError {
    #[error("the page is not the version that this edit was made for")]
    OtherVersion,
    #[error("two edits touch the same place")]
    Overlap,
    #[error("an edit does not fall between characters of the page")]
    OutOfPlace,
}

impl Edit {
    /// Orders the splices. Insertions at the same place keep the order in which they were given.
    ///
    /// O(s log s) in the splices.
    ///
    /// # Errors
    /// [`EditError::Overlap`] when two splices share a byte, or one inserts inside another.
    pub fn new(base: ContentHash, mut splices: Vec<Splice>) -> Result<Self, EditError> {
        splices.sort_by_key(|splice| (splice.at.start, splice.at.end));
        if splices.windows(2).any(|pair| pair[0].at.end > pair[1].at.start) {
            return Err(EditError::Overlap);
        }
        Ok(Self { base, splices })
    }

    /// Many edits of the same version as one.
    ///
    /// # Errors
    /// [`EditError::OtherVersion`] when they were made for different versions, [`EditError::Overlap`] as in
    /// [`Edit::new`].
    pub fn compose(base: ContentHash, edits: impl IntoIterator<Item = Self>) -> Result<Self, EditError> {
        let mut splices = Vec::new();
        for edit in edits {
            if edit.base != base {
                return Err(EditError::OtherVersion);
            }
            splices.extend(edit.splices);
        }
        Self::new(base, splices)
    }

    pub fn base(&self) -> ContentHash {
        self.base
    }

    pub fn splices(&self) -> &[Splice] {
        &self.splices
    }

    /// The source after the edit. O(n).
    ///
    /// # Errors
    /// [`EditError::OtherVersion`] when `source` is not the version that the edit was made for;
    /// [`EditError::OutOfPlace`] when a splice cuts a character.
    pub fn apply(&self, source: &str) -> Result<String, EditError> {
        if ContentHash::of(source) != self.base {
            return Err(EditError::OtherVersion);
        }
        let added: usize = self.splices.iter().map(|splice| splice.with.len()).sum();
        let mut out = String::with_capacity(source.len() + added);
        let mut kept = 0;
        for splice in &self.splices {
            out.push_str(source.get(kept..splice.at.start).ok_or(EditError::OutOfPlace)?);
            out.push_str(&splice.with);
            kept = splice.at.end;
        }
        out.push_str(source.get(kept..).ok_or(EditError::OutOfPlace)?);
        Ok(out)
    }

    /// The edit that turns the result of [`Edit::apply`] back into `source`. O(n).
    ///
    /// # Errors
    /// As [`Edit::apply`].
    pub fn inverse(&self, source: &str) -> Result<Self, EditError> {
        let after = self.apply(source)?;
        let mut splices = Vec::with_capacity(self.splices.len());
        let mut moved = 0isize;
        for splice in &self.splices {
            let start = splice.at.start.checked_add_signed(moved).ok_or(EditError::OutOfPlace)?;
            let was = source.get(splice.at.range()).ok_or(EditError::OutOfPlace)?;
            splices.push(Splice { at: SourceSpan::new(start, start + splice.with.len()), with: was.to_owned() });
            moved += splice.with.len().cast_signed() - splice.at.len().cast_signed();
        }
        Self::new(ContentHash::of(&after), splices)
    }
}
