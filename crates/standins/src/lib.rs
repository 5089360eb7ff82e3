//! Simulated outside world. Strelm never depends on it, and does not know that it is simulated.

pub mod live_site;
