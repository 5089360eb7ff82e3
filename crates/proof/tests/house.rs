//! How the house stands: crates know only those below them, and no two files of a crate know each other in a circle.

#![allow(clippy::unwrap_used)]

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::fs;
use std::path::{Path, PathBuf};

/// The street, from the ground up: each crate with those that it may know. What only measures and tests stands beside it.
const STREET: [(&str, &[&str]); 9] = [
    ("core", &[]),
    ("formats", &[]),
    ("sources", &["core", "formats"]),
    ("store", &["core"]),
    ("live", &["core", "store"]),
    ("edge", &["core", "store", "live"]),
    ("work", &["core", "formats", "sources", "store", "live"]),
    ("server", &["core", "formats", "sources", "store", "live", "edge", "work"]),
    ("standins", &[]),
];

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

#[test]
fn crates_know_only_those_below_them() {
    for (name, below) in STREET {
        let manifest = fs::read_to_string(crates().join(name).join("Cargo.toml")).unwrap();
        let own = manifest.split("[dev-dependencies]").next().unwrap();
        let known: BTreeSet<_> =
            own.lines().filter_map(|line| line.strip_prefix("strelm-")?.split('.').next()).collect();
        let known: BTreeSet<_> = known.into_iter().filter(|known| *known != name).collect();
        let below: BTreeSet<_> = below.iter().copied().collect();
        assert!(known.is_subset(&below), "{name} knows {known:?}, and may know {below:?}");
    }
}

/// A module by its path from the root of its crate.
type Module = Vec<String>;

/// The modules of a crate with their texts, without their tests. Programs beside the library are left out.
fn modules(source: &Path) -> BTreeMap<Module, String> {
    let files = walkdir::WalkDir::new(source).into_iter().map(Result::unwrap);
    let files = files.filter(|entry| entry.path().extension().is_some_and(|ending| ending == "rs"));
    let module = |entry: walkdir::DirEntry| {
        let path = entry.path().strip_prefix(source).unwrap().with_extension("");
        let mut module: Module = path.iter().map(|part| part.to_string_lossy().into_owned()).collect();
        if module[0] == "bin" || module[0] == "main" {
            return None;
        }
        if ["mod", "lib"].contains(&module.last().unwrap().as_str()) {
            module.pop();
        }
        let text = fs::read_to_string(entry.path()).unwrap();
        Some((module, text.split("#[cfg(test)]\nmod tests").next().unwrap_or_default().to_owned()))
    };
    files.filter_map(module).collect()
}

/// The paths that `use` names, each to one thing, and whether they are only handed on.
fn used(text: &str) -> Vec<(Vec<String>, bool)> {
    let mut found = Vec::new();
    let mut rest = text;
    while let Some(at) = rest.find("use ") {
        let line = rest[..at].rfind('\n').map_or(0, |end| end + 1);
        let before = rest[line..at].trim_end();
        let end = rest[at..].find(';').map_or(rest.len(), |end| at + end);
        let is_public = before.trim_start().starts_with("pub") && !before.contains(' ');
        if before.is_empty() || is_public {
            let tree: String = rest[at + 4..end].split_whitespace().collect::<Vec<_>>().join(" ");
            expand(&[], &tree, &mut |path| found.push((path, is_public)));
        }
        rest = &rest[end.min(rest.len())..];
        rest = rest.strip_prefix(';').unwrap_or(rest);
    }
    found
}

fn expand(before: &[String], tree: &str, found: &mut dyn FnMut(Vec<String>)) {
    let tree = tree.trim();
    if let Some(group) = tree.strip_prefix('{').and_then(|tree| tree.strip_suffix('}')) {
        let (mut depth, mut start) = (0, 0);
        for (at, c) in group.char_indices().chain([(group.len(), ',')]) {
            match c {
                '{' => depth += 1,
                '}' => depth -= 1,
                ',' if depth == 0 => {
                    if !group[start..at].trim().is_empty() {
                        expand(before, &group[start..at], found);
                    }
                    start = at + 1;
                }
                _ => {}
            }
        }
        return;
    }
    match tree.split_once("::") {
        Some((first, rest)) => expand(&[before, &[first.to_owned()]].concat(), rest, found),
        None => {
            let name = tree.split(" as ").next().unwrap_or(tree).trim();
            let last = if name == "self" { Vec::new() } else { vec![name.to_owned()] };
            found([before, &last].concat());
        }
    }
}

/// A path from the root of the crate, as a module means it; nothing for what is of another crate.
fn from_root(module: &Module, path: &[String]) -> Option<Vec<String>> {
    let mut base = module.clone();
    let mut parts = path.iter();
    let first = parts.next()?;
    match first.as_str() {
        "crate" => base.clear(),
        "self" => {}
        "super" => drop(base.pop()),
        _ => return None,
    }
    let mut rest: Vec<String> = Vec::new();
    for part in parts {
        if part == "super" && rest.is_empty() { drop(base.pop()) } else { rest.push(part.clone()) }
    }
    base.extend(rest);
    Some(base)
}

/// The module in which a thing is defined, as far as names are handed on.
fn home(of: &[String], handed_on: &BTreeMap<Vec<String>, Vec<String>>, all: &BTreeMap<Module, String>) -> Module {
    let mut path = of.to_vec();
    for _ in 0..8 {
        match handed_on.get(&path) {
            Some(next) => path.clone_from(next),
            None => break,
        }
    }
    while !all.contains_key(&path) {
        path.pop();
    }
    path
}

/// Which modules know which others of their crate.
fn known(source: &Path) -> BTreeMap<Module, BTreeSet<Module>> {
    let all = modules(source);
    let mut handed_on = BTreeMap::new();
    for (module, text) in &all {
        for (path, _) in used(text).into_iter().filter(|(_, is_public)| *is_public) {
            if let Some(to) = from_root(module, &path) {
                let name = path.last().cloned().unwrap_or_default();
                handed_on.insert([module.as_slice(), &[name]].concat(), to);
            }
        }
    }
    let knows = |(module, text): (&Module, &String)| {
        let paths = used(text).into_iter().filter(|(_, is_public)| !is_public);
        let homes = paths.filter_map(|(path, _)| Some(home(&from_root(module, &path)?, &handed_on, &all)));
        (module.clone(), homes.filter(|home| home != module).collect())
    };
    all.iter().map(knows).collect()
}

/// Modules from which a way leads back, with it.
fn circle(known: &BTreeMap<Module, BTreeSet<Module>>) -> Option<Vec<Module>> {
    known.keys().find_map(|start| {
        let mut before: BTreeMap<&Module, &Module> = BTreeMap::new();
        let mut queue = VecDeque::from([start]);
        while let Some(at) = queue.pop_front() {
            for next in &known[at] {
                if next == start {
                    let mut way = vec![at.clone()];
                    let mut at = at;
                    while let Some(earlier) = before.get(at) {
                        way.push((*earlier).clone());
                        at = earlier;
                    }
                    return Some(way);
                }
                if !before.contains_key(next) {
                    before.insert(next, at);
                    queue.push_back(next);
                }
            }
        }
        None
    })
}

#[test]
fn no_files_know_each_other_in_a_circle() {
    for (name, _) in STREET {
        let known = known(&crates().join(name).join("src"));
        assert!(
            known.values().map(BTreeSet::len).sum::<usize>() >= known.len() / 2,
            "{name}: its files are understood"
        );
        let circle =
            circle(&known).map(|way| way.iter().map(|module| module.join("::")).collect::<Vec<_>>().join(" ← "));
        assert_eq!(circle, None, "a circle in {name}");
    }
}

#[test]
fn what_is_used_is_understood() {
    let text =
        "use std::fmt;\nuse crate::a::{self, B, c::{D, E as F}};\npub use super::g::H;\nuse self::i::J;\n// use x;\n";
    let paths: Vec<_> = used(text).into_iter().map(|(path, is_public)| (path.join("::"), is_public)).collect();
    let expected =
        ["std::fmt", "crate::a", "crate::a::B", "crate::a::c::D", "crate::a::c::E"].map(|path| (path, false));
    let expected = expected.into_iter().chain([("super::g::H", true), ("self::i::J", false)]);
    assert_eq!(paths, expected.map(|(path, is)| (path.to_owned(), is)).collect::<Vec<_>>());
    let module = vec!["a".to_owned(), "b".to_owned()];
    let path = |text: &str| text.split("::").map(str::to_owned).collect::<Vec<_>>();
    assert_eq!(from_root(&module, &path("super::super::x")), Some(path("x")));
    assert_eq!(from_root(&module, &path("self::x")), Some(path("a::b::x")));
    assert_eq!(from_root(&module, &path("std::x")), None);
    let chain = [("a", "b"), ("b", "c"), ("c", "a"), ("d", "a")];
    let module = |name: &str| vec![name.to_owned()];
    let mut known: BTreeMap<Module, BTreeSet<Module>> =
        chain.iter().map(|(from, to)| (module(from), BTreeSet::from([module(to)]))).collect();
    assert_eq!(circle(&known).map(|way| way.len()), Some(3));
    known.insert(module("c"), BTreeSet::new());
    assert_eq!(circle(&known), None);
}
