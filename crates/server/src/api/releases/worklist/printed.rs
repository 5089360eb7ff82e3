//! A worklist as a page to read and to print. Everything that comes from a site is written as text.

use ammonia::clean_text;

use super::rows::WorkItem;

const STYLE: &str = "body{font:11pt/1.45 Georgia,serif;max-width:48rem;margin:2rem auto;padding:0 1rem;color:#1d2733}\
    h1{font-size:1.5rem}h2{font-size:1.15rem;margin:2rem 0 .25rem;border-top:1px solid #8a94a0;padding-top:1rem}\
    ol{list-style:none;padding:0}li{margin:1rem 0;padding-left:2rem;position:relative;break-inside:avoid}\
    .box{position:absolute;left:0;top:.2rem;width:1rem;height:1rem;border:1.5px solid #1d2733}\
    .quiet{color:#4a5866}p{margin:.2rem 0}mark{background:none;font-weight:bold;text-decoration:underline}\
    pre{font:9pt/1.4 monospace;white-space:pre-wrap;overflow-wrap:anywhere;border:1px solid #8a94a0;padding:.5rem}\
    a{color:inherit;overflow-wrap:anywhere}";

/// O(text of the rows).
pub fn page(site: &str, release: i64, rows: &[WorkItem]) -> String {
    let site = clean_text(site);
    let mut page = format!(
        "<!doctype html><html lang=en><head><meta charset=utf-8><title>Links to put in: {site}</title>\
         <style>{STYLE}</style></head><body><h1>Links to put in: {site}</h1>\
         <p class=quiet>{} of release {release}. The HTML is that of the whole block with all its links.</p>",
        match rows.len() {
            1 => "One link".to_owned(),
            all => format!("{all} links"),
        }
    );
    let mut address = "";
    for row in rows {
        if row.address != address {
            if !address.is_empty() {
                page.push_str("</ol>");
            }
            address = &row.address;
            page.push_str(&format!("<h2>{}</h2><p>{}</p><ol>", clean_text(&row.page), link(&row.address)));
        }
        page.push_str("<li><span class=box></span>");
        if !row.headings.is_empty() {
            page.push_str(&format!("<p class=quiet>Under “{}”</p>", clean_text(&row.headings.join(" › "))));
        }
        if !row.sentence_before.is_empty() {
            page.push_str(&format!("<p class=quiet>… {}</p>", clean_text(&row.sentence_before)));
        }
        page.push_str(&format!(
            "<p>{}<mark>{}</mark>{}</p><p class=quiet>{}.",
            clean_text(&row.before),
            clean_text(&row.words),
            clean_text(&row.after),
            row.doing
        ));
        if !row.leads_to.is_empty() {
            page.push_str(&format!(" Leads to {}", link(&row.leads_to)));
        }
        page.push_str("</p>");
        if !row.block_after.is_empty() {
            page.push_str(&format!("<pre>{}</pre>", clean_text(&row.block_after)));
        }
        page.push_str("</li>");
    }
    page.push_str("</ol></body></html>");
    page
}

fn link(address: &str) -> String {
    let text = clean_text(address);
    match address.starts_with("http://") || address.starts_with("https://") {
        true => format!("<a href=\"{text}\" rel=\"noopener noreferrer\" target=_blank>{text}</a>"),
        false => text,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_site_says_is_text() {
        let evil = "\"><script>alert(1)</script>".to_owned();
        let row = WorkItem {
            page: evil.clone(),
            address: format!("https://a.example/{evil}"),
            headings: vec![evil.clone()],
            sentence_before: evil.clone(),
            doing: "Put a link on the words",
            before: evil.clone(),
            words: evil.clone(),
            after: evil.clone(),
            leads_to: "javascript:alert(1)".to_owned(),
            block_after: evil.clone(),
        };
        let page = page(&evil, 1, &[row]);
        assert!(!page.contains("<script") && !page.contains("\"javascript"), "{page}");
        assert!(page.contains("<a href=\"https"), "{page}");
    }
}
