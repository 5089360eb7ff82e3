//! Logarithms of counts, most of which are small.

use std::sync::LazyLock;

const SMALL: u16 = 4096;

type Table = LazyLock<Vec<f32>>;

/// 0 for none.
pub fn ln(count: usize) -> f32 {
    static KNOWN: Table = LazyLock::new(|| (0..SMALL).map(|count| f32::from(count.max(1)).ln()).collect());
    KNOWN.get(count).copied().unwrap_or_else(|| (count as f32).ln())
}

/// Of one more than the count.
pub fn ln_1p(count: usize) -> f32 {
    static KNOWN: Table = LazyLock::new(|| (0..SMALL).map(|count| f32::from(count).ln_1p()).collect());
    KNOWN.get(count).copied().unwrap_or_else(|| (count as f32).ln_1p())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn small_counts_are_as_large_ones() {
        for count in [1u16, 2, 4095, 4096, 60_000] {
            assert_eq!(ln(usize::from(count)), f32::from(count).ln());
            assert_eq!(ln_1p(usize::from(count)), f32::from(count).ln_1p());
        }
        assert_eq!((ln(0), ln_1p(0)), (0.0, 0.0));
    }
}
