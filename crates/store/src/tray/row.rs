//! Planned links as the database has them.

use chrono::{DateTime, Utc};
use sqlx::types::Json;
use strelm_core::document::{AlsoIn, ContentHash, LinkSays, QuotedSentence, Sighting, TextSpan};
use strelm_core::rules::RuleId;
use strelm_core::site::{Address, ChangeId};
use strelm_core::tray::{ByRule, Change, OldLink, PlannedLink, TrayEntry, TrayState};

use crate::release::ReleaseId;
use crate::target::WrittenTarget;
use crate::{StoreError, page_id};

/// Entries that pass, in an order: the rest of a query after `from taken_link`.
macro_rules! entries {
    ($rest:tt, $($argument:expr),* $(,)?) => {
        sqlx::query_as!(
            $crate::tray::row::EntryRow,
            "select id, source_number, target_kind, target_number, target_place, target_address, target_planned,
                    words_start, words_end, source_hash, anchor, before_anchor, after_anchor, href,
                    says as \"says: sqlx::types::Json<Vec<strelm_core::document::LinkSays>>\", fit, kind, from_href,
                    from_address, from_fragment, says_before, says_anchor, says_after, picture, state, sighting,
                    release_id, message, taken_at, rule_number, rule_in_headings, rule_in_code
             from taken_link " + $rest,
            $($argument),*
        )
    };
}
pub(super) use entries;

pub(super) struct EntryRow {
    pub id: i64,
    pub source_number: i32,
    pub target_kind: Option<String>,
    pub target_number: Option<i32>,
    pub target_place: Option<String>,
    pub target_address: Option<String>,
    pub target_planned: Option<i64>,
    pub words_start: i32,
    pub words_end: i32,
    pub source_hash: Vec<u8>,
    pub anchor: String,
    pub before_anchor: String,
    pub after_anchor: String,
    pub href: String,
    pub says: Json<Vec<LinkSays>>,
    pub fit: Option<f32>,
    pub kind: String,
    pub from_href: Option<String>,
    pub from_address: Option<String>,
    pub from_fragment: Option<String>,
    pub says_before: Option<String>,
    pub says_anchor: Option<String>,
    pub says_after: Option<String>,
    pub picture: Option<Vec<u8>>,
    pub state: String,
    pub sighting: Option<String>,
    pub release_id: Option<i64>,
    pub message: Option<String>,
    pub taken_at: DateTime<Utc>,
    pub rule_number: Option<i32>,
    pub rule_in_headings: bool,
    pub rule_in_code: bool,
}

impl EntryRow {
    /// The link that the row keeps.
    pub fn into_entry(self) -> Result<TrayEntry, StoreError> {
        let unknown = |what, value: &str| StoreError::Unknown { what, value: value.to_owned() };
        let target = match self.target_kind.clone() {
            None => None,
            Some(kind) => {
                let written = WrittenTarget {
                    kind: self.target_kind,
                    number: self.target_number,
                    place: self.target_place,
                    address: self.target_address,
                    planned: self.target_planned,
                };
                Some(written.read().ok_or_else(|| unknown("a target", &kind))?)
            }
        };
        let also_in = AlsoIn { headings: self.rule_in_headings, code: self.rule_in_code };
        let rule = self.rule_number.and_then(|number| u32::try_from(number).ok());
        let state = TrayState::ALL.into_iter().find(|state| state.as_str() == self.state);
        let hash = ContentHash::from_bytes(&self.source_hash);
        let offset = |at: i32| usize::try_from(at).unwrap_or_default();
        let to = self.from_address.and_then(|address| Address::parse(&address).ok());
        let old = self.from_href.zip(to).map(|(href, to)| OldLink { href, to, fragment: self.from_fragment });
        let wording = self.says_before.zip(self.says_anchor).zip(self.says_after);
        let wording = wording.map(|((before, anchor), after)| QuotedSentence { before, anchor, after });
        let picture = self.picture.as_deref().and_then(ContentHash::from_bytes);
        let change = read_change(&self.kind, old, wording, picture);
        Ok(TrayEntry {
            id: ChangeId(self.id),
            link: PlannedLink {
                source: page_id(self.source_number),
                change: change.ok_or_else(|| unknown("a kind of change", &self.kind))?,
                target,
                words: TextSpan::new(offset(self.words_start), offset(self.words_end)),
                source_hash: hash.ok_or_else(|| unknown("a hash", &self.id.to_string()))?,
                said: QuotedSentence { before: self.before_anchor, anchor: self.anchor, after: self.after_anchor },
                href: self.href,
                says: self.says.0,
                fit: self.fit.map(Into::into),
                by_rule: rule.map(|rule| ByRule { rule: RuleId(rule), also_in }),
            },
            state: state.ok_or_else(|| unknown("a state of a link", &self.state))?,
            sighting: self.sighting.as_deref().and_then(sighting_of),
            message: self.message,
            taken_at: self.taken_at,
        })
    }

    /// The same with the release that it is of.
    pub fn into_released(self) -> Result<Option<(ReleaseId, TrayEntry)>, StoreError> {
        self.release_id.map(|release| Ok((ReleaseId(release), self.into_entry()?))).transpose()
    }
}

fn read_change(
    kind: &str,
    old: Option<OldLink>,
    wording: Option<QuotedSentence>,
    picture: Option<ContentHash>,
) -> Option<Change> {
    match (kind, old, wording, picture) {
        ("put", None, None, None) => Some(Change::Put),
        ("retarget", Some(old), None, None) => Some(Change::Retarget(old)),
        ("unlink", Some(old), None, None) => Some(Change::Unlink(old)),
        ("attributes", Some(old), None, None) => Some(Change::Attributes(old)),
        ("reword", None, Some(wording), None) => Some(Change::Reword(wording)),
        ("picture", None, None, Some(picture)) => Some(Change::PutOnPicture(picture)),
        _ => None,
    }
}

/// The word for a kind of change.
pub(super) const fn word_of(change: &Change) -> &'static str {
    match change {
        Change::Put => "put",
        Change::Retarget(_) => "retarget",
        Change::Unlink(_) => "unlink",
        Change::Attributes(_) => "attributes",
        Change::Reword(_) => "reword",
        Change::PutOnPicture(_) => "picture",
    }
}

/// The word for what was found of a link.
pub(crate) const fn sighting_word(sighting: Sighting) -> &'static str {
    match sighting {
        Sighting::There => "there",
        Sighting::OtherWords => "other words",
        Sighting::NotYet => "not yet",
        Sighting::SentenceGone => "sentence gone",
    }
}

fn sighting_of(word: &str) -> Option<Sighting> {
    Sighting::ALL.into_iter().find(|sighting| sighting_word(*sighting) == word)
}
