//! Reading the log, and what is half done beside it.

use crate::{Result, Store, StoreError, Tx, rows, sensed};
use jiff::Timestamp;
use mopsel_core::fact::{Body, Draft, Entry, LoggedEntry, StoredRun, Timer};
use mopsel_core::gate::MOST_TIMERS;
use sqlx::sqlite::SqliteRow;
use std::sync::PoisonError;
use uuid::Uuid;

/// An entry with all that it replaced, newest first.
#[derive(Debug, Clone, PartialEq)]
pub struct Thread {
    /// What stands.
    pub head: LoggedEntry,
    /// What stood before.
    pub earlier: Vec<LoggedEntry>,
}

/// A `SELECT` over the entry columns; `$rest` is a literal, so that the whole is a constant.
macro_rules! select_entries {
    ($rest:literal) => {
        concat!("SELECT seq, id, system, at, recorded, who, body, shape, device, amends, reason FROM entry ", $rest)
    };
}

pub(crate) use select_entries;

/// A timer that is over and was not put away is shown for so long.
const SHOWN_AFTER_MS: i64 = 12 * 3_600_000;

/// An entry by its id, inside a transaction.
pub(crate) async fn by_id(tx: &mut Tx<'_>, entry: Uuid) -> Result<Option<LoggedEntry>> {
    let row = sqlx::query(select_entries!("WHERE id = ?")).bind(entry.to_string()).fetch_optional(&mut **tx).await?;
    row.as_ref().map(rows::entry).transpose()
}

/// The newest amendment of an entry, inside a transaction.
pub(crate) async fn newest_amendment(tx: &mut Tx<'_>, entry: Uuid) -> Result<Option<LoggedEntry>> {
    let (mut of, mut newest) = (entry, None);
    loop {
        let query = sqlx::query(select_entries!("WHERE amends = ?")).bind(of.to_string());
        let Some(row) = query.fetch_optional(&mut **tx).await? else { return Ok(newest) };
        let found = rows::entry(&row)?;
        of = found.entry.id;
        newest = Some(found);
    }
}

/// The whole log of a system, in the order of recording, inside a transaction; behind it what a logger's days came to.
pub(crate) async fn whole(tx: &mut Tx<'_>, system: Uuid) -> Result<Vec<Entry>> {
    since(tx, system, Timestamp::MIN).await
}

async fn since(tx: &mut Tx<'_>, system: Uuid, from: Timestamp) -> Result<Vec<Entry>> {
    let query = sqlx::query(select_entries!("WHERE system = ? AND at >= ? ORDER BY seq"));
    let found = query.bind(system.to_string()).bind(from.as_millisecond()).fetch_all(&mut **tx).await?;
    let mut all: Vec<Entry> =
        found.iter().map(|row| rows::entry(row).map(|logged| logged.entry)).collect::<Result<_>>()?;
    all.extend(sensed::days(tx, system, from).await?);
    Ok(all)
}

/// How many timers run or are over and not put away, inside a transaction.
pub(crate) async fn timers_running(tx: &mut Tx<'_>, now: Timestamp) -> Result<usize> {
    let running: i64 = sqlx::query_scalar("SELECT count(*) FROM timer WHERE dismissed IS NULL AND ends > ?")
        .bind(now.as_millisecond() - SHOWN_AFTER_MS)
        .fetch_one(&mut **tx)
        .await?;
    Ok(usize::try_from(running).unwrap_or(usize::MAX))
}

/// The timers of one system that run or are over and not put away, inside a transaction.
pub(crate) async fn timers_beside(tx: &mut Tx<'_>, system: Option<Uuid>, now: Timestamp) -> Result<Vec<Timer>> {
    let Some(system) = system else { return Ok(vec![]) };
    let found = sqlx::query("SELECT * FROM timer WHERE dismissed IS NULL AND ends > ? AND system = ?")
        .bind(now.as_millisecond() - SHOWN_AFTER_MS)
        .bind(system.to_string())
        .fetch_all(&mut **tx)
        .await?;
    found.iter().map(rows::timer).collect()
}

/// Entries that stand, each with what it replaced.
pub(crate) async fn threads_of(store: &Store, found: &[SqliteRow]) -> Result<Vec<Thread>> {
    let mut threads = Vec::with_capacity(found.len());
    for row in found {
        let head = rows::entry(row)?;
        if head.entry.body == Body::Unreadable {
            store.unreadable.lock().unwrap_or_else(PoisonError::into_inner).insert(head.entry.id);
        }
        let mut earlier = Vec::new();
        let mut amends = head.entry.amends;
        while let Some(before) = amends {
            let logged = store.entry(before).await?;
            amends = logged.entry.amends;
            earlier.push(logged);
        }
        threads.push(Thread { head, earlier });
    }
    Ok(threads)
}

impl Store {
    /// One entry by its id.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn entry(&self, entry: Uuid) -> Result<LoggedEntry> {
        let query = sqlx::query(select_entries!("WHERE id = ?")).bind(entry.to_string());
        let row = query.fetch_optional(&self.read).await?;
        row.as_ref().map(rows::entry).transpose()?.ok_or(StoreError::NotFound("entry"))
    }

    /// A page of a system's log, newest first: what stands, each with what it replaced. `before` is
    /// the time and the place of the last entry of the page before.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn log_page(&self, system: Uuid, before: Option<(Timestamp, i64)>, limit: u32) -> Result<Vec<Thread>> {
        let (at, seq) = before.map_or((i64::MAX, i64::MAX), |(at, seq)| (at.as_millisecond(), seq));
        let found = sqlx::query(select_entries!(
            "WHERE system = ?1 AND (at < ?2 OR (at = ?2 AND seq < ?3))
             AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)
             ORDER BY at DESC, seq DESC LIMIT ?4 + 0"
        ))
        .bind(system.to_string())
        .bind(at)
        .bind(seq)
        .bind(limit)
        .fetch_all(&self.read)
        .await?;
        threads_of(self, &found).await
    }

    /// All entries of a system from a time on, in the order of recording, amended ones among them; behind them
    /// what a logger's days came to.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn entries_since(&self, system: Uuid, from: Timestamp) -> Result<Vec<Entry>> {
        let mut tx = self.read.begin().await?;
        since(&mut tx, system, from).await
    }

    /// The visit that a person has half done at a system.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn draft(&self, system: Uuid, who: Uuid) -> Result<Option<Draft>> {
        let query = sqlx::query("SELECT * FROM draft WHERE system = ? AND who = ?");
        let row = query.bind(system.to_string()).bind(who.to_string()).fetch_optional(&self.read).await?;
        row.as_ref().map(rows::draft).transpose()
    }

    /// The change under way at a system.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn change_run(&self, system: Uuid) -> Result<Option<StoredRun>> {
        let query = sqlx::query("SELECT * FROM change_run WHERE system = ?").bind(system.to_string());
        query.fetch_optional(&self.read).await?.as_ref().map(rows::run).transpose()
    }

    /// Every change under way, the oldest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn change_runs(&self) -> Result<Vec<StoredRun>> {
        let found = sqlx::query("SELECT * FROM change_run ORDER BY started LIMIT 500").fetch_all(&self.read).await?;
        found.iter().map(rows::run).collect()
    }

    /// The timers that run or are over and not put away, the next to end first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn timers(&self, now: Timestamp) -> Result<Vec<Timer>> {
        let found = sqlx::query("SELECT * FROM timer WHERE dismissed IS NULL AND ends > ? ORDER BY ends LIMIT ?")
            .bind(now.as_millisecond() - SHOWN_AFTER_MS)
            .bind(MOST_TIMERS as i64)
            .fetch_all(&self.read)
            .await?;
        found.iter().map(rows::timer).collect()
    }
}
