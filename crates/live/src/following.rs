//! Following the journal: what changed is looked up first and put in afterwards, so that nobody who asks waits for the
//! database.

use std::sync::Arc;
use std::sync::atomic::Ordering;

use chrono::{Datelike, Utc};
use strelm_core::site::PageId;
use strelm_store::{PgPool, Seq, boilerplate, journal};

use super::error::LiveError;
use super::follow::Delta;
use super::live_site::{LiveSite, Purpose};
use super::model::Model;
use super::openings::look_at_pages;
use super::progress::LoadProgress;
use super::reach_changes::note_reach;
use super::rules::at_once::take_at_once;
use super::text_deltas::text_deltas;
use super::texts::read_texts;

impl LiveSite {
    /// Brings the model to the end of the journal. Cheap when it is there already. What takes longer to look at is
    /// looked at in the background.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn catch_up(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        if self.is_torn() {
            return Err(LiveError::Torn);
        }
        self.follow(pool).await?;
        let today = Utc::now().date_naive();
        if self.day.load(Ordering::Relaxed) != today.num_days_from_ce() {
            self.change(move |model| model.follow_day(today)).await?;
        }
        if self.purpose == Purpose::Passing {
            return Ok(());
        }
        read_texts(self, pool);
        look_at_pages(self, pool);
        note_reach(self, pool);
        take_at_once(self, pool);
        Ok(())
    }

    /// Reads the texts of some pages now, where they are still to be read: for whoever decides about them.
    ///
    /// # Errors
    /// [`LiveError`].
    pub async fn read_texts_of(self: &Arc<Self>, pool: &PgPool, pages: Vec<PageId>) -> Result<(), LiveError> {
        let unread = move |model: &Model| -> Vec<_> {
            pages.iter().filter_map(|page| Some((*page, model.language_of_unread(*page)?))).collect()
        };
        let unread = self.ask(unread).await?;
        if unread.is_empty() {
            return Ok(());
        }
        let boilerplate = Arc::new(boilerplate::all(pool, self.id).await?);
        let texts = text_deltas(pool, self.id, unread, boilerplate).await?;
        self.change(move |model| texts.into_iter().for_each(|text| model.put_text(text))).await
    }

    async fn follow(self: &Arc<Self>, pool: &PgPool) -> Result<(), LiveError> {
        let _turn = self.following.lock().await;
        let from = Seq(self.at.load(Ordering::Acquire));
        let end = journal::end(pool, self.id).await?.ok_or(LiveError::NoSite)?;
        if end <= from {
            return Ok(());
        }
        match journal::after(pool, self.id, from).await? {
            Some(entries) => {
                let known = self.ask(Model::known).await?;
                let delta = Delta::of_entries(pool, self.id, &entries, from, &known).await?;
                self.change(move |model| delta.apply(model)).await?;
            }
            // Too far behind: the entries are no longer kept.
            None => {
                let mut fresh = self.ask(Model::emptied).await?;
                Delta::load(pool, self.id, end, &mut fresh, self.purpose, &LoadProgress::default()).await?;
                self.change(move |model| *model = fresh).await?;
            }
        }
        Ok(())
    }
}
