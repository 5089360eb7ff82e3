//! How many bytes things take on the heap, counted from what they hold. Allocators round up, and so does this.

use std::collections::HashMap;
use std::hash::BuildHasher;
use std::mem::size_of;

use crate::site::{LanguageVersion, PageFacts};

/// What an allocator adds to each piece, and to what it rounds it up.
const OF_PIECE: usize = 8;
const STEP: usize = 16;

/// A piece of so many bytes; nothing is asked for where there are none.
pub(crate) const fn piece(bytes: usize) -> usize {
    if bytes == 0 { 0 } else { (bytes + OF_PIECE).div_ceil(STEP) * STEP }
}

/// A list with room for so many.
pub(crate) const fn list<T>(room: usize) -> usize {
    piece(room * size_of::<T>())
}

/// The table of a map, without what its entries hold: it is a power of two in size, seven eighths of which may be used.
pub(crate) fn table<K, V, S: BuildHasher>(map: &HashMap<K, V, S>) -> usize {
    let places = (map.capacity() * 8 / 7).next_power_of_two();
    if map.capacity() == 0 { 0 } else { piece(places * (size_of::<(K, V)>() + 1)) }
}

/// What an entry of a map that is kept in order takes, with its part of the nodes, which are two thirds full.
pub(crate) const fn in_order<K, V>() -> usize {
    (size_of::<K>() + size_of::<V>()) * 3 / 2 + 4
}

/// What the facts of a page hold.
pub(crate) fn facts(facts: &PageFacts) -> usize {
    let texts = [Some(&facts.title), facts.heading.as_ref(), facts.category.as_ref()];
    let texts: usize = texts.into_iter().flatten().map(|text| piece(text.capacity())).sum();
    let versions = list::<LanguageVersion>(facts.standing.versions.capacity());
    piece(facts.address.as_str().len()) + texts + versions
}
