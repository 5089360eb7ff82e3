//! How much of a site may be gone before somebody is asked: a server that answers nothing but errors of its own, or a disk
//! that is not mounted, looks like a site without pages.

/// More than one in so many is too much.
const ONE_IN: usize = 5;

/// So few pages are taken off without a question, as long as others stay.
const FEW: usize = 2;

/// Whether a reading that no longer found `lost` of the `there` pages of a site has to ask before they are taken off.
pub fn is_too_much(lost: usize, there: usize) -> bool {
    lost > 0 && (lost >= there || (lost > FEW && lost * ONE_IN > there))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn more_than_a_fifth_is_too_much_but_for_a_page_or_two() {
        for (lost, there, asks) in [
            (0, 0, false),
            (0, 100, false),
            (20, 100, false),
            (21, 100, true),
            (100, 100, true),
            (1, 3, false),
            (2, 4, false),
            (3, 14, true),
            (1, 1, true),
            (2, 2, true),
        ] {
            assert_eq!(is_too_much(lost, there), asks, "{lost} of {there}");
        }
    }
}
