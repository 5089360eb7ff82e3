//! How often each of some things is there, most often one or a few.

use std::hash::Hash;

use rustc_hash::FxHashMap;
use smallvec::SmallVec;

/// Beyond so many things they are looked up by their hashes.
const FEW: usize = 16;

/// Counts of things, of which none is 0.
#[derive(Debug)]
pub(super) enum Tally<T> {
    Few(SmallVec<[(T, u32); 1]>),
    Many(FxHashMap<T, u32>),
}

impl<T> Default for Tally<T> {
    fn default() -> Self {
        Self::Few(SmallVec::new())
    }
}

impl<T: Copy + Eq + Hash> Tally<T> {
    /// One more; whether it is the first. O(1).
    pub(super) fn add(&mut self, one: T) -> bool {
        match self {
            Self::Few(few) => {
                if let Some((_, count)) = few.iter_mut().find(|(known, _)| *known == one) {
                    *count += 1;
                    return false;
                }
                if few.len() < FEW {
                    few.push((one, 1));
                } else {
                    *self = Self::Many(few.drain(..).chain([(one, 1)]).collect());
                }
                true
            }
            Self::Many(many) => {
                let count = many.entry(one).or_default();
                *count += 1;
                *count == 1
            }
        }
    }

    /// One less; whether it was the last. O(1).
    pub(super) fn take(&mut self, one: T) -> bool {
        match self {
            Self::Few(few) => {
                let Some(at) = few.iter().position(|(known, _)| *known == one) else { return false };
                few[at].1 -= 1;
                let was_last = few[at].1 == 0;
                if was_last {
                    few.swap_remove(at);
                }
                was_last
            }
            Self::Many(many) => {
                let Some(count) = many.get_mut(&one) else { return false };
                *count -= 1;
                let was_last = *count == 0;
                if was_last {
                    many.remove(&one);
                }
                was_last
            }
        }
    }

    pub(super) fn has(&self, one: T) -> bool {
        match self {
            Self::Few(few) => few.iter().any(|(known, _)| *known == one),
            Self::Many(many) => many.contains_key(&one),
        }
    }

    /// How many different things there are.
    pub(super) fn len(&self) -> usize {
        match self {
            Self::Few(few) => few.len(),
            Self::Many(many) => many.len(),
        }
    }

    /// Each with its count, in no order.
    pub(super) fn iter(&self) -> impl Iterator<Item = (T, u32)> {
        let (few, many) = match self {
            Self::Few(few) => (few.as_slice(), None),
            Self::Many(many) => (&[][..], Some(many)),
        };
        few.iter().copied().chain(many.into_iter().flatten().map(|(one, count)| (*one, *count)))
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn few_or_many_are_counted_alike(steps in prop::collection::vec((0..30u32, any::<bool>()), 0..200)) {
            let mut tally = Tally::default();
            let mut plain: BTreeMap<u32, u32> = BTreeMap::new();
            for (one, is_more) in steps {
                let before = plain.get(&one).copied().unwrap_or_default();
                if is_more {
                    prop_assert_eq!(tally.add(one), before == 0);
                    plain.insert(one, before + 1);
                } else {
                    prop_assert_eq!(tally.take(one), before == 1);
                    plain.insert(one, before.saturating_sub(1));
                }
                plain.retain(|_, count| *count > 0);
            }
            prop_assert_eq!(tally.len(), plain.len());
            prop_assert_eq!(tally.iter().collect::<BTreeMap<_, _>>(), plain);
        }
    }
}
