//! How much memory a site takes.

use super::{Inbound, KeptLink, Record, Site};
use crate::ids::PageId;
use crate::site::Address;
use crate::weight::{facts, list, piece, table};

impl Site {
    /// Bytes on the heap, counted from what is there; what is planned is too little to count. O(pages + addresses).
    pub fn weight(&self) -> usize {
        let record =
            |record: &Record| facts(&record.facts) + list::<KeptLink>(record.links.capacity() + record.away.capacity());
        // Beside each address its hash, and its number in the table.
        list::<(Address, usize)>(self.addresses.capacity())
            + piece((self.addresses.capacity() * 8 / 7).next_power_of_two() * (size_of::<usize>() + 1))
            + self.addresses.iter().map(|address| piece(address.as_str().len())).sum::<usize>()
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
