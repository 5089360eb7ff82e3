//! Edits of HTML, each judged by the tree that a browser would build before and after.

use fastrand::Rng;
use strelm_core::document::{BlockId, BlockKind, Document, Edit, LinkSays, LinkTarget, TextSpan, Wording};

use crate::outline::{Item, differences, of_html, text, text_within, without};
use crate::report::Report;
use crate::sample;

/// No page has this address.
const TARGET: &str = "/strelm-proof?a=1&b=\"2\"";
const WORDS: &str = "Words & <more> of “ours”";

/// How many edits of each kind are tried on a page.
#[derive(Debug, Clone, Copy)]
pub struct Effort {
    pub spans: usize,
    pub others: usize,
}

/// Tries edits of all kinds on one page. O(edits × n).
pub fn prove(name: &str, source: &str, effort: Effort, seed: u64) -> Report {
    let mut trial = Trial {
        name,
        source,
        document: Document::from_html(source),
        before: of_html(source),
        report: Report { documents: 1, ..Report::default() },
        random: Rng::with_seed(seed),
    };
    trial.put_links(effort.spans);
    trial.put_links_on_pictures(effort.others);
    trial.change_links(effort.others);
    trial.take_out(effort.others);
    trial.reword(effort.others);
    trial.add_ids(effort.others);
    trial.insert(effort.others);
    trial.compose(effort.spans);
    trial.rebase(effort.others);
    trial.report
}

struct Trial<'t> {
    name: &'t str,
    source: &'t str,
    document: Document,
    before: Vec<Item>,
    report: Report,
    random: Rng,
}

fn is_ours(item: &Item) -> bool {
    item.attribute("href") == Some(TARGET)
}

impl Trial<'_> {
    fn say(&self, kind: &str, what: &str, after: &str) -> String {
        let at = after.bytes().zip(self.source.bytes()).take_while(|(a, b)| a == b).count();
        let near = |text: &str| {
            let start = (0..=at.saturating_sub(120)).rev().find(|at| text.is_char_boundary(*at)).unwrap_or_default();
            let end = (at + 160..=text.len()).find(|at| text.is_char_boundary(*at)).unwrap_or(text.len());
            text.get(start..end).unwrap_or_default().to_owned()
        };
        format!("{} · {kind}: {what}\n  before {:?}\n  after  {:?}", self.name, near(self.source), near(after))
    }

    /// What holds of every edit: it can be made, all other bytes stay, and it can be undone.
    fn apply(&mut self, kind: &'static str, edit: &Edit) -> Option<String> {
        self.report.made(kind);
        let Ok(after) = edit.apply(self.source) else {
            self.report.check(false, || format!("{} · {kind}: cannot be made", self.name));
            return None;
        };
        let undone = edit.inverse(self.source).and_then(|inverse| inverse.apply(&after));
        let is_undone = undone.as_deref() == Ok(self.source);
        let message = self.say(kind, "is not undone", &after);
        self.report.check(is_undone, || message);
        let mut rest = after.as_str();
        let mut kept = 0;
        let mut untouched = true;
        for splice in edit.splices() {
            let piece = self.source.get(kept..splice.at.start).unwrap_or_default();
            match rest.strip_prefix(piece).and_then(|rest| rest.strip_prefix(splice.with.as_str())) {
                Some(next) => rest = next,
                None => untouched = false,
            }
            kept = splice.at.end;
        }
        untouched &= self.source.get(kept..) == Some(rest);
        let message = self.say(kind, "touches other bytes", &after);
        self.report.check(untouched, || message);
        Some(after)
    }

    fn same_text(&mut self, kind: &str, after: &str) -> Document {
        let read = Document::from_html(after);
        let holds = read.text().as_str() == self.document.text().as_str();
        let message = if holds { String::new() } else { self.say(kind, "other visible text", after) };
        self.report.check(holds, || message);
        read
    }

    fn expect(&mut self, kind: &str, holds: bool, what: &str, after: &str) {
        let message = if holds { String::new() } else { self.say(kind, what, after) };
        self.report.check(holds, || message);
    }

    fn put_links(&mut self, most: usize) {
        const KIND: &str = "link on words";
        for words in sample::spans(&self.document, most, &mut self.random) {
            let Ok(edit) = self.document.put_link(words, &LinkTarget::to(TARGET)) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            let read = self.same_text(KIND, &after);
            self.expect(KIND, read.links().len() == self.document.links().len() + 1, "not one link more", &after);
            let outline = of_html(&after);
            let (rest, count) = without(&outline, is_ours);
            self.expect(KIND, count == 1, "not one element more", &after);
            self.expect(KIND, rest == self.before, "other elements differ", &after);
            let linked = text_within(&outline, is_ours);
            let meant = self.document.text().slice(words).replace(['\n', '\r'], "");
            self.expect(KIND, linked.replace(['\n', '\r'], "") == meant, "other words are linked", &after);
        }
    }

    fn put_links_on_pictures(&mut self, most: usize) {
        const KIND: &str = "link on a picture";
        for ordinal in sample::ordinals(self.document.pictures().len(), most, &mut self.random) {
            let Ok(edit) = self.document.put_link_on_picture(ordinal, &LinkTarget::to(TARGET)) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            self.same_text(KIND, &after);
            let (rest, count) = without(&of_html(&after), is_ours);
            self.expect(KIND, count == 1 && rest == self.before, "other elements differ", &after);
        }
    }

    fn change_links(&mut self, most: usize) {
        const KIND: &str = "link changed";
        for ordinal in sample::ordinals(self.document.links().len(), most, &mut self.random) {
            let says = self.some_says();
            let href = self.random.bool().then_some(TARGET);
            let Ok(edit) = self.document.change_link(ordinal, href, &says) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            let read = self.same_text(KIND, &after);
            let link = &read.links()[ordinal];
            let old = &self.document.links()[ordinal];
            let holds = href.is_none_or(|href| link.href == href)
                && says.iter().all(|said| says_so(&read, ordinal, said))
                && (href.is_some() || link.href == old.href);
            self.expect(KIND, holds, "does not say what was meant", &after);
            let outline = of_html(&after);
            let found = differences(&self.before, &outline);
            let only_this = found.is_some_and(|found| {
                // One tag that a browser opens again is more than one element.
                found.iter().all(|(was, is)| match (was, is) {
                    (Item::Start(a, before), Item::Start(b, after)) => {
                        let rest = |attributes: &[(String, String)]| -> Vec<_> {
                            let changes = ["href", "rel", "target", "title"];
                            attributes.iter().filter(|(name, _)| !changes.contains(&name.as_str())).cloned().collect()
                        };
                        a == b && (a == "a" || a == "area") && rest(before) == rest(after) && *was == found[0].0
                    }
                    _ => false,
                })
            });
            self.expect(KIND, only_this, "other elements differ", &after);
        }
    }

    fn some_says(&mut self) -> Vec<LinkSays> {
        let all = [
            LinkSays::Follow(self.random.bool()),
            LinkSays::Sponsored(self.random.bool()),
            LinkSays::UserContent(self.random.bool()),
            LinkSays::NewTab(self.random.bool()),
            LinkSays::Attribute("title".to_owned(), self.random.bool().then(|| WORDS.to_owned())),
        ];
        all.into_iter().filter(|_| self.random.u8(0..3) > 0).collect()
    }

    fn take_out(&mut self, most: usize) {
        const KIND: &str = "link taken out";
        for ordinal in sample::ordinals(self.document.links().len(), most, &mut self.random) {
            let Ok(edit) = self.document.take_out_link(ordinal) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            let read = self.same_text(KIND, &after);
            self.expect(KIND, read.links().len() + 1 == self.document.links().len(), "not one link less", &after);
            // The element is told from others by an address that no other has.
            let told =
                self.document.change_link(ordinal, Some(TARGET), &[]).ok().and_then(|e| e.apply(self.source).ok());
            let Some(told) = told else { continue };
            let (rest, count) = without(&of_html(&told), is_ours);
            self.expect(KIND, count == 1 && rest == of_html(&after), "other elements differ", &after);
        }
    }

    fn reword(&mut self, most: usize) {
        const KIND: &str = "anchor text changed";
        for ordinal in sample::ordinals(self.document.links().len(), most, &mut self.random) {
            let Ok(edit) = self.document.reword_link(ordinal, WORDS) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            let outline = of_html(&after);
            let found = differences(&self.before, &outline).unwrap_or_default();
            let holds = found.len() == 1 && matches!(found[0], (Item::Text(_), Item::Text(is)) if is == WORDS);
            let was = self.document.text().slice(self.document.links()[ordinal].text);
            self.expect(KIND, holds || was == WORDS, "other elements or other text differ", &after);
        }
    }

    fn add_ids(&mut self, most: usize) {
        const KIND: &str = "id added";
        for ordinal in sample::ordinals(self.document.blocks().len(), most, &mut self.random) {
            let Ok((edit, id)) = self.document.add_id(BlockId(u32::try_from(ordinal).unwrap_or(u32::MAX))) else {
                self.report.refused(KIND);
                continue;
            };
            let Some(after) = self.apply(KIND, &edit) else { continue };
            let read = self.same_text(KIND, &after);
            let is_new = edit.splices().len() == 1;
            self.expect(KIND, read.ids().any(|known| known == id), "there is no such id", &after);
            let outline = of_html(&after);
            let found = differences(&self.before, &outline).unwrap_or_default();
            let holds = found.iter().all(|(was, is)| was.attribute("id").is_none() && is.attribute("id") == Some(&id));
            self.expect(KIND, holds && found.len() == usize::from(is_new), "other elements differ", &after);
        }
    }

    fn insert(&mut self, most: usize) {
        let wording = [Wording::Text("New & ".to_owned()), Wording::Link("linked".to_owned(), LinkTarget::to(TARGET))];
        for ordinal in sample::ordinals(self.document.blocks().len(), most, &mut self.random) {
            let block = self.document.blocks()[ordinal];
            let end = block.text.start + self.document.text().slice(block.text).trim_end().len();
            match self.document.insert_sentence(end, &wording) {
                Ok(edit) => self.check_insertion("sentence added", &edit, " New & linked", |_| false),
                Err(_) => self.report.refused("sentence added"),
            }
            match self.document.insert_block(BlockId(u32::try_from(ordinal).unwrap_or(u32::MAX)), &wording) {
                Ok(edit) => self.check_insertion("block added", &edit, "\nNew & linked", |name| name == "p"),
                Err(_) => self.report.refused("block added"),
            }
            let whole = TextSpan::new(block.text.start, end);
            if matches!(block.kind, BlockKind::Code) {
                continue;
            }
            match self.document.replace_sentence(whole, &wording) {
                Ok(edit) => {
                    let kind = "sentence replaced";
                    let Some(after) = self.apply(kind, &edit) else { continue };
                    let (rest, count) = without(&of_html(&after), is_ours);
                    let elements = |items: &[Item]| items.iter().filter(|i| matches!(i, Item::Start(..))).count();
                    let fewer = elements(&rest) <= elements(&self.before);
                    self.expect(kind, count == 1 && fewer, "other elements appear", &after);
                    self.expect(kind, text(&rest).contains("New & linked"), "the wording is not there", &after);
                }
                Err(_) => self.report.refused("sentence replaced"),
            }
        }
    }

    fn check_insertion(&mut self, kind: &'static str, edit: &Edit, wanted: &str, is_block: impl Fn(&str) -> bool) {
        let Some(after) = self.apply(kind, edit) else { return };
        let outline = of_html(&after);
        let (rest, links) = without(&outline, is_ours);
        let elements = |items: &[Item], name: Option<&str>| {
            items.iter().filter(|i| matches!(i, Item::Start(n, _) if name.is_none_or(|name| n == name))).count()
        };
        let added = elements(&rest, None) - elements(&self.before, None).min(elements(&rest, None));
        let blocks = elements(&rest, Some("p")).saturating_sub(elements(&self.before, Some("p")));
        let expected = usize::from(is_block("p"));
        self.expect(kind, links == 1 && added == expected && blocks == expected, "other elements appear", &after);
        let (was, is) = (text(&self.before), text(&rest));
        let at = was.bytes().zip(is.bytes()).take_while(|(a, b)| a == b).count();
        let added_at = (at.saturating_sub(wanted.len())..=at).find(|at| {
            is.get(*at..).is_some_and(|rest| rest.starts_with(wanted))
                && was.get(..*at) == is.get(..*at)
                && was.get(*at..) == is.get(*at + wanted.len()..)
        });
        self.expect(kind, added_at.is_some(), "the text is not the old one with the new in it", &after);
    }

    fn compose(&mut self, most: usize) {
        const KIND: &str = "many at once";
        let mut edits: Vec<Edit> = Vec::new();
        let mut taken = 0;
        let spans = sample::spans(&self.document, most, &mut self.random);
        let mut wanted: Vec<_> =
            spans.iter().filter_map(|words| self.document.put_link(*words, &LinkTarget::to(TARGET)).ok()).collect();
        let put = wanted.len();
        for ordinal in sample::ordinals(self.document.links().len(), most, &mut self.random) {
            wanted.extend(self.document.take_out_link(ordinal).ok());
        }
        let mut links = 0;
        for (at, edit) in wanted.into_iter().enumerate() {
            let together = edits.iter().cloned().chain([edit.clone()]);
            if Edit::compose(self.document.hash(), together).is_ok() {
                edits.push(edit);
                if at < put { links += 1 } else { taken += 1 }
            }
        }
        let Ok(edit) = Edit::compose(self.document.hash(), edits) else { return };
        let Some(after) = self.apply(KIND, &edit) else { return };
        let read = self.same_text(KIND, &after);
        let count = self.document.links().len() + links - taken;
        self.expect(KIND, read.links().len() == count, "another number of links", &after);
        let outline = of_html(&after);
        let (rest, ours) = without(&outline, is_ours);
        let anchors = |items: &[Item]| items.iter().filter(|i| matches!(i, Item::Start(n, _) if n == "a")).count();
        self.expect(KIND, ours == links, "not all links are there", &after);
        let fewer = anchors(&self.before).checked_sub(anchors(&rest)) == Some(taken);
        self.expect(KIND, fewer, "not as many elements as were taken out are gone", &after);
        let is_anchor = |item: &Item| matches!(item, Item::Start(name, _) if name == "a");
        let same = without(&rest, is_anchor).0 == without(&self.before, is_anchor).0;
        self.expect(KIND, same, "other elements differ", &after);
    }

    /// The page changes before and after the place of an edit, which then is made on the newer version.
    fn rebase(&mut self, most: usize) {
        const KIND: &str = "moved to a newer version";
        for words in sample::spans(&self.document, most, &mut self.random) {
            let Ok(edit) = self.document.put_link(words, &LinkTarget::to(TARGET)) else { continue };
            let Some(first) = edit.splices().first().map(|splice| splice.at.start) else { continue };
            let mut newer = self.source.to_owned();
            let (start, end) = ("<!-- earlier -->\n", "\n<!-- later -->");
            newer.insert_str(newer.len(), end);
            let place =
                (0..=first.saturating_sub(600)).rev().find(|at| newer.is_char_boundary(*at)).unwrap_or_default();
            newer.insert_str(place, start);
            match edit.rebase(self.source, &newer) {
                Ok(moved) => {
                    self.report.made(KIND);
                    let moved = moved.apply(&newer).unwrap_or_default();
                    let mut wanted = edit.apply(self.source).unwrap_or_default();
                    wanted.push_str(end);
                    wanted.insert_str(place, start);
                    self.expect(KIND, moved == wanted, "stands in another place", &moved);
                }
                Err(_) => self.report.refused(KIND),
            }
            let text = self.document.text().slice(words);
            if !self.source.get(first..).is_some_and(|rest| rest.starts_with(text)) {
                continue;
            }
            let gone = self.source.replace(text, "");
            if let Ok(moved) = edit.rebase(self.source, &gone) {
                let moved = moved.apply(&gone).unwrap_or_default();
                self.expect(KIND, gone == self.source, "words that are gone are found", &moved);
            }
        }
    }
}

fn says_so(document: &Document, ordinal: usize, said: &LinkSays) -> bool {
    let link = &document.links()[ordinal];
    let target = document.attribute(link, "target");
    match said {
        LinkSays::Follow(follow) => link.has_rel("nofollow") != *follow && (*follow || !link.has_rel("follow")),
        LinkSays::Sponsored(sponsored) => link.has_rel("sponsored") == *sponsored,
        LinkSays::UserContent(user) => link.has_rel("ugc") == *user,
        LinkSays::NewTab(true) => target.as_deref() == Some("_blank") && link.has_rel("noopener"),
        LinkSays::NewTab(false) => target.is_none() && !link.has_rel("noopener"),
        LinkSays::Rel(token, has) => link.has_rel(token) == *has,
        LinkSays::Attribute(name, value) => document.attribute(link, name).as_deref() == value.as_deref(),
    }
}
