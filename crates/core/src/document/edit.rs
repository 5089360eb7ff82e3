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
    /// What the edit needs for itself beyond its splices: all between the two tags of a link. In source order.
    claims: Vec<SourceSpan>,
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
        Ok(Self { base, splices, claims: Vec::new() })
    }

    /// An edit that puts `open` and `close` around a stretch of source and shares it with no other.
    pub fn around(base: ContentHash, place: SourceSpan, open: String, close: String) -> Self {
        let insert = |at, with| Splice { at: SourceSpan::new(at, at), with };
        let splices = vec![insert(place.start, open), insert(place.end, close)];
        Self { base, splices, claims: vec![place] }
    }

    /// Many edits of the same version as one.
    ///
    /// # Errors
    /// [`EditError::OtherVersion`] when they were made for different versions, [`EditError::Overlap`] as in
    /// [`Edit::new`] and when what one needs for itself is touched by another.
    pub fn compose(base: ContentHash, edits: impl IntoIterator<Item = Self>) -> Result<Self, EditError> {
        let mut edits: Vec<_> = edits.into_iter().collect();
        if edits.iter().any(|edit| edit.base != base) {
            return Err(EditError::OtherVersion);
        }
        // Of two that meet at one byte, the end of the first comes before the start of the second.
        edits.sort_by_key(|edit| edit.splices.first().map(|splice| (splice.at.start, splice.at.end)));
        let (mut splices, mut claims) = (Vec::new(), Vec::new());
        for edit in edits {
            splices.extend(edit.splices);
            claims.extend(edit.claims);
        }
        claims.sort_unstable();
        if claims.windows(2).any(|pair| pair[0].end > pair[1].start) {
            return Err(EditError::Overlap);
        }
        let composed = Self::new(base, splices)?;
        Ok(Self { claims, ..composed })
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
