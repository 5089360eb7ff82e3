//! What the tests of the whole share: a headless browser, and everything that Strelm is made of, started for one test.

pub mod browser;
pub mod calls;
pub mod proxy;
pub mod stage;
