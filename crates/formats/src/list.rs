//! Lists that people keep in spreadsheets: rows of cells from CSV, TSV or XLSX, and which column is what.

use std::io::Cursor;

use calamine::{Data, Reader, Xlsx};
use thiserror::Error;

use crate::archive::unpacked_size;

/// More rows and columns are not read.
const MOST_ROWS: usize = 200_000;
const MOST_COLUMNS: usize = 100;

/// A longer line is no line of a list.
const LONGEST_CELL: usize = 20_000;

/// Rows that are looked at to tell what a column holds.
const LOOKED_AT: usize = 50;

#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum ListError {
    #[error("the list holds no rows")]
    Empty,
    #[error("the list holds more than {MOST_ROWS} rows")]
    TooManyRows,
    #[error("row {0} has a cell of more than {LONGEST_CELL} letters; is this a list?")]
    CellTooLong(usize),
    #[error("the list is larger than {} MB", List::MOST_BYTES >> 20)]
    TooLarge,
    #[error("the workbook cannot be read: {0}")]
    Workbook(String),
    #[error("the list cannot be read: {0}")]
    Text(String),
}

/// Rows of cells, all as long as the longest.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct List {
    /// What the columns are called, if the first row says so.
    pub headings: Option<Vec<String>>,
    pub rows: Vec<Vec<String>>,
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
    pub const MOST_BYTES: u64 = 64 << 20;

    /// Reads CSV, TSV (or what is separated by semicolons), or the first sheet of a workbook. O(bytes).
    ///
    /// # Errors
    /// [`ListError`].
    pub fn read(bytes: &[u8]) -> Result<Self, ListError> {
        if bytes.len() as u64 > Self::MOST_BYTES {
            return Err(ListError::TooLarge);
        }
        let rows = if bytes.starts_with(b"PK") { sheet(bytes)? } else { text(bytes)? };
        let mut rows: Vec<_> = rows.into_iter().filter(|row| row.iter().any(|cell| !cell.is_empty())).collect();
        let columns = rows.iter().map(Vec::len).max().unwrap_or_default().min(MOST_COLUMNS);
        if rows.is_empty() || columns == 0 {
            return Err(ListError::Empty);
        }
        rows.iter_mut().for_each(|row| row.resize(columns, String::new()));
        let is_heading = !rows[0].iter().any(|cell| looks_like_an_address(cell));
        let headings = is_heading.then(|| rows.remove(0));
        if rows.is_empty() {
            return Err(ListError::Empty);
        }
        Ok(Self { headings, rows })
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
        let address = (0..self.rows[0].len())
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
        let looked: Vec<_> = self.rows.iter().take(LOOKED_AT).collect();
        let addresses = looked.iter().filter(|row| looks_like_an_address(&row[column])).count();
        addresses as f64 / looked.len() as f64
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

fn text(bytes: &[u8]) -> Result<Vec<Vec<String>>, ListError> {
    // Spreadsheets write UTF-8 or UTF-16 with a byte order mark, or the encoding of old Windows without one.
    let encoding = match encoding_rs::Encoding::for_bom(bytes) {
        Some((encoding, _)) => encoding,
        None if std::str::from_utf8(bytes).is_ok() => encoding_rs::UTF_8,
        None => encoding_rs::WINDOWS_1252,
    };
    let (text, ..) = encoding.decode(bytes);
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(delimiter(&text))
        .from_reader(text.as_bytes());
    let mut rows = Vec::new();
    for (number, record) in (1..).zip(reader.records()) {
        let record = record.map_err(|error| ListError::Text(error.to_string()))?;
        rows.push(checked(number, record.iter().take(MOST_COLUMNS).map(str::to_owned))?);
        if rows.len() > MOST_ROWS {
            return Err(ListError::TooManyRows);
        }
    }
    Ok(rows)
}

/// The separator that stands most often in the first line, outside of quotes.
fn delimiter(text: &str) -> u8 {
    let mut quoted = false;
    let mut counts = [(b'\t', 0), (b';', 0), (b',', 0)];
    for byte in text.lines().next().unwrap_or_default().bytes().take(LONGEST_CELL) {
        quoted ^= byte == b'"';
        counts.iter_mut().filter(|(mark, _)| *mark == byte && !quoted).for_each(|(_, count)| *count += 1);
    }
    counts.iter().rev().max_by_key(|(_, count)| *count).map_or(b',', |(mark, _)| *mark)
}

fn sheet(bytes: &[u8]) -> Result<Vec<Vec<String>>, ListError> {
    let failed = |error: &dyn std::fmt::Display| ListError::Workbook(error.to_string());
    // A workbook is an archive, and may be a bomb like any other.
    unpacked_size(bytes, List::MOST_BYTES).map_err(|error| failed(&error))?.ok_or(ListError::TooLarge)?;
    let mut workbook: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).map_err(|error| failed(&error))?;
    let name = workbook.sheet_names().first().cloned().ok_or(ListError::Empty)?;
    let range = workbook.worksheet_range(&name).map_err(|error| failed(&error))?;
    if range.height() > MOST_ROWS {
        return Err(ListError::TooManyRows);
    }
    let cell = |cell: &Data| match cell {
        Data::Empty => String::new(),
        other => other.to_string(),
    };
    (1..).zip(range.rows()).map(|(number, row)| checked(number, row.iter().take(MOST_COLUMNS).map(cell))).collect()
}

fn checked(number: usize, cells: impl Iterator<Item = String>) -> Result<Vec<String>, ListError> {
    cells
        .map(|cell| match cell.len() {
            length if length > LONGEST_CELL => Err(ListError::CellTooLong(number)),
            // A spreadsheet's own way to keep text from being run.
            _ => Ok(cell.trim().trim_start_matches('\'').replace('\0', "")),
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::table::{Cell, Table};

    const CSV: &str = "Phrases;Page title;URL\nred torch; torches;http://sky.example/torch\n";

    fn columns(text: &str) -> ListColumns {
        List::read(text.as_bytes()).unwrap().columns()
    }

    #[test]
    fn columns_are_matched_by_name_and_by_what_they_hold() {
        let expected = ListColumns { address: Some(2), title: Some(1), phrases: Some(0) };
        assert_eq!(columns(CSV), expected);
        assert_eq!(columns(&CSV.replace(';', "\t")), expected);
        let without_names = "http://sky.example/a,Moon\nhttp://sky.example/b,Sun\n";
        assert_eq!(columns(without_names), ListColumns { address: Some(0), ..ListColumns::default() });
        assert_eq!(List::read(without_names.as_bytes()).unwrap().rows.len(), 2);
        assert_eq!(columns("Name,Where\nMoon,/moon\nSun,/sun\n").address, Some(1));
        assert_eq!(columns("a,b\nc,d\n").address, None);
    }

    #[test]
    fn a_workbook_and_old_encodings_are_read_alike() {
        let row = |cells: [&str; 2]| cells.map(|cell| Cell::Text(cell.to_owned())).to_vec();
        let table = Table {
            headings: vec!["Address".to_owned(), "Title".to_owned()],
            rows: vec![row(["http://sky.example/é", "=Évening"])],
        };
        let list = List::read(&table.to_xlsx("Pages").unwrap()).unwrap();
        assert_eq!(list.headings.as_deref(), Some(&["Address".to_owned(), "Title".to_owned()][..]));
        assert_eq!(list.rows, [["http://sky.example/é", "=Évening"]]);
        assert_eq!(List::read(&table.to_csv().unwrap()).unwrap(), list);
        let (old, ..) = encoding_rs::WINDOWS_1252.encode("Address,Title\r\nhttp://sky.example/é,=Évening\r\n");
        assert_eq!(List::read(&old).unwrap(), list);
    }

    #[test]
    fn what_is_no_list_says_so() {
        assert_eq!(List::read(b""), Err(ListError::Empty));
        assert_eq!(List::read(b"address,title\n"), Err(ListError::Empty));
        assert!(matches!(List::read(b"PK\x03\x04garbage"), Err(ListError::Workbook(_))));
        assert_eq!(List::read("x".repeat(1_000_000).as_bytes()), Err(ListError::CellTooLong(1)));
        assert_eq!(List::read("x".repeat(100_000_000).as_bytes()), Err(ListError::TooLarge));
        let bomb = vec![b' '; 100_000_000];
        let bomb = crate::archive::pack([("xl/worksheets/sheet1.xml".to_owned(), bomb)]).unwrap();
        assert!(bomb.len() < 1_000_000);
        assert_eq!(List::read(&bomb), Err(ListError::TooLarge));
    }

    proptest::proptest! {
        #[test]
        fn arbitrary_bytes_never_panic(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..200)) {
            if let Ok(list) = List::read(&bytes) {
                let _ = list.columns();
            }
        }
    }
}
