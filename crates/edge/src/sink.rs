//! Where an unpacked page goes: through its passage, and packed again.

use std::io::{self, Write};
use std::sync::Arc;

use strelm_core::document::encoding::PageEncoding;
use strelm_core::passing::{Passage, PassingEdit};

use crate::coding::{Coding, Packing};

/// Larger pages are not learnt.
pub const LARGEST_COPY: usize = 1 << 20;

/// So much of a page is looked at for its encoding, as the HTML standard asks.
const LOOKED_AT: usize = 1024;

/// A page on its way out.
pub struct Sink {
    stage: Stage,
    packing: Option<Packing>,
    scratch: Vec<u8>,
    /// The page as it came, as long as it is not too large.
    copy: Option<Vec<u8>>,
}

enum Stage {
    /// Its encoding is not known yet.
    Begins {
        edit: Arc<PassingEdit>,
        label: Option<String>,
        begin: Vec<u8>,
    },
    Passes(Box<Passage<Arc<PassingEdit>>>),
    AsItComes,
}

impl Sink {
    /// `label` is the encoding that the page came with; `copies` about how large it is, where it is copied.
    pub fn new(edit: Arc<PassingEdit>, label: Option<String>, coding: Coding, copies: Option<usize>) -> Self {
        Self {
            stage: Stage::Begins { edit, label, begin: Vec::new() },
            packing: Some(Packing::of(coding)),
            scratch: Vec::new(),
            copy: copies.map(|size| Vec::with_capacity(size.min(LARGEST_COPY))),
        }
    }

    /// What can go on of what was written so far.
    pub fn take(&mut self) -> io::Result<Vec<u8>> {
        self.begin()?;
        self.packing.as_mut().map_or(Ok(Vec::new()), Packing::take)
    }

    /// The rest, and the page as it came.
    pub fn end(&mut self) -> io::Result<(Vec<u8>, Option<Vec<u8>>)> {
        self.begin()?;
        if let Stage::Passes(passage) = &mut self.stage {
            self.scratch.clear();
            passage.end(&mut self.scratch);
        }
        let Some(mut packing) = self.packing.take() else { return Ok((Vec::new(), None)) };
        packing.push(&self.scratch)?;
        Ok((packing.end()?, self.copy.take()))
    }

    /// Decides on the encoding by what is there.
    fn begin(&mut self) -> io::Result<()> {
        let Stage::Begins { edit, label, begin } = &mut self.stage else { return Ok(()) };
        if begin.is_empty() {
            return Ok(());
        }
        let encoding = PageEncoding::of(begin, label.as_deref());
        let edit =
            if encoding.name() == "UTF-8" { Some(Arc::clone(edit)) } else { edit.in_encoding(encoding).map(Arc::new) };
        let begin = std::mem::take(begin);
        self.stage = edit.map_or(Stage::AsItComes, |edit| Stage::Passes(Box::new(Passage::of(edit))));
        self.pass(&begin)
    }

    fn pass(&mut self, bytes: &[u8]) -> io::Result<()> {
        let Some(packing) = &mut self.packing else { return Ok(()) };
        match (&mut self.stage, packing.plain()) {
            (Stage::Passes(passage), Some(out)) => {
                passage.push(bytes, out);
                Ok(())
            }
            (Stage::Passes(passage), None) => {
                self.scratch.clear();
                passage.push(bytes, &mut self.scratch);
                packing.push(&self.scratch)?;
                self.scratch.clear();
                Ok(())
            }
            _ => packing.push(bytes),
        }
    }
}

impl Write for Sink {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        match &mut self.copy {
            Some(copy) if copy.len() + bytes.len() <= LARGEST_COPY => copy.extend_from_slice(bytes),
            _ => self.copy = None,
        }
        if let Stage::Begins { begin, .. } = &mut self.stage {
            begin.extend_from_slice(bytes);
            if begin.len() >= LOOKED_AT {
                self.begin()?;
            }
        } else {
            self.pass(bytes)?;
        }
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
