//! What the browser tests share: a headless browser, and everything that Strelm is made of, started for one test.

pub mod browser;
pub mod stage;
