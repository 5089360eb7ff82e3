//! Cells of a list, one text after the other in one piece: a cell costs its bytes and four more.

use super::error::ListError;

/// All cells of a list together are not longer, in bytes. One text of a workbook can stand in any number of cells.
const MOST_TEXT: usize = 128 << 20;

/// Rows of cells of any number.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Cells {
    text: String,
    /// Where each cell ends in the text.
    ends: Vec<u32>,
    /// Where each row ends among the cells.
    rows: Vec<u32>,
}

impl Cells {
    /// One row more, unless all of its cells are empty.
    ///
    /// # Errors
    /// [`ListError::TooLarge`].
    pub fn push_row<'c>(&mut self, cells: impl Iterator<Item = &'c str>) -> Result<(), ListError> {
        let (first, before) = (self.ends.len(), self.text.len());
        for cell in cells {
            if self.text.len() + cell.len() > MOST_TEXT {
                return Err(ListError::TooLarge);
            }
            self.text.push_str(cell);
            self.ends.push(narrow(self.text.len()));
        }
        match self.text.len() == before {
            true => self.ends.truncate(first),
            false => self.rows.push(narrow(self.ends.len())),
        }
        Ok(())
    }

    /// How many rows there are.
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// How many cells the longest row has. O(rows).
    pub fn width(&self) -> usize {
        (0..self.len()).map(|row| self.cells_of(row).len()).max().unwrap_or_default()
    }

    /// Nothing stands in cells that a shorter row lacks.
    pub fn cell(&self, row: usize, column: usize) -> &str {
        let Some(cell) = self.cells_of(row).nth(column) else { return "" };
        let start = cell.checked_sub(1).map_or(0, |before| self.ends[before] as usize);
        &self.text[start..self.ends[cell] as usize]
    }

    fn cells_of(&self, row: usize) -> std::ops::Range<usize> {
        let start = row.checked_sub(1).map_or(0, |before| self.rows[before] as usize);
        start..self.rows.get(row).map_or(start, |end| *end as usize)
    }
}

/// Below [`MOST_TEXT`], and so are the cells of rows that are kept, of which each has fewer than a hundred for a byte.
fn narrow(at: usize) -> u32 {
    u32::try_from(at).unwrap_or(u32::MAX)
}
