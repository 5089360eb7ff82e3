//! `prove FOLDER…`: tries edits on every page of the folders and prints what held.

use std::path::PathBuf;

use anyhow::bail;
use strelm_proof::documents::{generated, prove_all, prove_folder, prove_torn, tree_construction};
use strelm_proof::html::Effort;

const EFFORT: Effort = Effort { spans: 16, others: 3 };
const GENERATED: u64 = 4000;
/// Torn versions of each page.
const TORN: u64 = 2;

fn main() -> anyhow::Result<()> {
    let folders: Vec<PathBuf> = std::env::args_os().skip(1).map(PathBuf::from).collect();
    if folders.is_empty() {
        bail!("name the folders with pages to prove edits on");
    }
    let mut violations = 0;
    for folder in folders {
        println!("{}", folder.display());
        let report = prove_folder(&folder, EFFORT, usize::MAX)?;
        report.print();
        violations += report.violations;
        println!("{}, torn", folder.display());
        let report = prove_torn(&folder, EFFORT, TORN, usize::MAX)?;
        report.print();
        violations += report.violations;
    }
    println!("generated pages");
    let pages: Vec<_> = (0..GENERATED).map(|seed| generated(&mut fastrand::Rng::with_seed(seed))).collect();
    let report = prove_all("generated", &pages, EFFORT);
    report.print();
    violations += report.violations;
    println!("documents of html5lib's tests of tree construction");
    let tests = PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("tests/tree-construction");
    let report = prove_all("tree construction", &tree_construction(&tests)?, EFFORT);
    report.print();
    violations += report.violations;
    if violations > 0 {
        bail!("{violations} violations");
    }
    Ok(())
}
