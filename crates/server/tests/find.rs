//! `strelm mentions`, `anchors` and `destinations` on a folder.

#![allow(clippy::unwrap_used)]

use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

const MOON: &str = "<html lang=en><title>The moon</title><main><h1>The moon</h1><p>Ä <a href=\"torch.html\">red torch</a> helps. Red torches \
    are lent; see <a href=\"torch.html\">here</a>.</p><img src=t.png alt=\"a red torch\"></main>";
const TORCH: &str = "<html lang=en><title>Red torch</title><main><h1>Red torch</h1><p>Read about <a href=\"index.html\">here</a>, on \
    <a href=\"https://maps.example/sky\">maps.example</a> or <a href=\"https://maps.example/\"><img src=m.png></a>, or \
    <a href=\"mailto:moon@sky.example\">write</a>.</p></main>";

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("index.html"), MOON).unwrap();
    std::fs::write(folder.path().join("torch.html"), TORCH).unwrap();
    folder
}

fn strelm(command: &str, folder: &Path, more: &[&str]) -> Output {
    let mut strelm = Command::new(env!("CARGO_BIN_EXE_strelm"));
    strelm.arg(command).arg(folder).args(more).output().unwrap()
}

fn rows(command: &str, folder: &Path, more: &[&str]) -> Vec<Value> {
    let told = strelm(command, folder, &[more, &["--jsonl"]].concat());
    assert!(told.status.success(), "{}", String::from_utf8_lossy(&told.stderr));
    String::from_utf8(told.stdout).unwrap().lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

#[test]
fn every_mention_is_told_with_its_bytes_and_where_it_leads() {
    let folder = folder();
    let told: Vec<_> = rows("mentions", folder.path(), &["red torch"])
        .iter()
        .map(|row| {
            let file = std::fs::read(folder.path().join(row["page"].as_str().unwrap())).unwrap();
            let bytes = row["start"].as_u64().zip(row["end"].as_u64());
            let bytes =
                bytes.map(|(start, end)| String::from_utf8(file[start as usize..end as usize].to_vec()).unwrap());
            let (bytes, part) = (bytes.unwrap_or_else(|| "no bytes".to_owned()), row["part"].as_str().unwrap());
            format!("{} {part}: {} is {bytes} → {}", row["page"].as_str().unwrap(), row["words"], row["linked_to"])
        })
        .collect();
    assert_eq!(
        told,
        [
            "index.html text: \"red torch\" is red torch → \"torch.html\"",
            "index.html text: \"Red torches\" is Red torches → null",
            "index.html alt: \"red torch\" is <img src=t.png alt=\"a red torch\"> → null",
            "torch.html titles: \"Red torch\" is no bytes → null",
            "torch.html headings: \"Red torch\" is Red torch → null",
        ]
    );
    assert_eq!(rows("mentions", folder.path(), &["red torch", "--exact", "--case", "--in", "text,alt"]).len(), 2);
    assert_eq!(rows("mentions", folder.path(), &["[Tt]orch(es)?", "--regex", "--in", "text"]).len(), 2);
    let shown = String::from_utf8(strelm("mentions", folder.path(), &["lent"]).stdout).unwrap();
    assert_eq!(shown, "index.html (text): Red torches are [lent]; see here.\n");
    let table = String::from_utf8(strelm("mentions", folder.path(), &["lent", "--csv"]).stdout).unwrap();
    assert!(table.contains("page,start,end,words,part,linked_to,sentence,refused"), "{table}");
    for (wrong, says) in [
        (&["…"][..], "no words"),
        (&["a", "--in", "footnotes"], "possible values"),
        (&["(", "--regex"], "cannot be read"),
    ] {
        let told = strelm("mentions", folder.path(), wrong);
        let said = String::from_utf8(told.stderr).unwrap();
        assert!(!told.status.success() && said.contains(says), "{said}");
    }
}

#[test]
fn what_links_say_is_counted_and_judged() {
    let folder = folder();
    let told: Vec<_> = rows("anchors", folder.path(), &[])
        .iter()
        .map(|row| {
            let counts = ["links", "pages", "targets"].map(|name| row[name].to_string()).join(" ");
            let faults: Vec<_> =
                row["faults"].as_array().unwrap().iter().map(|fault| fault.as_str().unwrap()).collect();
            format!("{} {counts} {}", row["anchor"].as_str().unwrap(), faults.join("; "))
        })
        .collect();
    assert_eq!(
        told,
        [
            "here 2 2 2 the words say nothing of where they lead; the same words lead to 2 targets",
            " 1 1 1 the picture has no alternative text, so the link says nothing to whoever does not see it",
            "maps.example 1 1 1 ",
            "red torch 1 1 1 ",
            "write 1 1 1 ",
        ]
    );
    let shown = String::from_utf8(strelm("anchors", folder.path(), &[]).stdout).unwrap();
    assert!(shown.starts_with("      2  here\n         the words say nothing"), "{shown}");
}

#[test]
fn hosts_are_counted_by_links_and_pages() {
    let folder = folder();
    let told: Vec<_> = rows("destinations", folder.path(), &[])
        .iter()
        .map(|row| format!("{} {} {}", row["host"].as_str().unwrap(), row["links"], row["pages"]))
        .collect();
    assert_eq!(told, ["maps.example 2 1", "mailto: 1 1"]);
}
