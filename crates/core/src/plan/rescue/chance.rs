//! Chance that is the same each time.

/// Numbers that look like chance and are the same each time: SplitMix64 (Steele, Lea, Flood, 2014).
#[derive(Debug)]
pub(super) struct Chance(u64);

impl Chance {
    /// From which seed.
    pub const fn of(seed: u64) -> Self {
        Self(seed)
    }

    /// Any number.
    pub fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        mixed ^ (mixed >> 31)
    }

    /// A number from 0 up to, and without, `end`.
    pub fn below(&mut self, end: usize) -> usize {
        (self.next() % end.max(1) as u64) as usize
    }

    /// From 0 to 1.
    pub fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }
}
