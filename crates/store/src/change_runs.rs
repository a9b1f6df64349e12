//! Reservoir changes under way: one at a system, until it ends in an entry or is given up.

use crate::{Result, Store, StoreError, from_json, id, to_json};
use jiff::Timestamp;
use mopsel_core::changing::ChangeRun;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

/// A change under way.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredRun {
    /// The id that the entry will have.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// Who saved it last.
    pub who: Uuid,
    /// Counts up with every save, from 1.
    pub version: i64,
    /// As far as it has come.
    pub run: ChangeRun,
    /// When it was begun.
    pub started: Timestamp,
    /// When it was last saved.
    pub at: Timestamp,
}

fn read(row: &SqliteRow) -> Result<StoredRun> {
    let time = |column: &str| -> Result<Timestamp> { Timestamp::from_millisecond(row.try_get(column)?).map_err(|error| StoreError::Corrupt(error.to_string())) };
    Ok(StoredRun {
        id: id(row.try_get("id")?)?,
        system: id(row.try_get("system")?)?,
        who: id(row.try_get("who")?)?,
        version: row.try_get("version")?,
        run: from_json(row.try_get("body")?)?,
        started: time("started")?,
        at: time("at")?,
    })
}

impl Store {
    /// The change under way at a system.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn change_run(&self, system: Uuid) -> Result<Option<StoredRun>> {
        let row = sqlx::query("SELECT * FROM change_run WHERE system = ?").bind(system.to_string()).fetch_optional(&self.read).await?;
        row.as_ref().map(read).transpose()
    }

    /// Every change under way, the oldest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn change_runs(&self) -> Result<Vec<StoredRun>> {
        let rows = sqlx::query("SELECT * FROM change_run ORDER BY started LIMIT 500").fetch_all(&self.read).await?;
        rows.iter().map(read).collect()
    }

    /// Saves a change on top of the version that the writer saw, 0 for a new one.
    ///
    /// # Errors
    /// `RunChanged` with what stands when it was saved meanwhile from elsewhere.
    pub async fn save_change_run(&self, run: &StoredRun) -> Result<StoredRun> {
        let mut tx = self.begin().await?;
        let row = sqlx::query("SELECT * FROM change_run WHERE system = ?").bind(run.system.to_string()).fetch_optional(&mut *tx).await?;
        let present = row.as_ref().map(read).transpose()?;
        if let Some(present) = &present {
            if present.id == run.id && present.run == run.run {
                return Ok(present.clone());
            }
            if present.id != run.id || present.version != run.version {
                return Err(StoreError::RunChanged(Box::new(present.clone())));
            }
        }
        let started = present.map_or(run.started, |present| present.started);
        let saved = StoredRun { version: run.version + 1, started, ..run.clone() };
        sqlx::query("INSERT OR REPLACE INTO change_run (system, id, who, version, body, started, at) VALUES (?, ?, ?, ?, ?, ?, ?)")
            .bind(saved.system.to_string())
            .bind(saved.id.to_string())
            .bind(saved.who.to_string())
            .bind(saved.version)
            .bind(to_json(&saved.run)?)
            .bind(saved.started.as_millisecond())
            .bind(saved.at.as_millisecond())
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(saved)
    }

    /// Gives a change up.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn drop_change_run(&self, system: Uuid) -> Result<()> {
        sqlx::query("DELETE FROM change_run WHERE system = ?").bind(system.to_string()).execute(&self.write).await?;
        Ok(())
    }
}
