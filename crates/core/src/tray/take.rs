//! Taking links, one or many: each is looked at with all that is in the tray and all that goes with it.

use std::collections::HashMap;

use super::decision::LeftOut;
use super::ground::Ground;
use super::planned_link::{ByRule, Change, PlannedLink};
use super::take_refusal::{LONGEST_WORDING, TakeRefusal};
use crate::document::{ContentHash, Document, LinkSays, Picture, QuotedSentence, TextSpan};
use crate::ids::PageId;
use crate::limits::{Breach, ReleaseLoad};
use crate::openings::Unwanted;
use crate::site::{Addresses, Target};

/// What is to carry a link.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LinkSpot {
    /// Words of the page's text.
    Words(TextSpan),
    /// A picture, by its number on the page.
    Picture(usize),
}

/// A link to put on a page.
#[derive(Debug, Clone)]
pub struct LinkWish {
    pub source: PageId,
    pub target: Target,
    pub carrier: LinkSpot,
    /// The version of the source page that the editor saw; `None` where it is none.
    pub version: Option<ContentHash>,
    /// Whether the editor chose the words or the target, so that it need not be an opening that was found.
    pub by_hand: bool,
    /// The editor's own wording, in place of the whole sentence around the words.
    pub wording: Option<QuotedSentence>,
    /// What else the link says.
    pub says: Vec<LinkSays>,
    /// The rule that makes it, where one does. It is by hand then.
    pub by_rule: Option<ByRule>,
}

/// What can be taken of what was wished for.
#[derive(Debug, Default)]
pub struct Taken {
    pub links: Vec<PlannedLink>,
    /// What each part of a fit added, for those that have one.
    pub lessons: Vec<[f32; 5]>,
    pub refused: Vec<LeftOut>,
}

/// A page with what was accepted on it so far.
#[derive(Debug)]
struct OnPage {
    document: Document,
    added: Vec<(TextSpan, Target)>,
}

/// Wishes on their way into the tray.
pub struct Taking<'g> {
    ground: Ground<'g>,
    pages: HashMap<PageId, OnPage>,
    load: ReleaseLoad,
    taken: Taken,
}

impl<'g> Taking<'g> {
    /// `pages` are the source pages that can be edited, as they are now. O(links in the tray).
    pub fn new(ground: Ground<'g>, pages: HashMap<PageId, Document>) -> Self {
        let on_page = |(page, document): (PageId, Document)| {
            let entries = ground.linkable.tray.on(page).filter(|entry| entry.link.source_hash == document.hash());
            let added = entries.filter_map(|entry| Some((entry.link.words, entry.link.brings()?.whole()))).collect();
            (page, OnPage { document, added })
        };
        let pages = pages.into_iter().map(on_page).collect();
        Self { ground, pages, load: ground.linkable.tray.load().clone(), taken: Taken::default() }
    }

    /// Takes what can be taken of many wishes, in their order. O(n) in each page for each wish on it.
    ///
    /// # Errors
    /// Why a single wish is refused; of many the others are taken.
    pub fn take(mut self, wishes: &[LinkWish]) -> Result<Taken, TakeRefusal> {
        for wish in wishes {
            match self.add(wish) {
                Ok(()) => {}
                Err(refusal) if wishes.len() == 1 => return Err(refusal),
                Err(refusal) => self.taken.refused.push(LeftOut {
                    source: wish.source.0,
                    target: wish.target.page().map(|page| page.0),
                    words: self.words_of(wish),
                    why: refusal.to_string(),
                }),
            }
        }
        Ok(self.taken)
    }

    fn words_of(&self, wish: &LinkWish) -> String {
        let LinkSpot::Words(words) = wish.carrier else { return String::new() };
        let prose = self.ground.linkable.book.prose(wish.source);
        prose.and_then(|prose| prose.text().get(words.range())).unwrap_or_default().to_owned()
    }

    fn add(&mut self, wish: &LinkWish) -> Result<(), TakeRefusal> {
        let (link, lesson) = self.planned(wish)?;
        let limits = self.ground.linkable.limits.links;
        let on_page = self.pages.get_mut(&link.source).ok_or(TakeRefusal::NotEditable)?;
        match &link.change {
            Change::Reword(says) => {
                on_page.document.replace_sentence(link.words, &link.wording(says)).map_err(TakeRefusal::Wording)?;
            }
            Change::Put if !link.says.is_empty() => {
                let put = on_page.document.put_link_in(link.words, &link.as_written(), link.also_in());
                put.map_err(TakeRefusal::Words)?;
            }
            _ => {}
        }
        on_page.added.push((link.words, wish.target.whole()));
        let breach = limits.check_page(&on_page.document, &on_page.added, |_| false).pop().flatten();
        let refusal = match breach {
            // Somebody took a link between the two pages since this one was looked for.
            Some(Breach::SameTarget) => Some(TakeRefusal::Already),
            Some(breach) => Some(TakeRefusal::TooMuch(breach)),
            None => self.load.add(limits, &wish.target, link.shown_anchor()).err().map(TakeRefusal::TooMuch),
        };
        if let Some(refusal) = refusal {
            on_page.added.pop();
            return Err(refusal);
        }
        self.taken.links.push(link);
        self.taken.lessons.extend(lesson);
        Ok(())
    }

    /// A link as it goes into the tray, and what its fit was made of. Nothing is taken on a page that has changed.
    fn planned(&self, wish: &LinkWish) -> Result<(PlannedLink, Option<[f32; 5]>), TakeRefusal> {
        let (ground, source) = (&self.ground, wish.source);
        let from = ground.of_page(source).ok_or(TakeRefusal::NoPage(source))?;
        ground.check_target(&wish.target)?;
        let hash = ground.linkable.versions.get(&source).copied().filter(|hash| Some(*hash) == wish.version);
        let hash = hash.ok_or(TakeRefusal::ReadAnew)?;
        let whole = wish.target.whole();
        if ground
            .linkable
            .tray
            .on(source)
            .any(|entry| entry.link.brings().is_some_and(|brings| brings.whole() == whole))
        {
            return Err(TakeRefusal::Already);
        }
        let mut link = PlannedLink {
            change: Change::Put,
            source,
            target: None,
            words: TextSpan::new(0, 0),
            source_hash: hash,
            said: QuotedSentence::default(),
            href: String::new(),
            says: wish.says.clone(),
            fit: None,
            by_rule: wish.by_rule,
        };
        let mut lesson = None;
        let mut target = wish.target.clone();
        match wish.carrier {
            LinkSpot::Picture(ordinal) => {
                ground.check_pair(source, &target)?;
                let picture = self.picture(source, ordinal)?;
                let document = &self.pages.get(&source).ok_or(TakeRefusal::NotEditable)?.document;
                link.change = Change::PutOnPicture(document.hash_of(picture));
                link.words = TextSpan::new(picture.text_at, picture.text_at);
                link.source_hash = document.hash();
                link.said = QuotedSentence::of_words(picture.said());
            }
            LinkSpot::Words(words) => {
                let by_hand = wish.by_rule.is_some();
                let page = target.page().filter(|_| !by_hand);
                let opening = page.and_then(|page| ground.opening_on(source, page, words));
                if opening.is_none() {
                    if !wish.by_hand && !by_hand {
                        return Err(TakeRefusal::OpeningGone);
                    }
                    self.check_by_hand(wish, words)?;
                }
                let sentence = ground.judge.sentence_of(source, words);
                link.words = words;
                link.said = ground.said(source, sentence, words);
                if let (Target::Page(page), Some(place)) = (&target, opening.as_ref().and_then(|o| o.place.as_ref()))
                    && ground.fragments.has(*page, &place.id)
                {
                    target = Target::Place { page: *page, id: place.id.to_string() };
                }
                if let Some(wording) = &wish.wording {
                    let whole = ground.said(source, sentence, sentence);
                    link.change = Change::Reword(tidied(wording, &whole.anchor)?);
                    (link.words, link.said) = (sentence, whole);
                } else if let Some(opening) = opening {
                    link.fit = Some(opening.fit.total());
                    lesson = Some(opening.fit.lesson());
                }
            }
        }
        link.href = target.href(from, ground.form, ground).ok_or(TakeRefusal::NoPlannedPage)?;
        link.target = Some(target);
        Ok((link, lesson))
    }

    fn picture(&self, source: PageId, ordinal: usize) -> Result<&Picture, TakeRefusal> {
        let document = &self.pages.get(&source).ok_or(TakeRefusal::NotEditable)?.document;
        let picture = document.pictures().get(ordinal).ok_or(TakeRefusal::PictureGone)?;
        self.ground.picture_refusal(source, document, ordinal).map_or(Ok(picture), Err)
    }

    /// Whether words that the editor chose may lead to what the editor chose.
    fn check_by_hand(&self, wish: &LinkWish, words: TextSpan) -> Result<(), TakeRefusal> {
        let source = wish.source;
        // How often a page may lead to its target, the rule says.
        if wish.by_rule.is_none() {
            self.ground.check_pair(source, &wish.target)?;
        }
        if self.ground.linkable.planned(source).iter().any(|link| link.overlaps(words)) {
            return Err(TakeRefusal::WordsUsed);
        }
        let document = &self.pages.get(&source).ok_or(TakeRefusal::NotEditable)?.document;
        if document.text().as_str().get(words.range()).is_none() {
            return Err(TakeRefusal::WordsGone);
        }
        match wish.by_rule {
            Some(by) => document.may_link_in(words, by.also_in),
            None => document.may_link_chosen(words),
        }
        .map(|_| ())
        .map_err(TakeRefusal::Words)
    }
}

/// The editor's wording, tidied; `whole` is the sentence as it is.
fn tidied(wording: &QuotedSentence, whole: &str) -> Result<QuotedSentence, TakeRefusal> {
    let tidy = |text: &str| text.replace(char::is_control, " ");
    let (before, anchor, after) = (tidy(&wording.before), tidy(&wording.anchor), tidy(&wording.after));
    if anchor.trim().is_empty() {
        return Err(TakeRefusal::NothingMarked);
    }
    if before.len() + anchor.len() + after.len() > LONGEST_WORDING {
        return Err(TakeRefusal::TooLong);
    }
    if format!("{before}{anchor}{after}").trim() == whole.trim() {
        return Err(TakeRefusal::SameWording);
    }
    // White space at the ends of the link would be underlined.
    let lead = &anchor[..anchor.len() - anchor.trim_start().len()];
    let tail = &anchor[anchor.trim_end().len()..];
    Ok(QuotedSentence {
        before: format!("{before}{lead}"),
        anchor: anchor.trim().to_owned(),
        after: format!("{tail}{after}"),
    })
}
