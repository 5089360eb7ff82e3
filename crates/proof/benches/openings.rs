//! Finding the openings of a made-up site, for comparing versions of the code.

use std::hint::black_box;

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use strelm_core::document::{Document, TextSpan};
use strelm_core::language::Language;
use strelm_core::openings::{AllWanted, Board, Corpus, Ensemble, Judge, Limits, Manners, OpeningIndex, Taste};
use strelm_core::phrases::ReadProse;
use strelm_core::site::{Changes, PageId};
use strelm_proof::site::{corpus, page};

const PAGES: usize = 1000;

fn openings(criterion: &mut Criterion) {
    let source = page(7, PAGES);
    let document = Document::from_html(source.as_str());
    let mut group = criterion.benchmark_group("prose");
    group.throughput(Throughput::Bytes(source.len() as u64));
    group.bench_function("read the words of a page", |bench| {
        bench.iter(|| ReadProse::of(black_box(&document), Language::English));
    });
    group.finish();
    let (Some(Corpus { site, book, .. }), Ok(ensemble)) = (corpus(PAGES), Ensemble::shipped()) else { return };
    let judge = Judge { site: &site, book: &book, ensemble: &ensemble, taste: Taste::EDITOR };
    let pages: Vec<PageId> = site.pages().map(|page| page.id).collect();
    let mut board = Board::default();
    pages.iter().for_each(|page| board.put(*page, judge.candidates(*page, OpeningIndex::MOST)));
    let (manners, limits) = (Manners::default(), Limits::default());
    board.follow_needs(&site, Changes::Everything);
    board.settle(judge, &AllWanted, manners, limits, usize::MAX);
    let asked = pages[PAGES / 2];
    let words = book.prose(asked).map_or(TextSpan::new(0, 0), |prose| prose.tokens()[4].span());
    let mut group = criterion.benchmark_group("one page of a thousand");
    group.bench_function("looked at", |bench| bench.iter(|| judge.candidates(black_box(asked), OpeningIndex::MOST)));
    group.bench_function("openings to it", |bench| {
        bench.iter(|| judge.inbound(Some(board.index()), black_box(asked), &AllWanted, limits));
    });
    group.bench_function("openings on it", |bench| {
        bench.iter(|| judge.outbound(Some(board.index()), black_box(asked), &AllWanted, manners, limits));
    });
    group.bench_function("targets for a word", |bench| bench.iter(|| judge.targets_for(asked, black_box(words), 20)));
    group.bench_function("counted anew", |bench| {
        bench.iter(|| {
            board.decided(black_box(asked), None);
            board.settle(judge, &AllWanted, manners, limits, usize::MAX);
        });
    });
    group.finish();
}

criterion_group!(benches, openings);
criterion_main!(benches);
