//! One page after it was changed on the site: where it is, and what it says now.

use strelm_core::document::Document;
use strelm_core::site::{Address, PageId};
use strelm_sources::crawl::CrawledPage;
use strelm_sources::editing::Editor;
use strelm_sources::fetch::{FetchLimits, fetch};
use strelm_sources::front_matter::FrontMatter;
use strelm_store::{SiteId, boilerplate, page};

use super::place_anew::place_anew;
use super::read_page::read_page;
use super::{JobError, Tools};

/// The address of a page that is not gone.
pub(super) async fn address_of(tools: &Tools, site: SiteId, page: PageId) -> Result<Option<Address>, JobError> {
    let known = page::facts(&tools.pool, site, Some(&[page])).await?.pop();
    Ok(known.filter(|page| page.gone.is_none()).map(|page| page.facts.address))
}

/// Reads one page anew after it was changed, so that what Strelm shows is what the site holds.
pub(super) async fn read_again(
    tools: &Tools,
    site: SiteId,
    editor: &Editor,
    address: &Address,
) -> Result<(), JobError> {
    let read = match editor {
        Editor::Folder(folder) => {
            let (folder, address) = (folder.clone(), address.clone());
            let read = tokio::task::spawn_blocking(move || folder.read_page(&address)).await;
            read.ok().and_then(Result::ok).map(|page| {
                let source = page.source.clone();
                (page, source)
            })
        }
        Editor::Micropub(_) => {
            let is_html = |media_type: &str| media_type == "text/html";
            let fetched = fetch(&tools.client, address, FetchLimits::default(), is_html).await.ok();
            let fetched = fetched.filter(|fetched| fetched.is_html() && fetched.address == *address);
            match fetched {
                Some(fetched) => {
                    let (validators, address) = (fetched.validators.clone(), address.clone());
                    let source = editor.source(&address).await.ok();
                    let (document, front) = (Document::from_html(fetched.text()), FrontMatter::default());
                    let page = CrawledPage { address, document, validators, source: None, front, destinations: None };
                    Some((page, source))
                }
                None => None,
            }
        }
    };
    let Some((page, source)) = read else { return Ok(()) };
    let ignored =
        strelm_store::site::get(&tools.pool, site).await?.ok_or(JobError::NoSite)?.settings.ignored_parameters;
    let read: Vec<_> = read_page(&page, source, &ignored).into_iter().collect();
    let put = page::put_all(&tools.pool, site, None, &read, &boilerplate::all(&tools.pool, site).await?).await?;
    page::mark_term_archives(&tools.pool, site).await?;
    let changed: Vec<_> = put.into_iter().map(|(page, _)| page).collect();
    place_anew(&tools.pool, site, &changed).await?;
    Ok(())
}
