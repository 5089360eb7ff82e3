//! Why something is no list, and within which limits it is one.

use thiserror::Error;

/// More rows are not read.
pub(super) const MOST_ROWS: usize = 200_000;

/// A longer line is no line of a list, in bytes.
pub(super) const LONGEST_CELL: usize = 20_000;

/// A larger file is not read, in bytes.
pub(super) const MOST_BYTES: u64 = 64 << 20;

/// Why a list cannot be read, in words for whoever sent it.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum ListError {
    #[error("the list holds no rows")]
    Empty,
    #[error("the list holds more than {MOST_ROWS} rows")]
    TooManyRows,
    #[error("row {0} has a cell of more than {LONGEST_CELL} letters; is this a list?")]
    CellTooLong(usize),
    #[error("the list is larger than {} MB", MOST_BYTES >> 20)]
    TooLarge,
    #[error("the workbook cannot be read: {0}")]
    Workbook(String),
    #[error("the list cannot be read: {0}")]
    Text(String),
}
