//! The log, and the state that is cached from it.
//!
//! An entry is added in one transaction with the state that it leads to, so that the two never
//! disagree. An entry that is newer than all others is applied to the cached state; an amendment or
//! an entry that comes late makes the state anew from the whole log of its system.

use crate::{Result, Store, StoreError, from_json, id, next_tick, to_json};
use jiff::Timestamp;
use mopsel_core::log::{Entry, State, fold};
use mopsel_core::quantity::Note;
use mopsel_core::system::System;
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, Sqlite, Transaction};
use uuid::Uuid;

/// An entry to be added.
#[derive(Debug, Clone)]
pub struct NewEntry {
    /// At which system.
    pub system: Uuid,
    /// The entry; its time is kept to the millisecond.
    pub entry: Entry,
}

/// An entry as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct LoggedEntry {
    /// Its place in the order of recording.
    pub seq: i64,
    /// At which system.
    pub system: Uuid,
    /// When it was recorded.
    pub recorded: Timestamp,
    /// What it says.
    pub entry: Entry,
}

/// What adding gave.
#[derive(Debug, Clone)]
pub struct Appended {
    /// The entry as it is kept.
    pub entry: LoggedEntry,
    /// Whether it had been there already.
    pub repeated: bool,
}

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
        concat!("SELECT seq, id, system, at, recorded, who, body, amends, reason FROM entry ", $rest)
    };
}

fn read(row: &SqliteRow) -> Result<LoggedEntry> {
    let time = |column: &str| -> Result<Timestamp> { Timestamp::from_millisecond(row.try_get(column)?).map_err(|error| StoreError::Corrupt(error.to_string())) };
    let reason = row.try_get::<Option<&str>, _>("reason")?.map(Note::new).transpose().map_err(|error| StoreError::Corrupt(error.to_string()))?;
    Ok(LoggedEntry {
        seq: row.try_get("seq")?,
        system: id(row.try_get("system")?)?,
        recorded: time("recorded")?,
        entry: Entry {
            id: id(row.try_get("id")?)?,
            at: time("at")?,
            by: id(row.try_get("who")?)?,
            body: from_json(row.try_get("body")?)?,
            amends: row.try_get::<Option<&str>, _>("amends")?.map(id).transpose()?,
            reason,
        },
    })
}

/// Folds the whole log of a system and caches the state.
pub(crate) async fn rebuild_fold(tx: &mut Transaction<'_, Sqlite>, system_id: Uuid, system: &System, tick: i64) -> Result<State> {
    let rows = sqlx::query(select_entries!("WHERE system = ? ORDER BY seq")).bind(system_id.to_string()).fetch_all(&mut **tx).await?;
    let entries = rows.iter().map(|row| read(row).map(|logged| logged.entry)).collect::<Result<Vec<_>>>()?;
    let state = fold(&entries, system);
    cache(tx, system_id, &state, tick).await?;
    Ok(state)
}

async fn cache(tx: &mut Transaction<'_, Sqlite>, system: Uuid, state: &State, tick: i64) -> Result<()> {
    sqlx::query("INSERT INTO fold (system, state, changed) VALUES (?, ?, ?) ON CONFLICT (system) DO UPDATE SET state = excluded.state, changed = excluded.changed")
        .bind(system.to_string())
        .bind(to_json(state)?)
        .bind(tick)
        .execute(&mut **tx)
        .await?;
    Ok(())
}

async fn cached(tx: &mut Transaction<'_, Sqlite>, system: Uuid) -> Result<Option<State>> {
    let text: Option<String> = sqlx::query_scalar("SELECT state FROM fold WHERE system = ?").bind(system.to_string()).fetch_optional(&mut **tx).await?;
    text.as_deref().map(from_json).transpose()
}

async fn by_id(tx: &mut Transaction<'_, Sqlite>, entry: Uuid) -> Result<Option<LoggedEntry>> {
    let row = sqlx::query(select_entries!("WHERE id = ?")).bind(entry.to_string()).fetch_optional(&mut **tx).await?;
    row.as_ref().map(read).transpose()
}

async fn amendment_of(tx: &mut Transaction<'_, Sqlite>, entry: Uuid) -> Result<Option<LoggedEntry>> {
    let row = sqlx::query(select_entries!("WHERE amends = ?")).bind(entry.to_string()).fetch_optional(&mut **tx).await?;
    row.as_ref().map(read).transpose()
}

/// Checks that an amendment replaces what stands now, and stays at its system.
async fn check_amends(tx: &mut Transaction<'_, Sqlite>, new: &NewEntry, amends: Uuid) -> Result<()> {
    let amended = by_id(tx, amends).await?.filter(|found| found.system == new.system);
    if amended.is_none() {
        return Err(StoreError::NotFound("entry"));
    }
    let mut newest = amendment_of(tx, amends).await?;
    while let Some(found) = newest {
        match amendment_of(tx, found.entry.id).await? {
            Some(later) => newest = Some(later),
            None => return Err(StoreError::Amended(Box::new(found))),
        }
    }
    Ok(())
}

async fn insert(tx: &mut Transaction<'_, Sqlite>, new: &NewEntry, now: Timestamp) -> Result<LoggedEntry> {
    let entry = &new.entry;
    let row = sqlx::query("INSERT INTO entry (id, system, at, recorded, who, body, amends, reason) VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING seq")
        .bind(entry.id.to_string())
        .bind(new.system.to_string())
        .bind(entry.at.as_millisecond())
        .bind(now.as_millisecond())
        .bind(entry.by.to_string())
        .bind(to_json(&entry.body)?)
        .bind(entry.amends.map(|a| a.to_string()))
        .bind(entry.reason.as_ref().map(Note::as_str))
        .fetch_one(&mut **tx)
        .await?;
    Ok(LoggedEntry { seq: row.try_get("seq")?, system: new.system, recorded: now, entry: entry.clone() })
}

fn to_millisecond(at: Timestamp) -> Timestamp {
    Timestamp::from_millisecond(at.as_millisecond()).unwrap_or(at)
}

impl Store {
    /// Adds an entry, brings the state up to it, and puts the draft that it closes away.
    /// The same entry again adds nothing.
    ///
    /// # Errors
    /// `IdTaken` when the id belongs to another entry; `Amended` with what stands now when the
    /// amended entry was amended meanwhile; `NotFound` when it is not there at all.
    pub async fn append(&self, new: &NewEntry, system: &System, now: Timestamp) -> Result<Appended> {
        let mut tx = self.begin().await?;
        let mut new = new.clone();
        new.entry.at = to_millisecond(new.entry.at);
        if let Some(there) = by_id(&mut tx, new.entry.id).await? {
            let same = there.system == new.system && there.entry == new.entry;
            return if same { Ok(Appended { entry: there, repeated: true }) } else { Err(StoreError::IdTaken) };
        }
        if let Some(amends) = new.entry.amends {
            check_amends(&mut tx, &new, amends).await?;
        }
        let tick = next_tick(&mut tx).await?;
        let entry = insert(&mut tx, &new, to_millisecond(now)).await?;
        match cached(&mut tx, new.system).await?.filter(|state| state.can_apply(&new.entry)) {
            Some(mut state) => {
                state.apply(&new.entry, system);
                cache(&mut tx, new.system, &state, tick).await?;
            }
            None => {
                rebuild_fold(&mut tx, new.system, system, tick).await?;
            }
        }
        for put_away in ["DELETE FROM draft WHERE id = ?", "DELETE FROM change_run WHERE id = ?"] {
            sqlx::query(put_away).bind(new.entry.id.to_string()).execute(&mut *tx).await?;
        }
        tx.commit().await?;
        Ok(Appended { entry, repeated: false })
    }

    /// Adds many entries of one system in one transaction, and folds once: for filling a file.
    ///
    /// # Errors
    /// When the file cannot be written; then nothing of it is kept.
    pub async fn append_all(&self, system_id: Uuid, system: &System, entries: &[Entry], now: Timestamp) -> Result<()> {
        let mut tx = self.begin().await?;
        for entry in entries {
            let mut new = NewEntry { system: system_id, entry: entry.clone() };
            new.entry.at = to_millisecond(entry.at);
            insert(&mut tx, &new, to_millisecond(now)).await?;
        }
        let tick = next_tick(&mut tx).await?;
        rebuild_fold(&mut tx, system_id, system, tick).await?;
        tx.commit().await?;
        Ok(())
    }

    /// One entry by its id.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn entry(&self, entry: Uuid) -> Result<LoggedEntry> {
        let row = sqlx::query(select_entries!("WHERE id = ?")).bind(entry.to_string()).fetch_optional(&self.read).await?;
        row.as_ref().map(read).transpose()?.ok_or(StoreError::NotFound("entry"))
    }

    /// A page of a system's log, newest first: what stands, each with what it replaced. `before` is
    /// the time and the place of the last entry of the page before.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn log_page(&self, system: Uuid, before: Option<(Timestamp, i64)>, limit: u32) -> Result<Vec<Thread>> {
        let (at, seq) = before.map_or((i64::MAX, i64::MAX), |(at, seq)| (at.as_millisecond(), seq));
        let rows = sqlx::query(select_entries!(
            "WHERE system = ?1 AND (at < ?2 OR (at = ?2 AND seq < ?3)) AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)
             ORDER BY at DESC, seq DESC LIMIT ?4"
        ))
        .bind(system.to_string())
        .bind(at)
        .bind(seq)
        .bind(limit)
        .fetch_all(&self.read)
        .await?;
        let mut threads = Vec::with_capacity(rows.len());
        for row in &rows {
            let head = read(row)?;
            let mut earlier = Vec::new();
            let mut amends = head.entry.amends;
            while let Some(before) = amends {
                let logged = self.entry(before).await?;
                amends = logged.entry.amends;
                earlier.push(logged);
            }
            threads.push(Thread { head, earlier });
        }
        Ok(threads)
    }

    /// All entries of a system from a time on, in the order of recording, amended ones among them.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn entries_since(&self, system: Uuid, from: Timestamp) -> Result<Vec<Entry>> {
        let rows = sqlx::query(select_entries!("WHERE system = ? AND at >= ? ORDER BY seq")).bind(system.to_string()).bind(from.as_millisecond()).fetch_all(&self.read).await?;
        rows.iter().map(|row| read(row).map(|logged| logged.entry)).collect()
    }

    /// The cached state of a system, for comparing with a rebuilt one.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn cached_state(&self, system: Uuid) -> Result<Option<State>> {
        let text: Option<String> = sqlx::query_scalar("SELECT state FROM fold WHERE system = ?").bind(system.to_string()).fetch_optional(&self.read).await?;
        text.as_deref().map(from_json).transpose()
    }

    /// Makes the states that a new release has done away with anew from the log.
    pub(crate) async fn rebuild_missing(&self) -> Result<()> {
        let rows = sqlx::query(
            "SELECT id, parent, version, archived, body FROM card WHERE kind = 'system'
             AND NOT EXISTS (SELECT 1 FROM fold WHERE system = card.id) AND EXISTS (SELECT 1 FROM entry WHERE system = card.id)",
        )
        .fetch_all(&self.read)
        .await?;
        for row in &rows {
            let stored = crate::cards::read(row)?;
            if let mopsel_core::card::Card::System(system) = &stored.card {
                self.rebuild(stored.id, system).await?;
            }
        }
        Ok(())
    }

    /// Makes a system's state anew from its log, as after a new release with other rules.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn rebuild(&self, system_id: Uuid, system: &System) -> Result<State> {
        let mut tx = self.begin().await?;
        let tick = next_tick(&mut tx).await?;
        let state = rebuild_fold(&mut tx, system_id, system, tick).await?;
        tx.commit().await?;
        Ok(state)
    }
}
