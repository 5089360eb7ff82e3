//! Features in half the room.

use half::f16;

use crate::openings::features::{FEATURES, Features};

/// The features of a place in half precision: examples are many, and trees look at a feature in 64 steps.
///
/// Each is the greatest number of half precision that is not above it, so that it is at least such a number exactly when
/// what is kept of it is: where a tree is split at one of them, an example goes the same way as the place itself will.
#[derive(Debug, Clone, Copy)]
pub struct Halved([f16; FEATURES]);

impl Halved {
    /// Each feature rounded down to half precision.
    pub fn of(features: &Features) -> Self {
        Self(features.map(rounded_down))
    }

    /// A feature by its number; 0 where there is none.
    pub fn get(&self, feature: usize) -> f32 {
        self.0.get(feature).copied().unwrap_or_default().to_f32()
    }

    /// All features in single precision.
    pub fn all(&self) -> Features {
        self.0.map(f16::to_f32)
    }
}

fn rounded_down(value: f32) -> f16 {
    let nearest = f16::from_f32(value);
    if nearest.to_f32() <= value || value.is_nan() {
        return nearest;
    }
    // The next one below; numbers below zero get less with their bits.
    let bits = nearest.to_bits();
    f16::from_bits(if nearest.is_sign_negative() { bits + 1 } else { bits - 1 })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn feature() -> impl Strategy<Value = f32> {
        let share = (0u16..40, 1u16..40).prop_map(|(some, all)| f32::from(some) / f32::from(all));
        let size =
            prop_oneof![0.0..2.0f32, 0.0..70_000.0f32, Just(0.0), Just(1e-9), share.clone(), share.prop_map(f32::ln)];
        (size, any::<bool>()).prop_map(|(size, is_below)| if is_below { -size } else { size })
    }

    proptest! {
        #[test]
        fn what_is_kept_lies_on_the_same_side_of_a_split(value in feature(), of in feature()) {
            let (kept, of_other) = (rounded_down(value).to_f32(), rounded_down(of).to_f32());
            for split in [of_other, kept] {
                prop_assert_eq!(value >= split, kept >= split, "{} {} {}", value, kept, split);
            }
            let is_in_reach = value.abs() < 65_504.0;
            prop_assert!(!is_in_reach || value - kept <= value.abs() / 1000.0 + 1e-7, "{} {}", value, kept);
        }
    }
}
