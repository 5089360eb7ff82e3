//! The finished HTML of a page: head, menu, breadcrumbs, content, footer.

use std::collections::BTreeMap;

use super::listing::{self, Term};
use super::page::{PageFile, PageType};

const SITE: &str = "Larkmoor Sky Society";

/// The calendar is the list of events under another name: one page twice in the menu.
const MENU: [(&str, &str); 8] = [
    ("/", "Home"),
    ("/guides/", "Guides"),
    ("/reports/", "Reports"),
    ("/glossary/", "Glossary"),
    ("/shop/", "Shop"),
    ("/events/", "Events"),
    ("/events/", "Calendar"),
    ("/about/", "About us"),
];

const FOOTER: [(&str, &str); 4] = [
    ("/contact/", "Contact"),
    ("/privacy/", "Privacy"),
    ("/people/", "People"),
    ("/accessibility/", "Getting up the hill"),
];

/// Of pages that say nothing of theirs.
const LANGUAGE: &str = "en-GB";

/// A page as readers get it.
pub fn page(base: &str, path: &str, page: &PageFile, pages: &BTreeMap<String, PageFile>) -> String {
    let (root, kind) = match page.front.page_type {
        PageType::Page => ("h-entry", "website"),
        PageType::Post => ("h-entry", "article"),
        PageType::Product => ("h-product", "product"),
        PageType::Collection => ("h-feed", "website"),
    };
    let heading = escape(page.front.heading.as_deref().unwrap_or(&page.front.title));
    let mut body = format!("<article class=\"{root}\">\n<h1 class=\"p-name\">{heading}</h1>\n");
    body.push_str(&byline(page));
    // The content must stand here byte for byte as it is edited.
    body.push_str(&format!("<div class=\"e-content\">{}</div>\n", page.content));
    body.push_str(&list(&listing::of_collection(pages, path)));
    let tags: Vec<_> = listing::terms_of(page).into_iter().filter(|term| term.taxonomy == "tag").collect();
    if !tags.is_empty() {
        let links: Vec<_> = tags.iter().map(|term| term_link(term, "")).collect();
        body.push_str(&format!("<p class=\"tags\">Filed under {}</p>\n", links.join(", ")));
    }
    body.push_str("</article>\n");
    let language = page.front.language.as_deref().unwrap_or(LANGUAGE);
    frame(language, base, path, &page.front.title, kind, &crumbs(path, pages, &heading), &body)
}

/// The list of all pages of a category or tag.
pub fn archive(base: &str, term: &Term, pages: &BTreeMap<String, PageFile>) -> String {
    let name = escape(&term.name);
    let rows = list(&listing::of_term(pages, term));
    let body = format!("<section class=\"h-feed\">\n<h1 class=\"p-name\">{name}</h1>\n{rows}</section>\n");
    let crumbs = format!("<a href=\"/\">Home</a> › <span>{name}</span>");
    frame(LANGUAGE, base, &term.path(), &term.name, "website", &crumbs, &body)
}

/// The page for addresses that lead nowhere.
pub fn not_found(base: &str, path: &str) -> String {
    let body = "<h1>Nothing to see here</h1>\n<p>This page has set below the horizon.</p>\n";
    frame(LANGUAGE, base, path, "Not found", "website", "", body)
}

/// The sitemap of all pages.
pub fn sitemap(base: &str, pages: &BTreeMap<String, PageFile>) -> String {
    let archives: Vec<_> = listing::all_terms(pages).iter().map(Term::path).collect();
    let there = pages.iter().filter(|(_, page)| page.front.moved_to.is_none()).map(|(path, _)| path);
    let urls: String = there
        .chain(&archives)
        .map(|path| format!("  <url><loc>{}{}</loc></url>\n", escape(base), escape(path)))
        .collect();
    format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n\
         <urlset xmlns=\"http://www.sitemaps.org/schemas/sitemap/0.9\">\n{urls}</urlset>\n"
    )
}

fn byline(page: &PageFile) -> String {
    let date = page.front.date.as_ref().map(|date| {
        let date = escape(date);
        format!("<time class=\"dt-published\" datetime=\"{date}\">{date}</time>")
    });
    let category = page.front.category.as_ref();
    let category =
        category.map(|name| term_link(&Term { taxonomy: "category", name: name.clone() }, " class=\"p-category\""));
    let parts: Vec<_> = date.into_iter().chain(category).collect();
    if parts.is_empty() { String::new() } else { format!("<p class=\"byline\">{}</p>\n", parts.join(" · ")) }
}

fn term_link(term: &Term, class: &str) -> String {
    format!("<a rel=\"tag\"{class} href=\"{}\">{}</a>", escape(&term.path()), escape(&term.name))
}

fn list(rows: &[(&str, &PageFile)]) -> String {
    if rows.is_empty() {
        return String::new();
    }
    let items: String = rows
        .iter()
        .map(|(path, page)| {
            let summary = page.front.summary.as_deref().map(|text| format!(" – {}", escape(text))).unwrap_or_default();
            format!("<li><a href=\"{}\">{}</a>{summary}</li>\n", escape(path), escape(&page.front.title))
        })
        .collect();
    format!("<ul class=\"listing\">\n{items}</ul>\n")
}

fn crumbs(path: &str, pages: &BTreeMap<String, PageFile>, heading: &str) -> String {
    if path == "/" {
        return String::new();
    }
    let folder = path.trim_end_matches('/').rsplit_once('/').map(|(folder, _)| format!("{folder}/"));
    let above = folder.filter(|folder| folder != "/").and_then(|folder| {
        let page = pages.get(&folder)?;
        Some(format!("<a href=\"{}\">{}</a> › ", escape(&folder), escape(&page.front.title)))
    });
    format!("<a href=\"/\">Home</a> › {}<span aria-current=\"page\">{heading}</span>", above.unwrap_or_default())
}

fn links(links: &[(&str, &str)]) -> String {
    links.iter().map(|(path, name)| format!("<li><a href=\"{path}\">{name}</a></li>")).collect()
}

fn frame(language: &str, base: &str, path: &str, title: &str, kind: &str, crumbs: &str, body: &str) -> String {
    let title = if path == "/" { SITE.to_owned() } else { format!("{} · {SITE}", escape(title)) };
    let crumbs = if crumbs.is_empty() {
        String::new()
    } else {
        format!("<nav class=\"breadcrumb\" aria-label=\"Breadcrumb\">{crumbs}</nav>\n")
    };
    format!(
        "<!doctype html>\n<html lang=\"{language}\">\n<head>\n<meta charset=\"utf-8\">\n\
         <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{title}</title>\n\
         <meta property=\"og:type\" content=\"{kind}\">\n<link rel=\"canonical\" href=\"{base}{path}\">\n\
         <link rel=\"micropub\" href=\"/micropub\">\n<link rel=\"icon\" href=\"/media/icon.svg\">\n<link rel=\"stylesheet\" href=\"/media/site.css\">\n</head>\n<body>\n\
         <header><a href=\"/\">{SITE}</a>\n<nav aria-label=\"Main\"><ul>{menu}</ul></nav></header>\n{crumbs}\
         <main>\n{body}</main>\n\
         <footer><ul>{footer}</ul><p>{SITE}, founded on a clear night in 1971.</p></footer>\n</body>\n</html>\n",
        language = escape(language),
        menu = links(&MENU),
        footer = links(&FOOTER),
    )
}

fn escape(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}
