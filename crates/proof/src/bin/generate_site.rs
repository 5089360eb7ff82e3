//! Writes a made-up site of any size into a folder.

use std::path::PathBuf;

use anyhow::Context;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_proof::site::{lifelike_page, page, path};

fn main() -> anyhow::Result<()> {
    let arguments: Vec<String> = std::env::args().skip(1).collect();
    let (folder, pages, make): (_, _, fn(usize, usize) -> String) = match arguments.as_slice() {
        [folder, pages] => (folder, pages, page),
        [folder, pages, manner] if manner == "--lifelike" => (folder, pages, lifelike_page),
        _ => anyhow::bail!(
            "say where to write and how many pages: FOLDER PAGES [--lifelike], with menus, notes, long pages and torn markup"
        ),
    };
    let folder = PathBuf::from(folder);
    let pages: usize = pages.parse().context("the number of pages is no number")?;
    anyhow::ensure!((1..=1_000_000).contains(&pages), "a site has 1 to 1,000,000 pages here");
    anyhow::ensure!(!folder.exists(), "{} is there already: choose a new folder", folder.display());
    let write = |number: usize| -> std::io::Result<u64> {
        let file = folder.join(path(number));
        std::fs::create_dir_all(file.parent().unwrap_or(&folder))?;
        let html = make(number, pages);
        std::fs::write(file, &html)?;
        Ok(html.len() as u64)
    };
    let bytes: u64 = (0..pages).into_par_iter().map(write).sum::<std::io::Result<u64>>()?;
    println!("{pages} pages, {} MB in {}", bytes >> 20, folder.display());
    Ok(())
}
