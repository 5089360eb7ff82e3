//! Tables for spreadsheets: CSV after RFC 4180, and XLSX. A cell that a spreadsheet would run as a formula is written as
//! text.

use thiserror::Error;

/// A cell of a table.
#[derive(Debug, Clone, PartialEq)]
pub enum Cell {
    Text(String),
    Number(f64),
}

/// Headings, and rows of as many cells.
#[derive(Debug, Clone, Default)]
pub struct Table {
    pub headings: Vec<String>,
    pub rows: Vec<Vec<Cell>>,
}

/// Why a table cannot be written.
#[derive(Debug, Error)]
pub enum TableError {
    #[error("the CSV file cannot be written: {0}")]
    Csv(String),
    #[error("the rows cannot be written: {0}")]
    Json(#[from] serde_json::Error),
    #[error("the workbook cannot be written: {0}")]
    Xlsx(#[from] rust_xlsxwriter::XlsxError),
}

/// A workbook's sheet has no more rows, and a cell no more characters.
const MOST_SHEET_ROWS: usize = 1_048_575;
const LONGEST_CELL: usize = 32_767;

impl Table {
    /// UTF-8 with a byte order mark, by which spreadsheets know it. O(cells).
    ///
    /// # Errors
    /// [`TableError::Csv`].
    pub fn to_csv(&self) -> Result<Vec<u8>, TableError> {
        let failed = |error: &dyn std::fmt::Display| TableError::Csv(error.to_string());
        let mut writer =
            csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer("\u{feff}".as_bytes().to_vec());
        let headings = self.headings.iter().map(|heading| harmless(heading));
        writer.write_record(headings).map_err(|error| failed(&error))?;
        for row in &self.rows {
            let cells = row.iter().map(|cell| match cell {
                Cell::Text(text) => harmless(text),
                Cell::Number(number) => number.to_string(),
            });
            writer.write_record(cells).map_err(|error| failed(&error))?;
        }
        writer.into_inner().map_err(|error| failed(&error))
    }

    /// One JSON object a row, in the order of columns, under the headings as names. O(cells).
    ///
    /// # Errors
    /// [`TableError::Json`].
    pub fn to_json_lines(&self) -> Result<Vec<u8>, TableError> {
        let mut out = Vec::new();
        for row in &self.rows {
            let fields = self.headings.iter().zip(row).map(|(heading, cell)| {
                let value = match cell {
                    Cell::Text(text) => serde_json::Value::from(text.as_str()),
                    Cell::Number(number) if number.fract() == 0.0 => serde_json::Value::from(*number as i64),
                    Cell::Number(number) => serde_json::Value::from(*number),
                };
                Ok(format!("{}:{value}", serde_json::to_string(heading)?))
            });
            let fields: Result<Vec<_>, serde_json::Error> = fields.collect();
            out.extend_from_slice(format!("{{{}}}\n", fields?.join(",")).as_bytes());
        }
        Ok(out)
    }

    /// One sheet with a fixed first row. Text is written as text, whatever it begins with. O(cells); rows beyond a
    /// sheet's limit are left out.
    ///
    /// # Errors
    /// [`TableError::Xlsx`].
    pub fn to_xlsx(&self, sheet_name: &str) -> Result<Vec<u8>, TableError> {
        let mut workbook = rust_xlsxwriter::Workbook::new();
        let bold = rust_xlsxwriter::Format::new().set_bold();
        let sheet = workbook.add_worksheet().set_name(sheet_name)?;
        sheet.set_freeze_panes(1, 0)?;
        for (column, heading) in (0u16..).zip(&self.headings) {
            sheet.write_string_with_format(0, column, cut(heading), &bold)?;
        }
        for (number, row) in (1u32..).zip(self.rows.iter().take(MOST_SHEET_ROWS)) {
            for (column, cell) in (0u16..).zip(row) {
                match cell {
                    Cell::Text(text) => sheet.write_string(number, column, cut(text))?,
                    Cell::Number(value) => sheet.write_number(number, column, *value)?,
                };
            }
        }
        Ok(workbook.save_to_buffer()?)
    }
}

/// Text that no spreadsheet runs as a formula.
fn harmless(text: &str) -> String {
    // A spreadsheet looks past white space; an apostrophe makes the cell text.
    let first =
        text.trim_start_matches(|c: char| c.is_whitespace() || c.is_control() || c == '\u{feff}').chars().next();
    let runs = matches!(first, Some('=' | '+' | '-' | '@' | '＝' | '＋' | '－' | '＠'));
    let begins_odd = text.starts_with(['\t', '\r', '\n']);
    if runs || begins_odd { format!("'{text}") } else { text.to_owned() }
}

fn cut(text: &str) -> String {
    // A sheet counts UTF-16 units.
    let mut units = 0;
    text.chars()
        .take_while(|c| {
            units += c.len_utf16();
            units <= LONGEST_CELL
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    const FORMULAS: [&str; 9] = [
        "=1+1",
        "+1+1",
        "-1+1",
        "@SUM(A1)",
        "\t=1+1",
        "\r=cmd|'/C calc'!A0",
        " =HYPERLINK(\"http://evil.example\")",
        "＝1+1",
        "\u{feff}=1",
    ];

    fn table() -> Table {
        let row = |text: &&str| vec![Cell::Text((*text).to_owned()), Cell::Number(-3.0)];
        Table { headings: vec!["=Title".to_owned(), "n".to_owned()], rows: FORMULAS.iter().map(row).collect() }
    }

    #[test]
    fn no_cell_of_a_csv_file_begins_like_a_formula() {
        let bytes = table().to_csv().unwrap();
        let text = String::from_utf8(bytes).unwrap();
        let mut reader =
            csv::ReaderBuilder::new().has_headers(false).from_reader(text.trim_start_matches('\u{feff}').as_bytes());
        let records: Vec<_> = reader.records().map(Result::unwrap).collect();
        assert_eq!(records.len(), FORMULAS.len() + 1);
        for (record, formula) in records.iter().skip(1).zip(FORMULAS) {
            assert_eq!(&record[0], format!("'{formula}"));
            assert_eq!(&record[1], "-3", "numbers stay numbers");
        }
        assert_eq!(&records[0][0], "'=Title");
    }

    #[test]
    fn plain_text_stays_as_it_is() {
        for text in ["", "Moon", "a=b", "1-2", "“quoted”", "x\ty"] {
            assert_eq!(harmless(text), text);
        }
        let table = Table { headings: vec!["a,b".into()], rows: vec![vec![Cell::Text("say \"hi\"\nnow".into())]] };
        let text = String::from_utf8(table.to_csv().unwrap()).unwrap();
        assert_eq!(text, "\u{feff}\"a,b\"\r\n\"say \"\"hi\"\"\nnow\"\r\n");
    }

    #[test]
    fn each_row_is_a_json_object_with_its_columns_in_order() {
        let table = Table {
            headings: vec!["Ti\"tle".into(), "n".into()],
            rows: vec![vec![Cell::Text("a\nb \u{2028}".into()), Cell::Number(3.0)]],
        };
        let text = String::from_utf8(table.to_json_lines().unwrap()).unwrap();
        assert_eq!(text, "{\"Ti\\\"tle\":\"a\\nb \u{2028}\",\"n\":3}\n");
        let row: serde_json::Value = serde_json::from_str(&text).unwrap();
        assert_eq!(row["Ti\"tle"], "a\nb \u{2028}");
    }

    #[test]
    fn a_workbook_holds_text_and_numbers_and_no_formula() {
        let bytes = table().to_xlsx("Pages").unwrap();
        let mut archive = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
        let mut sheet = String::new();
        std::io::Read::read_to_string(&mut archive.by_name("xl/worksheets/sheet1.xml").unwrap(), &mut sheet).unwrap();
        assert!(!sheet.contains("<f>"), "{sheet}");
        assert!(sheet.contains("<v>-3</v>"));
        let mut strings = String::new();
        std::io::Read::read_to_string(&mut archive.by_name("xl/sharedStrings.xml").unwrap(), &mut strings).unwrap();
        assert!(strings.contains("=1+1") && strings.contains("@SUM(A1)"));
    }
}
