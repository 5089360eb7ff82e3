//! The five parts of a fit.

/// The five parts of a fit.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Part {
    Topic,
    Wording,
    Place,
    Need,
    Variety,
}

impl Part {
    /// All parts, in the order in which they are shown.
    pub const ALL: [Self; 5] = [Self::Topic, Self::Wording, Self::Place, Self::Need, Self::Variety];

    /// Its name in answers and weights.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Topic => "topic",
            Self::Wording => "wording",
            Self::Place => "place",
            Self::Need => "need",
            Self::Variety => "variety",
        }
    }
}
