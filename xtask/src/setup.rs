//! Installing what a fresh Debian machine lacks.

use std::path::Path;
use std::process::Command;

use crate::process::{output, run_shown};

/// Debian packages for running Strelm.
pub fn for_running() -> anyhow::Result<()> {
    let postgres = std::fs::read_dir("/usr/lib/postgresql").is_ok_and(|mut folder| {
        folder.any(|version| version.is_ok_and(|version| version.path().join("bin/initdb").exists()))
    });
    install(if postgres { &[] } else { &["postgresql"] })
}

/// Debian packages for the browser tests, beside those for running.
pub fn for_testing() -> anyhow::Result<()> {
    for_running()?;
    let browser = Path::new("/usr/bin/chromium").exists() && Path::new("/usr/bin/chromedriver").exists();
    install(if browser { &[] } else { &["chromium", "chromium-driver"] })
}

fn install(packages: &[&str]) -> anyhow::Result<()> {
    if packages.is_empty() {
        return Ok(());
    }
    println!("installing {}", packages.join(", "));
    update()?;
    output(apt()?.args(["install", "-y", "-qq", "--no-install-recommends"]).args(packages)).map(|_| ())
}

/// Learns which packages there are.
pub fn update() -> anyhow::Result<()> {
    run_shown(apt()?.args(["update", "-qq"]))
}

fn apt() -> anyhow::Result<Command> {
    let root = output(Command::new("id").arg("-u"))?.trim() == "0";
    let mut command = Command::new(if root { "apt-get" } else { "sudo" });
    if !root {
        command.arg("apt-get");
    }
    command.env("DEBIAN_FRONTEND", "noninteractive");
    Ok(command)
}
