//! Documents to prove edits on: the pages of a folder, the documents of the html5lib tests, and generated ones.

use std::path::{Path, PathBuf};

use fastrand::Rng;
use rayon::iter::{IntoParallelIterator, IntoParallelRefIterator, ParallelIterator};

use crate::html::{self, Effort};
use crate::markdown;
use crate::report::Report;
use crate::torn::{torn, torn_markdown};

/// Larger files are left out: real pages are smaller, and each edit reads the page several times.
const LARGEST: u64 = 2_000_000;

/// Tries edits on every page of a folder, on all cores. `most` pages are taken, spread over the folder.
///
/// # Errors
/// When the folder cannot be read.
pub fn prove_folder(folder: &Path, effort: Effort, most: usize) -> anyhow::Result<Report> {
    let picked: Vec<_> = spread(folder, most)?.into_iter().enumerate().collect();
    let proved = picked.par_iter().filter_map(|(number, path)| {
        let text = String::from_utf8(std::fs::read(path).ok()?).ok()?;
        let name = path.strip_prefix(folder).unwrap_or(path).display().to_string();
        let seed = *number as u64;
        Some(match is_markdown(path) {
            true => markdown::prove(&name, &text, effort, seed),
            false => html::prove(&name, &text, effort, seed),
        })
    });
    Ok(proved.reduce(Report::default, Report::and))
}

/// Tries edits on torn versions of the pages of a folder, so many of each, on all cores. `most` pages are taken,
/// spread over the folder.
///
/// # Errors
/// When the folder cannot be read.
pub fn prove_torn(folder: &Path, effort: Effort, versions: u64, most: usize) -> anyhow::Result<Report> {
    let proved = spread(folder, most)?.into_par_iter().filter_map(|path| {
        let text = String::from_utf8_lossy(&std::fs::read(&path).ok()?).into_owned();
        let name = path.strip_prefix(folder).unwrap_or(&path).display();
        let of_version = |seed: u64| {
            let (name, mut random) = (format!("{name} torn {seed}"), Rng::with_seed(seed));
            match is_markdown(&path) {
                true => markdown::prove(&name, &torn_markdown(&text, &mut random), effort, seed),
                false => html::prove(&name, &torn(&text, &mut random), effort, seed),
            }
        };
        Some((0..versions).map(of_version).fold(Report::default(), Report::and))
    });
    Ok(proved.reduce(Report::default, Report::and))
}

/// The HTML pages of a folder.
///
/// # Errors
/// When the folder cannot be read.
pub fn read_folder(folder: &Path) -> anyhow::Result<Vec<String>> {
    let files = files(folder, is_html)?;
    let pages = files.iter().map(|path| Ok(String::from_utf8_lossy(&std::fs::read(path)?).into_owned()));
    pages.collect()
}

/// At most so many pages of a folder, from all over it.
fn spread(folder: &Path, most: usize) -> anyhow::Result<Vec<PathBuf>> {
    let files = files(folder, |path| is_html(path) || is_markdown(path))?;
    let step = files.len().div_ceil(most.max(1)).max(1);
    Ok(files.into_iter().step_by(step).collect())
}

fn files(folder: &Path, is_wanted: impl Fn(&Path) -> bool) -> anyhow::Result<Vec<PathBuf>> {
    let mut files = Vec::new();
    for entry in walkdir::WalkDir::new(folder).sort_by_file_name() {
        let entry = entry?;
        if entry.file_type().is_file() && is_wanted(entry.path()) && entry.metadata()?.len() <= LARGEST {
            files.push(entry.into_path());
        }
    }
    Ok(files)
}

fn is_html(path: &Path) -> bool {
    let name = path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
    // Some documentation sets name the language after the kind.
    name.ends_with(".html") || name.ends_with(".htm") || name.contains(".html.")
}

fn is_markdown(path: &Path) -> bool {
    path.extension().is_some_and(|extension| extension == "md")
}

/// The documents of html5lib's tests of tree construction: markup as broken as it gets.
///
/// # Errors
/// When the folder cannot be read.
pub fn tree_construction(folder: &Path) -> anyhow::Result<Vec<String>> {
    let mut documents = Vec::new();
    for entry in walkdir::WalkDir::new(folder).sort_by_file_name() {
        let entry = entry?;
        if entry.path().extension().is_none_or(|extension| extension != "dat") {
            continue;
        }
        let text = String::from_utf8_lossy(&std::fs::read(entry.path())?).into_owned();
        for test in text.split("#data\n").skip(1) {
            let data = test.split("\n#errors").next().unwrap_or_default();
            let is_whole = ["<html", "<head", "<body", "<!doctype", "<frameset"]
                .iter()
                .any(|start| data.to_ascii_lowercase().contains(start));
            documents.push(if is_whole { data.to_owned() } else { format!("<body>{data}") });
        }
    }
    Ok(documents)
}

/// A page of well and badly nested markup.
pub fn generated(random: &mut Rng) -> String {
    const WORDS: [&str; 14] = [
        "moon ",
        "R&amp;D ",
        "caf&eacute; ",
        "naïve\r\n ",
        "the long night ",
        "<br>",
        "<img src=x alt='a moon'>",
        "&notit; ",
        "<!-- note -->",
        "eyepiece, ",
        "of light. ",
        "&#8212; ",
        "\u{a0}x ",
        "5 < 6 ",
    ];
    const INLINE: [&str; 12] = [
        "em",
        "strong",
        "a href='/old'",
        "a href=/x class=y",
        "code",
        "span class=x",
        "button",
        "i",
        "b",
        "q",
        "label",
        "font",
    ];
    const BLOCKS: [&str; 15] = [
        "p",
        "h2",
        "li",
        "td",
        "div",
        "blockquote",
        "nav",
        "pre",
        "section",
        "ul",
        "table",
        "tr",
        "details",
        "summary",
        "dd",
    ];
    // Before the body a browser drops white space and moves comments.
    let mut out = "<body>".to_owned();
    let mut open: Vec<&str> = Vec::new();
    for _ in 0..random.usize(5..60) {
        match random.u8(0..10) {
            0..=5 => out.push_str(random.choice(WORDS).unwrap_or_default()),
            6 | 7 => {
                let tags = if random.u8(0..3) > 0 { &INLINE[..] } else { &BLOCKS[..] };
                let tag = random.choice(tags).copied().unwrap_or_default();
                out.push_str(&format!("<{tag}>"));
                open.push(tag.split(' ').next().unwrap_or_default());
            }
            8 => out.extend(open.pop().map(|tag| format!("</{tag}> "))),
            // Out of turn.
            _ => {
                let at = random.usize(0..open.len().max(1));
                out.extend(open.get(at).map(|tag| format!("</{tag}>")));
            }
        }
    }
    out
}

/// Tries edits on documents that are not pages of a folder, on all cores.
pub fn prove_all(name: &str, documents: &[String], effort: Effort) -> Report {
    let numbered: Vec<_> = documents.iter().enumerate().collect();
    let proved = numbered
        .par_iter()
        .map(|(number, text)| html::prove(&format!("{name} {number}"), text, effort, *number as u64));
    proved.reduce(Report::default, Report::and)
}
