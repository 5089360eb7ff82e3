//! A folder as a site: addresses, links between files, and edits that touch nothing else.

#![allow(clippy::unwrap_used, clippy::panic)]

use std::os::unix::fs::PermissionsExt;
use std::path::Path;

use strelm_core::document::{Document, Format, LinkTarget, TextSpan};
use strelm_core::site::{Address, Destination, LinkForm};
use strelm_sources::crawl::CrawledPage;
use strelm_sources::editing::SourceError;
use strelm_sources::folder::Folder;
use strelm_sources::folder_reading::FolderRead;

fn base() -> Address {
    Address::parse("https://notes.example/").unwrap()
}

fn write(folder: &Path, path: &str, text: &str) {
    let file = folder.join(path);
    std::fs::create_dir_all(file.parent().unwrap()).unwrap();
    std::fs::write(file, text).unwrap();
}

fn notes() -> (tempfile::TempDir, Folder) {
    let folder = tempfile::tempdir().unwrap();
    let at = folder.path();
    write(
        at,
        "index.md",
        "---\ntitle: Notes\n---\n# Notes\n\n[moon](guides/moon.md), [sun](/guides/sun/), [x](gone.md), [p](picture.svg)\n",
    );
    write(
        at,
        "guides/moon.md",
        "+++\ntitle = \"The moon\"\ndate = 2026-01-02\ncategory = \"Guides\"\n+++\nBack [home](../).\n",
    );
    write(
        at,
        "guides/sun.html",
        "<!doctype html><title>Sun</title><nav><a href='../index.md'>home</a></nav><main><p>See the moon.</p></main>",
    );
    write(at, "guides/draft.md", "---\ndraft: true\n---\nNot yet.\n");
    write(at, "picture.svg", "<svg/>");
    write(at, "map.pdf", "%PDF");
    write(at, "style.css", "p {}");
    write(at, "odd.html", "");
    std::fs::write(at.join("odd.html"), b"<meta charset=utf-8><p>caf\xe9</p>").unwrap();
    write(at, ".git/config", "secret");
    write(at, "bad.md", "+++\nno end\n");
    let site = Folder::open(at, base()).unwrap();
    (folder, site)
}

fn paths<'a>(addresses: impl IntoIterator<Item = &'a Address>) -> Vec<String> {
    let mut paths: Vec<_> = addresses.into_iter().map(Address::from_root).collect();
    paths.sort();
    paths
}

/// All of a folder.
struct Read {
    pages: Vec<CrawledPage>,
    drafts: Vec<Address>,
    doubles: Vec<(Address, String)>,
    rest: FolderRead,
}

impl std::ops::Deref for Read {
    type Target = FolderRead;

    fn deref(&self) -> &FolderRead {
        &self.rest
    }
}

fn read(folder: &Folder) -> Read {
    let mut reading = folder.reading(None);
    let mut pages = Vec::new();
    loop {
        // Few at a time, so that nothing hangs on what is read together.
        let next = reading.read_next(2);
        if next.is_empty() {
            break;
        }
        pages.extend(next);
    }
    let (drafts, doubles) = (reading.drafts.clone(), reading.doubles.clone());
    Read { pages, drafts, doubles, rest: reading.end() }
}

fn links(reading: &Read, path: &str) -> Vec<String> {
    let page = reading.pages.iter().find(|page| page.address.from_root() == path).unwrap();
    let to = page.destinations.as_ref().unwrap().iter().map(|to| match to {
        Destination::Page { address, .. } => address.from_root(),
        other => format!("{other:?}"),
    });
    to.collect()
}

#[test]
fn files_get_addresses_and_links_between_them_lead_on() {
    let (_kept, folder) = notes();
    let read = read(&folder);
    assert_eq!(
        paths(read.pages.iter().map(|page| &page.address)),
        ["/", "/guides/moon.md", "/guides/sun.html", "/odd.html"]
    );
    assert_eq!(paths(&read.drafts), ["/guides/draft.md"]);
    assert_eq!(paths(read.files.iter().map(|(address, _)| address)), ["/map.pdf", "/picture.svg"]);
    assert_eq!(paths(read.parts.iter().map(|(address, _)| address)), ["/style.css"]);
    assert_eq!(paths(&read.dead), ["/gone.md"]);
    assert_eq!(read.unread.len(), 1, "{:?}", read.unread);
    assert_eq!(links(&read, "/"), ["/guides/moon.md", "/guides/sun.html", "/gone.md", "/picture.svg"]);
    assert_eq!(links(&read, "/guides/moon.md"), ["/"]);
    assert_eq!(links(&read, "/guides/sun.html"), ["/"]);
    let moon = read.pages.iter().find(|page| page.address.from_root() == "/guides/moon.md").unwrap();
    assert_eq!((moon.front.title.as_deref(), moon.front.date.as_deref()), (Some("The moon"), Some("2026-01-02")));
    assert_eq!(moon.source.as_ref().unwrap().format, Format::Markdown);
    let odd = read.pages.iter().find(|page| page.address.from_root() == "/odd.html").unwrap();
    assert!(odd.source.is_none(), "what its encoding does not explain cannot be given back byte for byte");
    let alone = folder.read_page(&moon.address).unwrap();
    assert_eq!(alone.destinations, moon.destinations);
}

#[test]
fn an_edit_touches_the_text_alone() {
    let (kept, folder) = notes();
    let page = Address::parse("https://notes.example/guides/sun.html").unwrap();
    let file = kept.path().join("guides/sun.html");
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o640)).unwrap();
    let before = std::fs::read_to_string(&file).unwrap();
    let source = folder.source(&page).unwrap();
    let document = Document::read(source.text.as_str(), source.format);
    let start = document.text().as_str().find("the moon").unwrap();
    let moon = Address::parse("https://notes.example/guides/moon.md").unwrap();
    let target = LinkTarget::to(LinkForm::default().write(&page, &moon));
    assert_eq!(target.href, "moon.md");
    let edit = document.put_link(TextSpan::new(start, start + 8), &target).unwrap();
    folder.replace(&page, &source, &edit.apply(&source.text).unwrap()).unwrap();
    let after = std::fs::read_to_string(&file).unwrap();
    assert_eq!(after.replace("<a href=\"moon.md\">the moon</a>", "the moon"), before);
    assert_eq!(std::fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o640);
    let names = std::fs::read_dir(kept.path().join("guides")).unwrap().count();
    assert_eq!(names, 3, "nothing is left lying about");
}

#[test]
fn a_page_in_an_old_encoding_keeps_its_bytes() {
    let (kept, folder) = notes();
    let file = kept.path().join("old.html");
    let before = b"<meta charset=windows-1252><p>Caf\xe9 and the moon \x80 5</p>\r\n".to_vec();
    std::fs::write(&file, &before).unwrap();
    let page = Address::parse("https://notes.example/old.html").unwrap();
    let source = folder.source(&page).unwrap();
    assert!(source.text.contains("Café and the moon € 5"));
    folder.replace(&page, &source, &source.text.replace("the moon", "<a href=x title=☾>the moon</a>")).unwrap();
    let after = std::fs::read(&file).unwrap();
    assert_eq!(after, b"<meta charset=windows-1252><p>Caf\xe9 and <a href=x title=&#9790;>the moon</a> \x80 5</p>\r\n");
}

#[test]
fn front_matter_stays_and_a_file_that_changed_is_never_written() {
    let (kept, folder) = notes();
    let page = Address::parse("https://notes.example/guides/moon.md").unwrap();
    let source = folder.source(&page).unwrap();
    assert_eq!(source.text, "Back [home](../).\n");
    folder.replace(&page, &source, "Back home.\n").unwrap();
    let file = kept.path().join("guides/moon.md");
    let whole = std::fs::read_to_string(&file).unwrap();
    assert_eq!(whole, "+++\ntitle = \"The moon\"\ndate = 2026-01-02\ncategory = \"Guides\"\n+++\nBack home.\n");
    std::fs::write(&file, whole.replace("The moon", "A moon")).unwrap();
    assert!(matches!(folder.replace(&page, &source, "x"), Err(SourceError::ChangedMeanwhile)));
    assert!(std::fs::read_to_string(&file).unwrap().contains("A moon"));
}

#[test]
fn nothing_outside_of_the_folder_is_read_or_written() {
    let outside = tempfile::tempdir().unwrap();
    std::fs::write(outside.path().join("secret.md"), "secret").unwrap();
    let (kept, folder) = notes();
    std::os::unix::fs::symlink(outside.path().join("secret.md"), kept.path().join("link.md")).unwrap();
    let name = outside.path().file_name().unwrap().to_string_lossy().into_owned();
    for path in [
        "link.md",
        "%2e%2e/secret.md",
        &format!("..%2f{name}%2fsecret.md"),
        "/etc/passwd",
        "picture.svg",
        "guides/",
        ".git/config",
    ] {
        let page = Address::parse(&format!("https://notes.example/{path}")).unwrap();
        assert!(matches!(folder.source(&page), Err(SourceError::NotEditable)), "{path}");
    }
    let picture = |path: &str| folder.picture(&Address::parse(&format!("https://notes.example/{path}")).unwrap(), 100);
    assert_eq!(picture("picture.svg"), Some((b"<svg/>".to_vec(), "image/svg+xml".to_owned())));
    for path in ["index.md", ".git/config", "nothing.png", "%2e%2e/x.png"] {
        assert_eq!(picture(path), None, "{path}");
    }
    let foreign = Address::parse("https://else.example/index.md").unwrap();
    assert!(matches!(folder.source(&foreign), Err(SourceError::NotEditable)));
    assert!(read(&folder).pages.iter().all(|page| !page.document.source().contains("secret")));
}

#[test]
fn links_may_lead_to_whatever_is_there() {
    let (_keep, folder) = notes();
    let address = |path: &str| Address::parse(&format!("https://notes.example{path}")).unwrap();
    assert!(folder.source(&address("/odd.html")).is_err(), "its bytes could not be written again");
    assert!(["/odd.html", "/picture.svg"].iter().all(|path| folder.has(&address(path))));
    for gone in ["/gone.html", "/.git/config", "/guides/../../etc/passwd"] {
        assert!(!folder.has(&address(gone)), "{gone}");
    }
    assert!(!folder.has(&Address::parse("https://elsewhere.example/odd.html").unwrap()));
}

#[test]
fn of_two_files_for_one_address_one_is_read_and_both_are_told() {
    let folder = tempfile::tempdir().unwrap();
    write(folder.path(), "README.md", "# By another name\n");
    write(folder.path(), "index.md", "# The entry page\n\n[other](README.md)\n");
    write(folder.path(), "fs.html", "<h1>Files</h1>");
    write(folder.path(), "fs.md", "# Files\n\n[up](index.html)\n");
    let read = read(&Folder::open(folder.path(), base()).unwrap());
    assert_eq!(paths(read.pages.iter().map(|page| &page.address)), ["/", "/fs.html", "/fs.md"]);
    let entry = read.pages.iter().find(|page| page.address.from_root() == "/").unwrap();
    assert!(entry.document.text().as_str().contains("The entry page"));
    let [(address, why)] = read.doubles.as_slice() else { panic!("{:?}", read.doubles) };
    assert_eq!((address.from_root().as_str(), why.starts_with("index.md ")), ("/README.md", true), "{why}");
    assert_eq!(links(&read, "/"), ["/"]);
    assert_eq!(links(&read, "/fs.md"), ["/"]);
}

#[test]
fn links_as_site_generators_write_them_are_found_and_written_alike() {
    let folder = tempfile::tempdir().unwrap();
    let link = |name: &str| format!("[{name}](/v9/commands/{name}) ");
    let all = ["ls", "ci", "run"].map(link).concat();
    for name in ["ls", "ci", "run"] {
        write(folder.path(), &format!("commands/{name}.md"), &format!("# {name}\n\n{all}\n"));
    }
    let read = read(&Folder::open(folder.path(), base()).unwrap());
    assert_eq!(read.dead, []);
    assert_eq!(links(&read, "/commands/ls.md"), ["/commands/ls.md", "/commands/ci.md", "/commands/run.md"]);
    let form = read.rest.link_form.unwrap();
    let [ls, ci] =
        ["ls", "ci"].map(|name| Address::parse(&format!("https://notes.example/commands/{name}.md")).unwrap());
    assert_eq!(form.write(&ls, &ci), "/v9/commands/ci");
}

#[test]
fn pages_that_only_send_on_and_links_to_pages_are_other_addresses() {
    let kept = tempfile::tempdir().unwrap();
    let write = |name: &str, html: &str| std::fs::write(kept.path().join(name), html).unwrap();
    write(
        "index.html",
        "<p>See <a href=old.html>the old</a>, <a href=ch02.html>the second</a> and <a href=lost.html>one</a>.",
    );
    write("old.html", "<head><meta http-equiv=refresh content='0; url=chapter.html#two'></head><p>It is over there.");
    write("lost.html", "<head><meta http-equiv=refresh content='0; url=nowhere.html'></head><p>It is gone.");
    write("chapter.html", "<h1>The second chapter</h1><p>Words of it.");
    std::os::unix::fs::symlink("chapter.html", kept.path().join("ch02.html")).unwrap();
    std::os::unix::fs::symlink("chapter.html", kept.path().join("index.htm")).unwrap();
    let folder = Folder::open(kept.path(), base()).unwrap();
    let mut reading = folder.reading(None);
    let aliases = reading.redirects.clone();
    let pages = reading.read_next(100);
    assert_eq!(paths(pages.iter().map(|page| &page.address)), ["/", "/chapter.html", "/lost.html"]);
    let told = |redirects: &[(Address, Address)]| -> Vec<_> {
        redirects.iter().map(|(from, to)| (from.from_root(), to.from_root())).collect()
    };
    assert_eq!(told(&aliases), [("/ch02.html".to_owned(), "/chapter.html".to_owned())]);
    let rest = reading.end();
    assert_eq!(told(&rest.redirects), [("/old.html".to_owned(), "/chapter.html".to_owned())]);
}
