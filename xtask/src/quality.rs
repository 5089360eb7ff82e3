//! Training the judge of openings, and letting the evaluation judge it. Both need the evaluation's folder beside the
//! checkout, Python, and the network for documentation packages.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Instant;

use anyhow::Context;

use crate::process::{output, root, run_shown};

/// Sites that are judged; each is left out of the training by which it is judged.
const JUDGED: [&str; 3] = ["postgresql", "apache", "libreoffice"];

const FURTHER: [&str; 23] = [
    "sqlite",
    "django",
    "git",
    "postfix",
    "exim",
    "gimp",
    "handbook",
    "handbook-fr",
    "grass",
    "cmake",
    "octave",
    "libreoffice-de",
    "apache-fr",
    "gnucash",
    "slony",
    "sphinx",
    "lilypond",
    "python",
    "policy",
    "libreoffice-fr",
    "gimp-de",
    "gnucash-de",
    "lilypond-fr",
];

/// Sites that are left out one after the other, to see what a fit promises on a site that was not learnt from.
const STRANGERS: [&str; 8] = ["postgresql", "apache", "libreoffice", "django", "git", "gimp", "handbook", "sqlite"];

const SEEDS: [&str; 3] = ["1", "2", "3"];

/// Between these lines of docs/quality.md stand the figures of the latest judgement.
const BEGIN: &str = "<!-- figures begin -->";
const END: &str = "<!-- figures end -->";

/// `cargo xtask train`: trains on all sites and writes the weights that ship.
pub fn train() -> anyhow::Result<()> {
    let bench = Bench::set_up()?;
    let weights = root().join("crates/core/src/openings/weights.txt");
    let mut arguments = vec!["--out".to_owned(), weights.display().to_string()];
    arguments.extend(left_out(&STRANGERS));
    run_shown(&mut bench.training(&arguments))?;
    let trees = fs::read_to_string(&weights)?;
    let record = format!("# Trained by cargo xtask train on {}, {}.\n", JUDGED.join(", "), FURTHER.join(", "));
    fs::write(weights, record + &trees)?;
    Ok(())
}

/// `cargo xtask judge`: trains without each of the judged sites, and writes docs/quality.md.
pub fn judge() -> anyhow::Result<()> {
    let bench = Bench::set_up()?;
    let weights = bench.work.join("weights");
    fs::create_dir_all(&weights)?;
    let mut arguments = vec!["--weights-to".to_owned(), weights.display().to_string()];
    arguments.extend(left_out(&STRANGERS));
    let learnt = output(&mut bench.training(&arguments))?;
    run_shown(
        Command::new("cargo")
            .args(["build", "--release", "--quiet", "-p", "strelm-server", "--bin", "strelm"])
            .current_dir(root()),
    )?;
    let program = root().join("target/release/strelm");
    let mut table = String::new();
    for seed in SEEDS {
        for name in JUDGED {
            let file = weights.join(format!("{name}.txt"));
            let command =
                format!("{} openings {{site}} --jsonl --limit 50 --weights {}", program.display(), file.display());
            let mut run = bench.python("run.py");
            run.args(["--no-baselines", "--corpora", name, "--name", "strelm", "--seed", seed, "--cmd", &command]);
            let lines = output(&mut run)?;
            for line in lines.lines().filter(|line| line.contains("| strelm |")) {
                println!("seed {seed} {line}");
                table.push_str(&format!("| {seed} {line}\n"));
            }
        }
    }
    let speed = bench.speed(&program, &weights.join("postgresql.txt"))?;
    write_figures(&table, &learnt, &speed)
}

/// Means of what the evaluation says of all sites and seeds, as a table.
fn means(rows: &str) -> String {
    let mut table = "\n| all sites and seeds | r@10 | p@5 | in@10 | span |\n|---|---|---|---|---|\n".to_owned();
    for mode in ["warm", "cold"] {
        let of_mode = |row: &&Vec<&str>| row.get(2).is_some_and(|cell| *cell == mode);
        let cells: Vec<Vec<&str>> =
            rows.lines().map(|line| line.trim_matches('|').split('|').map(str::trim).collect()).collect();
        let of_mode: Vec<_> = cells.iter().filter(of_mode).collect();
        // Where the evaluation has them in its rows, after seed, site, mode and name.
        let mean = |column: usize| {
            let values = of_mode.iter().filter_map(|row| row.get(column)?.parse::<f64>().ok());
            values.sum::<f64>() / of_mode.len().max(1) as f64
        };
        let [recall, precision, inbound, span] = [5, 7, 10, 8].map(mean);
        table.push_str(&format!("| {mode} | {recall:.3} | {precision:.3} | {inbound:.3} | {span:.3} |\n"));
    }
    table
}

fn left_out(names: &[&str]) -> Vec<String> {
    names.iter().flat_map(|name| ["--without".to_owned(), (*name).to_owned()]).collect()
}

/// `learnt` is what the training printed: its own figures with and without each part, and what fits turned out to be.
fn write_figures(rows: &str, learnt: &str, speed: &str) -> anyhow::Result<()> {
    let file = root().join("docs/quality.md");
    let text = fs::read_to_string(&file).context("docs/quality.md is missing")?;
    let (before, rest) = text.split_once(BEGIN).context("docs/quality.md has no place for figures")?;
    let (_, after) = rest.split_once(END).context("docs/quality.md has no end of its figures")?;
    let head = "| seed | site | mode | | r@5 | r@10 | mrr | p@5 | span | text | in@10 | any | pool | s | |\n\
                |---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|\n";
    let parts: String =
        learnt.lines().filter(|line| line.starts_with("| mean")).map(|line| format!("{line}\n")).collect();
    let promised = learnt.split_once("| promised").map(|(_, rows)| format!("| promised{rows}")).unwrap_or_default();
    let parts_head = "\n| all that is left out of the training in turn | mode | r@10 | p@5 | in@10 | words | pool |\n\
                      |---|---|---|---|---|---|---|\n";
    fs::write(
        file,
        format!(
            "{before}{BEGIN}\n{head}{rows}{}{parts_head}{parts}\n{}\n\n{speed}\n{END}{after}",
            means(rows),
            promised.trim_end()
        ),
    )?;
    Ok(())
}

/// The evaluation, its sites, and where it works.
struct Bench {
    harness: PathBuf,
    work: PathBuf,
    python: PathBuf,
}

impl Bench {
    fn set_up() -> anyhow::Result<Self> {
        let harness = root().join("../shared/eval");
        anyhow::ensure!(harness.join("run.py").exists(), "the evaluation is not in {}", harness.display());
        let work = root().join(".strelm/eval");
        fs::create_dir_all(&work)?;
        let venv = work.join("venv");
        let python = venv.join("bin/python");
        if !python.exists() {
            run_shown(Command::new("python3").args(["-m", "venv"]).arg(&venv))?;
            // What the evaluation's embeddings need is large, and nothing here uses it.
            let needed = ["numpy", "scipy", "scikit-learn", "snowballstemmer"];
            run_shown(Command::new(venv.join("bin/pip")).args(["install", "--quiet"]).args(needed))?;
        }
        let bench = Self { harness, work, python };
        let script = root().join("xtask/src/sites.py");
        let mut fetch = Command::new(&bench.python);
        fetch.arg(script).arg(&bench.harness).args(JUDGED).args(FURTHER);
        run_shown(fetch.env("EVAL_WORK", &bench.work))?;
        Ok(bench)
    }

    fn python(&self, script: &str) -> Command {
        let mut command = Command::new(&self.python);
        command.arg(script).current_dir(&self.harness).env("EVAL_WORK", &self.work).stderr(Stdio::inherit());
        command
    }

    /// How long a common method of the evaluation takes for a whole site, and how long we do.
    fn speed(&self, program: &Path, weights: &Path) -> anyhow::Result<String> {
        let mut run = self.python("run.py");
        run.args(["--corpora", "postgresql", "--modes", "cold", "--baselines", "dict+tfidf"]);
        let lines = output(&mut run)?;
        let line = lines.lines().find(|line| line.contains("| dict+tfidf |")).context("dict+tfidf was not run")?;
        let cells: Vec<&str> = line.trim_matches('|').split('|').map(str::trim).collect();
        let common: f64 = cells.get(12).and_then(|cell| cell.parse().ok()).context("no seconds of dict+tfidf")?;
        let site = self.work.join("tests/postgresql/cold/site");
        let mut command = Command::new(program);
        command.arg("openings").arg(site).args(["--jsonl", "--limit", "50", "--weights"]).arg(weights);
        let start = Instant::now();
        run_shown(command.stdout(Stdio::null()))?;
        let ours = start.elapsed().as_secs_f64();
        Ok(format!(
            "PostgreSQL's pages, all at once: dict+tfidf {common:.0} s, strelm {ours:.2} s: {:.1} times as fast.",
            common / ours
        ))
    }

    fn training(&self, arguments: &[String]) -> Command {
        let site = |name: &&str| -> PathBuf { Path::new(&self.work).join("sites").join(name).join("site") };
        let mut command = Command::new("cargo");
        command.args(["run", "--release", "--quiet", "-p", "strelm-train", "--bin", "train", "--"]).args(arguments);
        command.args(JUDGED.iter().chain(&FURTHER).map(site)).current_dir(root()).stderr(Stdio::inherit());
        command
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn means_are_of_the_columns_that_their_heads_name() {
        // As the evaluation prints them: r@5, r@10, mrr, p@5, span, text, in@10, any, pool, seconds.
        let rows = "| 1 | one | warm | strelm | 0.1 | 0.8 | 0.2 | 0.4 | 0.7 | 0.3 | 0.9 | 1.0 | 0.5 | 4 |  |\n\
                    | 1 | one | cold | strelm | 0.1 | 0.5 | 0.2 | 0.2 | 0.6 | 0.3 | 0.7 | 1.0 | 0.5 | 4 |  |\n\
                    | 2 | two | warm | strelm | 0.1 | 0.6 | 0.2 | 0.2 | 0.5 | 0.3 | 0.8 | 1.0 | 0.5 | 4 |  |\n";
        let table = means(rows);
        let lines: Vec<_> = table.lines().collect();
        assert_eq!(lines[1], "| all sites and seeds | r@10 | p@5 | in@10 | span |");
        assert_eq!(
            lines[3..],
            ["| warm | 0.700 | 0.300 | 0.850 | 0.600 |", "| cold | 0.500 | 0.200 | 0.700 | 0.600 |"]
        );
    }

    #[test]
    fn what_is_judged_is_left_out_of_its_training_and_is_one_of_the_sites() {
        assert!(JUDGED.iter().all(|name| STRANGERS.contains(name)));
        assert!(STRANGERS.iter().all(|name| JUDGED.contains(name) || FURTHER.contains(name)));
        assert_eq!(left_out(&["one", "two"]), ["--without", "one", "--without", "two"]);
    }
}
