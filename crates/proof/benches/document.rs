//! Reading and editing a page, for comparing versions of the code.

use criterion::{BatchSize, Criterion, Throughput, criterion_group, criterion_main};
use strelm_core::document::{Document, Edit, LinkTarget};
use strelm_proof::documents::generated;
use strelm_proof::sample;

fn page() -> String {
    let mut random = fastrand::Rng::with_seed(7);
    let body: Vec<_> = (0..60).map(|_| format!("<p>{}</p>", generated(&mut random))).collect();
    format!("<!doctype html><title>Page</title><main>{}</main>", body.concat())
}

fn document(criterion: &mut Criterion) {
    let source = page();
    let document = Document::from_html(source.as_str());
    let mut random = fastrand::Rng::with_seed(7);
    let words: Vec<_> = sample::spans(&document, 200, &mut random)
        .into_iter()
        .filter(|words| document.may_link(*words).is_ok())
        .collect();
    let target = LinkTarget::to("/target/");
    let edit = words.iter().find_map(|words| document.put_link(*words, &target).ok());
    let edit = edit.unwrap_or_else(|| Edit::nothing(document.hash()));
    let mut group = criterion.benchmark_group("document");
    group.throughput(Throughput::Bytes(source.len() as u64));
    group.bench_function("read HTML", |bench| {
        bench.iter_batched(|| source.clone(), Document::from_html, BatchSize::SmallInput);
    });
    group.bench_function("apply an edit", |bench| bench.iter(|| edit.apply(&source)));
    group.finish();
    criterion.bench_function("ask whether words may be linked", |bench| {
        bench.iter(|| words.iter().filter(|words| document.may_link(**words).is_ok()).count());
    });
}

criterion_group!(benches, document);
criterion_main!(benches);
