//! A place of words that stays the same from visit to visit, and as long as its sentence does.

use super::pace::Share;
use crate::ids::RuleId;

/// Of a very long sentence so many bytes to each side count.
const AROUND: usize = 300;

/// Words in a sentence of a page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Spot(pub u64);

impl Spot {
    /// The words that stand at byte `at` of a sentence, on the page of this path. Line ends do not matter. O(1) but for the path.
    pub fn of(path: &str, sentence: &str, at: usize) -> Self {
        let start = sentence.floor_char_boundary(at.saturating_sub(AROUND));
        let sentence = &sentence[start..sentence.ceil_char_boundary(at.saturating_add(AROUND))];
        let at = at - start;
        let before = sentence.get(..at).unwrap_or_default().split_whitespace().map(str::len).sum::<usize>();
        let mut hasher = blake3::Hasher::new();
        hasher.update(path.as_bytes());
        for word in sentence.split_whitespace() {
            hasher.update(b" ").update(word.as_bytes());
        }
        hasher.update(&(before as u64).to_le_bytes());
        Self(first_bytes(&hasher.finalize()))
    }

    /// Whether it is among a share of all places. Among a larger share are all that are among a smaller one.
    pub fn is_among(self, share: Share) -> bool {
        // Of 53 bits, which a number with a point holds exactly.
        ((self.0 >> 11) as f64) < share.part() * (1u64 << 53) as f64
    }

    /// The same for a rule: another rule has another share.
    #[must_use]
    pub fn for_rule(self, rule: RuleId) -> Self {
        let mut hasher = blake3::Hasher::new();
        hasher.update(&self.0.to_le_bytes()).update(&rule.0.to_le_bytes());
        Self(first_bytes(&hasher.finalize()))
    }
}

fn first_bytes(hash: &blake3::Hash) -> u64 {
    hash.as_bytes().iter().take(8).fold(0, |number, byte| number << 8 | u64::from(*byte))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_share_of_places_is_about_as_large_as_it_says_and_grows_with_it() {
        let spots: Vec<_> = (0..10_000).map(|page| Spot::of(&format!("/{page}"), "The moon is up.", 4)).collect();
        let among = |part: f64| spots.iter().filter(|spot| spot.is_among(Share::new(part).unwrap())).count();
        assert_eq!((among(0.0), among(1.0)), (0, 10_000));
        assert!(among(0.3).abs_diff(3000) < 150, "{}", among(0.3));
        let small = Share::new(0.2).unwrap();
        assert!(spots.iter().filter(|spot| spot.is_among(small)).all(|spot| spot.is_among(Share::new(0.4).unwrap())));
        assert_eq!(Spot::of("/", "The\nmoon is up.", 4), Spot::of("/", "The moon  is up.", 4));
        assert_ne!(Spot::of("/", "moon moon", 0), Spot::of("/", "moon moon", 5));
        assert_ne!(spots[0].for_rule(RuleId(1)), spots[0].for_rule(RuleId(2)));
    }
}
