//! A made-up site of any size, the same each time: sections of pages on a topic of their own, menus, prose in which pages
//! name each other, and now and then link.

use std::fmt::Write;

use fastrand::Rng;
use rayon::iter::{IntoParallelIterator, ParallelIterator};
use strelm_core::document::Document;
use strelm_core::openings::{Corpus, CorpusPage};
use strelm_core::site::Address;

/// Pages of one section.
const SECTION: usize = 100;

/// Words of a page's text, about.
const WORDS: usize = 1000;

/// Of the places where a page names another one, so many are links: one in five.
const LINKED_ONE_IN: usize = 5;

const PLAIN: [&str; 60] = [
    "the", "of", "and", "a", "to", "in", "is", "it", "that", "for", "was", "on", "are", "with", "as", "at", "be",
    "this", "from", "have", "or", "by", "one", "had", "not", "but", "what", "all", "were", "when", "we", "there",
    "can", "an", "your", "which", "their", "said", "if", "do", "will", "each", "about", "how", "up", "out", "them",
    "then", "she", "many", "some", "so", "these", "would", "other", "into", "has", "more", "her", "two",
];

const SYLLABLES: [&str; 24] = [
    "ba", "cor", "del", "fen", "gal", "hur", "il", "jan", "kel", "lum", "mor", "nev", "or", "pal", "quin", "ros",
    "sel", "tam", "ul", "vor", "wen", "yar", "zel", "thi",
];

/// A made-up word, the same for the same number.
fn word(number: usize) -> String {
    let mut rest = number;
    let mut word = String::new();
    loop {
        word.push_str(SYLLABLES[rest % SYLLABLES.len()]);
        rest /= SYLLABLES.len();
        if rest == 0 && word.len() > 4 {
            return word;
        }
    }
}

/// The title of a page: two words of its section's, or one of its own.
fn title(page: usize) -> String {
    let (section, place) = (page / SECTION, page % SECTION);
    let topic = word(1_000 + section * 13 + place % 7);
    let own = word(50_000 + page * 3);
    let mut title = if place % 4 == 0 { own } else { format!("{topic} {own}") };
    title[..1].make_ascii_uppercase();
    title
}

/// The path of a page below the folder of the site; page 0 is the entry page.
pub fn path(page: usize) -> String {
    match page {
        0 => "index.html".to_owned(),
        _ => format!("s{}/p{}.html", page / SECTION, page % SECTION),
    }
}

/// The source of a page of a site of so many pages. O(1).
pub fn page(number: usize, pages: usize) -> String {
    let mut random = Rng::with_seed(number as u64);
    let section = number / SECTION;
    let mut html = format!(
        "<!doctype html><html lang=en><head><meta charset=utf-8><title>{}</title></head><body><header><nav><ul>",
        title(number)
    );
    let sections = pages.div_ceil(SECTION);
    for step in 0..12 {
        let other = (step * sections / 12) * SECTION;
        let _ = write!(html, "<li><a href=\"/{}\">{}</a></li>", path(other), title(other));
    }
    let _ = write!(html, "</ul></nav></header><main><h1>{}</h1>", title(number));
    let mut count = 0;
    while count < WORDS {
        if random.usize(..6) == 0 {
            let _ = write!(html, "<h2>{}</h2>", sentence(&mut random, section, 4));
        }
        html.push_str("<p>");
        for _ in 0..random.usize(3..7) {
            let length = random.usize(8..20);
            html.push_str(&sentence(&mut random, section, length));
            count += length;
            if random.usize(..4) == 0 {
                // Mostly a page of the section, sometimes any.
                let other = if random.usize(..8) == 0 {
                    random.usize(..pages)
                } else {
                    (section * SECTION + random.usize(..SECTION)).min(pages - 1)
                };
                let _ = match random.usize(..LINKED_ONE_IN) {
                    0 => write!(html, " See <a href=\"/{}\">{}</a>", path(other), title(other)),
                    _ => write!(html, " It is like {}", title(other).to_lowercase()),
                };
            }
            html.push_str(". ");
        }
        html.push_str("</p>\n");
    }
    let next = (number + 1) % pages;
    let _ = write!(html, "</main><footer><a href=\"/{}\">Next: {}</a></footer></body></html>", path(next), title(next));
    html
}

/// One page in so many is long, and one in so many has markup that is never closed.
const LONG_ONE_IN: usize = 50;
const TORN_ONE_IN: usize = 12;

/// Pages that a long one holds.
const LONG: usize = 12;

/// The same page with what real sites have: a list of its section beside it, notes that stand on every page, now and then
/// the text of many pages in one, and markup that is never closed.
pub fn lifelike_page(number: usize, pages: usize) -> String {
    let section = number / SECTION * SECTION;
    let mut aside = String::from("<aside class=toc><h3>In this part</h3><ul>");
    for other in (section..(section + SECTION).min(pages)).step_by(3) {
        let _ = write!(aside, "<li><a href=\"/{}\">{}</a>", path(other), title(other));
    }
    aside.push_str("</ul></aside><div class=note><p>This is a part of the whole, as of this month. Tell us what is wrong.</div><main>");
    let mut html = page(number, pages).replacen("<main>", &aside, 1);
    if number % LONG_ONE_IN == LONG_ONE_IN - 1 {
        let more: String =
            (1..LONG).map(|step| body(&page((number + step * SECTION) % pages, pages)).to_owned()).collect();
        html = html.replacen("</main>", &(more + "</main>"), 1);
    }
    if number.is_multiple_of(TORN_ONE_IN) {
        // The first end of each is missing, and one stands where nothing was begun.
        html = html.replacen("</p>", "<b>", 1).replacen("</h2>", "", 1).replacen("</main>", "</div></main>", 1);
    }
    html.replacen("<footer>", "<footer><p>Nobody in particular made this. All of it may be copied.</p>", 1)
}

/// What stands in the content of a page.
fn body(html: &str) -> &str {
    let begin = html.find("</h1>").map_or(0, |at| at + "</h1>".len());
    let end = html.find("</main>").unwrap_or(html.len());
    html.get(begin..end).unwrap_or_default()
}

/// The same page as an author left it who wrote a section to its end: a heading and words of a link that stand nowhere
/// else, made of words that stand on many pages.
pub fn page_gone_over(number: usize, pages: usize) -> String {
    let mut random = Rng::with_seed((pages + number) as u64);
    let mut pair = || {
        let mut any = || word((random.f64().powi(3) * 20_000.0) as usize);
        format!("{} {}", any(), any())
    };
    let (heading, linked) = (pair(), pair());
    let to = path((number + pages / 2) % pages);
    let more = format!("<h2>{heading}</h2><p>It is like <a href=\"/{to}\">{linked}</a>.</p></main>");
    page(number, pages).replacen("</main>", &more, 1)
}

/// A site of so many pages, read. `None` when addresses cannot be made, which does not happen. O(pages).
pub fn corpus(pages: usize) -> Option<Corpus> {
    let address = |number: usize| Address::parse(&format!("https://site.example/{}", path(number))).ok();
    let read =
        |number| Some(CorpusPage { address: address(number)?, document: Document::from_html(page(number, pages)) });
    let read = (0..pages).into_par_iter().map(read).collect::<Option<Vec<_>>>()?;
    Some(Corpus::of(address(0)?, read))
}

fn sentence(random: &mut Rng, section: usize, length: usize) -> String {
    let mut sentence = String::new();
    for at in 0..length {
        let word = match random.usize(..10) {
            0..6 => PLAIN[(random.f64().powi(2) * PLAIN.len() as f64) as usize].to_owned(),
            6..8 => word(1_000 + section * 13 + random.usize(..13)),
            _ => word((random.f64().powi(3) * 20_000.0) as usize),
        };
        if at > 0 {
            sentence.push(' ');
        }
        sentence.push_str(&word);
    }
    sentence[..1].make_ascii_uppercase();
    sentence
}

#[cfg(test)]
mod tests {
    use std::collections::HashSet;

    use super::*;

    #[test]
    fn pages_are_the_same_each_time_and_differ_from_each_other() {
        assert_eq!(page(7, 1000), page(7, 1000));
        assert_eq!(lifelike_page(49, 1000), lifelike_page(49, 1000));
        assert!(lifelike_page(49, 1000).len() > 8 * page(49, 1000).len(), "a long one");
        assert!(lifelike_page(12, 1000).contains("</div></main>"), "a torn one");
        let titles: HashSet<_> = (0..2000).map(title).collect();
        assert_eq!(titles.len(), 2000);
        assert_eq!((0..2000).map(path).collect::<HashSet<_>>().len(), 2000);
    }
}
