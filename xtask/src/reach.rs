//! `cargo xtask bench reach`: what is worked out of a large graph beside python-igraph on the same one, and plans of rescue on
//! made-up sites and manuals. Writes docs/reach.md.

use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::fs;
use std::path::PathBuf;
use std::process::Command;

use anyhow::Context;

use crate::process::{output, root, run_shown, target};
use crate::real;

/// What both work out, as it is called in the lines and in the table.
const COMPARED: [(&str, &str); 4] = [
    ("depths", "click depths and shortest ways"),
    ("components", "strong components"),
    ("dominators", "dominators"),
    ("equity", "link equity to 1e-9"),
];

/// What else is worked out of the snapshot.
const OURS: [(&str, &str); 4] = [
    ("snapshot", "the snapshot itself, from lists of links"),
    ("roads by where they lead", "roads by where they lead"),
    ("thread pages", "thread pages"),
    ("islands", "islands"),
];

/// Manuals on which plans are made, with the links in that are asked for.
const MANUALS: [(&str, &str); 5] =
    [("aptitude-ja", "1"), ("node", "3"), ("zsh", "3"), ("sqlite", "4"), ("postgresql", "8")];

pub fn bench() -> anyhow::Result<()> {
    let build = ["build", "--release", "--quiet", "-p", "strelm-server", "-p", "strelm-proof", "--bins"];
    run_shown(Command::new("cargo").args(build).current_dir(root()))?;
    let python = python()?;
    let roads = target().join("roads.txt");
    let ours = output(Command::new(target().join("release/bench_reach")).arg(&roads))?;
    let of_graph = |at: usize| {
        let line = ours.lines().find_map(|line| line.strip_prefix("graph\t"));
        line.and_then(|line| line.split('\t').nth(at)).unwrap_or_default().to_owned()
    };
    let script = root().join("xtask/src/beside_igraph.py");
    let theirs = output(Command::new(python).arg(script).arg(&roads).arg(of_graph(0)))?;
    fs::remove_file(&roads)?;
    let told = page(&ours, &theirs, &of_graph)?;
    fs::write(root().join("docs/reach.md"), &told)?;
    println!("{told}");
    Ok(())
}

/// A Python that has igraph.
fn python() -> anyhow::Result<PathBuf> {
    let venv = root().join(".strelm/igraph");
    let python = venv.join("bin/python");
    if !python.exists() {
        run_shown(Command::new("python3").args(["-m", "venv"]).arg(&venv))?;
        run_shown(Command::new(venv.join("bin/pip")).args(["install", "--quiet", "igraph"]))?;
    }
    Ok(python)
}

fn times(lines: &str) -> BTreeMap<&str, f64> {
    let time = |line| {
        let mut parts = str::strip_prefix(line, "time\t")?.split('\t');
        Some((parts.next()?, parts.next()?.parse().ok()?))
    };
    lines.lines().filter_map(time).collect()
}

fn page(ours: &str, theirs: &str, of_graph: &impl Fn(usize) -> String) -> anyhow::Result<String> {
    let mut page = format!(
        "# Reach and rescue, measured\n\n`cargo xtask bench reach` measures with the release build and writes this.\n\n\
         ## A graph of {} pages and {} roads\n\nDegrees follow a power law; the best of five rounds, in milliseconds, on one \
         core, beside python-igraph on the same roads.\n\n| | Strelm | igraph | of igraph's time |\n|---|--:|--:|--:|\n",
        of_graph(0),
        of_graph(1)
    );
    let (mine, other) = (times(ours), times(theirs));
    let (mut sum, mut sum_of_other) = (0.0, 0.0);
    for (key, name) in COMPARED {
        let (mine, other) = (mine.get(key).context(key)?, other.get(key).context(key)?);
        sum += mine;
        sum_of_other += other;
        writeln!(page, "| {name} | {mine:.0} | {other:.0} | {:.0} % |", 100.0 * mine / other)?;
    }
    writeln!(
        page,
        "| **together** (wanted: at most 50 %) | **{sum:.0}** | **{sum_of_other:.0}** | **{:.0} %** |",
        100.0 * sum / sum_of_other
    )?;
    for (key, name) in OURS {
        writeln!(page, "| {name} | {:.0} | | |", mine.get(key).context(key)?)?;
    }
    page.push_str(
        "\n## Plans on made-up sites\n\nPages that nobody links to, but now and then others of them; at most 12 clicks, five \
         new links on a page. A plan is looked for for two seconds.\n\n\
         | pages | to be helped | openings | page by page: helped, edited | planned: helped, edited | at least edited | s |\n\
         |--:|--:|--:|--:|--:|--:|--:|\n",
    );
    for plan in ours.lines().filter_map(|line| line.strip_prefix("plan\t")) {
        let parts: Vec<&str> = plan.split('\t').collect();
        let [pages, lost, openings, by_page, edited_by_page, helped, edited, least, seconds] = parts[..] else {
            anyhow::bail!("a plan is told as {plan}");
        };
        writeln!(
            page,
            "| {pages} | {lost} | {openings} | {by_page}, {edited_by_page} | {helped}, {edited} | {least} | {seconds} |"
        )?;
    }
    page.push_str(
        "\nThe bound counts only links that are lacking, each page with its best links; it holds for all plans that help as many \
         pages.\n\nOn 1,000 random sites of up to eight pages and twelve openings, each plan is compared with every set of \
         links (`crates/core/tests/properties/rescue.rs`): the best, always; without the search to the end, which only few \
         openings allow, at most 1 % more pages are edited, and one site of 1,000 helps one page less.\n\n## Plans on \
         manuals\n\n`strelm rescue` with openings of fit 30 and more, at most 4 clicks and three new links on a page.\n\n\
         | manual | links in | to be helped | page by page: helped, edited | planned: helped, links, edited | at least edited \
         |\n|---|--:|--:|--:|--:|--:|\n",
    );
    for (name, links_in) in MANUALS {
        let folder = real::folder_of(name)?;
        let mut command = Command::new(target().join("release/strelm"));
        command.arg("rescue").arg(folder).args(["--links-in", links_in]);
        let told = command.output().context("the rescue cannot be started")?;
        let told = String::from_utf8_lossy(&told.stderr).into_owned();
        writeln!(page, "| {name} | {links_in} | {} |", row(&told).with_context(|| format!("{name} tells {told}"))?)?;
    }
    Ok(page)
}

/// The figures that a rescue tells: to be helped; helped and edited page by page; helped, links and edited by plan; at least
/// edited.
fn row(told: &str) -> Option<String> {
    let numbers = |line: &str| -> Vec<u32> {
        line.split(|c: char| !c.is_ascii_digit()).filter_map(|part| part.parse().ok()).collect()
    };
    let mut lines = told.lines();
    let first = lines.next()?;
    let (asked, helped, links, edited, least) = match numbers(first)[..] {
        [asked, helped, links, edited] => (asked, helped, links, edited, edited),
        [asked, helped, links, edited, least] => (asked, helped, links, edited, least),
        [asked] => (asked, 0, 0, 0, 0),
        _ => return None,
    };
    let by_page = lines.next().filter(|line| line.starts_with("page by page")).map(numbers);
    let (by_page, edited_by_page) = match by_page.as_deref() {
        Some([helped, edited]) => (*helped, *edited),
        _ => (helped, edited),
    };
    Some(format!("{asked} | {by_page}, {edited_by_page} | {helped}, {links}, {edited} | {least}"))
}
