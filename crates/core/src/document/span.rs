//! Offsets and spans. Source and text offsets count different things, so they are different types.

use std::ops::Range;

macro_rules! span {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name {
            /// First byte.
            pub start: usize,
            /// One past the last byte.
            pub end: usize,
        }

        impl $name {
            /// From the first byte up to, and without, the byte at `end`.
            pub const fn new(start: usize, end: usize) -> Self {
                Self { start, end }
            }

            /// In bytes.
            pub const fn len(self) -> usize {
                self.end - self.start
            }

            /// Whether nothing stands in it.
            pub const fn is_empty(self) -> bool {
                self.start >= self.end
            }

            /// As a range of bytes.
            pub const fn range(self) -> Range<usize> {
                self.start..self.end
            }

            /// Whether the two share at least one byte.
            pub const fn overlaps(self, other: Self) -> bool {
                self.start < other.end && other.start < self.end
            }

            /// Whether `other` lies wholly inside.
            pub const fn contains(self, other: Self) -> bool {
                self.start <= other.start && other.end <= self.end
            }
        }
    };
}

span! {
    /// Bytes of a page's source as it is stored on the site.
    SourceSpan
}
span! {
    /// Bytes of a document's text layer: what a reader sees, without markup.
    TextSpan
}
