//! Looking whether a change that somebody else was to make stands on a page now.

use super::hash::ContentHash;
use super::quote::Quote;
use super::region::Region;
use super::text::fold_space;
use super::{Document, Link};

/// What is found of a change on a later version of its page.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Sighting {
    /// It stands there as it was asked for.
    There,
    /// The page leads where it should, from other words.
    OtherWords,
    /// Its sentence stands there as it was.
    NotYet,
    /// Neither the change nor its sentence is on the page.
    SentenceGone,
}

impl Sighting {
    /// All of them, the best first.
    pub const ALL: [Self; 4] = [Self::There, Self::OtherWords, Self::NotYet, Self::SentenceGone];

    /// Whether the change is made, in one way or another.
    pub const fn is_made(self) -> bool {
        matches!(self, Self::There | Self::OtherWords)
    }
}

/// A change to look for. Quotes are sentences with the words of the link in them.
#[derive(Debug, Clone, Copy)]
pub enum Sought<'s> {
    /// A link that comes to words; where the sentence is worded anew, it is another one afterwards.
    Link { was: Quote<'s>, becomes: Quote<'s> },
    /// A link that comes to a picture, which is known by how it is written.
    OnPicture(ContentHash),
    /// A link that comes to lead elsewhere.
    Elsewhere { was: Quote<'s> },
    /// A link that is taken off its words.
    Off { was: Quote<'s> },
}

/// Which links are meant, by what they lead to.
pub struct Leads<New, Old> {
    /// Whether a link leads where the change wants it.
    pub new: New,
    /// Whether a link leads where it led before the change.
    pub old: Old,
}

impl Document {
    /// Looks for a change on this version of its page; `before` is the version for which it was asked. A link that stands
    /// nowhere near the sentence counts when the page has more links to the same place than it had. O(text + links × their
    /// blocks).
    pub fn sight<New, Old>(&self, sought: &Sought<'_>, before: &Self, leads: &Leads<New, Old>) -> Sighting
    where
        New: Fn(&Link) -> bool,
        Old: Fn(&Link) -> bool,
    {
        let gained = self.content_links(&leads.new).count() > before.content_links(&leads.new).count();
        let otherwise = |stands: bool| match (gained, stands) {
            (true, _) => Sighting::OtherWords,
            (false, true) => Sighting::NotYet,
            (false, false) => Sighting::SentenceGone,
        };
        match sought {
            Sought::Link { was, becomes } => {
                let on_words = |link: &&Link| self.anchor(link) == fold_space(becomes.anchor);
                let mut alike = self.content_links(&leads.new).filter(on_words);
                match alike.any(|link| gained || self.is_in(link, becomes)) {
                    true => Sighting::There,
                    false => otherwise(self.has_sentence(was)),
                }
            }
            Sought::OnPicture(written) => {
                let pictures = || self.pictures().iter().filter(|picture| self.hash_of(picture) == *written);
                let linked = pictures().filter_map(|picture| self.links().get(picture.link?));
                match linked.into_iter().any(&leads.new) {
                    true => Sighting::There,
                    false => otherwise(pictures().next().is_some()),
                }
            }
            Sought::Elsewhere { was } => {
                let on_words = |link: &&Link| self.anchor(link) == fold_space(was.anchor);
                let mut alike = self.content_links(&leads.new).filter(on_words);
                match alike.any(|link| gained || self.is_in(link, was)) {
                    true => Sighting::There,
                    false => otherwise(self.has_sentence(was)),
                }
            }
            Sought::Off { was } => {
                let stays = |document: &Self| {
                    let on_words = |link: &&Link| document.anchor(link) == fold_space(was.anchor);
                    document.content_links(&leads.old).filter(on_words).filter(|link| document.is_in(link, was)).count()
                };
                match (self.has_sentence(was), stays(self)) {
                    (true, 0) => Sighting::There,
                    (true, _) => Sighting::NotYet,
                    (false, _) => Sighting::SentenceGone,
                }
            }
        }
    }

    fn content_links<'d>(&'d self, leads: &'d impl Fn(&Link) -> bool) -> impl Iterator<Item = &'d Link> {
        self.links().iter().filter(|link| link.region == Region::Content).filter(|link| leads(link))
    }

    /// Whether a link stands in the block of a sentence.
    fn is_in(&self, link: &Link, quote: &Quote<'_>) -> bool {
        let block = link.block.and_then(|id| self.blocks().get(id.0 as usize));
        block.is_some_and(|block| fold_space(self.text().slice(block.text)).contains(&quote.folded()))
    }

    fn has_sentence(&self, quote: &Quote<'_>) -> bool {
        let sentence = quote.folded();
        self.blocks().iter().any(|block| fold_space(self.text().slice(block.text)).contains(&sentence))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const WAS: Quote<'_> = Quote { before: "A dark sky shows ", anchor: "the Milky Way", after: " in summer." };

    fn page(middle: &str) -> Document {
        Document::from_html(format!("<nav><a href=/sky>The sky</a></nav><main><h1>Dark</h1>{middle}<p>End.</p></main>"))
    }

    fn sight(sought: &Sought<'_>, before: &str, now: &str) -> Sighting {
        let leads = Leads { new: |link: &Link| link.href == "/sky", old: |link: &Link| link.href == "/old" };
        page(now).sight(sought, &page(before), &leads)
    }

    #[test]
    fn a_link_is_there_with_other_words_not_yet_or_its_sentence_is_gone() {
        let sought = Sought::Link { was: WAS, becomes: WAS };
        let before = "<p>A dark sky shows the Milky Way in summer.</p>";
        for (now, expected) in [
            ("<p>A dark sky shows <a href=/sky>the\n Milky Way</a> in summer.</p>", Sighting::There),
            ("<p>A dark sky shows <b><a href=/sky><i>the Milky Way</i></a></b> in summer.</p>", Sighting::There),
            ("<p>Look: <a href=/sky>the Milky Way</a> at its best.</p>", Sighting::There),
            ("<p>A dark sky shows the <a href=/sky>Milky Way</a> in summer.</p>", Sighting::OtherWords),
            ("<p>A dark sky shows the Milky Way in summer.</p><p><a href=/sky>More</a></p>", Sighting::OtherWords),
            ("<p>A <b>dark</b> sky shows the Milky Way in summer.</p>", Sighting::NotYet),
            ("<p>A dark sky shows <a href=/else>the Milky Way</a> in summer.</p>", Sighting::NotYet),
            ("<p>A dark sky shows much.</p>", Sighting::SentenceGone),
        ] {
            assert_eq!(sight(&sought, before, now), expected, "{now}");
        }
    }

    #[test]
    fn a_link_that_was_on_the_page_before_is_not_taken_for_the_new_one() {
        let sought = Sought::Link { was: WAS, becomes: WAS };
        let other = "<p><a href=/sky>the Milky Way</a> again.</p>";
        let before = format!("<p>A dark sky shows the Milky Way in summer.</p>{other}");
        assert_eq!(sight(&sought, &before, &before), Sighting::NotYet);
        let now = format!("<p>A dark sky shows <a href=/sky>the Milky Way</a> in summer.</p>{other}");
        assert_eq!(sight(&sought, &before, &now), Sighting::There);
        assert_eq!(sight(&sought, &before, other), Sighting::SentenceGone);
    }

    #[test]
    fn a_sentence_may_be_worded_anew() {
        let becomes = Quote { before: "Look for ", anchor: "the galaxy", after: " in summer." };
        let sought = Sought::Link { was: WAS, becomes };
        let before = "<p>A dark sky shows the Milky Way in summer.</p>";
        assert_eq!(sight(&sought, before, "<p>Look for <a href=/sky>the galaxy</a> in summer.</p>"), Sighting::There);
        assert_eq!(sight(&sought, before, "<p>Look for the <a href=/sky>galaxy</a>.</p>"), Sighting::OtherWords);
        assert_eq!(sight(&sought, before, before), Sighting::NotYet);
        assert_eq!(sight(&sought, before, "<p>Look for the galaxy in summer.</p>"), Sighting::SentenceGone);
    }

    #[test]
    fn repairs_and_pictures_are_looked_for_too() {
        let linked = |href: &str| format!("<p>A dark sky shows <a href={href}>the Milky Way</a> in summer.</p>");
        let plain = "<p>A dark sky shows the Milky Way in summer.</p>";
        let elsewhere = Sought::Elsewhere { was: WAS };
        assert_eq!(sight(&elsewhere, &linked("/old"), &linked("/sky")), Sighting::There);
        assert_eq!(sight(&elsewhere, &linked("/old"), &linked("/old")), Sighting::NotYet);
        assert_eq!(sight(&elsewhere, &linked("/old"), "<p>Nothing.</p>"), Sighting::SentenceGone);
        let off = Sought::Off { was: WAS };
        assert_eq!(sight(&off, &linked("/old"), plain), Sighting::There);
        assert_eq!(sight(&off, &linked("/old"), &linked("/old")), Sighting::NotYet);
        assert_eq!(sight(&off, &linked("/old"), "<p>Nothing.</p>"), Sighting::SentenceGone);
        let before = "<p>Seen: <img src=a.png alt=Stars></p>";
        let document = page(before);
        let sought = Sought::OnPicture(document.hash_of(&document.pictures()[0]));
        assert_eq!(sight(&sought, before, before), Sighting::NotYet);
        assert_eq!(sight(&sought, before, "<p>Seen: <a href=/sky><img src=a.png alt=Stars></a></p>"), Sighting::There);
        assert_eq!(sight(&sought, before, "<p>Seen: <a href=/sky>stars</a></p>"), Sighting::OtherWords);
        assert_eq!(sight(&sought, before, "<p>Seen.</p>"), Sighting::SentenceGone);
    }
}
