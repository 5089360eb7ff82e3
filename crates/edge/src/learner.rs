//! Learning pages that pass and are not as they were known, one after the other, aside from those who wait for an answer.

use std::sync::Arc;

use strelm_core::site::Address;
use tokio::sync::mpsc;

use crate::plans::{Plans, seen};

/// Pages that wait to be learnt; more are left to their next visit.
const WAITING: usize = 32;

/// A page that passed.
struct Passed {
    address: Address,
    bytes: Vec<u8>,
    label: Option<String>,
}

/// Takes pages that passed.
#[derive(Clone)]
pub struct Learner(mpsc::Sender<Passed>);

impl Learner {
    /// Learns for as long as anybody holds it.
    pub fn start(plans: Arc<Plans>) -> Self {
        let (sender, mut waiting) = mpsc::channel::<Passed>(WAITING);
        tokio::spawn(async move {
            while let Some(Passed { address, bytes, label }) = waiting.recv().await {
                let read = tokio::task::spawn_blocking(move || seen(address, bytes, label.as_deref())).await;
                let Ok(seen) = read else { continue };
                if let Err(error) = plans.learn(seen).await {
                    tracing::warn!(%error, "a page that passed cannot be learnt");
                }
            }
        });
        Self(sender)
    }

    /// Whether there is room for one more.
    pub fn has_room(&self) -> bool {
        self.0.capacity() > 0
    }

    pub fn learn(&self, address: Address, bytes: Vec<u8>, label: Option<String>) {
        // Without room it is learnt another time.
        let _ = self.0.try_send(Passed { address, bytes, label });
    }
}
