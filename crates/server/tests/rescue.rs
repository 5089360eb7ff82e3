//! `strelm rescue` on a folder: what it plans, what it writes, and that readers then get everywhere.

#![allow(clippy::unwrap_used)]

use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

const FILLER: &str = "We meet at dusk behind the old pumping station, and whoever comes late brings the tea. Nobody is asked \
                      for a fee, and the dome is opened for all who want to look.";

fn page(title: &str, body: &str) -> String {
    format!(
        "<!doctype html><html lang=en><title>{title}</title><main><h1>{title}</h1><p>{FILLER}</p>{body}</main></html>"
    )
}

fn harbour() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    let write = |path: &str, html: String| std::fs::write(folder.path().join(path), html).unwrap();
    let links = "<p><a href=evenings.html>Open evenings</a> and <a href=beginners.html>for beginners</a>.</p>";
    write("index.html", page("The harbour observatory", links));
    let mentions = "<p>On a clear night bring a red torch, since white light spoils everything for an hour.</p>\
                    <p>Those who practise averted vision see twice as many stars in the same field.</p>\
                    <p>A planisphere shows which of them are up.</p>";
    write("evenings.html", page("Open evenings", mentions));
    write("beginners.html", page("For beginners", "<p>Start with a planisphere and with patience, nothing else.</p>"));
    write("red-torch.html", page("Red torch", "<p>Tape a red filter over any lamp.</p>"));
    write("averted-vision.html", page("Averted vision", "<p>Look beside the object. <a href=dark.html>More</a></p>"));
    write("dark.html", page("Dark adaptation of rods", "<p>Rods take half an hour.</p>"));
    write("planisphere.html", page("Planisphere", "<p>Turn the disc until date and hour meet.</p>"));
    write("minutes.html", page("Qq", "<p>Zz.</p>"));
    folder
}

fn strelm(command: &str, folder: &Path, more: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_strelm")).arg(command).arg(folder).args(more).output().unwrap()
}

fn reached(folder: &Path) -> Value {
    serde_json::from_slice(&strelm("reach", folder, &["--json"]).stdout).unwrap()
}

#[test]
fn the_fewest_pages_are_edited_and_who_is_left_is_told_why() {
    let folder = harbour();
    let planned = strelm("rescue", folder.path(), &["--fit", "1"]);
    let told = String::from_utf8(planned.stderr).unwrap();
    let rows: Vec<Value> =
        String::from_utf8(planned.stdout).unwrap().lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let mut targets: Vec<_> = rows.iter().map(|row| row["target"].as_str().unwrap()).collect();
    targets.sort_unstable();
    assert_eq!(targets, ["averted-vision.html", "planisphere.html", "red-torch.html"], "{told}");
    assert!(rows.iter().all(|row| row["source"] == "evenings.html"), "one page carries them all: {rows:?}");
    let source = std::fs::read(folder.path().join("evenings.html")).unwrap();
    for row in &rows {
        let place = row["start"].as_u64().unwrap() as usize..row["end"].as_u64().unwrap() as usize;
        assert_eq!(&source[place], row["anchor"].as_str().unwrap().as_bytes());
    }
    assert!(
        told.starts_with("5 pages out of reach")
            && told.contains("4 can be helped with 3 links on 1 page (no plan does with fewer)"),
        "{told}"
    );
    assert!(told.contains("minutes.html: no opening of fit 1 leads there"), "{told}");
}

#[test]
fn what_is_applied_changes_links_alone_and_brings_all_within_reach() {
    let folder = harbour();
    let before = std::fs::read_to_string(folder.path().join("evenings.html")).unwrap();
    let diff = String::from_utf8(strelm("rescue", folder.path(), &["--fit", "1", "--apply"]).stdout).unwrap();
    assert!(diff.contains("+++ ") && diff.contains("<a href=\"red-torch.html\">red torch</a>"), "{diff}");
    let after = std::fs::read_to_string(folder.path().join("evenings.html")).unwrap();
    let without_links = |html: &str| {
        let mut rest = html.to_owned();
        for target in ["red-torch", "averted-vision", "planisphere"] {
            rest = rest.replace(&format!("<a href=\"{target}.html\">"), "");
        }
        rest.replace("</a>", "")
    };
    assert_eq!(without_links(&after), before);
    assert_eq!(reached(folder.path())["unreachable"], serde_json::json!(["minutes.html"]));
    // A second time there is nothing to do.
    assert_eq!(strelm("rescue", folder.path(), &["--fit", "1", "--apply"]).stdout, b"");
}

#[test]
fn limits_are_kept() {
    let folder = harbour();
    let planned = strelm("rescue", folder.path(), &["--fit", "1", "--per-page", "2", "--depth", "2"]);
    let told = String::from_utf8(planned.stderr).unwrap();
    let rows = String::from_utf8(planned.stdout).unwrap();
    // The page behind averted vision would be three clicks away.
    assert!(told.contains("dark.html: every way there is longer than 2 clicks"), "{told}");
    assert_eq!(rows.matches("\"source\":\"evenings.html\"").count(), 2, "{rows}");
    assert_eq!(rows.matches("\"source\":\"beginners.html\"").count(), 1, "{rows}");
}

#[test]
fn front_matter_of_markdown_stays_as_it_is() {
    let folder = tempfile::tempdir().unwrap();
    let write = |path: &str, text: &str| std::fs::write(folder.path().join(path), text).unwrap();
    let head = "---\ntitle: Open evenings\ntags: [ask, rules]\n---\n";
    let body = format!("# Open evenings\n\n{FILLER}\n\nBring a red torch, since *white* light spoils everything.\n");
    write("index.md", &format!("# Harbour\n\n{FILLER}\n\n[Open evenings](evenings.md)\n"));
    write("evenings.md", &format!("{head}{body}"));
    write("red-torch.md", "# Red torch\n\nTape a red filter over any lamp.\n");
    let put = strelm("rescue", folder.path(), &["--entry", "index.md", "--fit", "1", "--apply"]);
    let after = std::fs::read_to_string(folder.path().join("evenings.md")).unwrap();
    let linked = body.replace("a red torch,", "a [red torch](red-torch.md),");
    assert_eq!(after, format!("{head}{linked}"), "{}", String::from_utf8_lossy(&put.stderr));
}
