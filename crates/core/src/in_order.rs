//! Work on many things side by side, whose results are wanted one after the other.

use std::collections::VecDeque;
use std::panic::{AssertUnwindSafe, catch_unwind, resume_unwind};
use std::sync::mpsc::{Receiver, TryRecvError, channel};
use std::thread;

/// Does `work` on items side by side and hands to `take` what became of them, in the order of the items. While one thing
/// takes long, others go ahead, but no more than `most` are in hand at a time: begun, or done and waiting for those before
/// them. `take` runs in the thread of the caller, beside the work.
///
/// # Errors
/// The first that `take` gives; nothing is begun after it.
///
/// # Panics
/// When `work` does.
pub fn in_order<I: Send, R: Send, E>(
    items: impl IntoIterator<Item = I>,
    most: usize,
    work: impl Fn(I) -> R + Sync,
    mut take: impl FnMut(R) -> Result<(), E>,
) -> Result<(), E> {
    let mut items = items.into_iter();
    let work = &work;
    let (done, results) = channel();
    rayon::in_place_scope(|scope| {
        let mut in_hand: VecDeque<Option<R>> = VecDeque::new();
        let mut taken = 0;
        loop {
            while in_hand.len() < most.max(1)
                && let Some(item) = items.next()
            {
                let (done, number) = (done.clone(), taken + in_hand.len());
                // It is not listened to any more after an error.
                scope.spawn(move |_| drop(done.send((number, catch_unwind(AssertUnwindSafe(|| work(item)))))));
                in_hand.push_back(None);
            }
            let Some(first) = in_hand.front_mut() else { return Ok(()) };
            if let Some(result) = first.take() {
                in_hand.pop_front();
                taken += 1;
                take(result)?;
                continue;
            }
            // There is always one who may send: the sender that is kept here.
            let Some((number, result)) = next(&results) else { return Ok(()) };
            in_hand[number - taken] = Some(result.unwrap_or_else(|panic| resume_unwind(panic)));
        }
    })
}

/// Waits for what is sent; `None` when nobody sends any more. A thread that has to do the work itself does it meanwhile.
fn next<T>(results: &Receiver<T>) -> Option<T> {
    loop {
        match results.try_recv() {
            Ok(result) => return Some(result),
            Err(TryRecvError::Disconnected) => return None,
            Err(TryRecvError::Empty) => match rayon::yield_now() {
                None => return results.recv().ok(),
                Some(rayon::Yield::Executed) => {}
                Some(rayon::Yield::Idle) => thread::yield_now(),
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use std::sync::atomic::{AtomicUsize, Ordering};
    use std::time::Duration;

    use super::*;

    /// What of 200 numbers comes in which order, and how many were in hand at most, where some take longer than others.
    fn run(most: usize) -> (Vec<usize>, usize) {
        let (begun, over) = (AtomicUsize::new(0), AtomicUsize::new(0));
        let most_in_hand = AtomicUsize::new(0);
        let mut came = Vec::new();
        let work = |number: usize| {
            let in_hand = begun.fetch_add(1, Ordering::SeqCst) + 1 - over.load(Ordering::SeqCst);
            most_in_hand.fetch_max(in_hand, Ordering::SeqCst);
            thread::sleep(Duration::from_micros((number as u64 * 37) % 400));
            number * 2
        };
        let take = |result| {
            came.push(result);
            over.fetch_add(1, Ordering::SeqCst);
            Ok::<_, ()>(())
        };
        assert_eq!(in_order(0..200, most, work, take), Ok(()));
        (came, most_in_hand.into_inner())
    }

    #[test]
    fn results_come_in_order_and_few_are_in_hand() {
        let alone = rayon::ThreadPoolBuilder::new().num_threads(1).build().unwrap();
        for most in [0, 1, 3, 50, 500] {
            for (came, in_hand) in [run(most), alone.install(|| run(most))] {
                assert_eq!(came, (0..200).map(|number| number * 2).collect::<Vec<_>>());
                assert!(in_hand <= most.max(1), "{in_hand} of {most}");
            }
        }
        assert_eq!(in_order([0; 0], 4, |number| number, |_| Err(())), Ok(()));
    }

    #[test]
    fn an_error_ends_it() {
        let begun = AtomicUsize::new(0);
        let work = |number: usize| {
            begun.fetch_add(1, Ordering::SeqCst);
            number
        };
        let take = |number| if number == 10 { Err("enough") } else { Ok(()) };
        assert_eq!(in_order(0..1000, 4, work, take), Err("enough"));
        assert!(begun.into_inner() <= 14);
    }

    #[test]
    fn a_panic_is_passed_on() {
        let work = |number: usize| assert_ne!(number, 7);
        let ended = catch_unwind(|| in_order(0..20, 3, work, |()| Ok::<_, ()>(())));
        assert!(ended.is_err());
    }
}
