//! The one who tells an editor how a plan comes along.

use actix_web::web::Bytes;
use tokio::sync::mpsc;

use super::rows::RescueNews;

/// Tells whoever asked, as long as somebody listens. To be used on threads that may wait.
#[derive(Clone)]
pub struct Teller(pub mpsc::Sender<Bytes>);

impl Teller {
    /// Waits until there is room for it.
    pub fn tell(&self, news: &RescueNews) {
        // Nobody listening is no error.
        let _ = self.0.blocking_send(line(news));
    }

    /// Leaves it out where whoever listens is behind.
    pub fn tell_if_heard(&self, news: &RescueNews) {
        let _ = self.0.try_send(line(news));
    }

    pub fn is_heard(&self) -> bool {
        !self.0.is_closed()
    }
}

fn line(news: &RescueNews) -> Bytes {
    let mut line = serde_json::to_vec(news).unwrap_or_default();
    line.push(b'\n');
    Bytes::from(line)
}
