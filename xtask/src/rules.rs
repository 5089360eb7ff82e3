//! `cargo xtask bench rules`: phrases of many rules found in manuals, beside aho-corasick with the same phrases. Writes
//! docs/rules.md.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::fs;
use std::process::Command;

use anyhow::Context;

use crate::process::{output, root, run_shown, target};
use crate::real;

/// Whose text is looked through.
const MANUALS: [&str; 6] = ["postgresql", "python", "django", "git", "sqlite", "cmake"];

pub fn bench() -> anyhow::Result<()> {
    let build = ["build", "--release", "--quiet", "-p", "strelm-proof", "--bin", "bench_rules"];
    run_shown(Command::new("cargo").args(build).current_dir(root()))?;
    let folders = MANUALS.iter().map(|name| real::folder_of(name)).collect::<anyhow::Result<Vec<_>>>()?;
    let told = page(&output(Command::new(target().join("release/bench_rules")).args(folders))?)?;
    fs::write(root().join("docs/rules.md"), &told)?;
    println!("{told}");
    Ok(())
}

/// What was measured, by what it is and how many rules there were: the milliseconds, and how much was found.
type Measured<'l> = BTreeMap<(&'l str, &'l str), (f64, &'l str)>;

fn page(lines: &str) -> anyhow::Result<String> {
    let mut measured = Measured::new();
    let (mut pages, mut bytes) = ("", 0.0);
    for line in lines.lines() {
        match line.split('\t').collect::<Vec<_>>()[..] {
            ["text", of, size] => (pages, bytes) = (of, size.parse::<f64>()? / 1e6),
            [what, rules, time] => drop(measured.insert((what, rules), (time.parse()?, ""))),
            [what, rules, time, found] => drop(measured.insert((what, rules), (time.parse()?, found))),
            _ => anyhow::bail!("it tells {line}"),
        }
    }
    let of = |what, rules| measured.get(&(what, rules)).copied().context(what);
    let mut page = format!(
        "# Auto-linking rules, measured\n\n`cargo xtask bench rules` measures with the release build and writes this. {bytes:.1} \
         million bytes of text on {pages} pages of manuals ({}); phrases out of that text, one for each rule: three in ten are \
         a long word, five two words, two three; four in five also mean other forms of their words. The best of five rounds, in \
         milliseconds, on one core.\n\n\
         | rules | put together | aho-corasick, the same phrases | phrases found | beside aho-corasick | links chosen, with all \
         limits |\n|--:|--:|--:|--:|--:|--:|\n",
        MANUALS.join(", ")
    );
    for rules in ["5000", "50000"] {
        let (built, (other, _)) = (of("built", rules)?.0, of("aho-corasick", rules)?);
        let ((found, places), (applied, links)) = (of("found", rules)?, of("applied", rules)?);
        writeln!(
            page,
            "| {rules} | {built:.0} | {other:.0} | {found:.0} ({places} places) | {:.2} × | {applied:.0} ({links} links) |",
            found / other
        )?;
    }
    let growth = of("found", "50000")?.0 / of("found", "5000")?.0;
    writeln!(
        page,
        "\nWanted: at most 2.5 × the pass of aho-corasick with 5,000 rules. 50,000 rules take {growth:.2} × the time of 5,000 \
         (wanted: at most 1.5 ×).\n\nThat pass knows neither words nor forms: it finds bytes, in whatever word."
    )?;
    Ok(page)
}
