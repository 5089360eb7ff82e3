//! From the rows of a list to pages of a site.

use std::collections::HashMap;

use strelm_core::site::{Address, Destination};
use strelm_formats::list::{List, phrases};
use strelm_store::listed::ListedPage;

use crate::api::uploads::send::Columns;

/// More names, and longer ones, are not kept.
const MOST_NAMES: usize = 50;
const LONGEST_NAME: usize = 200;
const LONGEST_ADDRESS: usize = 2000;

/// What a list tells of a site.
#[derive(Debug, Default)]
pub struct Listed {
    pub pages: Vec<ListedPage>,
    /// The beginning of all addresses of the site.
    pub root: Option<Address>,
    /// Rows without a usable address, and rows of other sites.
    pub unusable: usize,
    pub elsewhere: usize,
    /// The first row without a usable address, counted from 1 with the headings.
    pub first_unusable: Option<usize>,
}

impl Listed {
    /// The site is the one of which most addresses are; paths alone belong to `base`. O(rows).
    pub fn of(list: &List, columns: Columns, base: Option<&Address>) -> Self {
        let Some(address_column) = columns.address else { return Self::default() };
        let mut listed = Self::default();
        let mut found: Vec<ListedPage> = Vec::new();
        let first_row = if list.headings.is_some() { 2 } else { 1 };
        for row in 0..list.len() {
            let cell = |column: Option<usize>| column.map(|column| list.cell(row, column));
            match address_of(list.cell(row, address_column), base) {
                Some(address) => {
                    let title = cell(columns.title).map(|title| vec![title.trim().to_owned()]).unwrap_or_default();
                    let phrases = cell(columns.phrases).map(phrases).unwrap_or_default();
                    let is_usable = |name: &String| !name.is_empty() && name.chars().count() <= LONGEST_NAME;
                    let clean = |name: String| name.replace(char::is_control, " ");
                    let names = title.into_iter().chain(phrases).map(clean).filter(is_usable).take(MOST_NAMES);
                    found.push(ListedPage { address, names: names.collect() });
                }
                None => {
                    listed.unusable += 1;
                    listed.first_unusable.get_or_insert(first_row + row);
                }
            }
        }
        let mut origins: HashMap<String, usize> = HashMap::new();
        for page in &found {
            *origins.entry(page.address.as_url().origin().ascii_serialization()).or_default() += 1;
        }
        let most = origins.into_iter().max_by(|a, b| a.1.cmp(&b.1).then(b.0.cmp(&a.0)));
        listed.root = most.and_then(|(origin, _)| Address::parse(&format!("{origin}/")).ok());
        let is_own = |page: &ListedPage| listed.root.as_ref().is_some_and(|root| root.same_origin(&page.address));
        let (own, others): (Vec<_>, Vec<_>) = found.into_iter().partition(is_own);
        (listed.pages, listed.elsewhere) = (own, others.len());
        listed
    }
}

fn address_of(cell: &str, base: Option<&Address>) -> Option<Address> {
    let cell = cell.trim();
    let address = match base {
        Some(base) if cell.starts_with('/') => match base.follow(cell) {
            Destination::Page { address, .. } => Some(address),
            _ => None,
        },
        _ if cell.starts_with("www.") => Address::parse(&format!("https://{cell}")).ok(),
        _ => Address::parse(cell).ok(),
    };
    address.filter(|address| address.as_str().len() <= LONGEST_ADDRESS)
}

#[cfg(test)]
mod tests {
    use super::*;

    const LIST: &str = "url,title,phrases\nhttp://sky.example/a,Moon,full moon; new moon\n/b,Sun,\n\
        http://sky.example/a#x,Again,\nhttp://other.example/,Other,\nnonsense,Bad,\nhttp://sky.example/c,,\n";

    #[test]
    fn rows_become_pages_of_the_site_that_most_are_of() {
        let list = List::read(LIST.as_bytes()).unwrap();
        let listed = Listed::of(&list, list.columns().into(), None);
        assert_eq!(listed.root.unwrap().as_str(), "http://sky.example/");
        assert_eq!((listed.pages.len(), listed.unusable, listed.elsewhere), (3, 2, 1));
        assert_eq!(listed.first_unusable, Some(3));
        assert_eq!(listed.pages[0].names, ["Moon", "full moon", "new moon"]);
        let base = Address::parse("http://sky.example/start/").unwrap();
        assert_eq!(Listed::of(&list, list.columns().into(), Some(&base)).pages.len(), 4);
    }
}
