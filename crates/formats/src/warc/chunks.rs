//! Bodies that were sent in chunks.

use std::io::{self, BufRead, Read};

/// Whether bytes begin with the length of a chunk.
pub(super) fn starts_with_a_chunk(bytes: &[u8]) -> bool {
    let digits = bytes.iter().take_while(|byte| byte.is_ascii_hexdigit()).count();
    (1..=8).contains(&digits) && matches!(bytes.get(digits), Some(b'\r' | b'\n' | b';' | b' '))
}

/// The content of a body that was sent in chunks (RFC 9112, 7.1).
pub(super) struct Chunks<'b, B> {
    block: &'b mut B,
    /// Of the chunk that is being read.
    left: u64,
    is_over: bool,
}

impl<'b, B: BufRead> Chunks<'b, B> {
    /// The body that begins where a block is.
    pub const fn of(block: &'b mut B) -> Self {
        Self { block, left: 0, is_over: false }
    }

    fn next(&mut self) -> io::Result<()> {
        let mut head = Vec::new();
        // The end of the line after a chunk comes first.
        while head.iter().all(u8::is_ascii_whitespace) {
            head.clear();
            if (&mut *self.block).take(1024).read_until(b'\n', &mut head)? == 0 {
                break;
            }
        }
        let digits: String = head.iter().take_while(|byte| byte.is_ascii_hexdigit()).map(|b| char::from(*b)).collect();
        self.left = u64::from_str_radix(&digits, 16).unwrap_or_default();
        self.is_over = self.left == 0;
        Ok(())
    }
}

impl<B: BufRead> Read for Chunks<'_, B> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        if self.left == 0 && !self.is_over {
            self.next()?;
        }
        let most = usize::try_from(self.left).unwrap_or(usize::MAX).min(buffer.len());
        let read = self.block.read(&mut buffer[..most])?;
        self.left -= read as u64;
        self.is_over |= read == 0 && most > 0;
        Ok(read)
    }
}

#[cfg(test)]
mod tests {
    use std::io::{BufReader, Read};

    use proptest::prelude::*;

    use super::*;

    fn read(body: &[u8]) -> Vec<u8> {
        let mut block = BufReader::with_capacity(3, body);
        let mut content = Vec::new();
        Chunks::of(&mut block).read_to_end(&mut content).unwrap();
        content
    }

    #[test]
    fn what_is_no_chunk_is_told_from_one() {
        for (bytes, is) in [
            (&b"1a\r\n"[..], true),
            (b"0;name=value\r\n", true),
            (b"FF \n", true),
            (b"<html>", false),
            (b"abc", false),
            (b"123456789\r\n", false),
            (b"", false),
        ] {
            assert_eq!(starts_with_a_chunk(bytes), is, "{}", String::from_utf8_lossy(bytes));
        }
    }

    #[test]
    fn a_body_that_breaks_off_is_read_as_far_as_it_goes() {
        assert_eq!(read(b"4\r\nmoon\r\n3\r\nsu"), b"moonsu");
        assert_eq!(read(b"4\r\nmoon\r\nzz\r\nsun"), b"moon");
        assert_eq!(read(b"4\r\nmoon"), b"moon");
        assert_eq!(read(b""), b"");
    }

    proptest! {
        #[test]
        fn whatever_is_sent_in_chunks_comes_together(parts in prop::collection::vec(prop::collection::vec(any::<u8>(), 1..40), 0..8)) {
            let mut body = Vec::new();
            for part in &parts {
                body.extend(format!("{:x};note=1\r\n", part.len()).into_bytes());
                body.extend(part);
                body.extend(b"\r\n");
            }
            body.extend(b"0\r\n\r\n");
            prop_assert_eq!(read(&body), parts.concat());
        }

        #[test]
        fn arbitrary_bytes_come_to_an_end(body in prop::collection::vec(any::<u8>(), 0..200)) {
            prop_assert!(read(&body).len() <= body.len());
        }
    }
}
