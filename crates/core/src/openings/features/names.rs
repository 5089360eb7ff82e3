//! What all numbers are called, and where those of each part stand. A part's own file says which it has.

use std::ops::Range;

use super::{need, place, topic, variety, wording};
use crate::openings::part::Part;

/// How many numbers there are.
pub const FEATURES: usize = VARIETY.end;

const TOPIC: Range<usize> = 0..topic::NAMES.len();
const WORDING: Range<usize> = TOPIC.end..TOPIC.end + wording::NAMES.len();
const PLACE: Range<usize> = WORDING.end..WORDING.end + place::NAMES.len();
const NEED: Range<usize> = PLACE.end..PLACE.end + need::NAMES.len();
const VARIETY: Range<usize> = NEED.end..NEED.end + variety::NAMES.len();

impl Part {
    /// Where its numbers stand among all: those of a part stand together, in the order of the parts.
    pub(in crate::openings) const fn features(self) -> Range<usize> {
        match self {
            Self::Topic => TOPIC,
            Self::Wording => WORDING,
            Self::Place => PLACE,
            Self::Need => NEED,
            Self::Variety => VARIETY,
        }
    }

    const fn names(self) -> &'static [&'static str] {
        match self {
            Self::Topic => &topic::NAMES,
            Self::Wording => &wording::NAMES,
            Self::Place => &place::NAMES,
            Self::Need => &need::NAMES,
            Self::Variety => &variety::NAMES,
        }
    }
}

/// The name of a number, and the part to which it belongs. O(1).
pub fn name_of(feature: usize) -> Option<(&'static str, Part)> {
    let part = Part::ALL.into_iter().find(|part| part.features().contains(&feature))?;
    Some((part.names()[feature - part.features().start], part))
}

/// The number with this name. O(numbers).
pub fn feature_of(name: &str) -> Option<usize> {
    (0..FEATURES).find(|feature| name_of(*feature).is_some_and(|(known, _)| known == name))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_number_has_one_name_and_each_name_one_number() {
        let names: Vec<_> = (0..FEATURES).map(|feature| name_of(feature).unwrap()).collect();
        for (feature, (name, part)) in names.iter().enumerate() {
            assert_eq!(feature_of(name), Some(feature), "{name}");
            assert!(part.features().contains(&feature));
        }
        assert!(names.is_sorted_by_key(|(_, part)| *part), "parts stand together");
        assert_eq!((name_of(FEATURES), feature_of("luck")), (None, None));
    }
}
