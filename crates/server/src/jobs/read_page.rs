//! From a page as it was fetched, and its source, to what is kept of it.

use strelm_core::document::{ContentHash, Document, LinkKind, Region, TextSpan};
use strelm_core::language::words;
use strelm_core::site::{Address, Destination, PageKind};
use strelm_sources::crawl::CrawledPage;
use strelm_store::page::{ReadLink, ReadPage};

/// Longer addresses are not kept; no browser is sure to follow them.
const LONGEST_ADDRESS: usize = 2000;

/// A page that can be kept; `None` when its address is too long.
pub fn read_page(page: &CrawledPage, source: Option<String>) -> Option<ReadPage> {
    let document = &page.document;
    let head = document.head();
    if page.address.as_str().len() > LONGEST_ADDRESS {
        return None;
    }
    // PostgreSQL keeps no NUL in text; a source with one could not be given back byte for byte.
    let source = source.filter(|html| !html.contains('\0'));
    let counted = source.as_ref().map(|html| Document::from_html(html.as_str()));
    let heading = document.main_heading().map(plain);
    let title = head.title.clone().or_else(|| heading.clone()).unwrap_or_else(|| page.address.from_root());
    Some(ReadPage {
        kind: PageKind::from_signs(head.microformat.as_deref(), head.open_graph_type.as_deref(), false),
        title: plain(title),
        category: head.category.clone().map(plain),
        language: plain(head.language.clone().unwrap_or_else(|| "und".to_owned())),
        words: content_words(counted.as_ref().unwrap_or(document)),
        crawled_hash: document.hash(),
        main_html: plain(document.source().get(document.main_span().range()).unwrap_or_default().to_owned()),
        source: source.map(|html| {
            let hash = ContentHash::of(&html);
            (html, hash)
        }),
        links: links(&page.address, document),
        heading,
        address: page.address.clone(),
    })
}

/// A file as a page without text.
pub fn read_file(address: &Address, media_type: &str) -> Option<ReadPage> {
    let name = address.as_url().path_segments().and_then(|mut parts| parts.next_back().map(str::to_owned));
    (address.as_str().len() <= LONGEST_ADDRESS).then(|| ReadPage {
        address: address.clone(),
        kind: PageKind::File,
        title: name.filter(|name| !name.is_empty()).unwrap_or_else(|| address.from_root()),
        heading: None,
        category: None,
        language: "und".to_owned(),
        words: 0,
        crawled_hash: ContentHash::of(media_type),
        main_html: String::new(),
        source: None,
        links: Vec::new(),
    })
}

fn content_words(document: &Document) -> u32 {
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let count: usize = content.map(|block| words(document.text().slice(block.text)).count()).sum();
    u32::try_from(count).unwrap_or(u32::MAX)
}

fn links(page: &Address, document: &Document) -> Vec<ReadLink> {
    let base = document.head().base.as_ref().and_then(|base| match page.follow(base) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    });
    let base = base.as_ref().unwrap_or(page);
    let links = document.links().iter().filter_map(|link| {
        let Destination::Page { address, fragment } = base.follow(&link.href) else { return None };
        let anchor = match link.kind {
            LinkKind::Text => fold(document, link.text),
            LinkKind::Picture => link.alt.clone().unwrap_or_default(),
        };
        (address.as_str().len() <= LONGEST_ADDRESS).then(|| ReadLink {
            href: plain(link.href.clone()),
            to: address,
            fragment: fragment.map(plain),
            anchor: plain(anchor),
            region: link.region,
            is_tag: link.rel.iter().any(|rel| rel == "tag"),
        })
    });
    links.collect()
}

fn fold(document: &Document, span: TextSpan) -> String {
    strelm_core::document::text::fold_space(document.text().slice(span))
}

fn plain(text: String) -> String {
    if text.contains('\0') { text.replace('\0', "\u{fffd}") } else { text }
}
