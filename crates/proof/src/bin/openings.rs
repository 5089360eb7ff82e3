//! `openings PAGES…`: how long it takes to find the openings of made-up sites of so many pages, and how long one page
//! and one decision take after that.

use std::time::{Duration, Instant};

use anyhow::Context;
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::Language;
use strelm_core::openings::{AllWanted, Board, Corpus, Ensemble, Judge, Limits, Manners, OpeningIndex, Taste};
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Address, ChangeId, PageId, Site};
use strelm_proof::site::{corpus, page_gone_over};

/// Pages that are asked for one by one.
const ASKED: usize = 300;

/// Pages that are looked at between two changes of what is kept, as in the server.
const AT_ONCE: usize = 64;

fn main() -> anyhow::Result<()> {
    let sizes: Vec<usize> = std::env::args().skip(1).map(|size| size.parse()).collect::<Result<_, _>>()?;
    anyhow::ensure!(!sizes.is_empty(), "say how many pages the sites are to have");
    println!("| | {} |", sizes.iter().map(|size| format!("{size} pages")).collect::<Vec<_>>().join(" | "));
    println!("|---|{}", "---|".repeat(sizes.len()));
    let columns: Vec<Vec<(&str, String)>> = sizes.into_iter().map(measure).collect::<Result<_, _>>()?;
    let rows = columns.iter().map(Vec::len).max().unwrap_or_default();
    for row in 0..rows {
        let cells: Vec<_> = columns.iter().filter_map(|column| column.get(row)).collect();
        let name = cells.first().map_or("", |(name, _)| name);
        println!("| {name} | {} |", cells.iter().map(|(_, cell)| cell.as_str()).collect::<Vec<_>>().join(" | "));
    }
    Ok(())
}

fn measure(size: usize) -> anyhow::Result<Vec<(&'static str, String)>> {
    let start = Instant::now();
    let Corpus { mut site, mut book, .. } = corpus(size).context("the made-up site has no addresses")?;
    let read = start.elapsed();
    let ensemble = Ensemble::shipped()?;
    let pages: Vec<PageId> = site.pages().map(|page| page.id).collect();
    let text: usize = pages.iter().filter_map(|page| book.prose(*page)).map(|prose| prose.text().len()).sum();
    let (manners, limits) = (Manners::default(), Limits::default());
    let mut board = Board::default();
    let start = Instant::now();
    {
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        for some in pages.chunks(AT_ONCE) {
            let sitting = judge.sit();
            let found: Vec<_> =
                some.par_iter().map(|page| (*page, sitting.candidates(*page, OpeningIndex::MOST))).collect();
            found.into_iter().for_each(|(page, row)| board.put(page, row));
        }
    }
    let looked = start.elapsed();
    let start = Instant::now();
    board.settle(
        Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR },
        &AllWanted,
        manners,
        limits,
        usize::MAX,
    );
    let counted = start.elapsed();
    let mut random = fastrand::Rng::with_seed(1);
    let numbers: Vec<usize> = (0..ASKED).map(|_| random.usize(..pages.len())).collect();
    let (mut desks, mut words, mut decisions, mut undone) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for page in numbers.iter().map(|number| pages[*number]) {
        let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
        let index = Some(board.index());
        let out = timed(&mut desks, || {
            let inbound = judge.inbound(index, page, &AllWanted, limits);
            std::hint::black_box(inbound);
            judge.outbound(index, page, &AllWanted, manners, limits)
        });
        let tokens = book.prose(page).map_or(&[][..], |prose| prose.tokens());
        if let Some(pair) = tokens.chunks(2).nth(random.usize(..tokens.len().max(2) / 2)) {
            let chosen = TextSpan::new(pair[0].span().start, pair[pair.len() - 1].span().end);
            timed(&mut words, || std::hint::black_box(judge.targets_for(page, chosen, 20)));
        }
        let Some(opening) = out.first() else { continue };
        let (source, target) = (opening.source, opening.target);
        let follow = |site: &mut Site, board: &mut Board| {
            site.settle();
            board.decided(source, Some(target));
            let changes = site.take_changes();
            board.follow_needs(site, changes);
            let judge = Judge { site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
            board.settle(judge, &AllWanted, manners, limits, usize::MAX);
        };
        timed(&mut decisions, || {
            site.plan(ChangeId(1), source, target);
            follow(&mut site, &mut board);
        });
        timed(&mut undone, || {
            site.unplan(ChangeId(1));
            follow(&mut site, &mut board);
        });
    }
    let mut texts = Vec::new();
    for number in numbers {
        let document = Document::from_html(page_gone_over(number, size));
        let prose = ReadProse::of(&document, Language::English);
        let entry = site.entry().clone();
        let follow = |href: &str| Address::parse(entry.as_url().join(href).ok()?.as_str()).ok();
        timed(&mut texts, || book.put_read(pages[number], Some((&document, prose)), follow));
    }
    let per_page = |time: Duration| format!("{:.2?} ({:.0?} a page)", time, time / size as u32);
    Ok(vec![
        ("prose", format!("{:.0} MB", text as f64 / 1e6)),
        ("read, counted for phrases", per_page(read)),
        ("all pages looked at", per_page(looked)),
        ("all pages counted in both directions", per_page(counted)),
        ("one page, both directions", spread(desks)),
        ("targets for two words", spread(words)),
        ("a decision, all counts right again", spread(decisions)),
        ("the same undone", spread(undone)),
        ("a text changed, its new phrases counted", spread(texts)),
        ("most memory so far", peak_memory().unwrap_or_default()),
    ])
}

fn timed<T>(times: &mut Vec<Duration>, work: impl FnOnce() -> T) -> T {
    let start = Instant::now();
    let done = work();
    times.push(start.elapsed());
    done
}

/// The median and what one in twenty exceeds.
fn spread(mut times: Vec<Duration>) -> String {
    times.sort_unstable();
    let at = |share: f64| times.get((times.len() as f64 * share) as usize).copied().unwrap_or_default();
    format!("{:.2?}, 95 % below {:.2?}", at(0.5), at(0.95))
}

/// Of this process, as Linux tells it.
fn peak_memory() -> Option<String> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:"))?;
    let kilobytes: f64 = line.trim().strip_suffix("kB")?.trim().parse().ok()?;
    Some(format!("{:.0} MB", kilobytes / 1e3))
}
