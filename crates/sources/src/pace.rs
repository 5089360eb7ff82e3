//! Politeness to one site: time between requests, waiting when it asks for that, trying again after a while.

use std::sync::Mutex;
use std::sync::PoisonError;
use std::time::Duration;

use tokio::time::Instant;

use crate::fetch::FetchError;

/// How often, and how long apart, a request is tried that may go through later.
#[derive(Debug, Clone, Copy)]
pub struct Patience {
    pub tries: u32,
    /// Before the second try; doubled for each further one.
    pub first_wait: Duration,
    /// A site that asks for more is not waited for.
    pub longest_wait: Duration,
}

impl Default for Patience {
    fn default() -> Self {
        Self { tries: 4, first_wait: Duration::from_secs(1), longest_wait: Duration::from_secs(120) }
    }
}

impl Patience {
    /// How long to wait before another try, the first having number 0; `None` when there is to be none.
    pub fn wait_after(&self, error: &FetchError, tried: u32) -> Option<Duration> {
        if tried + 1 >= self.tries {
            return None;
        }
        let wait = match error {
            FetchError::Status { status, retry_after } if status.as_u16() == 429 || status.is_server_error() => {
                retry_after.unwrap_or_else(|| self.backoff(tried))
            }
            FetchError::Unreachable(_) => self.backoff(tried),
            _ => return None,
        };
        (wait <= self.longest_wait).then_some(wait)
    }

    /// How long to wait after a number of failures in a row.
    pub fn backoff(&self, tried: u32) -> Duration {
        self.first_wait.saturating_mul(2u32.saturating_pow(tried.min(16))).min(self.longest_wait)
    }
}

/// The beginnings of requests to one host, one after the other.
pub struct Pace {
    /// From the beginning of one request to that of the next.
    apart: Duration,
    next: Mutex<Instant>,
}

impl Pace {
    /// A pace of one request in so much time.
    pub fn new(apart: Duration) -> Self {
        Self { apart, next: Mutex::new(Instant::now()) }
    }

    /// Waits for a turn.
    pub async fn turn(&self) {
        let at = {
            let mut next = self.next.lock().unwrap_or_else(PoisonError::into_inner);
            let at = (*next).max(Instant::now());
            *next = at + self.apart;
            at
        };
        tokio::time::sleep_until(at).await;
    }

    /// Lets nobody begin for a while.
    pub fn hold(&self, wait: Duration) {
        let mut next = self.next.lock().unwrap_or_else(PoisonError::into_inner);
        *next = (*next).max(Instant::now() + wait);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test(start_paused = true)]
    async fn turns_are_apart_and_wait_for_a_hold() {
        let pace = Pace::new(Duration::from_secs(1));
        let begin = Instant::now();
        pace.turn().await;
        pace.turn().await;
        assert_eq!(begin.elapsed().as_secs(), 1);
        pace.hold(Duration::from_secs(10));
        pace.turn().await;
        assert_eq!(begin.elapsed().as_secs(), 11);
    }

    #[test]
    fn only_what_may_pass_is_tried_again_and_not_for_ever() {
        let patience = Patience::default();
        let status = |code: u16, after: Option<u64>| FetchError::Status {
            status: code.try_into().unwrap(),
            retry_after: after.map(Duration::from_secs),
        };
        assert_eq!(patience.wait_after(&status(503, None), 0), Some(Duration::from_secs(1)));
        assert_eq!(patience.wait_after(&status(500, None), 2), Some(Duration::from_secs(4)));
        assert_eq!(patience.wait_after(&status(500, None), 3), None);
        assert_eq!(patience.wait_after(&status(429, Some(7)), 0), Some(Duration::from_secs(7)));
        assert_eq!(patience.wait_after(&status(429, Some(9999)), 0), None);
        assert_eq!(patience.wait_after(&status(404, None), 0), None);
        assert_eq!(patience.wait_after(&FetchError::TooLarge(1), 0), None);
    }
}
