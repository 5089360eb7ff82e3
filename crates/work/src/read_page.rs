//! From a page as it was fetched, and its source, to what is kept of it.

use strelm_core::document::{Block, ContentHash, Document, Format, Link, LinkAttributes, Region};
use strelm_core::language::{Language, words};
use strelm_core::site::{Address, BlockKey, Destination, PageKind, Standing, Validators, language_of};
use strelm_sources::crawl::CrawledPage;
use strelm_sources::editing::PageSource;
use strelm_store::page::{ReadBlock, ReadLink, ReadPage, Says, Source};

/// Longer addresses are not kept; no browser is sure to follow them.
pub const LONGEST_ADDRESS: usize = 2000;

/// Boilerplate is not looked for beyond these.
const MOST_BLOCKS: usize = 10_000;

/// More letters of an attribute, and more tokens of `rel`, are not kept.
const LONGEST_ATTRIBUTE: usize = 300;
const MOST_TOKENS: usize = 20;

/// Further places on a page cannot be pointed at.
const MOST_IDS: usize = 20_000;

/// Whether the database keeps an address. A quote that is not closed makes one of half a page.
pub fn is_short_enough(address: &Address) -> bool {
    address.as_str().len() <= LONGEST_ADDRESS
}

/// A page that can be kept; `None` when its address is too long. `ignored` are parameters that change nothing on a page.
pub fn read_page(page: &CrawledPage, source: Option<PageSource>, ignored: &[String]) -> Option<ReadPage> {
    let document = &page.document;
    let (head, front) = (document.head(), &page.front);
    if !is_short_enough(&page.address) {
        return None;
    }
    // PostgreSQL keeps no NUL in text; a source with one could not be given back byte for byte.
    let source = source.filter(|source| !source.text.contains('\0'));
    // A folder's page and its source are one and the same.
    let other = source.as_ref().filter(|source| source.text != document.source());
    let counted = other.map(|source| Document::read(source.text.as_str(), source.format));
    let heading = document.main_heading().map(plain);
    let title = front.title.clone().or_else(|| head.title.clone()).or_else(|| heading.clone());
    let kind = match front.date {
        Some(_) => PageKind::Post,
        None => PageKind::from_signs(head.microformat.as_deref(), head.open_graph_type.as_deref(), false),
    };
    Some(ReadPage {
        kind,
        title: plain(title.unwrap_or_else(|| page.address.from_root())),
        category: front.category.clone().or_else(|| head.category.clone()).map(plain),
        language: plain(language(page)),
        words: content_words(counted.as_ref().unwrap_or(document)),
        crawled_hash: document.hash(),
        // Where there is a source, that is shown.
        main_html: if source.is_none() { plain(main_html(document)) } else { String::new() },
        source: source.map(|source| {
            let hash = ContentHash::of(&source.text);
            Source { text: source.text, format: source.format, hash }
        }),
        links: links(page, ignored),
        blocks: blocks(document, counted.is_none()),
        ids: document.ids().take(MOST_IDS).map(|id| plain(id.to_owned())).collect(),
        validators: Validators {
            etag: page.validators.etag.clone().map(plain),
            last_modified: page.validators.last_modified.clone().map(plain),
        },
        says: Says {
            published: front.date.clone().or_else(|| head.published.clone()).map(plain),
            description: front.description.clone().map(plain),
            tags: front.tags.iter().cloned().map(plain).collect(),
        },
        standing: standing(page),
        heading,
        address: page.address.clone(),
    })
}

/// The language as the page says it, or as it is recognised, as a BCP 47 tag; `und` when it is not clear.
fn language(page: &CrawledPage) -> String {
    let declared = page.front.language.as_ref().or(page.document.head().language.as_ref());
    let declared = declared.filter(|tag| !tag.trim().is_empty()).cloned();
    declared.unwrap_or_else(|| language_of(&page.document).map_or("und", Language::tag).to_owned())
}

/// What a page says of its standing; addresses that could not be kept are left out, for a page may say anything.
fn standing(page: &CrawledPage) -> Standing {
    let mut standing = Standing::of(page.document.head(), &page.address);
    standing.canonical = standing.canonical.filter(is_short_enough);
    standing.versions.retain(|version| is_short_enough(&version.address));
    standing
}

/// The page's own content as HTML, to show it where there is no source.
fn main_html(document: &Document) -> String {
    match document.format() {
        Format::Html => document.source().get(document.main_span().range()).unwrap_or_default().to_owned(),
        Format::Markdown => String::new(),
    }
}

/// A file as a page without text.
pub fn read_file(address: &Address, media_type: &str) -> Option<ReadPage> {
    let name = address.as_url().path_segments().and_then(|mut parts| parts.next_back().map(str::to_owned));
    is_short_enough(address).then(|| ReadPage {
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
        blocks: Vec::new(),
        ids: Vec::new(),
        validators: Validators::default(),
        says: Says::default(),
        standing: Standing::default(),
    })
}

fn content_words(document: &Document) -> u32 {
    let content = document.blocks().iter().filter(|block| block.region == Region::Content);
    let count: usize = content.map(|block| words(document.text().slice(block.text)).count()).sum();
    u32::try_from(count).unwrap_or(u32::MAX)
}

fn blocks(document: &Document, counts_words: bool) -> Vec<ReadBlock> {
    let content = document.blocks().iter().filter(|block| block.region == Region::Content).take(MOST_BLOCKS);
    let words = |block: &Block| words(document.text().slice(block.text)).count();
    content
        .map(|block| ReadBlock {
            key: BlockKey::of(document, block),
            words: counts_words.then(|| u32::try_from(words(block)).unwrap_or(u32::MAX)),
        })
        .collect()
}

fn links(page: &CrawledPage, ignored: &[String]) -> Vec<ReadLink> {
    let (document, address) = (&page.document, &page.address);
    let base = document.head().base.as_ref().and_then(|base| match address.follow(base) {
        Destination::Page { address, .. } => Some(address),
        _ => None,
    });
    let base = base.as_ref().unwrap_or(address);
    let links = document.links().iter().enumerate().filter_map(|(ordinal, link)| {
        let told = page.destinations.as_ref().and_then(|destinations| destinations.get(ordinal)).cloned();
        let destination = told.unwrap_or_else(|| base.follow(&link.href));
        let Destination::Page { address, fragment } = destination else { return None };
        let address = address.without_parameters(ignored);
        let anchor = document.anchor(link);
        is_short_enough(&address).then(|| ReadLink {
            href: plain(link.href.clone()),
            to: address,
            fragment: fragment.map(plain),
            anchor: plain(anchor),
            region: link.region,
            block: link
                .block
                .and_then(|block| document.blocks().get(block.0 as usize))
                .filter(|block| link.region == Region::Content && block.region == Region::Content)
                .map(|block| BlockKey::of(document, block)),
            is_tag: link.has_rel("tag"),
            attributes: attributes(document, link),
        })
    });
    links.collect()
}

/// What a link says, as far as it is kept: nobody reads a title of more than a few lines.
fn attributes(document: &Document, link: &Link) -> LinkAttributes {
    let short = |said: Option<String>| said.map(|said| plain(said.chars().take(LONGEST_ATTRIBUTE).collect()));
    let said = document.link_attributes(link);
    LinkAttributes {
        rel: said.rel.into_iter().take(MOST_TOKENS).filter_map(|token| short(Some(token))).collect(),
        target: short(said.target),
        title: short(said.title),
        class: short(said.class),
        hreflang: short(said.hreflang),
        download: short(said.download),
        alt: short(said.alt),
    }
}

fn plain(text: String) -> String {
    if text.contains('\0') { text.replace('\0', "\u{fffd}") } else { text }
}

#[cfg(test)]
mod tests {
    use strelm_sources::front_matter::FrontMatter;

    use super::*;

    fn language_of_page(document: Document, front: FrontMatter) -> Option<String> {
        let address = Address::parse("https://site.example/").ok()?;
        let validators = Default::default();
        let page = CrawledPage { address, document, validators, source: None, front, destinations: None };
        read_page(&page, None, &[]).map(|page| page.language)
    }

    #[test]
    fn a_page_is_kept_with_the_language_that_it_says_or_is_written_in() {
        let german =
            "Wer den Mond durch ein Fernrohr betrachtet, sieht an der Grenze von Licht und Schatten am meisten.";
        let front = FrontMatter { language: Some("de-AT".to_owned()), ..FrontMatter::default() };
        let markdown = |text: &str| Document::from_markdown(text);
        assert_eq!(language_of_page(markdown(german), FrontMatter::default()).as_deref(), Some("de"));
        assert_eq!(language_of_page(markdown("x = 1"), front).as_deref(), Some("de-AT"));
        assert_eq!(language_of_page(markdown("x = 1"), FrontMatter::default()).as_deref(), Some("und"));
        let html = Document::from_html(format!("<html lang=fr-CA><p>{german}</p>"));
        assert_eq!(language_of_page(html, FrontMatter::default()).as_deref(), Some("fr-CA"));
    }
}
