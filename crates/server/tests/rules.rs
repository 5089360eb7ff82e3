//! `strelm rules` on a folder: what it would link, what it holds back and why, and what it writes.

#![allow(clippy::unwrap_used)]

use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

const RULES: &str = "phrase,target,headings,rel\n\
                     red torch,torch.html,,\n\
                     averted vision; vision,/vision.html#rods,,\n\
                     planisphere,https://maps.example/sky,no,nofollow\n\
                     moon,nowhere.html,,\n";

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    let write = |path: &str, text: &str| std::fs::write(folder.path().join(path), text).unwrap();
    let filler = "Whoever comes late brings the tea, and nobody is asked for a fee. ".repeat(14);
    let page = |title: &str, body: &str| {
        format!("<!doctype html><html lang=en><title>{title}</title><main><h1>{title}</h1>{body}<p>{filler}</p></main>")
    };
    write("index.html", &page("The red torch club", "<p>Red torches are lent. Bring a <em>planisphere</em>, é.</p>"));
    let linked = "<p>See <a href=vision.html>looking aside</a>: averted vision helps. A red torch does not.</p>";
    write("torch.html", &page("Torch", linked));
    write("vision.html", &page("Vision", "<p>Averted vision rests on rods. Use no red torch for it.</p>"));
    write("notes.md", "---\ntitle: Notes\n---\n\nThe *red torch* is in the box, and a planisphere too.\n");
    write("maps.md", "---\ntitle: Maps\n---\n\nA planisphere is a map of the sky.\n");
    std::fs::write(folder.path().join("rules.csv"), RULES).unwrap();
    folder
}

fn rules(command: &str, folder: &Path, more: &[&str]) -> Output {
    let mut strelm = Command::new(env!("CARGO_BIN_EXE_strelm"));
    strelm.args(["rules", command]).arg(folder.join("rules.csv")).arg(folder).args(more).output().unwrap()
}

fn rows(folder: &Path) -> Vec<Value> {
    let checked = rules("check", folder, &["--jsonl"]);
    assert!(checked.status.success(), "{}", String::from_utf8_lossy(&checked.stderr));
    String::from_utf8(checked.stdout).unwrap().lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

#[test]
fn every_place_is_told_with_its_bytes_and_what_holds_it_back() {
    let folder = folder();
    let told: Vec<_> = rows(folder.path())
        .iter()
        .map(|row| {
            let source = std::fs::read(folder.path().join(row["source"].as_str().unwrap())).unwrap();
            let words = source[row["start"].as_u64().unwrap() as usize..row["end"].as_u64().unwrap() as usize].to_vec();
            let why = row["why"].as_str().unwrap_or("linked");
            assert_eq!(row["linked"], why == "linked");
            format!(
                "{} {} → {}: {why}",
                row["source"].as_str().unwrap(),
                String::from_utf8(words).unwrap(),
                row["target"].as_str().unwrap()
            )
        })
        .collect();
    assert_eq!(
        told,
        [
            "index.html red torch → torch.html: the rule does not link in headings",
            "index.html Red torches → torch.html: linked",
            "index.html planisphere → https://maps.example/sky: linked",
            "maps.md planisphere → https://maps.example/sky: a link of Markdown cannot say this",
            "notes.md red torch → torch.html: linked",
            "notes.md planisphere → https://maps.example/sky: a sentence gets 1 link of rules at most",
            "torch.html averted vision → vision.html#rods: the page leads there already",
            "torch.html vision → vision.html#rods: the page leads there already",
            "torch.html red torch → torch.html: the page is the target itself",
            "vision.html Vision → vision.html#rods: the page is the target itself",
            "vision.html Averted vision → vision.html#rods: the page is the target itself",
            "vision.html vision → vision.html#rods: the page is the target itself",
            "vision.html red torch → torch.html: linked",
        ]
    );
    let said = String::from_utf8(rules("check", folder.path(), &[]).stderr).unwrap();
    assert!(
        said.contains("row 5 is left out: “nowhere.html” is no page here, and no address of another site"),
        "{said}"
    );
    assert!(said.contains("4 links, 9 held back\n      4  the page is the target itself"), "{said}");
}

#[test]
fn what_is_applied_is_links_alone_and_there_the_next_time() {
    let folder = folder();
    let read = |path: &str| std::fs::read_to_string(folder.path().join(path)).unwrap();
    let before = ["index.html", "notes.md", "vision.html"].map(read);
    let shown = String::from_utf8(rules("apply", folder.path(), &[]).stdout).unwrap();
    assert!(shown.contains("+<") || shown.contains("+The"), "{shown}");
    assert_eq!(
        ["index.html", "notes.md", "vision.html"].map(read),
        before,
        "nothing is written unless it is asked for"
    );
    let written = rules("apply", folder.path(), &["--write"]);
    assert_eq!(String::from_utf8(written.stdout).unwrap(), shown);
    let [index, notes, vision] = ["index.html", "notes.md", "vision.html"].map(read);
    let torch = "<a href=\"torch.html\">Red torches</a>";
    let map = "<a href=\"https://maps.example/sky\" rel=\"nofollow\"><em>planisphere</em></a>";
    let map_inside = "<em><a href=\"https://maps.example/sky\" rel=\"nofollow\">planisphere</a></em>";
    assert!(index.contains(torch) && (index.contains(map) || index.contains(map_inside)), "{index}");
    assert!(notes.starts_with("---\ntitle: Notes\n---\n") && notes.contains("[red torch](torch.html)"), "{notes}");
    assert!(vision.contains("no <a href=\"torch.html\">red torch</a> for it"), "{vision}");
    assert_eq!(rows(folder.path()).iter().filter(|row| row["linked"] == true).count(), 0);
    let again = rules("apply", folder.path(), &["--write"]);
    assert!(again.stdout.is_empty());
    let said = String::from_utf8(again.stderr).unwrap();
    assert!(said.contains("0 links, 4 there already, 9 held back"), "{said}");
}

#[test]
fn a_table_that_says_nothing_is_refused_in_words() {
    let folder = folder();
    std::fs::write(folder.path().join("rules.csv"), "a,b\n1,2\n").unwrap();
    let refused = rules("check", folder.path(), &[]);
    let said = String::from_utf8(refused.stderr).unwrap();
    assert!(!refused.status.success() && said.contains("no column “phrase”"), "{said}");
}
