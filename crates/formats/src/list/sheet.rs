//! The first sheet of a workbook, cell by cell: how far apart its cells stand is only said, and costs nothing.

use std::borrow::Cow;
use std::io::{Cursor, Read};

use calamine::{DataRef, Reader, Xlsx};
use memchr::memmem;

use super::cells::Cells;
use super::error::{ListError, MOST_ROWS};
use super::{List, MOST_COLUMNS, tidied};
use crate::archive::unpacked_size;

/// O(bytes unpacked).
pub fn read(bytes: &[u8]) -> Result<Cells, ListError> {
    // A workbook is an archive, and may be a bomb like any other.
    let unpacked = unpacked_size(bytes, List::MOST_BYTES).map_err(failed)?.ok_or(ListError::TooLarge)?;
    refuse_false_counts(bytes, unpacked)?;
    let mut workbook: Xlsx<_> = Xlsx::new(Cursor::new(bytes)).map_err(failed)?;
    let name = workbook.sheet_names().first().cloned().ok_or(ListError::Empty)?;
    let mut reader = workbook.worksheet_cells_reader(&name).map_err(failed)?;
    let mut cells = Cells::default();
    let mut row = SheetRow::default();
    while let Some(cell) = reader.next_cell().map_err(failed)? {
        let (number, column) = cell.get_position();
        if number != row.number {
            row.end(&mut cells)?;
            row.number = number;
        }
        row.put(column as usize, cell.get_value())?;
    }
    row.end(&mut cells)?;
    Ok(cells)
}

/// The row that is being read. Cells may come in any order.
#[derive(Default)]
struct SheetRow {
    /// Counted from 0.
    number: u32,
    cells: Vec<String>,
}

impl SheetRow {
    fn put(&mut self, column: usize, value: &DataRef<'_>) -> Result<(), ListError> {
        if column >= MOST_COLUMNS || *value == DataRef::Empty {
            return Ok(());
        }
        let said: Cow<str> = match value {
            DataRef::SharedString(text) => Cow::Borrowed(text),
            DataRef::String(text) => Cow::Borrowed(text),
            other => Cow::Owned(calamine::Data::from(other.clone()).to_string()),
        };
        self.cells.resize(self.cells.len().max(column + 1), String::new());
        self.cells[column] = tidied(self.number as usize + 1, &said)?.into_owned();
        Ok(())
    }

    fn end(&mut self, cells: &mut Cells) -> Result<(), ListError> {
        cells.push_row(self.cells.iter().map(String::as_str))?;
        self.cells.clear();
        match cells.len() > MOST_ROWS {
            true => Err(ListError::TooManyRows),
            false => Ok(()),
        }
    }
}

fn failed(error: impl std::fmt::Display) -> ListError {
    ListError::Workbook(error.to_string())
}

/// A workbook says how many different texts it holds, and whoever reads it makes room for so many: one that says more
/// than it has bytes is none.
fn refuse_false_counts(bytes: &[u8], unpacked: u64) -> Result<(), ListError> {
    let mut archive = zip::ZipArchive::new(Cursor::new(bytes)).map_err(failed)?;
    for index in 0..archive.len() {
        let mut part = Vec::new();
        archive.by_index(index).map_err(failed)?.take(List::MOST_BYTES).read_to_end(&mut part).map_err(failed)?;
        for at in memmem::find_iter(&part, "uniqueCount") {
            let digits = part[at..].iter().skip_while(|byte| !byte.is_ascii_digit()).take_while(|b| b.is_ascii_digit());
            let count =
                digits.fold(0u64, |count, digit| count.saturating_mul(10).saturating_add(u64::from(digit - b'0')));
            if count > unpacked {
                return Err(ListError::Workbook("it says that it holds more texts than it has bytes".to_owned()));
            }
        }
    }
    Ok(())
}
