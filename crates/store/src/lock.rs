//! Work that only one process does at a time, whichever dies in between: the database lets go of a lock when the
//! connection that holds it ends.

use sqlx::pool::PoolConnection;
use sqlx::{PgConnection, PgPool, Postgres};

use crate::{SiteId, StoreError};

/// The first of the two numbers of the lock on a site's tray; those of work are beside it.
const TRAY: i32 = 0x5374_7267;

/// What is worked on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Work {
    Reading(i64),
    Release(i64),
}

impl Work {
    /// Two numbers, as PostgreSQL's advisory locks want them.
    fn key(self) -> (i32, i32) {
        let low = |id: i64| i32::try_from(id % i64::from(i32::MAX)).unwrap_or_default();
        match self {
            Self::Reading(id) => (0x5374_7265, low(id)),
            Self::Release(id) => (0x5374_7266, low(id)),
        }
    }
}

/// A held lock. It is let go when this is dropped, or when the process or its connection ends.
pub struct WorkLock {
    connection: PoolConnection<Postgres>,
}

impl WorkLock {
    /// The lock on some work; `None` when another process has it.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn take(pool: &PgPool, work: Work) -> Result<Option<Self>, StoreError> {
        let mut connection = pool.acquire().await?;
        // The lock belongs to the connection, so the connection must not go back to the pool with it.
        connection.close_on_drop();
        let (kind, id) = work.key();
        let taken = sqlx::query_scalar!("select pg_try_advisory_lock($1, $2) as \"taken!\"", kind, id)
            .fetch_one(&mut *connection)
            .await?;
        Ok(taken.then_some(Self { connection }))
    }

    /// Whether the lock is still ours: a lost connection has lost it.
    pub async fn is_held(&mut self) -> bool {
        sqlx::query_scalar!("select 1 as \"one!\"").fetch_one(&mut *self.connection).await.is_ok()
    }
}

/// Lets one transaction after the other change what is in the tray of a site, until each ends. To be taken first: whoever
/// holds rows of links while waiting for it could wait for somebody who waits for them.
///
/// # Errors
/// [`StoreError::Database`].
pub(crate) async fn tray(tx: &mut PgConnection, site: SiteId) -> Result<(), StoreError> {
    sqlx::query!("select pg_advisory_xact_lock($1, $2)", TRAY, site.0).execute(tx).await?;
    Ok(())
}
