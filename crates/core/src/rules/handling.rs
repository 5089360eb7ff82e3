//! What becomes of the places of a rule that were not there before.

/// What becomes of places on pages that are new or changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Handling {
    /// An editor looks at them first.
    #[default]
    Screened,
    /// They are taken into the tray as they are found.
    AtOnce,
}

impl Handling {
    /// Its name in the database and in answers.
    pub const fn as_str(self) -> &'static str {
        match self {
            Self::Screened => "screened",
            Self::AtOnce => "at once",
        }
    }

    /// The one with this name.
    pub fn parse(word: &str) -> Option<Self> {
        [Self::Screened, Self::AtOnce].into_iter().find(|handling| handling.as_str() == word)
    }
}
