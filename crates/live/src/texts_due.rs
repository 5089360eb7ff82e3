//! When the texts of a site are read: with its links, or behind them.

use std::time::Duration;

use super::model::TextsKnown;

/// A site of so many pages is loaded with its texts.
pub const LOADED_AT_ONCE: usize = 2000;

/// So many texts are put in while whoever asks waits.
const AT_ONCE: usize = 400;

/// A reading may bring so many texts, or change one in so many pages, before its texts are left for later.
pub const MOST_IN_READING: usize = 1600;
/// One page of so many is few.
pub const FEW_OF: usize = 10;

/// A reading that has brought no page for so long is not waited for.
const QUIET: Duration = Duration::from_secs(20);

/// A long reading that has doubled what is known of a site is followed after so long.
const LONG: Duration = Duration::from_secs(120);

/// Whether the texts of so many pages that changed are put in with their links.
pub fn are_put_at_once(known: TextsKnown, changed: usize) -> bool {
    let so_far = known.in_reading.unwrap_or_default();
    let are_few = changed <= AT_ONCE && changed + so_far <= MOST_IN_READING.max(known.read / FEW_OF);
    known.is_whole && known.unread == 0 && are_few
}

/// Whether texts that were left for later are to be read now.
pub fn are_due(known: TextsKnown) -> bool {
    let comes_on = known.in_reading.is_some() && known.quiet < QUIET;
    let has_doubled = known.unread >= known.read && known.waiting >= LONG;
    !known.is_whole || (known.unread > 0 && (!comes_on || has_doubled))
}

#[cfg(test)]
mod tests {
    use super::*;

    const NOTHING: TextsKnown = TextsKnown {
        read: 0,
        unread: 0,
        is_whole: true,
        in_reading: None,
        quiet: Duration::ZERO,
        waiting: Duration::ZERO,
    };

    #[test]
    fn texts_come_with_their_links_until_a_reading_brings_many() {
        assert!(are_put_at_once(NOTHING, AT_ONCE));
        assert!(!are_put_at_once(NOTHING, AT_ONCE + 1));
        assert!(are_put_at_once(TextsKnown { in_reading: Some(1500), ..NOTHING }, 100));
        assert!(!are_put_at_once(TextsKnown { in_reading: Some(1501), ..NOTHING }, 100));
        assert!(are_put_at_once(TextsKnown { read: 100_000, in_reading: Some(9_900), ..NOTHING }, 100));
        assert!(!are_put_at_once(TextsKnown { unread: 1, ..NOTHING }, 1), "in order");
        assert!(!are_put_at_once(TextsKnown { is_whole: false, ..NOTHING }, 1));
    }

    #[test]
    fn texts_wait_for_a_reading_that_comes_on_and_for_no_other() {
        let reading = TextsKnown { read: 2000, unread: 1500, in_reading: Some(2000), ..NOTHING };
        assert!(!are_due(reading));
        assert!(are_due(TextsKnown { quiet: QUIET, ..reading }));
        assert!(are_due(TextsKnown { in_reading: None, ..reading }));
        assert!(!are_due(TextsKnown { waiting: LONG, ..reading }));
        assert!(are_due(TextsKnown { waiting: LONG, unread: 2000, ..reading }), "a long one that goes on");
        assert!(are_due(TextsKnown { is_whole: false, unread: 0, ..reading }), "never read to the end");
        assert!(!are_due(NOTHING));
    }
}
