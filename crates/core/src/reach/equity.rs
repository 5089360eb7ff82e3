//! Link equity: PageRank, by how much links are worth.

use super::roads::{Carrier, Road, Roads, Strength};
use super::snapshot::Snapshot;

/// The shares of all pages are right to so much in all.
const EXACT: f64 = 1e-9;

/// With a damping of 0.99 about 2,000 rounds are needed.
const MOST_ROUNDS: usize = 10_000;

/// How equity goes from page to page.
///
/// Several links from one page to another count as one, as much as the one that is worth most. A link with `nofollow`
/// passes nothing on, and the other links of its page share what it would have passed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EquityRules {
    /// What a link in content is worth beside others.
    pub content: f64,
    /// The same for a menu, a header, the way from the entry page, a table of contents.
    pub menu: f64,
    /// The same for the foot of a page and boxes beside the text.
    pub footer: f64,
    /// How likely a reader is to follow a link rather than to begin anew on any page: 0 to 0.99.
    pub damping: f64,
}

impl Default for EquityRules {
    fn default() -> Self {
        Self { content: 1.0, menu: 0.3, footer: 0.1, damping: 0.85 }
    }
}

impl EquityRules {
    /// What a road is worth beside others of its page.
    pub fn worth(&self, strength: Strength) -> f64 {
        match strength.carrier() {
            _ if !strength.is_followed() => 0.0,
            Carrier::Content => self.content,
            Carrier::Menu => self.menu,
            Carrier::Footer => self.footer,
        }
    }
}

/// The share of each page in the equity of the site.
#[derive(Debug, Clone, PartialEq)]
pub struct Equity {
    rules: EquityRules,
    share: Vec<f64>,
    /// What the roads of each page are worth together.
    worth: Vec<f64>,
}

impl Equity {
    /// `reversed` are the roads by where they lead. O((pages + roads) · rounds); about 60 rounds at a damping of 0.85.
    ///
    /// Brin and Page, “The anatomy of a large-scale hypertextual Web search engine” (1998). A page that passes nothing on
    /// gives its share to all pages alike. That is the solution of a linear system whose shares are scaled to 1 in the end
    /// (Del Corso, Gulli, Romani, “Fast PageRank computation via a sparse linear system”, 2005), which is solved by
    /// Gauss and Seidel's method: each page counts with what is already known of this round.
    pub fn of(snapshot: &Snapshot, reversed: &Roads, rules: EquityRules) -> Self {
        let worths = Strength::ALL.map(|strength| rules.worth(strength));
        let worth_of = |road: Road| worths[road.strength.rank()];
        let worth: Vec<f64> = snapshot.numbers().map(|page| snapshot.roads().of(page).map(worth_of).sum()).collect();
        let damping = rules.damping.clamp(0.0, 0.99);
        let rules = EquityRules { damping, ..rules };
        let per_worth: Vec<f64> = worth.iter().map(|worth| if *worth > 0.0 { damping / worth } else { 0.0 }).collect();
        let mut score = vec![1.0f64; snapshot.len()];
        // What a page passes on for each unit of worth, so that a round reads one number for each road.
        let mut passed: Vec<f64> = score.iter().zip(&per_worth).map(|(score, per)| score * per).collect();
        let enough = EXACT * (1.0 - damping) / damping.max(f64::EPSILON);
        for _ in 0..MOST_ROUNDS {
            let (mut moved, mut total) = (0.0f64, 0.0f64);
            for page in snapshot.numbers() {
                let at = page as usize;
                let got: f64 = reversed.of(page).map(|road| passed[road.to as usize] * worth_of(road)).sum();
                let now = 1.0 + got;
                moved += (now - score[at]).abs();
                total += now;
                score[at] = now;
                passed[at] = now * per_worth[at];
            }
            if moved <= enough * total {
                break;
            }
        }
        let total: f64 = score.iter().sum();
        let share = score.into_iter().map(|score| score / total).collect();
        Self { rules, share, worth }
    }

    /// The rules by which it was worked out.
    pub fn rules(&self) -> &EquityRules {
        &self.rules
    }

    /// The share of a page, of 1 for the whole site.
    pub fn share(&self, page: u32) -> f64 {
        self.share.get(page as usize).copied().unwrap_or_default()
    }

    /// The shares of all pages by their numbers.
    pub fn shares(&self) -> &[f64] {
        &self.share
    }

    /// Of the share of `from`, what a road of its passes on.
    pub fn passes(&self, from: u32, road: Road) -> f64 {
        let worth = self.worth.get(from as usize).copied().unwrap_or_default();
        match worth > 0.0 {
            true => self.rules.damping * self.share(from) * self.rules.worth(road.strength) / worth,
            false => 0.0,
        }
    }

    /// From whom a page gets how much, the most first; what comes to all pages alike is left out. O(roads to it).
    pub fn got(&self, reversed: &Roads, page: u32) -> Vec<(u32, f64)> {
        let got = reversed.of(page).map(|road| (road.to, self.passes(road.to, Road { to: page, ..road })));
        most_first(got)
    }

    /// To whom a page passes on how much, the most first. O(its roads).
    pub fn passed(&self, snapshot: &Snapshot, page: u32) -> Vec<(u32, f64)> {
        most_first(snapshot.roads().of(page).map(|road| (road.to, self.passes(page, road))))
    }
}

fn most_first(parts: impl Iterator<Item = (u32, f64)>) -> Vec<(u32, f64)> {
    let mut parts: Vec<(u32, f64)> = parts.filter(|(_, part)| *part > 0.0).collect();
    parts.sort_by(|(one, much), (other, more)| more.total_cmp(much).then(one.cmp(other)));
    parts
}
