//! What lists are read as, and what is refused.

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
    assert_eq!(List::read(without_names.as_bytes()).unwrap().len(), 2);
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
    assert_eq!((list.len(), list.cell(0, 0), list.cell(0, 1)), (1, "http://sky.example/é", "=Évening"));
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

#[test]
fn cells_in_the_far_corners_of_a_sheet_cost_nothing() {
    let mut workbook = rust_xlsxwriter::Workbook::new();
    let sheet = workbook.add_worksheet();
    sheet.write(0, 0, "http://sky.example/").unwrap();
    sheet.write(1_048_575, 16_383, "far away").unwrap();
    sheet.write(1_048_575, 1, "near").unwrap();
    let list = List::read(&workbook.save_to_buffer().unwrap()).unwrap();
    assert_eq!((list.len(), list.width()), (2, 2));
    assert_eq!((list.cell(0, 0), list.cell(1, 0), list.cell(1, 1)), ("http://sky.example/", "", "near"));
}

/// A workbook of parts that say what no program would write.
fn workbook(texts: &str, cells: &str) -> Vec<u8> {
    let main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main";
    let relations = "http://schemas.openxmlformats.org/package/2006/relationships";
    let kind = "http://schemas.openxmlformats.org/officeDocument/2006/relationships";
    let parts = [
        (
            "_rels/.rels",
            format!(
                "<Relationships xmlns='{relations}'><Relationship Id='r1' Type='{kind}/officeDocument' Target='xl/workbook.xml'/></Relationships>"
            ),
        ),
        (
            "xl/workbook.xml",
            format!(
                "<workbook xmlns='{main}' xmlns:r='{kind}'><sheets><sheet name='S' sheetId='1' r:id='r1'/></sheets></workbook>"
            ),
        ),
        (
            "xl/_rels/workbook.xml.rels",
            format!(
                "<Relationships xmlns='{relations}'><Relationship Id='r1' Type='{kind}/worksheet' Target='worksheets/s.xml'/></Relationships>"
            ),
        ),
        ("xl/sharedStrings.xml", format!("<sst xmlns='{main}' {texts}</sst>")),
        ("xl/worksheets/s.xml", format!("<worksheet xmlns='{main}'><sheetData>{cells}</sheetData></worksheet>")),
    ];
    crate::archive::pack(parts.map(|(name, text)| (name.to_owned(), text.into_bytes()))).unwrap()
}

#[test]
fn a_workbook_that_says_more_than_it_holds_is_refused() {
    let cell = "<row r='1'><c r='A1' t='s'><v>0</v></c></row><row r='2'><c r='A2' t='s'><v>0</v></c></row>";
    let honest = workbook("uniqueCount='1'><si><t>http://sky.example/</t></si>", cell);
    assert_eq!(List::read(&honest).unwrap().len(), 2);
    let boastful = workbook("uniqueCount='99999999999999'><si><t>http://sky.example/</t></si>", cell);
    assert!(matches!(List::read(&boastful), Err(ListError::Workbook(_))));
    // One long text in thousands of cells.
    let long = format!("uniqueCount='1'><si><t>{}</t></si>", "x".repeat(LONGEST_CELL));
    let row = |row: usize| format!("<row r='{row}'><c r='A{row}' t='s'><v>0</v></c></row>");
    let everywhere = workbook(&long, &(1..=10_000).map(row).collect::<String>());
    assert!(everywhere.len() < 100_000);
    assert_eq!(List::read(&everywhere), Err(ListError::TooLarge));
}

proptest::proptest! {
    /// Against a plain list of lists.
    #[test]
    fn cells_are_kept_where_they_stood(rows in proptest::collection::vec(proptest::collection::vec("[a-z/]{0,3}", 0..6), 0..12)) {
        let mut cells = Cells::default();
        for row in &rows {
            cells.push_row(row.iter().map(String::as_str)).unwrap();
        }
        let kept: Vec<_> = rows.iter().filter(|row| row.iter().any(|cell| !cell.is_empty())).collect();
        proptest::prop_assert_eq!(cells.len(), kept.len());
        for (number, row) in kept.iter().enumerate() {
            for column in 0..8 {
                proptest::prop_assert_eq!(cells.cell(number, column), row.get(column).map_or("", String::as_str));
            }
        }
    }


    #[test]
    fn arbitrary_bytes_never_panic(bytes in proptest::collection::vec(proptest::prelude::any::<u8>(), 0..200)) {
        if let Ok(list) = List::read(&bytes) {
            let _ = list.columns();
        }
    }
}
