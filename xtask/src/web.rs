//! The interface: its packages, and its build into `web/dist`.

use std::fs;
use std::process::Command;

use crate::process::{output, root, run_shown};

pub fn npm(arguments: &[&str]) -> Command {
    let mut command = Command::new("npm");
    command.args(arguments).current_dir(root().join("web"));
    command
}

/// Installs the packages of the lock file, unless that was done.
pub fn ensure_packages() -> anyhow::Result<()> {
    let web = root().join("web");
    let lock = fs::read(web.join("package-lock.json"))?;
    let stamp = web.join("node_modules/.strelm-lock");
    if fs::read(&stamp).is_ok_and(|installed| installed == lock) {
        return Ok(());
    }
    println!("installing the interface's packages");
    output(&mut npm(&["ci", "--no-audit", "--no-fund"]))?;
    fs::write(stamp, lock)?;
    Ok(())
}

pub fn build() -> anyhow::Result<()> {
    ensure_packages()?;
    println!("building the interface");
    output(&mut npm(&["run", "--silent", "build"])).map(|_| ())
}

pub fn check() -> anyhow::Result<()> {
    ensure_packages()?;
    run_shown(&mut npm(&["run", "--silent", "check"]))
}
