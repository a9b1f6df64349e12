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

mod accounts;
mod archive;
mod classes;
mod edits;
mod error;
mod facts;
mod fault;
mod file;
mod log;
mod long_work;
mod migrations;
mod news;
mod pictures;
mod projections;
mod reminders;
mod rows;
mod search;
mod sensed;
mod upkeep;
mod write;

pub use accounts::{Link, Session};
pub use archive::{
    ArchivedCard, ArchivedDelivery, ArchivedEntry, ArchivedPicture, ArchivedSensed, Brings, Brought, Snapshot,
    Unreadable,
};
pub use classes::Class;
pub use edits::Edit;
pub use error::{Standing, StoreError};
pub use fault::Fault;
pub(crate) use file::Copied;
pub use file::{Look, log_beside, look};
pub use log::Thread;
pub use long_work::{LongTask, LongWork};
pub(crate) use long_work::{Underway, Working};
pub use news::{Broken, News};
pub use projections::Rebuilding;
pub use reminders::Reminder;
pub use search::{Sought, SoughtWord, Spot};
pub use sensed::{Delivered, Delivery, Differs, NewDelivery, SensedLine};
pub use upkeep::{Checked, backup, check, restore};
pub use write::Outcome;

use mopsel_core::fact::Body;
use sqlx::pool::PoolConnection;
use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous};
use sqlx::{Connection, Row, Sqlite, Transaction};
use std::collections::BTreeSet;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};
use std::time::Duration;
use uuid::Uuid;

/// What every call gives.
pub type Result<T> = std::result::Result<T, StoreError>;

pub(crate) type Tx<'c> = Transaction<'c, Sqlite>;

/// The open file: one connection that writes, some that read.
#[derive(Debug, Clone)]
pub struct Store {
    file: PathBuf,
    write: SqlitePool,
    read: SqlitePool,
    /// Why nothing is written to this file, if so.
    closed: Arc<OnceLock<String>>,
    /// Whether that is because it is damaged.
    damaged: bool,
    notes: Vec<String>,
    /// Entries that cannot be read, by their ids.
    unreadable: Arc<Mutex<BTreeSet<Uuid>>>,
    working: Working,
    /// The copy that is looked at in place of the file, which goes with this.
    #[allow(dead_code, reason = "it is there as long as the store is")]
    copy: Option<Arc<Copied>>,
}

// A connection to a file does not go away while nobody looks: asking whether it is there costs as much as
// a query.
fn pool(most: u32) -> SqlitePoolOptions {
    SqlitePoolOptions::new().max_connections(most).test_before_acquire(false)
}

/// What the database said, for a person.
fn said_for(error: StoreError, file: &Path) -> StoreError {
    match error {
        StoreError::Database(error) => {
            let fault = Fault::of(&error);
            StoreError::Fault(fault, fault.said(file))
        }
        other => other,
    }
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
        let look = file::look(file).await?;
        let options = SqliteConnectOptions::new()
            .filename(file)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            // What is erased is gone from the file, not only from its index: a picture may show anything.
            .pragma("secure_delete", "ON")
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(10));
        let opened = match look.damage {
            Some(damage) => Self::only_reading(file, damage, look.with_log, look.notes).await,
            None => Self::opened(file, options, look.notes, progress).await,
        };
        match opened.map_err(|error| said_for(error, file)) {
            Err(StoreError::Fault(Fault::Unreachable | Fault::WriteProtected, _))
                if std::fs::File::open(file).is_ok() =>
            {
                Self::only_shown(file).await
            }
            opened => opened,
        }
    }

    /// A file that lies where nothing can be written: it is shown and exported, and nothing is written to it.
    async fn only_shown(file: &Path) -> Result<Self> {
        let (store, copy) = Box::pin(Self::open_to_look(file)).await?;
        let why = format!(
            "{} is in a place where nothing can be written. Copy it to another place to go on with it",
            file.display()
        );
        let closed = Arc::new(OnceLock::from(why));
        Ok(Self { closed, copy: copy.map(Arc::new), file: file.to_owned(), ..store })
    }

    /// A damaged file, with the log beside it or without; nothing is written to it.
    async fn only_reading(file: &Path, damage: String, with_log: bool, notes: Vec<String>) -> Result<Self> {
        let options = SqliteConnectOptions::new().filename(file).read_only(true).immutable(!with_log);
        let read = pool(4).connect_with(options.clone()).await?;
        let write = pool(1).connect_lazy_with(options);
        Ok(Self {
            file: file.to_owned(),
            write,
            read,
            closed: Arc::new(OnceLock::from(damage)),
            damaged: true,
            notes,
            unreadable: Arc::default(),
            working: Arc::default(),
            copy: None,
        })
    }

    /// Opens a file to look at it: nothing of it is changed, and it may lie where nothing can be written. One of an
    /// earlier release is brought up to date in a copy, that goes when the second of what is given goes.
    ///
    /// # Errors
    /// As for opening it, and when there is no room for a copy.
    pub(crate) async fn open_to_look(file: &Path) -> Result<(Self, Option<Copied>)> {
        let look = file::look(file).await?;
        if look.damage.is_some() {
            return Ok((Self::open(file).await?, None));
        }
        // With a log beside it somebody may have it open, and what is in the log belongs to it.
        let alone = !log_beside(file).exists();
        let options = SqliteConnectOptions::new().filename(file).read_only(true).immutable(alone);
        let read = pool(4).connect_with(options.clone()).await.map_err(|error| said_for(error.into(), file))?;
        let closed = Arc::new(OnceLock::from(format!("{} is only looked at", file.display())));
        let write = pool(1).connect_lazy_with(options);
        let store = Self {
            file: file.to_owned(),
            write,
            read,
            closed,
            damaged: false,
            notes: look.notes,
            unreadable: Arc::default(),
            working: Arc::default(),
            copy: None,
        };
        let up_to_date = async { Ok(migrations::are_done(&store.read).await? && store.outdated().await?.is_empty()) };
        if up_to_date.await.map_err(|error| said_for(error, file))? {
            return Ok((store, None));
        }
        store.close().await;
        let copy = Copied::of(file)?;
        Ok((Self::open(&copy.file).await?, Some(copy)))
    }

    async fn opened(
        file: &Path,
        options: SqliteConnectOptions,
        notes: Vec<String>,
        progress: &mut dyn FnMut(Rebuilding),
    ) -> Result<Self> {
        let write = pool(1).connect_with(options.clone()).await?;
        migrations::run(&write).await?;
        let read = pool(4).connect_with(options).await?;
        let closed = migrations::newer_entries(&read).await?.map_or_else(OnceLock::new, OnceLock::from);
        let store = Self {
            file: file.to_owned(),
            write,
            read,
            closed: Arc::new(closed),
            damaged: false,
            notes,
            unreadable: Arc::default(),
            working: Arc::default(),
            copy: None,
        };
        if store.read_only().is_none() {
            sqlx::query("UPDATE file_facts SET in_use = 1").execute(&store.write).await?;
            store.checkpoint_all().await?;
            store.rebuild_outdated(progress).await?;
            store.bring_words_up(progress).await?;
        }
        Ok(store)
    }

    /// Why nothing can be written to this file, if so.
    #[must_use]
    pub fn read_only(&self) -> Option<&str> {
        self.closed.get().map(String::as_str)
    }

    /// How many entries were found that cannot be read.
    #[must_use]
    pub fn unreadable(&self) -> usize {
        self.unreadable.lock().unwrap_or_else(PoisonError::into_inner).len()
    }

    /// Looks through the whole log for entries that cannot be read; gives their ids.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn look_for_unreadable(&self) -> Result<Vec<Uuid>> {
        let mut found = Vec::new();
        let mut after = 0;
        loop {
            let query = sqlx::query(log::select_entries!("WHERE seq > ? ORDER BY seq LIMIT 500")).bind(after);
            let some = query.fetch_all(&self.read).await?;
            let Some(last) = some.last() else { break };
            after = last.try_get("seq")?;
            for row in &some {
                let entry = rows::entry(row)?.entry;
                found.extend((entry.body == Body::Unreadable).then_some(entry.id));
            }
        }
        *self.unreadable.lock().unwrap_or_else(PoisonError::into_inner) = found.iter().copied().collect();
        Ok(found)
    }

    /// In what way the file is damaged, if it is.
    pub(crate) fn damage(&self) -> Option<&str> {
        self.read_only().filter(|_| self.damaged)
    }

    /// What whoever opened the file should know.
    #[must_use]
    pub fn notes(&self) -> &[String] {
        &self.notes
    }

    /// The file.
    #[must_use]
    pub fn file(&self) -> &Path {
        &self.file
    }

    /// Brings what stands in the log beside the file into the file itself, as far as nobody reads it, so
    /// that a copy of the file alone is never far behind.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn checkpoint(&self) -> Result<()> {
        sqlx::query("PRAGMA wal_checkpoint(PASSIVE)").execute(&self.write).await?;
        Ok(())
    }

    /// The same to the last page, where nobody else is expected to read.
    async fn checkpoint_all(&self) -> Result<()> {
        sqlx::query("PRAGMA wal_checkpoint(TRUNCATE)").execute(&self.write).await?;
        Ok(())
    }

    /// Marks the file as a demo's, which may be made anew without a question.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn mark_as_demo(&self) -> Result<()> {
        sqlx::query("UPDATE file_facts SET demo = 1").execute(&self.write).await?;
        Ok(())
    }

    /// Marks the file as one that is used for real: it is never made anew as a demo, whatever it began as.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn mark_as_used(&self) -> Result<()> {
        if self.read_only().is_none() {
            sqlx::query("UPDATE file_facts SET demo = 0 WHERE demo <> 0").execute(&self.write).await?;
        }
        Ok(())
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
        if self.read_only().is_none() {
            // Whoever finds it next sees that it was left in order; if that fails, they see that it was not.
            let left = sqlx::query("UPDATE file_facts SET in_use = 0").execute(&self.write).await;
            if left.is_ok() {
                self.checkpoint_all().await.ok();
            }
        }
        self.read.close().await;
        self.write.close().await;
    }

    /// The connection that writes, once nobody else has it. Long work is waited for a moment, and told of after that.
    async fn to_write(&self) -> Result<PoolConnection<Sqlite>> {
        let mut waited = Duration::ZERO;
        loop {
            match tokio::time::timeout(A_MOMENT, self.write.acquire()).await {
                Ok(connection) => return connection.map_err(|error| said_for(error.into(), &self.file)),
                Err(_) => self.free()?,
            }
            waited += A_MOMENT;
            if waited >= MOST_WAITED {
                return Err(StoreError::Fault(Fault::Locked, Fault::Locked.said(&self.file)));
            }
        }
    }

    /// Works inside the write transaction. What was done in it is kept when the work succeeds, and
    /// only then.
    async fn writing<T>(&self, work: impl AsyncFnOnce(&mut Tx<'_>) -> Result<T>) -> Result<T> {
        if let Some(why) = self.read_only() {
            return Err(StoreError::ReadOnly(why.to_owned()));
        }
        let mut connection = self.to_write().await?;
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
            connection.close().await.ok();
        }
        let done = done.map_err(|error| said_for(error, &self.file));
        if let Err(StoreError::Fault(Fault::Damaged, why)) = &done {
            // What is damaged is not written to again, by anybody who has it open here.
            self.closed.set(why.clone()).ok();
        }
        done
    }
}

/// So long a write waits for another, before it is looked whether that is long work.
const A_MOMENT: Duration = Duration::from_millis(1500);
/// So long a write waits at most.
const MOST_WAITED: Duration = Duration::from_secs(30);

/// Takes the next tick of the clock of changes.
async fn next_tick(tx: &mut Tx<'_>) -> Result<i64> {
    Ok(sqlx::query_scalar("UPDATE tick SET value = value + 1 RETURNING value").fetch_one(&mut **tx).await?)
}
