//! The parts of the interface that compute, by their own tests: `npm test` in `web`.

#![allow(clippy::unwrap_used)]

use std::path::Path;
use std::process::Command;

#[test]
fn parts_of_the_interface_that_compute_do_what_they_say() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let run = Command::new("npm").args(["run", "--silent", "test"]).current_dir(web).output().unwrap();
    let said = format!("{}{}", String::from_utf8_lossy(&run.stdout), String::from_utf8_lossy(&run.stderr));
    assert!(run.status.success(), "{said}");
    assert!(said.contains("Test Files"), "no tests were run: {said}");
}
