//! Lists that people keep in spreadsheets: rows of cells from CSV, TSV or XLSX, and which column is what.

mod cells;
mod error;
mod sheet;
mod text;

use std::borrow::Cow;

use self::cells::Cells;
pub use self::error::ListError;
use self::error::{LONGEST_CELL, MOST_BYTES};

/// More columns are not read.
const MOST_COLUMNS: usize = 100;

/// Rows that are looked at to tell what a column holds.
const LOOKED_AT: usize = 50;

/// Rows of cells, of which none is empty as a whole.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct List {
    /// What the columns are called, if the first row says so.
    pub headings: Option<Vec<String>>,
    cells: Cells,
    width: usize,
}

/// Which column is what, counted from 0.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ListColumns {
    pub address: Option<usize>,
    pub title: Option<usize>,
    /// Phrases by which the page wants to be found, with `;` or `|` between them.
    pub phrases: Option<usize>,
}

const ADDRESS_NAMES: [&str; 9] = ["address", "url", "page", "link", "href", "loc", "location", "permalink", "path"];
const TITLE_NAMES: [&str; 5] = ["title", "name", "heading", "page title", "page name"];
const PHRASE_NAMES: [&str; 8] =
    ["phrase", "phrases", "keyword", "keywords", "anchor", "anchor text", "anchors", "terms"];

impl List {
    /// A list is read as a whole, so a larger one is not read, nor a workbook that is larger unpacked.
    pub const MOST_BYTES: u64 = MOST_BYTES;

    /// Reads CSV, TSV (or what is separated by semicolons), or the first sheet of a workbook. O(bytes).
    ///
    /// # Errors
    /// [`ListError`].
    pub fn read(bytes: &[u8]) -> Result<Self, ListError> {
        if bytes.len() as u64 > Self::MOST_BYTES {
            return Err(ListError::TooLarge);
        }
        let cells = if bytes.starts_with(b"PK") { sheet::read(bytes)? } else { text::read(bytes)? };
        let width = cells.width();
        if cells.len() == 0 {
            return Err(ListError::Empty);
        }
        let first = || (0..width).map(|column| cells.cell(0, column));
        let headings = (!first().any(looks_like_an_address)).then(|| first().map(str::to_owned).collect());
        let list = Self { headings, cells, width };
        if list.is_empty() { Err(ListError::Empty) } else { Ok(list) }
    }

    /// How many rows there are below the headings.
    pub fn len(&self) -> usize {
        self.cells.len() - self.first()
    }

    /// Whether there are no rows.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// How many columns the longest row has.
    pub fn width(&self) -> usize {
        self.width
    }

    /// A cell of a row below the headings, both counted from 0; nothing stands in cells that a shorter row lacks. O(1).
    pub fn cell(&self, row: usize, column: usize) -> &str {
        self.cells.cell(self.first() + row, column)
    }

    /// Where the rows below the headings begin.
    fn first(&self) -> usize {
        usize::from(self.headings.is_some())
    }

    /// Which column is what, by the names of the columns, else by what stands in them.
    pub fn columns(&self) -> ListColumns {
        let named = |names: &[&str]| {
            let headings = self.headings.as_ref()?;
            let folded: Vec<_> = headings.iter().map(|heading| heading.trim().to_lowercase()).collect();
            // A column that is called just so counts before one whose name only holds the word.
            let exact = names.iter().find_map(|name| folded.iter().position(|heading| heading == name));
            exact.or_else(|| folded.iter().position(|heading| names.iter().any(|name| heading.contains(name))))
        };
        let address = (0..self.width)
            .map(|column| (self.share_of_addresses(column), column))
            .filter(|(share, _)| *share > 0.5)
            .max_by(|a, b| a.0.total_cmp(&b.0).then(b.1.cmp(&a.1)))
            .map(|(_, column)| column)
            .or_else(|| named(&ADDRESS_NAMES));
        let other = |column: &usize| Some(*column) != address;
        let title = named(&TITLE_NAMES).filter(other);
        let phrases = named(&PHRASE_NAMES).filter(other).filter(|column| Some(*column) != title);
        ListColumns { address, title, phrases }
    }

    fn share_of_addresses(&self, column: usize) -> f64 {
        let looked = self.len().min(LOOKED_AT);
        let addresses = (0..looked).filter(|row| looks_like_an_address(self.cell(*row, column))).count();
        addresses as f64 / looked.max(1) as f64
    }
}

/// Phrases of one cell.
pub fn phrases(cell: &str) -> Vec<String> {
    let parts = cell.split([';', '|', '\n']).map(str::trim).filter(|phrase| !phrase.is_empty());
    parts.map(str::to_owned).collect()
}

fn looks_like_an_address(cell: &str) -> bool {
    let cell = cell.trim();
    let has_scheme = cell.starts_with("http://") || cell.starts_with("https://");
    has_scheme || (cell.starts_with('/') && !cell.contains(' ')) || cell.starts_with("www.")
}

/// A cell as it is kept.
fn tidied(row: usize, cell: &str) -> Result<Cow<'_, str>, ListError> {
    if cell.len() > LONGEST_CELL {
        return Err(ListError::CellTooLong(row));
    }
    // A spreadsheet's own way to keep text from being run.
    let cell = cell.trim().trim_start_matches('\'');
    Ok(if cell.contains('\0') { Cow::Owned(cell.replace('\0', "")) } else { Cow::Borrowed(cell) })
}

#[cfg(test)]
mod tests;
