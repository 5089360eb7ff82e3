//! The columns of the list of pages: what they are sorted and bounded by.

use serde::Deserialize;
use utoipa::ToSchema;

/// The columns by which pages are sorted, and whose figures are bounded.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Deserialize, ToSchema, Default)]
#[serde(rename_all = "snake_case")]
pub enum Column {
    Title,
    Address,
    Kind,
    Category,
    Words,
    LinksIn,
    ContentLinksIn,
    LinksOut,
    LinksAway,
    Broken,
    /// How many openings would lead here, and the best fit among them.
    OpeningsIn,
    BestIn,
    OpeningsOut,
    BestOut,
    /// Link equity beside that of the average page.
    Equity,
    /// Where an hour pays most.
    Attention,
    #[default]
    Depth,
}

impl Column {
    const NUMBERS: [(&'static str, Self); 11] = [
        ("words", Self::Words),
        ("links_in", Self::LinksIn),
        ("content_links_in", Self::ContentLinksIn),
        ("links_out", Self::LinksOut),
        ("links_away", Self::LinksAway),
        ("broken", Self::Broken),
        ("openings_in", Self::OpeningsIn),
        ("best_in", Self::BestIn),
        ("openings_out", Self::OpeningsOut),
        ("best_out", Self::BestOut),
        ("depth", Self::Depth),
    ];

    /// Whether its figures are counted from openings.
    pub const fn tells_of_openings(self) -> bool {
        matches!(self, Self::OpeningsIn | Self::BestIn | Self::OpeningsOut | Self::BestOut | Self::Attention)
    }
}

/// A column's figure within bounds. Pages that cannot be reached have no depth and pass only without an upper bound.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ColumnRange {
    pub column: Column,
    pub least: Option<u32>,
    pub most: Option<u32>,
}

impl ColumnRange {
    /// Reads `words:100..500`, `links_in:..3`, `depth:4..`; several with commas between them. `None` when it is none.
    pub fn parse_all(text: &str) -> Option<Vec<Self>> {
        let bound = |text: &str| match text {
            "" => Some(None),
            text => text.parse().ok().map(Some),
        };
        let one = |text: &str| {
            let (name, bounds) = text.split_once(':')?;
            let (least, most) = bounds.split_once("..")?;
            let column = Column::NUMBERS.iter().find(|(known, _)| *known == name)?.1;
            Some(Self { column, least: bound(least)?, most: bound(most)? })
        };
        text.split(',').filter(|part| !part.is_empty()).map(one).collect()
    }

    /// Whether a figure lies within.
    pub fn holds(&self, number: Option<u32>) -> bool {
        match number {
            Some(number) => {
                self.least.is_none_or(|least| number >= least) && self.most.is_none_or(|most| number <= most)
            }
            None => self.most.is_none(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranges_are_read_or_refused_as_a_whole() {
        let range = |column, least, most| ColumnRange { column, least, most };
        let read = ColumnRange::parse_all("words:100..500,links_in:..3,depth:4..");
        let wanted = vec![
            range(Column::Words, Some(100), Some(500)),
            range(Column::LinksIn, None, Some(3)),
            range(Column::Depth, Some(4), None),
        ];
        assert_eq!(read, Some(wanted));
        assert_eq!(ColumnRange::parse_all(""), Some(Vec::new()));
        for wrong in ["words", "words:1", "title:1..2", "words:a..2", "words:1..2,x:..", "words:-1..2"] {
            assert_eq!(ColumnRange::parse_all(wrong), None, "{wrong}");
        }
    }
}
