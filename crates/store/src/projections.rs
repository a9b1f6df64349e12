//! What the log comes to, kept beside it.

use crate::{Result, Store, StoreError, Tx, facts, log, next_tick, rows};
use jiff::Timestamp;
use mopsel_core::fact::{Entry, Timeline};
use mopsel_core::projection::{Known, Part};
use mopsel_core::system::System;
use sqlx::Row;
use std::collections::BTreeMap;
use uuid::Uuid;

/// What is made anew, and how far that has come, for a line of progress.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Rebuilding {
    /// What the logs of systems come to.
    Systems {
        /// Systems that are done.
        done: usize,
        /// Systems in all.
        of: usize,
    },
    /// What entries are found by.
    Words {
        /// Entries that are done.
        done: i64,
        /// Entries in all.
        of: i64,
    },
    /// The index of what entries are found by is gathered into one piece.
    Gathering,
}

/// Systems that are made anew in one transaction.
const AT_ONCE: usize = 50;

/// What is kept of a system; `None` where a part is missing, outdated or unreadable.
pub(crate) async fn kept(tx: &mut Tx<'_>, system: Uuid) -> Result<Option<Known>> {
    let query = sqlx::query("SELECT part, version, body FROM projection WHERE system = ?").bind(system.to_string());
    let mut known = Known::default();
    let mut read = 0;
    for row in query.fetch_all(&mut **tx).await? {
        let (name, version): (&str, i64) = (row.try_get("part")?, row.try_get("version")?);
        let part = Part::ALL.into_iter().find(|part| part.name() == name && part.version() == version);
        if part.is_some_and(|part| row.try_get("body").is_ok_and(|body: &str| known.read(part, body).is_ok())) {
            read += 1;
        }
    }
    Ok((read == Part::ALL.len()).then_some(known))
}

/// What is known of a system: as it is kept, or folded anew where that cannot be read.
pub(crate) async fn known(tx: &mut Tx<'_>, system: Uuid, history: &Timeline<System>) -> Result<Known> {
    match kept(tx, system).await? {
        Some(known) => Ok(known),
        None => Ok(Known::fold(&log::whole(tx, system).await?, history)),
    }
}

/// Keeps the parts that differ from what was kept before.
pub(crate) async fn keep(
    tx: &mut Tx<'_>,
    system: Uuid,
    known: &Known,
    before: Option<&Known>,
    tick: i64,
) -> Result<()> {
    for part in Part::ALL.into_iter().filter(|part| before.is_none_or(|before| !known.same(before, *part))) {
        keep_part(tx, system, known, part, tick).await?;
    }
    Ok(())
}

async fn keep_part(tx: &mut Tx<'_>, system: Uuid, known: &Known, part: Part, tick: i64) -> Result<()> {
    let body = known.write(part).map_err(|error| StoreError::Corrupt(error.to_string()))?;
    sqlx::query(
        "INSERT INTO projection (system, part, version, body, changed) VALUES (?, ?, ?, ?, ?)
         ON CONFLICT (system, part) DO UPDATE SET version = excluded.version, body = excluded.body, changed = excluded.changed",
    )
    .bind(system.to_string())
    .bind(part.name())
    .bind(part.version())
    .bind(body)
    .bind(tick)
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Folds the whole log of a system and keeps what it comes to.
pub(crate) async fn rebuild(tx: &mut Tx<'_>, system: Uuid, history: &Timeline<System>, tick: i64) -> Result<Known> {
    let entries = log::whole(tx, system).await?;
    let known = Known::fold(&entries, history);
    keep(tx, system, &known, None, tick).await?;
    Ok(known)
}

/// Brings what is kept up to an entry that was just added.
pub(crate) async fn bring_up(
    tx: &mut Tx<'_>,
    system: Uuid,
    history: &Timeline<System>,
    entry: &Entry,
    tick: i64,
) -> Result<()> {
    match kept(tx, system).await?.filter(|known| known.can_apply(entry)) {
        Some(before) => {
            let mut known = before.clone();
            known.apply(entry, history.at(entry.at));
            keep(tx, system, &known, Some(&before), tick).await
        }
        None => rebuild(tx, system, history, tick).await.map(|_| ()),
    }
}

impl Store {
    /// What is kept of a system, for comparing with what its log comes to.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn kept(&self, system: Uuid) -> Result<Option<Known>> {
        let mut tx = self.read.begin().await?;
        kept(&mut tx, system).await
    }

    /// Makes anew what is kept of a system, where it cannot be read.
    ///
    /// # Errors
    /// `NotFound`, `ReadOnly`, or when the file cannot be written.
    pub async fn mend(&self, system: Uuid) -> Result<()> {
        self.writing(async |tx| {
            let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            let tick = next_tick(tx).await?;
            rebuild(tx, system, &history, tick).await.map(|_| ())
        })
        .await
    }

    /// What the log of a system came to up to a moment, leaving out what is dated later.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn folded_until(&self, system: Uuid, until: Timestamp) -> Result<Known> {
        let mut tx = self.read.begin().await?;
        let history = facts::history_of(&mut tx, system).await?.ok_or(StoreError::NotFound("system"))?;
        let mut entries = log::whole(&mut tx, system).await?;
        entries.retain(|entry| entry.at <= until);
        Ok(Known::fold(&entries, &history))
    }

    /// What the log of a system comes to now, folded from its first entry.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn folded(&self, system: Uuid) -> Result<Known> {
        let mut tx = self.read.begin().await?;
        let history = facts::history_of(&mut tx, system).await?.ok_or(StoreError::NotFound("system"))?;
        Ok(Known::fold(&log::whole(&mut tx, system).await?, &history))
    }

    /// Makes anew what an earlier release left in another version, part by part, and what is missing.
    pub(crate) async fn rebuild_outdated(&self, progress: &mut dyn FnMut(Rebuilding)) -> Result<()> {
        let outdated = self.outdated().await?;
        let of = outdated.len();
        let systems: Vec<(Uuid, Vec<Part>)> = outdated.into_iter().collect();
        let mut done = 0;
        for some in systems.chunks(AT_ONCE) {
            self.writing(async |tx| {
                let tick = next_tick(tx).await?;
                for (system, parts) in some {
                    let Some(history) = facts::history_of(tx, *system).await? else { continue };
                    let entries = log::whole(tx, *system).await?;
                    let mut known = Known::default();
                    for part in parts {
                        known.refold(*part, &entries, &history);
                        keep_part(tx, *system, &known, *part, tick).await?;
                    }
                }
                Ok(())
            })
            .await?;
            done += some.len();
            progress(Rebuilding::Systems { done, of });
        }
        Ok(())
    }

    /// The parts of each system that are not of this release's version.
    pub(crate) async fn outdated(&self) -> Result<BTreeMap<Uuid, Vec<Part>>> {
        let mut outdated = BTreeMap::new();
        let systems: Vec<String> =
            sqlx::query_scalar("SELECT id FROM card WHERE kind = 'system'").fetch_all(&self.read).await?;
        let mut current: BTreeMap<String, Vec<Part>> = BTreeMap::new();
        for row in sqlx::query("SELECT system, part, version FROM projection").fetch_all(&self.read).await? {
            let (name, version): (&str, i64) = (row.try_get("part")?, row.try_get("version")?);
            let part = Part::ALL.into_iter().find(|part| part.name() == name && part.version() == version);
            current.entry(row.try_get("system")?).or_default().extend(part);
        }
        for system in systems {
            let there = current.get(&system).map_or(&[] as &[Part], Vec::as_slice);
            let missing: Vec<Part> = Part::ALL.into_iter().filter(|part| !there.contains(part)).collect();
            if !missing.is_empty() {
                outdated.insert(rows::id(&system)?, missing);
            }
        }
        Ok(outdated)
    }
}
