//! `strelm openings` as a program: its rows stand where they say in the files, and its errors.

#![allow(clippy::unwrap_used)]

mod support;

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::{Command, Output};

use serde_json::Value;

use self::support::folder;

fn openings(folder: &Path, more: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_strelm")).arg("openings").arg(folder).args(more).output().unwrap()
}

fn rows(folder: &Path, more: &[&str]) -> Vec<Value> {
    let output = openings(folder, &[&["--jsonl"], more].concat());
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let lines = std::str::from_utf8(&output.stdout).unwrap().lines();
    lines.map(|line| serde_json::from_str(line).unwrap()).collect()
}

/// Pages with all that moves bytes about: entities, code, line ends, marks inside of words, paths with spaces.
const SITE: [(&str, &str); 7] = [
    (
        "index.html",
        "\u{feff}<html lang=en><title>Home</title><body>\r\n<p>Caf\u{e9} &amp; stars:\r\n<b>aver</b>ted   vision, a \
         Barlow&nbsp;lens and <code>&lt;depth&gt;</code>.</p><p>Before you go out in the night, read <a href='eyes/averted.html'>how to look</a>.</p>",
    ),
    (
        "eyes/averted.html",
        "<html lang=en><title>Averted vision</title><h1>Averted vision</h1><p>Look beside. A Barlow lens does not help.",
    ),
    (
        "eyes/barlow lens.html",
        "<html lang=en><title>Barlow lens</title><p>It doubles; averted vision may help, too.</p>",
    ),
    ("depth task.html", "<html lang=en><title>Depth</title><p>Measure the <!-- not --> exit &#112;upil first.</p>"),
    ("pupil.html", "<html lang=en><title>Exit pupil</title><p>Each eye has its own. Use averted&shy; vision.</p>"),
    ("\u{fc}ber.html", "<html lang=de><title>Dunkeladaption</title><p>Ohne Barlow lens geht es auch.</p>"),
    ("frame.html", "<frameset><frame src=index.html></frameset>"),
];

/// What a reader sees of a stretch of a file.
fn shown(html: &str) -> String {
    let mut text = String::new();
    let mut rest = html;
    while let Some(open) = rest.find('<') {
        text.push_str(&rest[..open]);
        rest = rest[open..].split_once('>').map_or("", |(_, rest)| rest);
    }
    text.push_str(rest);
    let entities =
        [("&amp;", "&"), ("&nbsp;", " "), ("&lt;", "<"), ("&gt;", ">"), ("&#112;", "p"), ("&shy;", "\u{ad}")];
    for (entity, letter) in entities {
        text = text.replace(entity, letter);
    }
    text.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[test]
fn each_row_stands_in_its_file_where_it_says() {
    let folder = folder(&SITE);
    let rows = rows(folder.path(), &["--limit", "50"]);
    let mut found = BTreeSet::new();
    for row in &rows {
        let text = |name: &str| row[name].as_str().unwrap().to_owned();
        let bytes = std::fs::read(folder.path().join(text("source"))).unwrap();
        let place = |name: &str| usize::try_from(row[name].as_u64().unwrap()).unwrap();
        let there = std::str::from_utf8(&bytes[place("start")..place("end")]).unwrap();
        let anchor = text("anchor").split_whitespace().collect::<Vec<_>>().join(" ");
        assert_eq!(shown(there), anchor, "{row}");
        assert!(folder.path().join(text("target")).is_file(), "{row}");
        assert_ne!(text("source"), text("target"));
        found.insert((text("source"), text("target"), anchor));
        let parts: BTreeMap<String, f64> = serde_json::from_value(row["parts"].clone()).unwrap();
        assert_eq!(
            parts.keys().map(String::as_str).collect::<Vec<_>>(),
            ["need", "place", "topic", "variety", "wording"]
        );
        let (score, fit) = (row["score"].as_f64().unwrap(), row["fit"].as_f64().unwrap());
        assert!((0.0..=1.0).contains(&score) && (score * 100.0 - fit).abs() < 1e-6, "{row}");
    }
    let has = |source: &str, target: &str, anchor: &str| {
        found.contains(&(source.to_owned(), target.to_owned(), anchor.to_owned()))
    };
    assert!(has("index.html", "eyes/barlow lens.html", "Barlow lens"), "{found:#?}");
    assert!(has("index.html", "depth task.html", "<depth>"), "{found:#?}");
    assert!(has("depth task.html", "pupil.html", "exit pupil"), "{found:#?}");
    assert!(has("eyes/barlow lens.html", "eyes/averted.html", "averted vision"), "{found:#?}");
    assert!(has("\u{fc}ber.html", "eyes/barlow lens.html", "Barlow lens"), "{found:#?}");
    let to_linked = found.iter().any(|(source, target, _)| source == "index.html" && target == "eyes/averted.html");
    assert!(!to_linked, "the page leads there already");
}

#[test]
fn what_is_for_readers_is_one_line_each() {
    let folder = folder(&[
        ("eyes.html", "<html lang=en><title>Averted vision</title><p>x</p>"),
        (
            "index.html",
            "<html lang=en><title>Home</title><p>Mars&#27;[31m is red; use averted\nvision\nfor the moons.</p>",
        ),
    ]);
    let output = openings(folder.path(), &[]);
    let printed = String::from_utf8(output.stdout).unwrap();
    let lines: Vec<_> = printed.lines().filter(|line| line.contains(" index.html -> eyes.html ")).collect();
    let [line] = lines[..] else { panic!("{printed}") };
    assert!(line.contains("[averted vision]  Mars [31m is red; use averted vision for the moons."), "{line}");
    assert!(!printed.contains('\u{1b}'), "a page does not talk to the terminal");
}

#[test]
fn in_files_of_other_encodings_too() {
    let folder = folder(&[("eyes.html", "<html lang=fr><title>Pupille de sortie</title><p>x</p>")]);
    let html = "<html lang=fr><meta charset=latin1><title>Début</title><p>Été à la mer, pupille de sortie à cinq.</p>";
    let bytes: Vec<u8> = html.chars().map(|letter| u8::try_from(u32::from(letter)).unwrap()).collect();
    std::fs::write(folder.path().join("index.html"), &bytes).unwrap();
    let wide: Vec<u8> = "\u{feff}<p>Ici pupille de sortie.</p>".encode_utf16().flat_map(u16::to_le_bytes).collect();
    std::fs::write(folder.path().join("wide.html"), &wide).unwrap();
    let found = rows(folder.path(), &[]);
    let place = |source: &str| {
        let row = found.iter().find(|row| row["source"] == source).unwrap();
        let at = |name: &str| usize::try_from(row[name].as_u64().unwrap()).unwrap();
        at("start")..at("end")
    };
    assert_eq!(&bytes[place("index.html")], b"pupille de sortie");
    let units: Vec<u8> = "pupille de sortie".encode_utf16().flat_map(u16::to_le_bytes).collect();
    assert_eq!(&wide[place("wide.html")], units);
}

#[test]
fn in_files_with_bytes_that_mean_nothing_too() {
    let folder = folder(&[("eyes.html", "<html lang=fr><title>Pupille de sortie</title><p>x</p>")]);
    let torn: [(&str, &[u8]); 3] = [
        // An old text in a page that says it is UTF-8; a cut character; bytes that no Japanese text has.
        ("old.html", b"<html lang=fr><meta charset=utf-8><p>\xc9t\xe9 \xc3\xa0 la mer, pupille de sortie.</p>"),
        ("cut.html", b"<html lang=fr><meta charset=utf-8><p>\xe2\x82 \xf0\x9f\x98 \xc3\xa0 pupille de sortie.</p>"),
        ("far.html", b"<html lang=fr><meta charset=shift_jis><p>\x93\xfa\xff \x81 pupille de sortie.</p>"),
    ];
    torn.iter().for_each(|(path, bytes)| std::fs::write(folder.path().join(path), bytes).unwrap());
    std::fs::write(folder.path().join("index.html"), "<p>x</p>").unwrap();
    let found = rows(folder.path(), &[]);
    for (path, bytes) in torn {
        let row = found.iter().find(|row| row["source"] == path).unwrap();
        let at = |name: &str| usize::try_from(row[name].as_u64().unwrap()).unwrap();
        assert_eq!(&bytes[at("start")..at("end")], b"pupille de sortie", "{path}");
    }
}

#[test]
fn limits_hold_and_the_best_come_first() {
    let titles = ["Collimation", "Planisphere", "Earthshine", "Declination", "Finderscope"];
    let mut files: Vec<(String, String)> = titles
        .iter()
        .map(|title| (format!("{title}.html"), format!("<html lang=en><title>{title}</title><p>About it.</p>")))
        .collect();
    let all = format!("<html lang=en><title>Start</title><p>{}.</p>", titles.join(" and "));
    files.push(("index.html".to_owned(), all));
    let files: Vec<_> = files.iter().map(|(path, html)| (path.as_str(), html.as_str())).collect();
    let folder = folder(&files);
    for limit in [1, 3, 50] {
        let rows = rows(folder.path(), &["--limit", &limit.to_string()]);
        let fits: Vec<f64> = rows.iter().map(|row| row["fit"].as_f64().unwrap()).collect();
        let chosen = &fits[..limit.min(titles.len())];
        assert!(chosen.is_sorted_by(|a, b| a >= b) && fits.iter().all(|fit| *fit <= chosen[0]), "{fits:?}");
        // No other page leads there, so that the rest of what this page says is the best for its targets.
        let targets: BTreeSet<&str> = rows.iter().map(|row| row["target"].as_str().unwrap()).collect();
        assert_eq!((rows.len(), targets.len()), (titles.len(), titles.len()));
        let printed = openings(folder.path(), &["--least-fit", "0", "--limit", &limit.to_string()]);
        let lines = String::from_utf8(printed.stdout).unwrap().lines().count();
        assert_eq!(lines, limit.min(titles.len()), "page by page for who reads");
    }
    assert_eq!(rows(folder.path(), &["--least-fit", "100"]).len(), 0);
    let again = rows(folder.path(), &["--limit", "50"]);
    assert_eq!(again, rows(folder.path(), &["--limit", "50"]), "the same each time, whichever thread is first");
    let printed = openings(folder.path(), &["--least-fit", "0"]);
    let printed = String::from_utf8(printed.stdout).unwrap();
    assert!(printed.contains("index.html -> Planisphere.html  [Planisphere]  "), "{printed}");
}

#[test]
fn to_each_page_lead_the_best_of_all_pages() {
    // Every page names the two targets after a better one of its own, in more and more words.
    let mut files = vec![("index.html".to_owned(), "<p>Home</p>".to_owned())];
    for title in ["Collimation", "Planisphere"] {
        files.push((format!("{title}.html"), format!("<html lang=en><title>{title}</title><p>About it.</p>")));
    }
    for number in 0..6 {
        let filler = "Nothing is here to see at all. ".repeat(number * number);
        let all = format!("<html lang=en><title>Night {number}</title><p>{filler}Collimation, then Planisphere.</p>");
        files.push((format!("night{number}.html"), all));
    }
    let files: Vec<_> = files.iter().map(|(path, html)| (path.as_str(), html.as_str())).collect();
    let folder = folder(&files);
    let pairs = |limit: &str| -> Vec<(String, String, f64)> {
        let text = |row: &Value, name: &str| row[name].as_str().unwrap().to_owned();
        let rows = rows(folder.path(), &["--limit", limit]);
        rows.iter().map(|row| (text(row, "source"), text(row, "target"), row["fit"].as_f64().unwrap())).collect()
    };
    let all = pairs("50");
    for limit in [1, 2, 4] {
        let found = pairs(&limit.to_string());
        let unique: BTreeSet<_> = found.iter().map(|(source, target, _)| (source, target)).collect();
        assert_eq!(unique.len(), found.len(), "each opening once");
        for (_, target, fit) in &all {
            let better = all.iter().filter(|(_, to, other)| to == target && other > fit).count();
            let known = found.iter().any(|(_, to, other)| to == target && other == fit);
            assert!(known || better >= limit, "one of the best {limit} to {target} is missing");
        }
        let further = found.iter().filter(|(source, target, fit)| {
            let better = all.iter().filter(|(from, to, other)| from == source && to != target && other > fit);
            better.count() >= limit
        });
        assert!(further.count() <= limit * 9, "no more than so many to each of nine pages");
    }
}

#[test]
fn a_site_s_own_links_teach_unless_nobody_wants_it() {
    let folder = folder(&SITE);
    assert_eq!(rows(folder.path(), &[]), rows(folder.path(), &["--untaught"]), "one link teaches nothing");
    // Every report links the lens, and none the torch.
    let report = |at: usize| {
        let lens = if at < 360 { "<a href=lens.html>Barlow lens</a>" } else { "Barlow lens" };
        let text = format!(
            "<html lang=en><title>Evening {at}</title><p>On evening {at} the red torch was as good as on all others \
             before it.</p><p>We looked at number {at} with a {lens} that was new to us, and then went home.</p>"
        );
        (format!("evening {at}.html"), text)
    };
    let reports: Vec<_> = (0..362).map(report).collect();
    let mut files: Vec<(&str, &str)> = reports.iter().map(|(path, text)| (path.as_str(), text.as_str())).collect();
    files.push(("lens.html", "<html lang=en><title>Barlow lens</title><p>It doubles.</p>"));
    files.push(("torch.html", "<html lang=en><title>Red torch</title><p>For your eyes.</p>"));
    let folder = support::folder(&files);
    let lead = |more: &[&str]| {
        let rows = rows(folder.path(), &[&["--limit", "5"], more].concat());
        let to = |target: &str| {
            let row = rows.iter().find(|row| row["source"] == "evening 361.html" && row["target"] == target);
            row.map_or(0.0, |row| row["fit"].as_f64().unwrap())
        };
        to("lens.html") - to("torch.html")
    };
    let (before, after) = (lead(&["--untaught"]), lead(&[]));
    assert!(after > before, "the lens comes before the torch by {after}, without its site's habits by {before}");
}

#[test]
fn what_cannot_be_read_is_said() {
    let folder = folder(&[("index.html", "<p>x</p>"), ("weights.txt", "features 3\n")]);
    let says = |output: Output| {
        assert!(!output.status.success());
        String::from_utf8(output.stderr).unwrap()
    };
    assert!(says(openings(&folder.path().join("nowhere"), &[])).contains("nowhere"));
    let weights = folder.path().join("weights.txt");
    let message = says(openings(folder.path(), &["--weights", weights.to_str().unwrap()]));
    assert!(message.contains("the weights cannot be understood"), "{message}");
    assert!(rows(folder.path(), &[]).is_empty(), "a page alone has nowhere to lead");
}
