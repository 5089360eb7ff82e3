//! Edits of Markdown, judged by another reader of CommonMark.

use comrak::nodes::{AstNode, NodeValue};
use comrak::{Arena, Options, parse_document};
use fastrand::Rng;
use pulldown_cmark::{Event, Parser, Tag, TagEnd};
use strelm_core::document::{BlockId, Document, Edit, LinkTarget, MARKDOWN_OPTIONS, TextSpan, Wording};

use crate::html::Effort;
use crate::outline::{Item, push_text, text, text_within, without};
use crate::report::Report;
use crate::sample;

const TARGET: &str = "/strelm-proof/";

/// Tries edits of all kinds on one page. O(edits × n).
pub fn prove(name: &str, source: &str, effort: Effort, seed: u64) -> Report {
    let mut report = Report { documents: 1, ..Report::default() };
    let document = Document::from_markdown(source);
    let before = outline(source);
    // Where the two readers do not see the same elements and links, each is right in its own dialect.
    let same_links = hrefs(&before) == document.links().iter().map(|link| link.href.clone()).collect::<Vec<_>>();
    let same_text = letters(&text(&before)) == letters(&text_by_our_reader(source));
    if !same_links || !same_text || names(&before) != names_by_our_reader(source) {
        report.left_out = 1;
        return report;
    }
    let mut random = Rng::with_seed(seed);
    put_links(name, source, &document, &before, effort, &mut random, &mut report);
    take_out_and_change(name, source, &document, &before, effort, &mut random, &mut report);
    insert(name, source, &document, &before, effort, &mut random, &mut report);
    report
}

fn options() -> Options<'static> {
    let mut options = Options::default();
    options.extension.table = true;
    options.extension.footnotes = true;
    options.extension.strikethrough = true;
    options.extension.tasklist = true;
    options
}

fn outline(source: &str) -> Vec<Item> {
    let arena = Arena::new();
    let root = parse_document(&arena, source, &options());
    let mut items = Vec::new();
    walk(root, &mut items);
    items
}

fn walk<'a>(node: &'a AstNode<'a>, items: &mut Vec<Item>) {
    let (name, attributes) = match &node.data.borrow().value {
        NodeValue::Text(text) => return push_text(items, text),
        NodeValue::Code(code) => return push_text(items, &code.literal),
        NodeValue::SoftBreak | NodeValue::LineBreak => return push_text(items, "\n"),
        NodeValue::HtmlInline(html) => return items.push(Item::Comment(html.clone())),
        NodeValue::HtmlBlock(html) => {
            items.push(Item::Start("html".to_owned(), Vec::new()));
            items.push(Item::Comment(html.literal.trim_end().to_owned()));
            return items.push(Item::End("html".to_owned()));
        }
        NodeValue::CodeBlock(code) => return push_text(items, &code.literal),
        NodeValue::Link(link) => ("a", vec![("href".to_owned(), link.url.clone())]),
        NodeValue::Image(link) => ("img", vec![("src".to_owned(), link.url.clone())]),
        NodeValue::Heading(heading) => {
            (["h1", "h2", "h3", "h4", "h5", "h6"][usize::from(heading.level) - 1], Vec::new())
        }
        NodeValue::Paragraph => ("p", Vec::new()),
        NodeValue::Emph => ("em", Vec::new()),
        NodeValue::Strong => ("strong", Vec::new()),
        NodeValue::Item(_) | NodeValue::TaskItem(_) => ("li", Vec::new()),
        NodeValue::Table(_) => ("table", Vec::new()),
        NodeValue::Strikethrough => ("s", Vec::new()),
        _ => ("block", Vec::new()),
    };
    // What an image holds is its alternative text: readers do not see it.
    let is_seen = name != "img";
    items.push(Item::Start(name.to_owned(), attributes));
    for child in node.children().filter(|_| is_seen) {
        walk(child, items);
    }
    items.push(Item::End(name.to_owned()));
}

/// Elements in order, by names that both readers have.
fn names(items: &[Item]) -> Vec<String> {
    let started = items.iter().filter_map(|item| match item {
        Item::Start(name, _) if name != "block" => Some(name.clone()),
        _ => None,
    });
    // Tight lists have paragraphs or none.
    started.filter(|name| name != "p").collect()
}

fn names_by_our_reader(source: &str) -> Vec<String> {
    let names = Parser::new_ext(source, MARKDOWN_OPTIONS).filter_map(|event| match event {
        Event::Start(Tag::Heading { level, .. }) => Some(level.to_string()),
        Event::Start(Tag::Link { .. }) => Some("a".to_owned()),
        Event::Start(Tag::Image { .. }) => Some("img".to_owned()),
        Event::Start(Tag::Emphasis) => Some("em".to_owned()),
        Event::Start(Tag::Strong) => Some("strong".to_owned()),
        Event::Start(Tag::Item) => Some("li".to_owned()),
        Event::Start(Tag::Table(_)) => Some("table".to_owned()),
        Event::Start(Tag::HtmlBlock) => Some("html".to_owned()),
        Event::Start(Tag::Strikethrough) => Some("s".to_owned()),
        _ => None,
    });
    names.collect()
}

fn letters(text: &str) -> String {
    text.chars().filter(|c| !c.is_whitespace()).collect()
}

/// But for what stands for pictures.
fn text_by_our_reader(source: &str) -> String {
    let mut text = String::new();
    let mut pictures = 0;
    for event in Parser::new_ext(source, MARKDOWN_OPTIONS) {
        match event {
            Event::Start(Tag::Image { .. }) => pictures += 1,
            Event::End(TagEnd::Image) => pictures -= 1,
            Event::Text(piece) | Event::Code(piece) if pictures == 0 => text.push_str(&piece),
            _ => {}
        }
    }
    text
}

fn hrefs(items: &[Item]) -> Vec<String> {
    items.iter().filter_map(|item| item.attribute("href")).map(|href| href.trim().to_owned()).collect()
}

fn is_ours(item: &Item) -> bool {
    item.attribute("href") == Some(TARGET)
}

fn applied(name: &str, kind: &'static str, source: &str, edit: &Edit, report: &mut Report) -> Option<String> {
    report.made(kind);
    let after = edit.apply(source).ok();
    let undone = edit.inverse(source).ok().zip(after.as_ref()).and_then(|(inverse, after)| inverse.apply(after).ok());
    report.check(undone.as_deref() == Some(source), || format!("{name} · {kind}: is not undone"));
    after
}

fn put_links(
    name: &str,
    source: &str,
    document: &Document,
    before: &[Item],
    effort: Effort,
    random: &mut Rng,
    report: &mut Report,
) {
    const KIND: &str = "Markdown: link on words";
    let mut edits: Vec<Edit> = Vec::new();
    for words in sample::spans(document, effort.spans, random) {
        let Ok(edit) = document.put_link(words, &LinkTarget::to(TARGET)) else {
            report.refused(KIND);
            continue;
        };
        let Some(after) = applied(name, KIND, source, &edit, report) else { continue };
        let found = outline(&after);
        let (rest, count) = without(&found, is_ours);
        let meant = document.text().slice(words);
        report.check(count == 1 && rest == before, || format!("{name} · {KIND} “{meant}”: other elements differ"));
        let linked = text_within(&found, is_ours);
        report.check(linked == meant, || format!("{name} · {KIND}: “{linked}” is linked, not “{meant}”"));
        if Edit::compose(document.hash(), edits.iter().cloned().chain([edit.clone()])).is_ok() {
            edits.push(edit);
        }
    }
    let links = edits.len();
    let Ok(edit) = Edit::compose(document.hash(), edits) else { return };
    let Some(after) = applied(name, "Markdown: many at once", source, &edit, report) else { return };
    let (rest, count) = without(&outline(&after), is_ours);
    report.check(count == links && rest == before, || format!("{name} · many links at once: other elements differ"));
}

fn take_out_and_change(
    name: &str,
    source: &str,
    document: &Document,
    before: &[Item],
    effort: Effort,
    random: &mut Rng,
    report: &mut Report,
) {
    for ordinal in sample::ordinals(document.links().len(), effort.others, random) {
        const OUT: &str = "Markdown: link taken out";
        let mut told = None;
        match document.change_link(ordinal, Some(TARGET), &[]) {
            Ok(edit) => {
                const KIND: &str = "Markdown: link changed";
                let Some(after) = applied(name, KIND, source, &edit, report) else { continue };
                let found = outline(&after);
                let same = without(&found, |item| item.attribute("href").is_some()).0
                    == without(before, |item| item.attribute("href").is_some()).0;
                let mut expected = hrefs(before);
                TARGET.clone_into(&mut expected[ordinal]);
                report.check(same && hrefs(&found) == expected, || format!("{name} · {KIND}: other elements differ"));
                told = Some(found);
            }
            Err(_) => report.refused("Markdown: link changed"),
        }
        match document.take_out_link(ordinal) {
            Ok(edit) => {
                let Some(after) = applied(name, OUT, source, &edit, report) else { continue };
                let Some(told) = &told else { continue };
                let rest = without(told, is_ours).0;
                report.check(rest == outline(&after), || format!("{name} · {OUT}: other elements differ"));
            }
            Err(_) => report.refused(OUT),
        }
        match document.reword_link(ordinal, "our *own* words") {
            Ok(edit) => {
                const KIND: &str = "Markdown: anchor text changed";
                let Some(after) = applied(name, KIND, source, &edit, report) else { continue };
                let found = outline(&after);
                let same = found.len() == before.len() && text(&found).contains("our *own* words");
                report.check(same && hrefs(&found) == hrefs(before), || {
                    format!("{name} · {KIND}: other elements differ")
                });
            }
            Err(_) => report.refused("Markdown: anchor text changed"),
        }
    }
}

fn insert(
    name: &str,
    source: &str,
    document: &Document,
    before: &[Item],
    effort: Effort,
    random: &mut Rng,
    report: &mut Report,
) {
    let wording = [Wording::Text("New ".to_owned()), Wording::Link("linked".to_owned(), LinkTarget::to(TARGET))];
    for ordinal in sample::ordinals(document.blocks().len(), effort.others, random) {
        let block = document.blocks()[ordinal];
        let end = block.text.start + document.text().slice(block.text).trim_end().len();
        let block_id = BlockId(u32::try_from(ordinal).unwrap_or(u32::MAX));
        let tries = [
            ("Markdown: sentence added", document.insert_sentence(end, &wording), 0),
            ("Markdown: block added", document.insert_block(block_id, &wording), 1),
            (
                "Markdown: sentence replaced",
                document.replace_sentence(TextSpan::new(block.text.start, end), &wording),
                0,
            ),
        ];
        for (kind, edit, blocks) in tries {
            let Ok(edit) = edit else {
                report.refused(kind);
                continue;
            };
            let Some(after) = applied(name, kind, source, &edit, report) else { continue };
            let (rest, count) = without(&outline(&after), is_ours);
            let paragraphs =
                |items: &[Item]| items.iter().filter(|i| matches!(i, Item::Start(n, _) if n == "p")).count();
            let holds = count == 1
                && text(&rest).contains("New linked")
                && paragraphs(&rest) >= paragraphs(before) + blocks
                && hrefs(&rest) == hrefs(before);
            report.check(holds, || format!("{name} · {kind}: other elements differ"));
        }
    }
}
