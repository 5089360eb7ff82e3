//! The program to whoever runs it: what went wrong is a sentence, a closed pipe is no error, and a log in a file has no
//! colours.

#![allow(clippy::unwrap_used)]

mod support;

use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};

use self::support::folder;

fn strelm(arguments: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_strelm"));
    command.args(arguments).env("RUST_BACKTRACE", "1").env_remove("STRELM_DATABASE").current_dir(std::env::temp_dir());
    command
}

#[test]
fn what_went_wrong_is_a_sentence_and_no_stack() {
    let missing = ["config", "--config", "/nowhere/strelm.toml"];
    for arguments in [&["work"][..], &["survey", "/nowhere/at/all"], &missing] {
        let output = strelm(arguments).output().unwrap();
        let said = String::from_utf8(output.stderr).unwrap();
        assert!(!output.status.success() && said.starts_with("strelm: ") && said.lines().count() == 1, "{said}");
    }
}

#[test]
fn whoever_has_read_enough_may_close_the_pipe() {
    let pages: Vec<(String, String)> = (0..3000)
        .map(|number| {
            (format!("page-{number}.html"), format!("<title>Page {number}</title><a href=no-{number}.html>x</a>"))
        })
        .collect();
    let pages: Vec<(&str, &str)> = pages.iter().map(|(name, text)| (name.as_str(), text.as_str())).collect();
    let folder = folder(&pages);
    let path = folder.path().to_str().unwrap();
    for arguments in [&["survey", path, "--entry", "page-0.html", "--json"][..], &["openings", path, "--jsonl"]] {
        let mut child = strelm(arguments).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut first = String::new();
        BufReader::with_capacity(16, child.stdout.take().unwrap()).read_line(&mut first).unwrap();
        // The pipe is closed here, with nearly all of it unread.
        let output = child.wait_with_output().unwrap();
        assert!(output.status.success() && output.stderr.is_empty(), "{}", String::from_utf8_lossy(&output.stderr));
    }
}

#[test]
fn a_log_that_is_no_terminal_has_no_colours() {
    // A database that is not there, so that the program ends after its first words.
    let mut command = strelm(&["work"]);
    command.env("STRELM_DATABASE", "postgres://nobody@127.0.0.1:1/nothing").env("STRELM_LOG", "text,trace");
    let output = command.output().unwrap();
    let said = String::from_utf8_lossy(&output.stderr).into_owned();
    assert!(said.contains("TRACE") || said.contains("DEBUG"), "{said}");
    assert!(!said.contains('\u{1b}'), "{said}");
}
