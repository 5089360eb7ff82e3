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
    /// Insertions that edits have in common: of several alike only one is made.
    shared: Vec<Splice>,
}

/// Why splices are no edit of a text.
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
        Ok(Self { base, splices, claims: Vec::new(), shared: Vec::new() })
    }

    /// An edit that changes nothing.
    pub fn nothing(base: ContentHash) -> Self {
        Self { base, splices: Vec::new(), claims: Vec::new(), shared: Vec::new() }
    }

    /// An edit that puts `open` and `close` around a stretch of source and shares it with no other.
    pub fn around(base: ContentHash, place: SourceSpan, open: String, close: String) -> Self {
        let insert = |at, with| Splice { at: SourceSpan::new(at, at), with };
        let splices = vec![insert(place.start, open), insert(place.end, close)];
        Self { base, splices, claims: vec![place], shared: Vec::new() }
    }

    /// With an insertion that other edits of the page may need too.
    #[must_use]
    pub fn sharing(mut self, insertion: Option<Splice>) -> Self {
        self.shared.extend(insertion);
        self
    }

    /// Claims a stretch of source for this edit alone.
    #[must_use]
    pub fn claiming(mut self, place: SourceSpan) -> Self {
        self.claims.push(place);
        self
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
        let (mut splices, mut claims, mut shared) = (Vec::new(), Vec::new(), Vec::new());
        if clash(&edits) {
            return Err(EditError::Overlap);
        }
        for edit in edits {
            splices.extend(edit.splices);
            claims.extend(edit.claims);
            // Few edits of a page share anything, and what they share is mostly one thing.
            shared.extend(edit.shared.into_iter().filter(|splice| !shared.contains(splice)).collect::<Vec<_>>());
        }
        let composed = Self::new(base, splices)?;
        Ok(Self { claims, shared, ..composed })
    }

    /// The hash of the version for which it was made.
    pub fn base(&self) -> ContentHash {
        self.base
    }

    /// All splices in source order, what is shared included.
    pub fn splices(&self) -> Vec<&Splice> {
        // Both are in order; what is shared comes after what the edits insert at the same place.
        let mut all: Vec<_> = self.splices.iter().chain(&self.shared).collect();
        all.sort_by_key(|splice| (splice.at.start, splice.at.end));
        all
    }

    pub(crate) fn own_splices(&self) -> &[Splice] {
        &self.splices
    }

    pub(crate) fn claims(&self) -> &[SourceSpan] {
        &self.claims
    }

    pub(crate) fn shared(&self) -> &[Splice] {
        &self.shared
    }

    /// The stretches of source that must be as they are for the edit to mean what it means: each splice, or all that
    /// several splices have between them. In source order.
    pub(crate) fn stretches(&self) -> Vec<SourceSpan> {
        let mut stretches = self.claims.clone();
        stretches.extend(
            self.splices
                .iter()
                .map(|splice| splice.at)
                .filter(|at| !self.claims.iter().any(|claim| claim.contains(*at))),
        );
        stretches.sort_unstable();
        stretches
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
        let splices = self.splices();
        let added: usize = splices.iter().map(|splice| splice.with.len()).sum();
        let mut out = String::with_capacity(source.len() + added);
        let mut kept = 0;
        for splice in splices {
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
        let mut splices = Vec::new();
        let mut moved = 0isize;
        for splice in self.splices() {
            let start = splice.at.start.checked_add_signed(moved).ok_or(EditError::OutOfPlace)?;
            let was = source.get(splice.at.range()).ok_or(EditError::OutOfPlace)?;
            splices.push(Splice { at: SourceSpan::new(start, start + splice.with.len()), with: was.to_owned() });
            moved += splice.with.len().cast_signed() - splice.at.len().cast_signed();
        }
        Self::new(ContentHash::of(&after), splices)
    }
}

/// Whether one edit touches what another needs for itself. O(s log s).
fn clash(edits: &[Edit]) -> bool {
    let mut claims: Vec<(SourceSpan, usize)> = Vec::new();
    let mut touched: Vec<(SourceSpan, usize)> = Vec::new();
    for (owner, edit) in edits.iter().enumerate() {
        claims.extend(edit.claims.iter().map(|claim| (*claim, owner)));
        touched.extend(edit.splices.iter().map(|splice| (splice.at, owner)));
    }
    claims.sort_unstable();
    if claims.windows(2).any(|pair| pair[0].0.end > pair[1].0.start) {
        return true;
    }
    touched.iter().any(|(at, owner)| {
        let next = claims.partition_point(|(claim, _)| claim.end <= at.start);
        claims.get(next).is_some_and(|(claim, other)| {
            // An insertion at either end of a claim is beside it.
            let inside = if at.is_empty() { claim.start < at.start } else { claim.start < at.end };
            other != owner && inside
        })
    })
}
