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

#[cfg(test)]
mod tests {
    use flate2::read::MultiGzDecoder;
    use proptest::prelude::*;

    use super::*;
    use crate::coding::Unpacking;

    fn packed(coding: Coding, page: &[u8]) -> Vec<u8> {
        let mut packing = Packing::of(coding);
        packing.push(page).unwrap();
        packing.end().unwrap()
    }

    fn unpacked(coding: Coding, bytes: &[u8]) -> Vec<u8> {
        match coding {
            Coding::Identity => Ok(bytes.to_vec()),
            Coding::Gzip => io::read_to_string(MultiGzDecoder::new(bytes)).map(String::into_bytes),
            Coding::Brotli => io::read_to_string(brotli::Decompressor::new(bytes, 4096)).map(String::into_bytes),
        }
        .unwrap()
    }

    proptest! {
        #[test]
        fn a_page_comes_out_whole_in_whatever_pieces_it_is_packed_and_taken(
            text in "[a-z é]{0,3000}", coding in prop::sample::select(vec![Coding::Identity, Coding::Gzip, Coding::Brotli]),
            size in 1..700_usize,
        ) {
            let page = format!("<html><body>{text}</body></html>");
            let edit = Arc::new(PassingEdit::default().with_end("<p>At the end</p>"));
            let mut unpacking = Unpacking::of(coding, Sink::new(edit, Some("utf-8".to_owned()), coding, Some(10)));
            let mut out = Vec::new();
            for piece in packed(coding, page.as_bytes()).chunks(size) {
                unpacking.push(piece).unwrap();
                out.extend(unpacking.sink().take().unwrap());
            }
            unpacking.end().unwrap();
            let (rest, copy) = unpacking.sink().end().unwrap();
            out.extend(rest);
            prop_assert_eq!(unpacked(coding, &out), page.replace("</body>", "<p>At the end</p></body>").into_bytes());
            prop_assert_eq!(copy, Some(page.into_bytes()));
        }

        #[test]
        fn what_is_not_packed_as_it_says_is_told(bytes in prop::collection::vec(any::<u8>(), 1..200)) {
            // The two bytes with which gzip begins are not there.
            prop_assume!(bytes[0] != 0x1f);
            let mut unpacking = Unpacking::of(Coding::Gzip, Vec::new());
            prop_assert!(unpacking.push(&bytes).and_then(|()| unpacking.end()).is_err());
        }
    }

    #[test]
    fn pages_beyond_a_size_are_not_kept() {
        let edit = Arc::new(PassingEdit::default());
        let mut sink = Sink::new(edit, None, Coding::Identity, Some(0));
        for _ in 0..LARGEST_COPY / 1000 + 1 {
            sink.write_all(&[b'a'; 1000]).unwrap();
        }
        let (out, copy) = sink.end().unwrap();
        assert_eq!((out.len(), copy), (1000 * (LARGEST_COPY / 1000 + 1), None));
    }
}
