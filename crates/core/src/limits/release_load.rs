//! What a release brings so far, by target and by words.

use rustc_hash::FxHashMap;

use super::{Breach, LinkLimits};
use crate::language::fold;
use crate::site::Target;

/// Counts links by the page that they lead to, whatever place on it, and by their words, folded.
#[derive(Debug, Clone, Default)]
pub struct ReleaseLoad {
    by_target: FxHashMap<Target, usize>,
    by_phrase: FxHashMap<(Target, String), usize>,
}

impl ReleaseLoad {
    /// Whether one link more keeps within the limits. O(length of the anchor).
    ///
    /// # Errors
    /// The [`Breach`].
    pub fn one_more(&self, limits: LinkLimits, target: &Target, anchor: &str) -> Result<(), Breach> {
        let target = target.whole();
        if self.by_target.get(&target).copied().unwrap_or_default() >= limits.per_target {
            return Err(Breach::Target { most: limits.per_target });
        }
        match self.by_phrase.get(&(target, fold(anchor))).copied().unwrap_or_default() >= limits.per_phrase {
            true => Err(Breach::Phrase { most: limits.per_phrase }),
            false => Ok(()),
        }
    }

    /// One link more, where it keeps within the limits.
    ///
    /// # Errors
    /// The [`Breach`]; then nothing is added.
    pub fn add(&mut self, limits: LinkLimits, target: &Target, anchor: &str) -> Result<(), Breach> {
        self.one_more(limits, target, anchor)?;
        self.put(target, anchor);
        Ok(())
    }

    /// One link more, whatever the limits.
    pub fn put(&mut self, target: &Target, anchor: &str) {
        *self.by_target.entry(target.whole()).or_default() += 1;
        *self.by_phrase.entry((target.whole(), fold(anchor))).or_default() += 1;
    }

    /// One link less of those that were put.
    pub fn take_off(&mut self, target: &Target, anchor: &str) {
        take_one(&mut self.by_target, &target.whole());
        take_one(&mut self.by_phrase, &(target.whole(), fold(anchor)));
    }
}

fn take_one<K: std::hash::Hash + Eq>(counts: &mut FxHashMap<K, usize>, key: &K) {
    if let Some(count) = counts.get_mut(key) {
        *count -= 1;
        if *count == 0 {
            counts.remove(key);
        }
    }
}
