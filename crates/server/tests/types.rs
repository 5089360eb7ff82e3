//! The TypeScript types that the interface is checked with are those of this API.

#![allow(clippy::unwrap_used)]

use std::process::Command;

#[test]
fn the_interface_s_types_are_up_to_date() {
    let web = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web");
    let folder = tempfile::tempdir().unwrap();
    let (document, types) = (folder.path().join("openapi.json"), folder.path().join("schema.d.ts"));
    std::fs::write(&document, strelm_server::api::document().to_pretty_json().unwrap()).unwrap();
    let cli = format!("{web}/node_modules/openapi-typescript/bin/cli.js");
    let made = Command::new("node").arg(cli).arg(&document).arg("--output").arg(&types).output().unwrap();
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
    let committed = std::fs::read_to_string(format!("{web}/src/api/schema.d.ts")).unwrap();
    assert!(std::fs::read_to_string(types).unwrap() == committed, "run `cargo xtask types`");
}
