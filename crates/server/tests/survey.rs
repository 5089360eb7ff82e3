//! `strelm survey` as a program: a small folder whose figures can be counted by hand, and its errors.

#![allow(clippy::unwrap_used)]

mod support;

use std::path::Path;
use std::process::{Command, Output};

use serde_json::{Value, json};

use self::support::folder;

fn survey(folder: &Path, more: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_strelm")).arg("survey").arg(folder).args(more).output().unwrap()
}

const SITE: [(&str, &str); 7] = [
    (
        "index.html",
        "<title>Home</title><nav><a href='guides/'>Guides</a></nav><main><p>One two three <a href=pic.png>four</a> \
         <a href='http://other.example/'>five</a></p></main>",
    ),
    (
        "guides/index.html",
        "<p><a href='moon.html#phases'>moon</a> <a href='../gone.html'>gone</a> <a href='sun%20spots.html'>s</a></p>",
    ),
    ("guides/moon.html", "<h2 id=phases>Phases</h2><a href='#nowhere'>x</a><a href='mailto:a@b.example'>m</a>"),
    ("guides/sun spots.html", "<base href='../'><a href='index.html'>home</a>"),
    ("lost.html", "<a href='lost2.html'>x</a>"),
    ("lost2.html", "<a href='lost.html'>x</a><a href='orphan.html#%C3%A4'>x</a>"),
    ("orphan.html", "<p id='ä'>alone</p>"),
];

#[test]
fn a_folder_is_counted_as_by_hand() {
    let folder = folder(&[SITE.as_slice(), &[("pic.png", "")], &[("alone.htm", "nobody links here")]].concat());
    let output = survey(folder.path(), &["--json"]);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let found: Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(found["pages"], 8);
    assert_eq!(found["links"], 11);
    let by_region =
        json!({"content": 10, "menu": 1, "breadcrumb": 0, "contents": 0, "header": 0, "footer": 0, "aside": 0});
    assert_eq!(found["links_by_region"], by_region);
    assert_eq!((&found["links_within"], &found["links_away"]), (&json!(10), &json!(1)));
    assert_eq!(found["depths"], json!({"0": 1, "1": 1, "2": 2}));
    assert_eq!(found["orphans"], json!(["alone.htm"]));
    assert_eq!(found["unreachable"], json!(["alone.htm", "lost.html", "lost2.html", "orphan.html"]));
    assert_eq!(found["broken_links"], json!([{"page": "guides/index.html", "href": "../gone.html"}]));
    assert_eq!(found["broken_fragments"], json!([{"page": "guides/moon.html", "href": "#nowhere"}]));
}

#[test]
fn the_text_names_what_is_wrong() {
    let folder = folder(&SITE);
    let output = survey(folder.path(), &["--entry", "guides/index.html"]);
    let text = String::from_utf8(output.stdout).unwrap();
    for line in ["7  pages", "pages at depth 2", "0  orphans", "guides/index.html → ../gone.html"] {
        assert!(text.contains(line), "{line} in {text}");
    }
}

#[test]
fn what_cannot_be_surveyed_says_why() {
    let folder = folder(&[("start.html", "<p>x</p>")]);
    let message = |output: Output| {
        assert!(!output.status.success());
        String::from_utf8(output.stderr).unwrap()
    };
    let missing = message(survey(folder.path(), &[]));
    assert!(missing.contains("--entry") && missing.contains("start.html"), "{missing}");
    let nowhere = message(survey(&folder.path().join("nowhere"), &[]));
    assert!(nowhere.contains("is not a folder"), "{nowhere}");
}

#[test]
fn the_demo_s_own_files_are_surveyed_too() {
    let demo = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/pages"));
    let output = survey(demo, &["--json"]);
    let found: Value = serde_json::from_slice(&output.stdout).unwrap();
    // Sixty, and two that have moved.
    assert_eq!(found["pages"], 62);
}
