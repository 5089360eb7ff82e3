//! Addresses that send on to others.

use super::{AddressIndex, Changes, Site};
use crate::site::Address;

impl Site {
    /// Whether whoever asks for an address is sent on.
    pub fn is_redirect(&self, address: &Address) -> bool {
        self.index_of(address).is_some_and(|index| self.redirects.contains_key(&index))
    }

    /// Says that whoever asks for `from` is not sent on any more.
    pub fn remove_redirect(&mut self, from: &Address) {
        if let Some(twin) = self.twin_of(from) {
            return self.put_redirect(from, &twin);
        }
        let Some(from) = self.index_of(from) else { return };
        let Some(to) = self.redirects.remove(&from) else { return };
        if let Some(froms) = self.redirected_here.get_mut(&to) {
            froms.retain(|f| *f != from);
        }
        self.changes = Changes::Everything;
        self.depths_stale = true;
        self.stands_anew();
    }

    /// All redirects, in no particular order.
    pub fn redirects(&self) -> impl Iterator<Item = (&Address, &Address)> {
        self.all_redirects().filter(|(from, to)| self.twin_of(from).as_ref() != Some(*to))
    }

    /// Addresses with the other of `http` and `https` that stand for one of the site, in no particular order.
    pub fn twins(&self) -> impl Iterator<Item = &Address> {
        self.all_redirects().filter(|(from, to)| self.twin_of(from).as_ref() == Some(*to)).map(|(from, _)| from)
    }

    fn all_redirects(&self) -> impl Iterator<Item = (&Address, &Address)> {
        let address = |index: &AddressIndex| self.addresses.get_index(index.at());
        self.redirects.iter().filter_map(move |(from, to)| Some((address(from)?, address(to)?)))
    }

    /// Says that whoever asks for `from` is sent on to `to`.
    pub fn put_redirect(&mut self, from: &Address, to: &Address) {
        let (from, to) = (self.intern(from), self.intern(to));
        if from == to {
            return;
        }
        let before = self.redirects.insert(from, to);
        if before == Some(to) {
            return;
        }
        if let Some(froms) = before.and_then(|before| self.redirected_here.get_mut(&before)) {
            froms.retain(|f| *f != from);
        }
        self.redirected_here.entry(to).or_default().push(from);
        self.changes = Changes::Everything;
        self.depths_stale = true;
        self.stands_anew();
    }
}
