//! Features in half the room.

use half::f16;

use crate::openings::features::{FEATURES, Features};

/// The features of a place, each cut off to half precision: examples are many, and trees look at a feature in 64 steps.
///
/// They are cut off, not rounded: a number is at least one that needs no cutting exactly when what is left of it is, so
/// that an example goes the same way in a tree that splits at such numbers as the place itself will. Of numbers below zero
/// the same holds within a step.
#[derive(Debug, Clone, Copy)]
pub struct Halved([f16; FEATURES]);

impl Halved {
    pub fn of(features: &Features) -> Self {
        Self(features.map(cut_off))
    }

    pub fn get(&self, feature: usize) -> f32 {
        self.0.get(feature).copied().unwrap_or_default().to_f32()
    }

    pub fn all(&self) -> Features {
        self.0.map(f16::to_f32)
    }
}

/// Towards zero.
fn cut_off(value: f32) -> f16 {
    let nearest = f16::from_f32(value);
    let is_further = nearest.to_f32().abs() > value.abs();
    if is_further { f16::from_bits(nearest.to_bits() - 1) } else { nearest }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn what_is_cut_off_lies_on_the_same_side_of_what_is_not(
            value in prop_oneof![0.0..2.0f32, 0.0..70_000.0f32, Just(0.0), (0u16..40, 1u16..40).prop_map(|(a, b)| f32::from(a) / f32::from(b))],
            split in prop_oneof![0.0..2.0f32, 0.0..70_000.0f32].prop_map(cut_off),
        ) {
            let (halved, split) = (cut_off(value).to_f32(), split.to_f32());
            prop_assert_eq!(value >= split, halved >= split, "{} {} {}", value, halved, split);
            prop_assert!((value - halved).abs() <= value / 1000.0 + 1e-7 || value > 65_504.0);
            prop_assert_eq!(cut_off(-value).to_f32(), -halved);
        }
    }
}
