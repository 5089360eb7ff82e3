//! The demo for whoever works on it: the interface comes from Vite and shows a change at once; the server is built and
//! started anew when one of its sources changes.

use std::path::Path;
use std::time::SystemTime;

use crate::process::root;
use crate::{demo, web};

pub fn run(arguments: &[String]) -> anyhow::Result<()> {
    let (mut demo, end) = demo::open(arguments)?;
    let address = demo.address.clone();
    demo.begin("Vite", web::npm(&["run", "dev"]).env("STRELM_SERVER", address))?;
    println!("\n  The interface with reload is at http://127.0.0.1:4872/\n");
    let mut seen = newest(&root().join("crates"));
    demo.watch(&end, |demo| {
        let now = newest(&root().join("crates"));
        if now == seen {
            return Ok(());
        }
        seen = now;
        demo.renew()
    })
}

/// When a source in a folder was last changed.
fn newest(folder: &Path) -> Option<SystemTime> {
    let entries = std::fs::read_dir(folder).ok()?.flatten();
    let changed = entries.filter_map(|entry| match entry.file_type().ok()?.is_dir() {
        true => newest(&entry.path()),
        false if entry.path().extension().is_some_and(|extension| extension == "rs" || extension == "sql") => {
            entry.metadata().ok()?.modified().ok()
        }
        false => None,
    });
    changed.max()
}
