//! A page that passes as it is packed, and is unpacked beside for whoever wants to see it.

use std::io;

use bytes::Bytes;
use futures::stream::{Stream, StreamExt, unfold};

use crate::coding::{Coding, Unpacking};
use crate::sink::LARGEST_COPY;

/// A body that goes on as it is, and is unpacked beside for whoever wants to see the whole.
pub fn watched<S, F>(upstream: S, coding: Coding, on_end: F) -> impl Stream<Item = io::Result<Bytes>>
where
    S: Stream<Item = io::Result<Bytes>> + Unpin,
    F: FnOnce(Vec<u8>),
{
    let watch = Watch::of(coding);
    unfold((upstream, Some((watch, on_end))), |(mut upstream, mut state)| async move {
        let piece = upstream.next().await;
        match &piece {
            Some(Ok(bytes)) => {
                if let Some((watch, _)) = &mut state {
                    watch.push(bytes);
                }
            }
            Some(Err(_)) => state = None,
            None => {
                if let Some((watch, on_end)) = state.take()
                    && let Some(page) = watch.end()
                {
                    on_end(page);
                }
            }
        }
        piece.map(|piece| (piece, (upstream, state)))
    })
}

/// Unpacks a page that passes as it is, as long as it is not too large to be learnt.
struct Watch(Option<Unpacking<Copy>>);

struct Copy(Vec<u8>);

impl Watch {
    fn of(coding: Coding) -> Self {
        Self(Some(Unpacking::of(coding, Copy(Vec::new()))))
    }

    fn push(&mut self, bytes: &[u8]) {
        if self.0.as_mut().is_some_and(|unpacking| unpacking.push(bytes).is_err()) {
            self.0 = None;
        }
    }

    /// The page, if all of it came.
    fn end(self) -> Option<Vec<u8>> {
        let mut unpacking = self.0?;
        unpacking.end().ok()?;
        Some(std::mem::take(&mut unpacking.sink().0))
    }
}

impl io::Write for Copy {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        if self.0.len() + bytes.len() > LARGEST_COPY {
            return Err(io::Error::other("too large to be learnt"));
        }
        self.0.extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}
