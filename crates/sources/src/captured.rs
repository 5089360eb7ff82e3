//! Pages that came with their addresses, from a web archive or a file of pages, as a folder: each in a file of its own,
//! and one more file that says which is where on the site.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::fs::File;
use std::io::{self, BufRead, BufReader, BufWriter, Read, Write};
use std::path::{Path, PathBuf};

use percent_encoding::percent_decode_str;
use serde::{Deserialize, Serialize};
use strelm_core::site::Address;

/// The file that tells where the others belong; it begins with a dot, so that it is no file of the site.
const PLAN: &str = ".strelm-addresses.jsonl";

/// Longer parts of paths are cut: no file system has longer names.
const LONGEST_PART: usize = 100;
const MOST_PARTS: usize = 20;

#[derive(Debug, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
enum Line {
    /// The address of the site, without a path; nothing when pages came by their paths alone.
    Site {
        origin: Option<String>,
    },
    /// Paths of addresses hold the query too.
    File {
        file: String,
        address: String,
        charset: Option<String>,
    },
    Redirect {
        from: String,
        to: String,
    },
    /// An address that came more than once.
    Again {
        address: String,
    },
}

/// What stands where in a folder of captured pages.
#[derive(Debug, Default)]
pub struct Plan {
    /// Where the pages were captured, if that is known.
    pub origin: Option<Address>,
    by_file: HashMap<String, (String, Option<String>)>,
    by_address: HashMap<String, String>,
    pub redirects: Vec<(String, String)>,
    /// Paths of addresses that came more than once: their latest captures are here.
    pub again: Vec<String>,
}

impl Plan {
    /// The plan of a folder, if it has one. O(files).
    ///
    /// # Errors
    /// When it is there and cannot be read: without it every page would be somewhere else.
    pub fn of(folder: &Path) -> io::Result<Option<Self>> {
        let file = match File::open(folder.join(PLAN)) {
            Ok(file) => file,
            Err(error) if error.kind() == io::ErrorKind::NotFound => return Ok(None),
            Err(error) => return Err(error),
        };
        let mut plan = Self::default();
        for line in BufReader::new(file).lines() {
            match serde_json::from_str(&line?)? {
                Line::Site { origin } => plan.origin = origin.and_then(|origin| Address::parse(&origin).ok()),
                Line::File { file, address, charset } => {
                    plan.by_address.insert(address.clone(), file.clone());
                    plan.by_file.insert(file, (address, charset));
                }
                Line::Redirect { from, to } => plan.redirects.push((from, to)),
                Line::Again { address } => plan.again.push(address),
            }
        }
        Ok(Some(plan))
    }

    /// Path and query of the page in a file.
    pub fn address_of(&self, file: &str) -> Option<&str> {
        self.by_file.get(file).map(|(address, _)| address.as_str())
    }

    /// The encoding with which a file came.
    pub fn charset_of(&self, file: &str) -> Option<&str> {
        self.by_file.get(file).and_then(|(_, charset)| charset.as_deref())
    }

    /// The file in which a page was captured.
    pub fn file_of(&self, address: &Address) -> Option<&str> {
        self.by_address.get(&address.from_root()).map(String::as_str)
    }
}

/// Writes captured pages into a folder, file by file, and their plan at the end. Of several captures of one address the
/// latest stays. Memory: O(addresses).
#[derive(Debug)]
pub struct CapturedFolder {
    folder: PathBuf,
    /// Files by the address that they hold: path and query.
    files: BTreeMap<String, (String, Option<String>)>,
    /// Names that are taken, in lower case, with the number of the last one made of each.
    names: HashMap<String, u32>,
    folders: HashSet<String>,
    redirects: BTreeMap<String, String>,
    again: BTreeSet<String>,
}

impl CapturedFolder {
    /// # Errors
    /// When the folder cannot be made.
    pub fn create(folder: &Path) -> io::Result<Self> {
        std::fs::create_dir_all(folder)?;
        let (files, names, folders, redirects, again) = Default::default();
        Ok(Self { folder: folder.to_owned(), files, names, folders, redirects, again })
    }

    /// How many pages there are.
    pub fn len(&self) -> usize {
        self.files.len()
    }

    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.files.is_empty()
    }

    /// `address` is path and query, `ending` that of the file, such as `html`. O(bytes).
    ///
    /// # Errors
    /// When the file cannot be written, or `content` cannot be read.
    pub fn put(
        &mut self,
        address: &str,
        ending: &str,
        charset: Option<&str>,
        content: &mut dyn Read,
    ) -> io::Result<()> {
        self.redirects.remove(address);
        let name = match self.files.remove(address) {
            Some((name, _)) => {
                self.again.insert(address.to_owned());
                name
            }
            None => self.new_name(address, ending),
        };
        let path = self.folder.join(&name);
        std::fs::create_dir_all(path.parent().unwrap_or(&self.folder))?;
        io::copy(content, &mut File::create(path)?)?;
        self.files.insert(address.to_owned(), (name, charset.map(str::to_owned)));
        Ok(())
    }

    /// Both are path and query.
    pub fn put_redirect(&mut self, from: &str, to: &str) {
        if !self.files.contains_key(from) {
            self.redirects.insert(from.to_owned(), to.to_owned());
        }
    }

    /// A name like the address, that no other file or folder has. O(parts).
    fn new_name(&mut self, address: &str, ending: &str) -> String {
        let path = address.split('?').next().unwrap_or_default();
        let mut parts: Vec<_> = path.split('/').filter(|part| !part.is_empty()).take(MOST_PARTS).map(plain).collect();
        if path.ends_with('/') || parts.is_empty() {
            parts.push("index".to_owned());
        }
        let last = parts.pop().unwrap_or_default();
        let stem = last.strip_suffix(&format!(".{ending}")).unwrap_or(&last);
        // A file system may not tell apart what differs in case.
        let folders: Vec<_> = (1..=parts.len()).map(|count| parts[..count].join("/").to_lowercase()).collect();
        let is_in_file = folders.iter().any(|folder| self.names.contains_key(folder));
        let start = if is_in_file { parts.join("-") + "-" } else { parts.iter().map(|p| format!("{p}/")).collect() };
        let start = format!("{start}{stem}");
        let mut number = self.names.get(&format!("{start}.{ending}").to_lowercase()).copied().unwrap_or(0);
        loop {
            number += 1;
            let name = if number == 1 { format!("{start}.{ending}") } else { format!("{start}-{number}.{ending}") };
            let lower = name.to_lowercase();
            if !self.names.contains_key(&lower) && !self.folders.contains(&lower) {
                self.names.insert(format!("{start}.{ending}").to_lowercase(), number);
                self.names.entry(lower).or_insert(1);
                if !is_in_file {
                    self.folders.extend(folders);
                }
                return name;
            }
        }
    }

    /// Writes the plan; without it the folder is none of captured pages.
    ///
    /// # Errors
    /// When it cannot be written.
    pub fn finish(self, origin: Option<&Address>) -> io::Result<()> {
        let mut plan = BufWriter::new(File::create(self.folder.join(PLAN))?);
        let mut put = |line: &Line| -> io::Result<()> {
            serde_json::to_writer(&mut plan, line)?;
            plan.write_all(b"\n")
        };
        put(&Line::Site { origin: origin.map(ToString::to_string) })?;
        for (address, (file, charset)) in self.files {
            put(&Line::File { file, address, charset })?;
        }
        for (from, to) in self.redirects {
            put(&Line::Redirect { from, to })?;
        }
        for address in self.again {
            put(&Line::Again { address })?;
        }
        plan.flush()
    }
}

/// A part of an address as the name of a file or folder.
fn plain(part: &str) -> String {
    let part = percent_decode_str(part).decode_utf8_lossy();
    let plain: String =
        part.chars().map(|c| if c.is_alphanumeric() || "-_.~ ".contains(c) { c } else { '-' }).collect();
    let plain: String = plain.trim_start_matches('.').trim().chars().take(LONGEST_PART).collect();
    if plain.is_empty() { "x".to_owned() } else { plain }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_address_has_a_file_of_its_own() {
        let folder = tempfile::tempdir().unwrap();
        let mut captured = CapturedFolder::create(folder.path()).unwrap();
        let addresses = [
            "/",
            "/index.html",
            "/a",
            "/A",
            "/a.html",
            "/a.html/b",
            "/a/",
            "/?p=1",
            "/?p=2",
            "/../../etc/passwd",
            "/é/%2e%2e/c",
            "/.git/config",
            "/x/y",
            "/x",
            "/x/y?z=1",
            "/con:1|2",
        ];
        for address in addresses {
            captured.put(address, "html", Some("latin1"), &mut address.as_bytes()).unwrap();
        }
        captured.put("/a", "html", None, &mut &b"again"[..]).unwrap();
        captured.put_redirect("/old", "/a");
        captured.put_redirect("/x", "/a");
        let origin = Address::parse("http://sky.example/").unwrap();
        captured.finish(Some(&origin)).unwrap();
        let plan = Plan::of(folder.path()).unwrap().unwrap();
        assert_eq!(plan.origin, Some(origin));
        assert_eq!(plan.redirects, [("/old".to_owned(), "/a".to_owned())]);
        assert_eq!(plan.by_file.len(), addresses.len());
        for address in addresses {
            let file = &plan.by_address[address];
            assert_eq!(plan.address_of(file), Some(address));
            assert!(file.split('/').all(|part| !part.starts_with('.')), "{file}");
            let content = std::fs::read_to_string(folder.path().join(file)).unwrap();
            assert_eq!(content, if address == "/a" { "again" } else { address });
        }
        assert_eq!(plan.charset_of("index.html"), Some("latin1"));
        assert_eq!(plan.by_address["/x/y"], "x/y.html");
    }
}
