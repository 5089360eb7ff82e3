//! Candidates of a page as they are kept from one run of a server to the next.

use super::candidate::Candidate;
use crate::phrases::PhraseBook;
use crate::site::PageId;

/// Target, first word and number of words, what each part adds, and how sure the words are, all little-endian.
const BYTES: usize = 4 + 4 + 2 + 5 * 4 + 4;

/// Some tens of bytes a candidate. O(candidates).
pub fn to_bytes(row: &[Candidate]) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(row.len() * BYTES);
    for candidate in row {
        bytes.extend(candidate.target.0.to_le_bytes());
        bytes.extend(candidate.first.to_le_bytes());
        bytes.extend(candidate.len.to_le_bytes());
        candidate.parts().iter().for_each(|part| bytes.extend(part.to_le_bytes()));
        bytes.extend(candidate.sureness().to_le_bytes());
    }
    bytes
}

/// What [`to_bytes`] wrote of a page, as far as it still holds: the same words name the same page. Whatever else the bytes
/// may be, it is left out. O(candidates × pages that their words name).
pub fn from_bytes(book: &PhraseBook, source: PageId, bytes: &[u8]) -> Vec<Candidate> {
    let (rows, _) = bytes.as_chunks::<BYTES>();
    rows.iter().filter_map(|row| read(book, source, row)).collect()
}

fn read(book: &PhraseBook, source: PageId, mut bytes: &[u8]) -> Option<Candidate> {
    let target = PageId(u32::from_le_bytes(*bytes.split_off(..4)?.as_array()?));
    let first = u32::from_le_bytes(*bytes.split_off(..4)?.as_array()?);
    let len = u16::from_le_bytes(*bytes.split_off(..2)?.as_array()?);
    let mut parts = [0.0; 5];
    for part in &mut parts {
        *part = f32::from_le_bytes(*bytes.split_off(..4)?.as_array()?);
    }
    let sureness = f32::from_le_bytes(*bytes.split_off(..4)?.as_array()?);
    let phrase = book.phrase_at(source, first as usize, usize::from(len))?;
    let names = book.named_by(phrase).iter().any(|naming| naming.page == target);
    let is_sound = names && target != source && parts.iter().chain([&sureness]).all(|number| number.is_finite());
    is_sound.then(|| Candidate::kept(target, phrase, (first, len), (parts, sureness)))
}
