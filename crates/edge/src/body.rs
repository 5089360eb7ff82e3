//! The body of a page on its way from the site to its reader.

use std::io;
use std::sync::Arc;

use bytes::Bytes;
use futures::stream::{Stream, StreamExt, try_unfold};
use strelm_core::passing::PassingEdit;

use crate::coding::{Coding, Unpacking};
use crate::sink::Sink;

/// What is done with a page.
pub struct Altered {
    pub edit: Arc<PassingEdit>,
    pub coding: Coding,
    /// The encoding of which `Content-Type` speaks.
    pub label: Option<String>,
    /// Of the page, where it is copied to be learnt: how large it may be, as far as that is known.
    pub copies: Option<usize>,
}

struct Way<S, F> {
    upstream: S,
    unpacking: Unpacking<Sink>,
    /// What came before anything went out: should it not be packed as it says, it goes out as it came.
    first: Option<Vec<u8>>,
    is_as_it_came: bool,
    on_end: Option<F>,
}

/// The page with its links. `on_end` gets the page as it came, unpacked, where it is wanted and not too large.
pub fn altered<S, F>(upstream: S, altered: Altered, on_end: F) -> impl Stream<Item = io::Result<Bytes>>
where
    S: Stream<Item = io::Result<Bytes>> + Unpin,
    F: FnOnce(Vec<u8>),
{
    let sink = Sink::new(altered.edit, altered.label, altered.coding, altered.copies);
    let way = Way {
        upstream,
        unpacking: Unpacking::of(altered.coding, sink),
        first: Some(Vec::new()),
        is_as_it_came: false,
        on_end: Some(on_end),
    };
    try_unfold(Some(way), async |way| {
        let Some(mut way) = way else { return Ok(None) };
        while let Some(bytes) = way.upstream.next().await {
            let out = way.pass(bytes?)?;
            if !out.is_empty() {
                return Ok(Some((out, Some(way))));
            }
        }
        let out = way.end()?;
        Ok((!out.is_empty()).then_some((out, None)))
    })
}

impl<S, F: FnOnce(Vec<u8>)> Way<S, F> {
    fn pass(&mut self, bytes: Bytes) -> io::Result<Bytes> {
        if self.is_as_it_came {
            return Ok(bytes);
        }
        if let Some(first) = &mut self.first {
            first.extend_from_slice(&bytes);
        }
        let out = self.unpacking.push(&bytes).and_then(|()| self.unpacking.sink().take());
        self.or_as_it_came(out)
    }

    fn end(&mut self) -> io::Result<Bytes> {
        if self.is_as_it_came {
            return Ok(Bytes::new());
        }
        let ended = self.unpacking.end().and_then(|()| self.unpacking.sink().end());
        let out = match ended {
            Ok((out, copy)) => {
                if let Some((on_end, copy)) = self.on_end.take().zip(copy) {
                    on_end(copy);
                }
                Ok(out)
            }
            Err(error) => Err(error),
        };
        self.or_as_it_came(out)
    }

    fn or_as_it_came(&mut self, out: io::Result<Vec<u8>>) -> io::Result<Bytes> {
        match (out, &self.first) {
            (Ok(out), _) => {
                if !out.is_empty() {
                    self.first = None;
                }
                Ok(Bytes::from(out))
            }
            (Err(_), Some(_)) => {
                self.is_as_it_came = true;
                Ok(Bytes::from(self.first.take().unwrap_or_default()))
            }
            (Err(error), None) => Err(error),
        }
    }
}
