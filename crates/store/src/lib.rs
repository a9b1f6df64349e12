//! Where Mopsel keeps its cards and its log: one SQLite file, written through to the disk before
//! anything is acknowledged.
//!
//! Everything is written through one gate, [`Store::submit`]: it begins the write transaction, reads
//! what the command rests on ([`facts`]), asks the core, writes what that decided ([`write`]) and ends
//! the transaction. To add a kind of write, see `mopsel_core::gate`.
//!
//! Reading has a module for each sort of thing: [`log`] for entries, [`news`] for what changed since
//! somebody last looked, [`rows`] for how each thing stands in its row. [`projections`] are what the log
//! comes to; each can be made anew from the log at any time.
//!
//! Queries are checked when the tests run them, each at least once, against the migrated file.

#![warn(missing_docs)]

mod error;
mod facts;
mod log;
mod migrations;
mod news;
mod projections;
mod rows;
mod write;

pub use error::{Standing, StoreError};
pub use log::Thread;
pub use news::News;
pub use projections::Rebuilding;
pub use write::Outcome;

use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous};
use sqlx::{Connection, Sqlite, Transaction};
use std::path::Path;
use std::time::Duration;

/// What every call gives.
pub type Result<T> = std::result::Result<T, StoreError>;

pub(crate) type Tx<'c> = Transaction<'c, Sqlite>;

/// The open file: one connection that writes, some that read.
#[derive(Debug, Clone)]
pub struct Store {
    write: SqlitePool,
    read: SqlitePool,
    /// Why nothing is written to this file, if so.
    read_only: Option<String>,
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
        Self::open_with(file, &mut |_| {}).await
    }

    /// The same, telling of what has to be made anew on the way.
    ///
    /// # Errors
    /// When the file cannot be opened or is not such a file.
    pub async fn open_with(file: &Path, progress: &mut dyn FnMut(Rebuilding)) -> Result<Self> {
        let options = SqliteConnectOptions::new()
            .filename(file)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(10));
        let write = SqlitePoolOptions::new().max_connections(1).connect_with(options.clone()).await?;
        migrations::run(&write).await?;
        let read = SqlitePoolOptions::new().max_connections(4).connect_with(options).await?;
        let read_only = migrations::newer_entries(&read).await?;
        let store = Self { write, read, read_only };
        if store.read_only.is_none() {
            store.rebuild_outdated(progress).await?;
        }
        Ok(store)
    }

    /// Why nothing can be written to this file, if so.
    #[must_use]
    pub fn read_only(&self) -> Option<&str> {
        self.read_only.as_deref()
    }

    /// The connections that read, for measuring a bare query against.
    #[must_use]
    pub fn reader(&self) -> &SqlitePool {
        &self.read
    }

    /// The connection that writes, for setting a limit of the database on it. Whoever writes rows by it
    /// goes around the gate.
    #[must_use]
    pub fn writer(&self) -> &SqlitePool {
        &self.write
    }

    /// Closes the file after what is under way.
    pub async fn close(&self) {
        self.read.close().await;
        self.write.close().await;
    }

    /// Works inside the write transaction. What was done in it is kept when the work succeeds, and
    /// only then.
    async fn writing<T>(&self, work: impl AsyncFnOnce(&mut Tx<'_>) -> Result<T>) -> Result<T> {
        if let Some(why) = &self.read_only {
            return Err(StoreError::ReadOnly(why.clone()));
        }
        let mut connection = self.write.acquire().await?;
        let done = async {
            let mut tx = connection.begin_with("BEGIN IMMEDIATE").await?;
            let value = work(&mut tx).await?;
            tx.commit().await?;
            Ok(value)
        }
        .await;
        if let Err(StoreError::Database(_)) = &done {
            // SQLite may have ended the transaction by itself, on a full disk for one. A connection of
            // which that is not known is not used again.
            connection.close().await?;
        }
        done
    }
}

/// Takes the next tick of the clock of changes.
async fn next_tick(tx: &mut Tx<'_>) -> Result<i64> {
    Ok(sqlx::query_scalar("UPDATE tick SET value = value + 1 RETURNING value").fetch_one(&mut **tx).await?)
}
