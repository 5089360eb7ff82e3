//! Lists as text: cells between commas, tabs or semicolons.

use super::cells::Cells;
use super::error::{LONGEST_CELL, ListError, MOST_ROWS};
use super::{MOST_COLUMNS, tidied};

/// The cells of a table of text, whatever parts its columns. O(bytes).
pub fn read(bytes: &[u8]) -> Result<Cells, ListError> {
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
    let mut cells = Cells::default();
    let mut record = csv::StringRecord::new();
    let failed = |error: csv::Error| ListError::Text(error.to_string());
    let mut number = 0;
    while reader.read_record(&mut record).map_err(failed)? {
        number += 1;
        let row = record.iter().take(MOST_COLUMNS).map(|cell| tidied(number, cell));
        let row = row.collect::<Result<Vec<_>, _>>()?;
        cells.push_row(row.iter().map(AsRef::as_ref))?;
        if cells.len() > MOST_ROWS {
            return Err(ListError::TooManyRows);
        }
    }
    Ok(cells)
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
