//! What whoever runs the stand-in can order.

use std::sync::{Mutex, PoisonError};

use serde::Deserialize;

/// What the site does wrong when it is told to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Trouble {
    Slow {
        milliseconds: u64,
    },
    Status {
        status: u16,
        /// Seconds that the site asks to wait.
        retry_after: Option<u64>,
    },
    /// Nothing is done, and the connection ends without an answer.
    Drop,
    /// What was asked for is done, and the connection ends without an answer.
    LoseAnswer,
    /// The connection ends in the middle of the answer.
    Half,
}

/// With which requests it does so.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum On {
    /// Requests of readers.
    Pages,
    /// Looking up sources through Micropub.
    Sources,
    /// Changes through Micropub.
    Changes,
}

/// What goes wrong, where, and how often.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct Mischief {
    pub trouble: Trouble,
    pub on: On,
    /// Only for pages whose path begins like this.
    #[serde(default)]
    pub path: String,
    pub times: u32,
}

/// Mischief that is still to come, the first given first.
#[derive(Debug, Default)]
pub struct Plans(Mutex<Vec<Mischief>>);

impl Plans {
    /// Adds trouble, behind what was ordered before.
    pub fn add(&self, mischief: Mischief) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).push(mischief);
    }

    /// Takes all orders back.
    pub fn clear(&self) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }

    /// The trouble that is next for a request; it is used up by being given.
    pub fn next(&self, on: On, path: &str) -> Option<Trouble> {
        let mut plans = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let at = plans.iter().position(|plan| plan.on == on && path.starts_with(&plan.path) && plan.times > 0)?;
        let plan = plans.get_mut(at)?;
        plan.times -= 1;
        let trouble = plan.trouble;
        plans.retain(|plan| plan.times > 0);
        Some(trouble)
    }
}

/// What whoever runs the stand-in can order over HTTP, with its token.
#[derive(Debug, Deserialize)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum Order {
    Misbehave(Mischief),
    Behave,
    /// Changes a page behind the back of whoever reads it: its whole content.
    Change {
        path: String,
        content: String,
    },
    Delete {
        path: String,
    },
    /// Lets a page send on to another.
    Move {
        path: String,
        to: String,
    },
    /// Adds a page: a file with front matter.
    Add {
        path: String,
        source: String,
    },
}
