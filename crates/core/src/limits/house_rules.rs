//! What an editor sets for the links of a site.

use super::LinkLimits;

/// The rules of one site: they hold for every opening, by hand or by the dozen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HouseRules {
    pub limits: LinkLimits,
    /// Words that never carry a link, whatever they name.
    pub never_words: Vec<String>,
    /// Categories whose pages neither lead anywhere by openings nor are led to.
    pub left_out: Vec<String>,
    /// Whether a page may lead back to one whose running text leads to it.
    pub links_back: bool,
}

impl Default for HouseRules {
    fn default() -> Self {
        Self { limits: LinkLimits::default(), never_words: Vec::new(), left_out: Vec::new(), links_back: true }
    }
}
