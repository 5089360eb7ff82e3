//! Running other programs, and ending them again.

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc;
use std::time::Duration;

use anyhow::{Context, bail};

/// The root of the checkout.
pub fn root() -> PathBuf {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    here.parent().unwrap_or(here).to_owned()
}

/// Where Cargo builds.
pub fn target() -> PathBuf {
    std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from)
}

/// Runs a command to its end, with its output shown.
pub fn run_shown(command: &mut Command) -> anyhow::Result<()> {
    let shown = show(command);
    let status = command.status().with_context(|| format!("cannot run {shown}"))?;
    if !status.success() {
        bail!("{shown} failed ({status})");
    }
    Ok(())
}

/// Runs a command to its end and gives what it printed; its output is shown only when it fails.
pub fn output(command: &mut Command) -> anyhow::Result<String> {
    let shown = show(command);
    let output = command.stdin(Stdio::null()).output().with_context(|| format!("cannot run {shown}"))?;
    if !output.status.success() {
        bail!(
            "{shown} failed ({}):\n{}{}",
            output.status,
            String::from_utf8_lossy(&output.stdout),
            String::from_utf8_lossy(&output.stderr)
        );
    }
    Ok(String::from_utf8_lossy(&output.stdout).into_owned())
}

fn show(command: &Command) -> String {
    let name = Path::new(command.get_program()).file_name().unwrap_or_default().to_string_lossy().into_owned();
    let arguments = command.get_args().take(4).map(|argument| argument.to_string_lossy().into_owned());
    std::iter::once(name).chain(arguments).collect::<Vec<_>>().join(" ")
}

/// A program that runs beside us and is asked to end when this is dropped.
pub struct Beside {
    name: &'static str,
    child: Child,
}

impl Beside {
    pub fn start(name: &'static str, command: &mut Command) -> anyhow::Result<Self> {
        let child = command.stdin(Stdio::null()).spawn().with_context(|| format!("cannot start {name}"))?;
        Ok(Self { name, child })
    }

    /// Fails when the program has ended.
    pub fn check(&mut self) -> anyhow::Result<()> {
        match self.child.try_wait()? {
            Some(status) => bail!("{} ended unexpectedly ({status}); its last lines are above", self.name),
            None => Ok(()),
        }
    }
}

impl Drop for Beside {
    fn drop(&mut self) {
        let asked = Command::new("kill").args(["-TERM", &self.child.id().to_string()]).status();
        for _ in 0..100 {
            if asked.is_err() || matches!(self.child.try_wait(), Ok(Some(_)) | Err(_)) {
                break;
            }
            std::thread::sleep(Duration::from_millis(100));
        }
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// Tells when the user asks to end (Ctrl C) or the system does (TERM). Until then those do nothing.
pub fn end_signal() -> anyhow::Result<mpsc::Receiver<()>> {
    let (sender, receiver) = mpsc::channel();
    ctrlc::set_handler(move || {
        let _ = sender.send(());
    })?;
    Ok(receiver)
}
