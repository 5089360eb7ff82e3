//! The names by which files of a folder lead to each other: with their endings or without, with a slash at the end, by
//! their folder, and from a root that may not be the folder's own.

use std::collections::HashMap;

use percent_encoding::percent_decode_str;

use super::link_form::{Ending, Root, Written, without_ending};
use super::{Address, Destination};

/// Fewer links that a root explains are chance.
const FEWEST_OF_ROOT: usize = 3;

/// Files of one folder by their paths, which have no slash at their beginning.
#[derive(Debug, Default)]
pub struct FileNames {
    exact: HashMap<String, Address>,
    /// Pages by their paths without an ending; that of a folder for its own page.
    pages: HashMap<String, Page>,
    /// All of these in small letters.
    small: HashMap<String, String>,
    /// From where paths from the root count.
    root: Root,
}

#[derive(Debug, Clone)]
struct Page {
    address: Address,
    is_html: bool,
    /// Whether it is what readers see of a folder.
    is_folder: bool,
}

/// Where a link leads, and how it is written when that is a page of the folder.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Followed {
    pub destination: Destination,
    pub written: Option<Written>,
    /// Whether it leads to a file of the folder, or outside of the site.
    pub is_found: bool,
}

impl FileNames {
    /// Takes note of a file that is no page.
    pub fn put_file(&mut self, path: &str, address: &Address) {
        self.exact.insert(path.to_owned(), address.clone());
        self.small.entry(path.to_lowercase()).or_insert_with(|| path.to_owned());
    }

    /// Takes note of a page. `is_folder` says that it is the page of the folder in which it is. Of two that differ in
    /// their endings alone, HTML goes before Markdown where the ending is not said.
    pub fn put_page(&mut self, path: &str, address: &Address, is_folder: bool) {
        self.put_file(path, address);
        let folder = path.rsplit_once('/').map_or("", |(folder, _)| folder);
        let is_html = path.ends_with("html") || path.ends_with("htm");
        let page = || Page { address: address.clone(), is_html, is_folder: false };
        let stem = without_ending(path);
        if self.pages.get(stem).is_none_or(|known| is_html && !known.is_html && !known.is_folder) {
            self.pages.insert(stem.to_owned(), page());
            self.small.entry(stem.to_lowercase()).or_insert_with(|| stem.to_owned());
        }
        if is_folder {
            self.pages.insert(folder.to_owned(), Page { is_folder: true, ..page() });
            self.small.entry(folder.to_lowercase()).or_insert_with(|| folder.to_owned());
        }
    }

    /// Finds out from which root paths count that lead nowhere so far: some folders are published below a path, of others
    /// a part is. `paths` are those of links from the root, one for each link. O(paths × their parts + files × their parts).
    pub fn learn_root<'p>(&mut self, paths: impl Iterator<Item = &'p str>) {
        let lost: Vec<_> =
            paths.filter(|path| self.find(path).is_none()).map(|path| path.trim_start_matches('/')).collect();
        if lost.len() < FEWEST_OF_ROOT {
            return;
        }
        let mut roots: HashMap<Root, usize> = HashMap::new();
        let mut parts: HashMap<&str, Vec<&str>> = HashMap::new();
        for path in self.pages.keys() {
            for (at, _) in path.match_indices('/') {
                parts.entry(&path[at + 1..]).or_default().push(&path[..at]);
            }
        }
        for path in &lost {
            let cuts = path.match_indices('/').map(|(at, _)| at);
            for at in cuts.filter(|at| self.find_plain(&path[at + 1..]).is_some()) {
                *roots.entry(Root::Below(path[..at].to_owned())).or_default() += 1;
            }
            let stem = without_ending(path.trim_end_matches('/'));
            for part in parts.get(stem).into_iter().flatten() {
                *roots.entry(Root::Part((*part).to_owned())).or_default() += 1;
            }
        }
        // Of several that explain as much, the shortest.
        let length = |root: &Root| match root {
            Root::Folder => 0,
            Root::Below(path) | Root::Part(path) => path.len(),
        };
        let best = roots.into_iter().max_by_key(|(root, count)| (*count, std::cmp::Reverse(length(root))));
        if let Some((root, _)) = best.filter(|(_, count)| *count >= FEWEST_OF_ROOT && count * 2 > lost.len()) {
            self.root = root;
        }
    }

    /// The folder that stands for the root of the site.
    pub fn root(&self) -> &Root {
        &self.root
    }

    /// With a root that was learnt earlier.
    #[must_use]
    pub fn with_root(mut self, root: Root) -> Self {
        self.root = root;
        self
    }

    /// What a link on a page leads to. O(length).
    pub fn follow(&self, page: &Address, href: &str) -> Followed {
        let destination = page.follow(href);
        let Destination::Page { address, fragment } = &destination else {
            return Followed { destination, written: None, is_found: true };
        };
        if !address.same_origin(page) {
            return Followed { destination, written: None, is_found: true };
        }
        let from_root = href.trim_start().starts_with('/') || href.contains("://");
        let found = self.find(&path_of(address)).map(|(to, ending)| (to, ending, false));
        let found = found.or_else(|| {
            // The page itself may be published as a folder.
            let inside = Address::parse(&format!("{}/", without_ending(page.as_str()))).ok().filter(|_| !from_root)?;
            let Destination::Page { address, .. } = inside.follow(href) else { return None };
            self.find(&path_of(&address)).map(|(to, ending)| (to, ending, true))
        });
        match found {
            Some((to, ending, from_inside)) => Followed {
                destination: Destination::Page { address: to.clone(), fragment: fragment.clone() },
                written: Some(Written { ending, from_root, from_inside }),
                is_found: true,
            },
            None => Followed { destination, written: None, is_found: false },
        }
    }

    /// The file at a path that may be written in any way, and what its ending says.
    fn find(&self, path: &str) -> Option<(&Address, Option<Ending>)> {
        let path = path.trim_start_matches('/');
        self.find_plain(path).or_else(|| match &self.root {
            Root::Folder => None,
            Root::Below(root) => match path.strip_prefix(root.as_str())? {
                "" => self.find_plain(""),
                rest => self.find_plain(rest.strip_prefix('/')?),
            },
            Root::Part(part) => self.find_plain(&format!("{part}/{path}")),
        })
    }

    fn find_plain(&self, path: &str) -> Option<(&Address, Option<Ending>)> {
        self.find_written(path).or_else(|| {
            let small = path.to_lowercase();
            let known = [path, small.as_str(), without_ending(&small), small.trim_end_matches('/')];
            let known = known.into_iter().find_map(|form| self.small.get(form).filter(|known| *known != path))?;
            self.find_written(known).map(|(address, _)| (address, None))
        })
    }

    fn find_written(&self, path: &str) -> Option<(&Address, Option<Ending>)> {
        if let Some(address) = self.exact.get(path) {
            let is_page = without_ending(path) != path;
            return Some((address, is_page.then_some(Ending::AsFile)));
        }
        let stem = path.trim_end_matches('/');
        if let Some(page) = self.pages.get(stem) {
            let ending = if path.ends_with('/') { Ending::Slash } else { Ending::Bare };
            return Some((&page.address, (!page.is_folder).then_some(ending)));
        }
        let bare = without_ending(path);
        let page = self.pages.get(bare).filter(|_| bare != path)?;
        let ending = if path.ends_with("html") { Ending::Html } else { Ending::AsFile };
        Some((&page.address, (!page.is_folder).then_some(ending)))
    }
}

fn path_of(address: &Address) -> String {
    percent_decode_str(address.as_url().path()).decode_utf8_lossy().into_owned()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::super::link_form::{FormCounts, LinkForm};
    use super::*;

    fn at(path: &str) -> Address {
        Address::parse(&format!("https://site.example/{path}")).unwrap()
    }

    fn names(paths: &[&str]) -> FileNames {
        let mut names = FileNames::default();
        for path in paths {
            match path.strip_suffix("index.md").or(path.strip_suffix("README.md")) {
                Some(folder) => names.put_page(path, &at(folder), true),
                None if without_ending(path) == *path => names.put_file(path, &at(path)),
                None => names.put_page(path, &at(path), false),
            }
        }
        names
    }

    fn to(names: &FileNames, page: &str, href: &str) -> Option<String> {
        let followed = names.follow(&at(page), href);
        match followed.destination {
            Destination::Page { address, .. } if followed.is_found => Some(address.from_root()),
            _ => None,
        }
    }

    #[test]
    fn a_link_finds_its_file_however_it_is_written() {
        let names =
            names(&["index.md", "commands/npm-ls.md", "using/README.md", "Über uns.md", "a.png", "fs.html", "fs.md"]);
        for (href, expected) in [
            ("/commands/npm-ls", Some("/commands/npm-ls.md")),
            ("/commands/npm-ls/", Some("/commands/npm-ls.md")),
            ("/commands/npm-ls.html#all", Some("/commands/npm-ls.md")),
            ("commands/NPM-ls.md", Some("/commands/npm-ls.md")),
            ("commands/NPM-Ls", Some("/commands/npm-ls.md")),
            ("using", Some("/using/")),
            ("using/", Some("/using/")),
            ("using/README.md", Some("/using/")),
            ("using/readme.html", Some("/using/")),
            ("./", Some("/")),
            ("%C3%9Cber%20uns", Some("/%C3%9Cber%20uns.md")),
            ("a.png", Some("/a.png")),
            ("fs", Some("/fs.html")),
            ("fs.md", Some("/fs.md")),
            ("gone", None),
            ("commands/", None),
        ] {
            assert_eq!(to(&names, "", href).as_deref(), expected, "{href}");
        }
        // A page that is published as a folder leads from within it.
        assert_eq!(to(&names, "commands/npm-ls.md", "../../using/").as_deref(), Some("/using/"));
        assert_eq!(to(&names, "commands/npm-ls.md", "../npm-ls").as_deref(), Some("/commands/npm-ls.md"));
    }

    #[test]
    fn the_root_is_learnt_from_links_that_it_explains() {
        let files = ["index.md", "guides/moon.md", "guides/sun.md"];
        let mut below = names(&files);
        below.learn_root(
            ["/docs/v2/guides/moon", "/docs/v2/guides/sun/", "/docs/v2/guides/sun.html", "/else"].into_iter(),
        );
        assert_eq!(*below.root(), Root::Below("docs/v2".to_owned()));
        assert_eq!(to(&below, "", "/docs/v2/guides/moon").as_deref(), Some("/guides/moon.md"));
        assert_eq!(to(&below, "", "/docs/v2/").as_deref(), Some("/"));
        assert_eq!(to(&below, "", "/docs/v3/guides/moon"), None);
        let mut part = names(&["README.md", "content/guides/moon.md", "content/guides/sun.md"]);
        part.learn_root(["/guides/moon", "/guides/sun", "/guides/sun"].into_iter());
        assert_eq!(*part.root(), Root::Part("content".to_owned()));
        assert_eq!(to(&part, "", "/guides/moon").as_deref(), Some("/content/guides/moon.md"));
        let mut few = names(&files);
        few.learn_root(["/docs/guides/moon", "/other/guides/sun", "/x/guides/sun"].into_iter());
        assert_eq!(*few.root(), Root::Folder);
    }

    proptest! {
        /// Whatever form is written leads where it is to lead.
        #[test]
        fn what_is_written_is_found(
            from in "(index|a/index|a/b|c|a/d/e)", to_page in "(index|a/index|a/b|c|a/d/e|a/d/x y)",
            ending in 0usize..4, from_root: bool, from_inside: bool, root in "(|/docs)",
        ) {
            let files = ["index.md", "a/index.md", "a/b.md", "c.md", "a/d/e.md", "a/d/x y.md"];
            let mut names = names(&files);
            names.learn_root([format!("{root}/a/b"), format!("{root}/a/b"), format!("{root}/c")].iter().map(String::as_str));
            let root = root.strip_prefix('/').map_or(Root::Folder, |root| Root::Below(root.to_owned()));
            prop_assert_eq!(names.root(), &root);
            let ending = Ending::ALL[ending];
            // A page that is published as a folder is one in all its links.
            let from_inside = from_inside && ending == Ending::Slash;
            let form = LinkForm { ending, from_root, root, from_inside };
            let page = |stem: &str| at(stem.strip_suffix("index").map_or(format!("{stem}.md"), str::to_owned).as_str());
            let href = form.write(&page(&from), &page(&to_page));
            let followed = names.follow(&page(&from), &href);
            // No page leads to itself.
            prop_assume!(from != to_page);
            // In the form of a folder a page may hide one beside it.
            prop_assume!(!from_inside || followed.written.is_some_and(|written| written.from_inside == from_inside));
            let expected = page(&to_page);
            prop_assert_eq!(followed.destination, Destination::Page { address: expected, fragment: None }, "{}", href);
        }
    }

    #[test]
    fn the_form_of_most_links_is_the_form_of_new_ones() {
        let names = names(&["index.md", "commands/npm-ls.md", "commands/npm-ci.md"]);
        let mut counts = FormCounts::default();
        for href in ["/commands/npm-ls", "/commands/npm-ci", "/commands/npm-ls", "/commands/npm-ci", "/", "npm-ci.md"] {
            counts.add(&names.follow(&at("commands/npm-ls.md"), href).written.unwrap());
        }
        let form = counts.form(Root::Folder);
        assert_eq!(form, LinkForm { ending: Ending::Bare, from_root: true, ..LinkForm::default() });
        assert_eq!(form.write(&at("commands/npm-ls.md"), &at("commands/npm-ci.md")), "/commands/npm-ci");
        assert_eq!(form.write(&at("commands/npm-ls.md"), &at("")), "/");
        assert_eq!(FormCounts::default().form(Root::Folder), LinkForm::default());
    }
}
