//! `strelm footer` on a folder: links come to the foot of every page, others take their place, and they go without a trace.

#![allow(clippy::unwrap_used)]

use std::path::Path;
use std::process::{Command, Output};

const PAGES: [(&str, &str); 3] = [
    ("index.html", "<!doctype html><title>Sky</title><body><main><h1>Sky</h1><p>Welcome.</p></main></body>\n"),
    ("guides/moon.html", "<title>Moon</title><h1>Moon</h1><p>It shines.</p>\n"),
    ("guides/notes.md", "# Notes\n\nThe moon shines.\n"),
];

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::create_dir(folder.path().join("guides")).unwrap();
    for (path, text) in PAGES {
        std::fs::write(folder.path().join(path), text).unwrap();
    }
    folder
}

fn footer(folder: &Path, links: &str, more: &[&str]) -> (Output, [String; 3]) {
    let table = tempfile::NamedTempFile::new().unwrap();
    std::fs::write(table.path(), links).unwrap();
    let mut strelm = Command::new(env!("CARGO_BIN_EXE_strelm"));
    let told = strelm.arg("footer").arg(table.path()).arg(folder).args(more).output().unwrap();
    (told, PAGES.map(|(path, _)| std::fs::read_to_string(folder.join(path)).unwrap()))
}

#[test]
fn every_page_gets_links_that_lead_from_where_it_stands() {
    let folder = folder();
    let before = PAGES.map(|(_, text)| text.to_owned());
    let links = "text,target\nMoon & more,guides/moon.html\nMaps,https://maps.example/?a=1\n";
    let (told, pages) = footer(folder.path(), links, &[]);
    let said = String::from_utf8(told.stderr).unwrap();
    assert!(said.starts_with("2 pages would change; --write changes them\n1 page of Markdown left alone"), "{said}");
    assert_eq!(pages, before);
    let (written, pages) = footer(folder.path(), links, &["--write"]);
    assert_eq!((written.stdout, written.status.code()), (told.stdout, Some(0)));
    let maps = "<a href=\"https://maps.example/?a=1\">Maps</a></p><!-- end of footer links -->";
    assert!(pages[0].contains(&format!("<p><a href=\"guides/moon.html\">Moon &amp; more</a> · {maps}</body>")));
    assert!(pages[1].contains(&format!("<p><a href=\"moon.html\">Moon &amp; more</a> · {maps}")), "{}", pages[1]);
    assert_eq!(pages[2], before[2]);

    // Again nothing changes; others take their place; and none are left.
    assert_eq!(footer(folder.path(), links, &["--write"]).1, pages);
    let (_, others) = footer(
        folder.path(),
        "text,target\nStart,index.html\n",
        &["--write", "--before", "<nav>", "--after", "</nav>"],
    );
    assert!(
        others[1].contains("<nav><a href=\"../\">Start</a></nav>") || others[1].contains("../index.html"),
        "{}",
        others[1]
    );
    assert!(!others[1].contains("maps.example"));
    assert_eq!(footer(folder.path(), "text,target\n", &["--write", "--remove"]).1, before);
}

#[test]
fn links_that_lead_nowhere_are_told_and_nothing_is_written() {
    let folder = folder();
    for (links, says) in [
        ("text,target\nMoon,moon.html\n", "row 2: “moon.html” is no page here"),
        ("text,target\nMoon,guides/moon.html#phases\n", "row 2: “guides/moon.html#phases” is no page here as a whole"),
        ("text,target\nRun,javascript:alert(1)\n", "row 2: “javascript:alert(1)” is no page here"),
        ("text,target\n ,index.html\n", "has no words"),
        ("name,target\nMoon,index.html\n", "no column “text”"),
    ] {
        let (told, pages) = footer(folder.path(), links, &["--write"]);
        let said = String::from_utf8(told.stderr).unwrap();
        assert!(!told.status.success() && said.contains(says), "{said}");
        assert_eq!(pages, PAGES.map(|(_, text)| text.to_owned()));
    }
}
