//! What is being waited for: started on one device, shown on all.

use crate::{Result, Store, StoreError, id};
use jiff::Timestamp;
use mopsel_core::bench::WaitFor;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

/// A timer.
#[derive(Debug, Clone, PartialEq)]
pub struct Timer {
    /// Made by the client.
    pub id: Uuid,
    /// At which system, if at one.
    pub system: Option<Uuid>,
    /// For what.
    pub what: WaitFor,
    /// In a few words.
    pub label: String,
    /// When it was started.
    pub started: Timestamp,
    /// When it is over.
    pub ends: Timestamp,
}

/// A timer that is over and was not put away is shown for so long.
const SHOWN_AFTER_MS: i64 = 12 * 3_600_000;
/// The most that run at once.
pub const MOST_TIMERS: usize = 50;

fn what(code: &str) -> Result<WaitFor> {
    crate::from_json(&format!("\"{code}\""))
}

fn code(what: WaitFor) -> Result<String> {
    Ok(crate::to_json(&what)?.trim_matches('"').to_owned())
}

fn read(row: &SqliteRow) -> Result<Timer> {
    let time = |column: &str| -> Result<Timestamp> { Timestamp::from_millisecond(row.try_get(column)?).map_err(|error| StoreError::Corrupt(error.to_string())) };
    Ok(Timer {
        id: id(row.try_get("id")?)?,
        system: row.try_get::<Option<&str>, _>("system")?.map(id).transpose()?,
        what: what(row.try_get("what")?)?,
        label: row.try_get("label")?,
        started: time("started")?,
        ends: time("ends")?,
    })
}

impl Store {
    /// The timers that run or are over and not put away, the next to end first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn timers(&self, now: Timestamp) -> Result<Vec<Timer>> {
        let rows = sqlx::query("SELECT * FROM timer WHERE dismissed IS NULL AND ends > ? ORDER BY ends LIMIT ?")
            .bind(now.as_millisecond() - SHOWN_AFTER_MS)
            .bind(MOST_TIMERS as i64)
            .fetch_all(&self.read)
            .await?;
        rows.iter().map(read).collect()
    }

    /// Starts a timer. The same one again starts nothing and gives the one that runs.
    ///
    /// # Errors
    /// `IdTaken` when the id belongs to another one.
    pub async fn start_timer(&self, timer: &Timer) -> Result<Timer> {
        let mut tx = self.begin().await?;
        let row = sqlx::query("SELECT * FROM timer WHERE id = ?").bind(timer.id.to_string()).fetch_optional(&mut *tx).await?;
        if let Some(there) = row.as_ref().map(read).transpose()? {
            let same = there.system == timer.system && there.what == timer.what && there.label == timer.label;
            return if same { Ok(there) } else { Err(StoreError::IdTaken) };
        }
        sqlx::query("INSERT INTO timer (id, system, what, label, started, ends) VALUES (?, ?, ?, ?, ?, ?)")
            .bind(timer.id.to_string())
            .bind(timer.system.map(|id| id.to_string()))
            .bind(code(timer.what)?)
            .bind(&timer.label)
            .bind(timer.started.as_millisecond())
            .bind(timer.ends.as_millisecond())
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(timer.clone())
    }

    /// Puts a timer away.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn dismiss_timer(&self, timer: Uuid, now: Timestamp) -> Result<()> {
        sqlx::query("UPDATE timer SET dismissed = ? WHERE id = ? AND dismissed IS NULL").bind(now.as_millisecond()).bind(timer.to_string()).execute(&self.write).await?;
        Ok(())
    }
}
