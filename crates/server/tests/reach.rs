//! `strelm reach` on folders, as the command line gives it.

#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::process::{Command, Output};

use serde_json::{Value, json};

/// Pages by their paths, with the paths to which their content leads.
fn folder(pages: &[(&str, &[&str])]) -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    for (path, links) in pages {
        let links: String =
            links.iter().map(|to| format!("<p>There is more on <a href='{to}'>{to}</a>.</p>")).collect();
        let html = format!(
            "<!doctype html><html lang=en><title>{path}</title><main><h1>{path}</h1>{links}<p>Text.</p></main>"
        );
        std::fs::write(folder.path().join(path), html).unwrap();
    }
    folder
}

fn reach(folder: &tempfile::TempDir, more: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_strelm")).arg("reach").arg(folder.path()).args(more).output().unwrap()
}

fn harbour() -> tempfile::TempDir {
    folder(&[
        ("index.html", &["a.html", "b.html"]),
        ("a.html", &["c.html"]),
        ("b.html", &["c.html"]),
        ("c.html", &["d.html"]),
        ("d.html", &["e.html"]),
        ("e.html", &[]),
        ("x.html", &["y.html"]),
        ("y.html", &["x.html", "z.html"]),
        ("z.html", &["a.html"]),
        ("alone.html", &["index.html"]),
    ])
}

#[test]
fn a_program_is_told_what_can_be_reached_and_what_hangs_on_what() {
    let told = reach(&harbour(), &["--json"]);
    let told: Value = serde_json::from_slice(&told.stdout).unwrap();
    assert_eq!(told["pages"], 10);
    assert_eq!(told["depths"], json!({"0": 1, "1": 2, "2": 1, "3": 1, "4": 1}));
    assert_eq!(told["unreachable"], json!(["alone.html", "x.html", "y.html", "z.html"]));
    assert_eq!(told["orphans"], json!(["alone.html"]));
    assert_eq!(told["dead_ends"], json!(["e.html"]));
    assert_eq!(told["islands"], json!([["x.html", "y.html", "z.html"]]));
    let thread = |page: &str, over: &str, by: &str, hanging: u32| json!({"page": page, "over": over, "by": by, "hanging": hanging});
    // To c lead two ways, and all after it hangs on it.
    let threads = [
        thread("d.html", "c.html", "link", 2),
        thread("a.html", "index.html", "link", 1),
        thread("b.html", "index.html", "link", 1),
        thread("e.html", "d.html", "link", 1),
    ];
    assert_eq!(told["threads"], json!(threads));
    let equity: BTreeMap<String, f64> = serde_json::from_value(told["equity"].clone()).unwrap();
    assert!((equity.values().sum::<f64>() - 1.0).abs() < 1e-9);
    assert!(equity["c.html"] > equity["a.html"] && equity["x.html"] > equity["alone.html"]);
}

#[test]
fn people_read_it_as_text_and_programs_that_draw_as_graphml() {
    let text = String::from_utf8(reach(&harbour(), &[]).stdout).unwrap();
    for line in ["10 pages", "4 out of reach", "Orphans (1)", "d.html: only by the link from c.html; 2 hang on it"] {
        assert!(text.contains(line), "{line} is not in {text}");
    }
    let graph = String::from_utf8(reach(&harbour(), &["--graphml"]).stdout).unwrap();
    assert_eq!((graph.matches("<node ").count(), graph.matches("<edge ").count()), (10, 11));
}

#[test]
fn without_the_page_on_which_readers_start_it_says_what_to_do() {
    let answer = reach(&harbour(), &["--entry", "home.html"]);
    assert!(!answer.status.success());
    let told = String::from_utf8(answer.stderr).unwrap();
    assert!(told.contains("home.html is not in the folder; name the first page with --entry, such as: "), "{told}");
}
