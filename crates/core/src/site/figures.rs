//! The figures of one page that every view shows.

/// Links that are on the live site and links in the tray count alike; how many of them are in the tray is told apart.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Figures {
    /// Other pages that link here, from whatever region.
    pub links_in: u32,
    /// Of those, pages that link here from their content.
    pub content_links_in: u32,
    /// Links in the page's content to other pages of the site.
    pub links_out: u32,
    /// Links to other sites, from whatever region.
    pub links_away: u32,
    /// Links in the tray that lead here.
    pub planned_in: u32,
    /// Links in the tray that lead away from here.
    pub planned_out: u32,
    /// Clicks from the entry page; `None` when the page cannot be reached.
    pub depth: Option<u32>,
}

impl Figures {
    /// Whether no page links here.
    pub const fn is_orphan(&self) -> bool {
        self.links_in == 0
    }

    /// How much the page lacks links, 0 to 1: the less, the more pages link to it from their content, and a little less
    /// for each doubling of those that do so from their menus and the like. What is out of reach lacks all, and nobody looks
    /// for links to where readers start.
    pub fn lack(&self) -> f32 {
        match self {
            Self { depth: Some(0), .. } => 0.0,
            Self { links_in: 0, .. } | Self { depth: None, .. } => 1.0,
            Self { links_in, content_links_in, .. } => {
                let around = links_in.saturating_sub(*content_links_in);
                1.0 / (1.0 + *content_links_in as f32 + (1.0 + around as f32).log2())
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn a_page_lacks_less_with_each_link_and_a_link_from_content_does_more(
            around in 0u32..400,
            content in 0u32..400,
            depth in 1u32..9,
        ) {
            let lack = |around: u32, content: u32, depth: Option<u32>| {
                let links_in = around + content;
                Figures { links_in, content_links_in: content, depth, ..Figures::default() }.lack()
            };
            let of_page = lack(around, content, Some(depth));
            prop_assert!((0.0..=1.0).contains(&of_page));
            prop_assert!(lack(around, content + 1, Some(depth)) < of_page);
            prop_assert!(lack(around + 1, content, Some(depth)) < of_page);
            prop_assert!(lack(around, content + 1, Some(depth)) <= lack(around + 1, content, Some(depth)));
            prop_assert_eq!(lack(around, content, None), 1.0, "whoever links there, no reader comes");
            prop_assert_eq!(lack(around, content, Some(0)), 0.0);
        }
    }
}
