//! The connection, the migrations, and what can go wrong.

use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;
use thiserror::Error;

/// Why the database did not do what was asked.
#[derive(Debug, Error)]
pub enum StoreError {
    #[error("the database does not answer as it should: {0}")]
    Database(#[from] sqlx::Error),
    #[error("the database cannot be brought up to date: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
    #[error("the database holds {what} that this version of Strelm does not know: {value}")]
    Unknown { what: &'static str, value: String },
    #[error("{0}")]
    Refused(String),
}

impl StoreError {
    /// Whether a unique index or an exclusion refused the change: somebody was there before.
    pub fn is_conflict(&self) -> bool {
        matches!(self, Self::Database(sqlx::Error::Database(error)) if error.is_unique_violation())
            || self.is_about_the_same_words()
    }

    /// Whether a text holds the character of number 0, which the database keeps nowhere.
    pub fn is_about_a_null(&self) -> bool {
        // untranslatable_character and character_not_in_repertoire
        let is_it = |code: &str| code == "22P05" || code == "22021";
        matches!(self, Self::Database(sqlx::Error::Database(error)) if error.code().is_some_and(|code| is_it(&code)))
    }

    /// Whether another link holds some of the same words.
    pub fn is_about_the_same_words(&self) -> bool {
        matches!(self, Self::Database(sqlx::Error::Database(error)) if error.constraint() == Some("taken_link_words"))
    }
}

/// # Errors
/// [`StoreError::Database`] when the database cannot be reached.
pub async fn connect(url: &str, most_connections: u32) -> Result<PgPool, StoreError> {
    Ok(PgPoolOptions::new().max_connections(most_connections).connect(url).await?)
}

/// Brings the schema up to date. Several processes may call it at once: a lock lets one go first.
///
/// # Errors
/// [`StoreError::Migrate`].
pub async fn migrate(pool: &PgPool) -> Result<(), StoreError> {
    Ok(sqlx::migrate!().run(pool).await?)
}
