//! The project's commands. `demo` and `test` do everything on a fresh machine.

mod demo;
mod dev;
mod edge;
mod postgres;
mod process;
mod proof;
mod quality;
mod reach;
mod real;
mod rules;
mod run_tests;
mod setup;
mod types;
mod web;

use std::process::ExitCode;

use anyhow::bail;

const HELP: &str = "cargo xtask COMMAND

  demo [--fresh] [--port N]   install what is missing, build, start everything with demo data, print the address
  demo --site PLACE [--write] the same with a site of your own beside: a folder (read only unless --write), an address,
                              or an archive
  test [ARGS...]              the same set-up, then all checks and tests; ARGS go to cargo test instead of the checks
  dev                         the demo with the interface from Vite, reloading while you edit
  prove FOLDER...             try edits of all kinds on every page of the folders and let other parsers judge them
  bench FOLDER...             measure reading, editing and surveying on the pages of the folders
  bench reach                 measure what is worked out of a large graph, beside igraph, and plans of rescue; write
                              docs/reach.md
  bench edge                  measure pages that pass through an edge, with rules and as they come; write docs/edge.md
  bench rules                 measure phrases of many rules found in manuals, beside aho-corasick; write docs/rules.md
  generate-site FOLDER PAGES  write a made-up site of so many pages, for measuring
  real                        read manuals from Debian's packages as sites and write docs/real-sites.md
  train                       train the judge of openings on documentation sites and write its weights
  judge                       let the evaluation judge it on sites that it did not see, and write docs/quality.md
  types                       renew what is generated: checked queries, OpenAPI document, TypeScript types";

/// What went wrong is said in a sentence.
fn main() -> ExitCode {
    match run() {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("{error:#}");
            ExitCode::FAILURE
        }
    }
}

fn run() -> anyhow::Result<()> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let (command, rest) = arguments.split_first().map_or(("", &[][..]), |(first, rest)| (first.as_str(), rest));
    match command {
        "demo" => demo::run(rest),
        "dev" => dev::run(rest),
        "test" => run_tests::run(rest),
        "prove" => proof::prove(rest),
        "bench" => proof::bench(rest),
        "generate-site" => proof::generate_site(rest),
        "real" => real::run(),
        "train" => quality::train(),
        "judge" => quality::judge(),
        "types" => types::run(),
        "" | "help" | "--help" | "-h" => {
            println!("{HELP}");
            Ok(())
        }
        other => bail!("there is no command “{other}”\n\n{HELP}"),
    }
}
