//! Where Mopsel keeps its cards and its log: one SQLite file, written through to the disk before
//! anything is acknowledged.
//!
//! One module an aggregate: [`cards`] for what is set up, [`entries`] for the log and the folds
//! cached from it, [`drafts`] for visits half done, [`change_runs`] for reservoir changes
//! under way, [`timers`] for what is waited for, [`changes`] for "what is new since I last
//! looked". To add an aggregate, add a migration and a module with its own `impl Store`.
//!
//! Queries are checked when the tests run them, each at least once, against the migrated file.

#![warn(missing_docs)]

mod cards;
mod change_runs;
mod changes;
mod drafts;
mod entries;
mod error;
mod timers;

pub use cards::{NewCard, StoredCard};
pub use change_runs::StoredRun;
pub use changes::Changes;
pub use drafts::Draft;
pub use entries::{Appended, LoggedEntry, NewEntry, Thread};
pub use error::StoreError;
pub use timers::{MOST_TIMERS, Timer};

use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous};
use sqlx::{Sqlite, Transaction};
use std::path::Path;
use std::time::Duration;

/// What every call gives.
pub type Result<T> = std::result::Result<T, StoreError>;

/// The open file: one connection that writes, some that read.
#[derive(Debug, Clone)]
pub struct Store {
    write: SqlitePool,
    read: SqlitePool,
}

impl Store {
    /// Opens a file, makes it when it is not there, and brings it to the present schema.
    ///
    /// The journal is a write-ahead log with full sync: what was acknowledged survives the process
    /// and the power.
    ///
    /// # Errors
    /// When the file cannot be opened or is not such a file.
    pub async fn open(file: &Path) -> Result<Self> {
        let options = SqliteConnectOptions::new()
            .filename(file)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(10));
        let write = SqlitePoolOptions::new().max_connections(1).connect_with(options.clone()).await?;
        sqlx::migrate!().run(&write).await.map_err(|error| StoreError::Corrupt(error.to_string()))?;
        let read = SqlitePoolOptions::new().max_connections(4).connect_with(options).await?;
        let store = Self { write, read };
        store.rebuild_missing().await?;
        Ok(store)
    }

    /// The connections that read, for measuring a bare query against.
    #[must_use]
    pub fn reader(&self) -> &SqlitePool {
        &self.read
    }

    /// Closes the file after what is under way.
    pub async fn close(&self) {
        self.read.close().await;
        self.write.close().await;
    }

    async fn begin(&self) -> Result<Transaction<'_, Sqlite>> {
        Ok(self.write.begin_with("BEGIN IMMEDIATE").await?)
    }
}

/// Takes the next tick of the clock of changes.
async fn next_tick(tx: &mut Transaction<'_, Sqlite>) -> Result<i64> {
    Ok(sqlx::query_scalar("UPDATE tick SET value = value + 1 RETURNING value").fetch_one(&mut **tx).await?)
}

/// To the text that a column keeps.
fn to_json<T: serde::Serialize>(value: &T) -> Result<String> {
    serde_json::to_string(value).map_err(|error| StoreError::Corrupt(error.to_string()))
}

/// From the text that a column keeps.
fn from_json<T: serde::de::DeserializeOwned>(text: &str) -> Result<T> {
    serde_json::from_str(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

/// An id from its column.
fn id(text: &str) -> Result<uuid::Uuid> {
    uuid::Uuid::parse_str(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}
