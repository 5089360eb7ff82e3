//! What an editor sets for the links of a site.

use chrono::{Months, NaiveDate};

use super::LinkLimits;

/// The limits of one site: they hold for every opening, by hand or by the dozen.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SiteLimits {
    pub links: LinkLimits,
    /// Words that never carry a link, whatever they name.
    pub never_words: Vec<String>,
    /// Categories whose pages neither lead anywhere by openings nor are led to.
    pub left_out: Vec<String>,
    /// Whether a page may lead back to one whose running text leads to it.
    pub links_back: bool,
    /// Nothing leads by openings to pages that were published longer ago, in months. Pages without a date have no age.
    pub oldest_months: Option<u32>,
    /// Whether openings are judged also by what the site's own links tell of its authors.
    pub follows_habits: bool,
}

impl SiteLimits {
    /// Whether a page that was published on a day is too old to be led to.
    pub fn is_too_old(&self, published: Option<NaiveDate>, today: NaiveDate) -> bool {
        let oldest = self.oldest_months.and_then(|months| today.checked_sub_months(Months::new(months)));
        published.zip(oldest).is_some_and(|(published, oldest)| published < oldest)
    }
}

impl Default for SiteLimits {
    fn default() -> Self {
        Self {
            links: LinkLimits::default(),
            never_words: Vec::new(),
            left_out: Vec::new(),
            links_back: true,
            oldest_months: None,
            follows_habits: true,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_page_is_too_old_from_the_day_after_its_months_are_over() {
        let day = |text: &str| text.parse::<NaiveDate>().ok();
        let limits = SiteLimits { oldest_months: Some(6), ..SiteLimits::default() };
        let today = NaiveDate::from_ymd_opt(2026, 8, 31).unwrap();
        for (published, is_too_old) in
            [(day("2026-02-28"), false), (day("2026-02-27"), true), (day("2027-01-01"), false), (None, false)]
        {
            assert_eq!(limits.is_too_old(published, today), is_too_old, "{published:?}");
            assert!(!SiteLimits::default().is_too_old(published, today));
        }
    }
}
