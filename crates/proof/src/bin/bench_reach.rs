//! `bench_reach [EDGES]`: what is worked out of the graph of a large made-up site, and plans of rescue on made-up sites, as
//! lines of values with tabs between them. With a file named, the roads are written there as lines of two numbers, for
//! programs to compare with.

use std::io::Write;
use std::time::Instant;

use strelm_core::plan::rescue::{Audience, Better, Candidate, Problem, RescueLimits, plain, solve};
use strelm_core::reach::{
    Dominators, Equity, EquityRules, Snapshot, Strength, Ways, islands, strong_components, threads,
};
use strelm_core::site::PageId;

const PAGES: u32 = 100_000;
const LINKS: usize = 5_000_000;
const ROUNDS: usize = 5;

fn main() -> anyhow::Result<()> {
    let links = power_law(PAGES, LINKS, 7);
    let snapshot = timed("snapshot", || snapshot_of(PAGES, &links));
    println!("graph\t{}\t{}", snapshot.len(), snapshot.roads().len());
    if let Some(file) = std::env::args_os().nth(1) {
        let mut out = std::io::BufWriter::new(std::fs::File::create(file)?);
        for from in snapshot.numbers() {
            snapshot.roads().ends(from).iter().try_for_each(|to| writeln!(out, "{from} {to}"))?;
        }
        out.flush()?;
    }
    let reversed = timed("roads by where they lead", || snapshot.roads().reversed());
    let ways = timed("depths", || Ways::of(&snapshot));
    timed("components", || strong_components(snapshot.roads(), |_| true).1);
    let dominators = timed("dominators", || Dominators::of(&snapshot, &reversed));
    timed("thread pages", || threads(&snapshot, &reversed, &dominators).len());
    timed("islands", || islands(&snapshot, &ways).len());
    timed("equity", || {
        Equity::of(&snapshot, &reversed, EquityRules { content: 1.0, ..EquityRules::default() }).share(0)
    });
    for (pages, lost) in [(1_000, 150), (10_000, 1_000), (10_000, 4_000)] {
        plan(pages, lost);
    }
    Ok(())
}

/// The best of some rounds.
fn timed<T>(what: &str, run: impl Fn() -> T) -> T {
    let mut best = f64::MAX;
    let mut last = None;
    for _ in 0..ROUNDS {
        let start = Instant::now();
        last = Some(std::hint::black_box(run()));
        best = best.min(start.elapsed().as_secs_f64());
    }
    println!("time\t{what}\t{:.1}", best * 1000.0);
    last.unwrap_or_else(run)
}

/// Links of which a page gets the more the more it has: most pages have few.
fn power_law(pages: u32, links: usize, seed: u64) -> Vec<(u32, u32)> {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut skewed = |power: f64| ((random.f64().powf(power)) * f64::from(pages)) as u32 % pages;
    (0..links).map(|_| (skewed(1.6), skewed(2.5))).collect()
}

fn snapshot_of(pages: u32, links: &[(u32, u32)]) -> Snapshot {
    let mut of: Vec<Vec<u32>> = vec![Vec::new(); pages as usize];
    links.iter().for_each(|(from, to)| of[*from as usize].push(*to));
    Snapshot::new((0..pages).map(PageId).collect(), [PageId(0)], |page, roads| {
        roads.extend(of[page.0 as usize].iter().map(|to| (PageId(*to), Strength::CONTENT)));
    })
}

/// As long as an editor waits.
struct TwoSeconds(Instant);

impl Audience for TwoSeconds {
    fn goes_on(&mut self) -> bool {
        self.0.elapsed().as_secs_f64() < 2.0
    }

    fn hears(&mut self, _: Better<'_>) {}
}

/// A site whose last pages nobody links to but, now and then, others of them; openings stand on pages that also have some for
/// others.
fn plan(pages: u32, lost: u32) {
    let mut random = fastrand::Rng::with_seed(u64::from(pages + lost));
    let known = pages - lost;
    let mut links: Vec<(u32, u32)> = (1..known).map(|page| (random.u32(..page), page)).collect();
    links.extend((0..known * 5).map(|_| (random.u32(..known), random.u32(..known))));
    links.extend((0..lost / 2).map(|_| (known + random.u32(..lost), known + random.u32(..lost))));
    let snapshot = snapshot_of(pages, &links);
    let wanted: Vec<u32> = (known..pages).collect();
    let mut candidates = Vec::new();
    for to in &wanted {
        for _ in 0..random.u32(1..12) {
            let from = (random.f64().powf(2.0) * f64::from(known)) as u32;
            candidates.push(Candidate {
                from,
                to: *to,
                sentence: random.u32(..30),
                cost: random.f32(),
                fixed: false,
                offer: 0,
            });
        }
    }
    let limits = RescueLimits { depth: 12, links_in: 1, per_page: 5, pairs: true };
    let problem = Problem::new(&snapshot, limits, wanted, candidates);
    let greedy = plain(&problem);
    let start = Instant::now();
    let plan = solve(&problem, &mut TwoSeconds(start));
    let seconds = start.elapsed().as_secs_f64();
    println!(
        "plan\t{pages}\t{lost}\t{}\t{}\t{}\t{}\t{}\t{}\t{seconds:.1}",
        problem.candidates().len(),
        greedy.helped,
        greedy.edited,
        plan.worth.helped,
        plan.worth.edited,
        plan.least_edited,
    );
}
