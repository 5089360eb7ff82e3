//! Trains the judge of openings on folders of sites and says how well it finds links of a site that it did not see.

use std::path::{Path, PathBuf};

use anyhow::Context;
use strelm_core::openings::learning::PlaceRow;
use strelm_core::openings::learning::boost::{BoostSettings, train};
use strelm_core::openings::learning::example::Listed;
use strelm_core::openings::{Ensemble, EnsembleError, Part, Promise};
use strelm_train::calibration::calibration;
use strelm_train::hidden::{HiddenSite, Hide, hide, read};
use strelm_train::measure::{TrialFigures, measure, pairs, reliability};
use strelm_train::rows::rows;

/// Of places that are no links, so many are learnt from.
const ONE_IN: usize = 6;

/// Links of one site that count in full; those of larger ones count less, so that no site speaks for all.
const LINKS_A_SITE: f64 = 1500.0;

struct Known {
    name: String,
    variants: Vec<(Hide, HiddenSite, Vec<PlaceRow>)>,
}

/// A site with what was learnt without it, and what that promised on it.
struct Stranger {
    name: String,
    ensemble: Ensemble,
    /// With some of its links hidden, and with all.
    promised: Vec<Vec<(f32, bool)>>,
}

/// Fewer pairs of a site say nothing of a tenth.
const LEAST_PAIRS: usize = 10;

fn main() -> anyhow::Result<()> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let mut held_out: Vec<String> = Vec::new();
    let mut folders: Vec<PathBuf> = Vec::new();
    let mut out = None;
    let mut weights_to = None;
    let mut words = arguments.iter();
    while let Some(word) = words.next() {
        match word.as_str() {
            "--without" => held_out.extend(words.next().cloned()),
            "--weights-to" => weights_to = words.next().cloned(),
            "--out" => out = words.next().cloned(),
            folder => folders.push(PathBuf::from(folder)),
        }
    }
    let sites: Vec<Known> = folders.iter().map(|folder| known(folder)).collect::<Result<_, _>>()?;
    println!("| left out | mode | r@10 | p@5 | in@10 | words | pool |\n|---|---|---|---|---|---|---|");
    let mut means: Vec<(Hide, TrialFigures)> = Vec::new();
    let mut lesser: [Vec<(Hide, TrialFigures)>; 5] = Default::default();
    let mut tenths: Vec<[(usize, usize); 10]> = Vec::new();
    let mut strangers: Vec<Stranger> = Vec::new();
    for name in &held_out {
        let ensemble = learn(sites.iter().filter(|site| !alike(&site.name, name)))?;
        let mut promised = Vec::new();
        for site in sites.iter().filter(|site| site.name == *name) {
            for (hide, hidden, rows) in &site.variants {
                let figures = measure(hidden, rows, &ensemble);
                line(name, *hide, figures);
                means.push((*hide, figures));
                for part in Part::ALL {
                    lesser[part as usize].push((*hide, measure(hidden, rows, &ensemble.without(part))));
                }
                promised.push(pairs(hidden, rows, &ensemble));
            }
        }
        strangers.push(Stranger { name: name.clone(), ensemble, promised });
    }
    // Each is made to promise what is kept on the others.
    for one in &strangers {
        let ensemble = one.ensemble.promising(line_of(&strangers, |other| !alike(&other.name, &one.name)));
        for of_variant in &one.promised {
            let kept = of_variant.iter().map(|(odds, linked)| (ensemble.promise(odds - ensemble.bias()).0, *linked));
            tenths.push(reliability(kept));
        }
        if let Some(folder) = &weights_to {
            std::fs::write(Path::new(folder).join(format!("{}.txt", one.name)), ensemble.to_text())?;
        }
    }
    for hide in [Hide::Some, Hide::All] {
        mean("mean", hide, &means);
        for part in Part::ALL {
            mean(&format!("mean without {}", part.as_str()), hide, &lesser[part as usize]);
        }
    }
    if !held_out.is_empty() {
        print_reliability(&tenths);
    }
    if let Some(out) = out {
        let ensemble = learn(sites.iter())?;
        std::fs::write(&out, ensemble.promising(line_of(&strangers, |_| true)).to_text())?;
        println!("written to {out}");
    }
    Ok(())
}

/// What log-odds turn out to be on some of the sites that were left out.
fn line_of(strangers: &[Stranger], counts: impl Fn(&Stranger) -> bool) -> Vec<Promise> {
    let sets = strangers.iter().filter(|one| counts(one)).flat_map(|one| &one.promised);
    calibration(&sets.map(Vec::as_slice).collect::<Vec<_>>())
}

/// Prints how many pairs there are in each tenth of what was promised, and how many of them were linked: of all, and in
/// the mean of the sites.
fn print_reliability(of_sites: &[[(usize, usize); 10]]) {
    println!("\n| promised | pairs | linked by authors | mean of the sites |\n|---|---|---|---|");
    for tenth in 0..10 {
        let here: Vec<(usize, usize)> = of_sites.iter().map(|tenths| tenths[tenth]).collect();
        let share = |linked: usize, pairs: usize| 100.0 * linked as f64 / (pairs as f64).max(1.0);
        let (pairs, linked) = here.iter().fold((0, 0), |sum, one| (sum.0 + one.0, sum.1 + one.1));
        let shares: Vec<f64> = here
            .iter()
            .filter(|(pairs, _)| *pairs >= LEAST_PAIRS)
            .map(|(pairs, linked)| share(*linked, *pairs))
            .collect();
        let mean = shares.iter().sum::<f64>() / (shares.len() as f64).max(1.0);
        let all = share(linked, pairs);
        println!("| {}-{} % | {pairs} | {all:.0} % | {mean:.0} % |", tenth * 10, tenth * 10 + 10);
    }
}

/// Prints the mean of some sites' figures.
fn mean(name: &str, hide: Hide, all: &[(Hide, TrialFigures)]) {
    let of: Vec<_> = all.iter().filter(|(mode, _)| *mode == hide).map(|(_, figures)| figures).collect();
    if of.is_empty() {
        return;
    }
    let mean = |get: fn(&TrialFigures) -> f64| of.iter().map(|figures| get(figures)).sum::<f64>() / of.len() as f64;
    let figures = TrialFigures {
        recall_at_10: mean(|f| f.recall_at_10),
        precision_at_5: mean(|f| f.precision_at_5),
        inbound_at_10: mean(|f| f.inbound_at_10),
        words: mean(|f| f.words),
        pool: mean(|f| f.pool),
    };
    line(name, hide, figures);
}

/// Translations of one site are no strangers to each other.
fn alike(one: &str, other: &str) -> bool {
    let stem = |name: &str| name.split('-').next().unwrap_or_default().to_owned();
    stem(one) == stem(other)
}

fn line(name: &str, hide: Hide, figures: TrialFigures) {
    let mode = if hide == Hide::Some { "warm" } else { "cold" };
    let TrialFigures { recall_at_10, precision_at_5, inbound_at_10, words, pool } = figures;
    println!(
        "| {name} | {mode} | {recall_at_10:.3} | {precision_at_5:.3} | {inbound_at_10:.3} | {words:.3} | {pool:.3} |"
    );
}

fn known(folder: &Path) -> anyhow::Result<Known> {
    let named = if folder.ends_with("site") { folder.parent().unwrap_or(folder) } else { folder };
    let name = named.file_name().context("the folder has no name")?.to_string_lossy().into_owned();
    let pages = read(folder)?;
    let mut variants = Vec::new();
    for (mode, seed) in [(Hide::Some, 1), (Hide::All, 1)] {
        let hidden = hide(&pages, mode, seed)?;
        let rows = rows(&hidden);
        eprintln!("{name}: {} pages, {} hidden pairs, {} rows", pages.len(), hidden.hidden.len(), rows.len());
        variants.push((mode, hidden, rows));
    }
    Ok(Known { name, variants })
}

fn learn<'k>(sites: impl Iterator<Item = &'k Known>) -> Result<Ensemble, EnsembleError> {
    let mut examples = Vec::new();
    let variants = sites.flat_map(|site| &site.variants);
    for (variant, (_, _, rows)) in (0..).zip(variants) {
        let links = rows.iter().filter(|row| row.is_link).count() as f64;
        if links < 20.0 {
            continue;
        }
        let counts = (LINKS_A_SITE / links).min(1.0) as f32;
        let mut random = fastrand::Rng::with_seed(rows.len() as u64);
        for row in rows {
            if !row.is_pair && random.usize(..ONE_IN) > 0 {
                continue;
            }
            examples.push(row.example(counts, ONE_IN, Listed { variant, source: row.source.0, target: row.target.0 }));
        }
    }
    eprintln!("learning from {} mentions", examples.len());
    train(&examples, BoostSettings::default())
}
