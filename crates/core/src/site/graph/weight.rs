//! How much memory a site takes.

use super::{AddressIndex, Inbound, Record, Site};
use crate::document::Region;
use crate::site::PageId;
use crate::weight::{facts, list, piece, table};

impl Site {
    /// Bytes on the heap, counted from what is there; what is planned is too little to count. O(pages + addresses).
    pub fn weight(&self) -> usize {
        let record = |record: &Record| facts(&record.facts) + list::<(AddressIndex, Region)>(record.links.capacity());
        table(&self.addresses)
            + self.addresses.keys().map(|address| piece(address.as_str().len())).sum::<usize>()
            + list::<Option<PageId>>(self.page_at.capacity())
            + table(&self.redirects)
            + table(&self.redirected_here)
            + list::<Inbound>(self.inbound.capacity())
            + self.inbound.iter().map(|inbound| table(&inbound.by_page)).sum::<usize>()
            + list::<Option<Record>>(self.records.capacity())
            + self.records.iter().flatten().map(record).sum::<usize>()
            + list::<Option<u32>>(self.records.len())
    }
}
