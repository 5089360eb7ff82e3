//! What the live site holds.

use std::sync::Mutex;

use super::orders::{Order, Plans};
use super::shelf::{Shelf, ShelfError};

/// What all requests share.
pub struct State {
    pub shelf: Shelf,
    /// Scheme, host and port, without a slash at the end.
    pub base: String,
    pub token: String,
    pub plans: Plans,
    /// Method, path and status of each answer so far.
    pub answers: Mutex<Vec<(String, u16)>>,
}

impl State {
    /// Does what whoever runs the stand-in orders.
    ///
    /// # Errors
    /// When there is no such page.
    pub fn obey(&self, order: Order) -> Result<(), ShelfError> {
        match order {
            Order::Misbehave(mischief) => self.plans.add(mischief),
            Order::Behave => self.plans.clear(),
            Order::Change { path, content } => self.shelf.replace(&path, &content, None)?,
            Order::Delete { path } => self.shelf.remove(&path)?,
            Order::Add { path, source } => self.shelf.add(&path, &source)?,
            Order::Move { path, to } => {
                let source = format!("+++\ntitle = \"Moved\"\ntype = \"page\"\nmoved-to = {to:?}\n+++\n");
                self.shelf.add(&path, &source)?;
            }
        }
        Ok(())
    }
}
