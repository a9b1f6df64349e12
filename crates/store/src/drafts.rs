//! Visits half done: one for each person at each system, kept until the visit is closed.

use crate::{Result, Store, StoreError, from_json, id, to_json};
use jiff::Timestamp;
use mopsel_core::log::Visit;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

/// A visit half done.
#[derive(Debug, Clone, PartialEq)]
pub struct Draft {
    /// The id that the entry will have.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// Whose.
    pub who: Uuid,
    /// Counts up with every save, from 1.
    pub version: i64,
    /// As far as it has come.
    pub visit: Visit,
    /// When it was last saved.
    pub at: Timestamp,
}

fn read(row: &SqliteRow) -> Result<Draft> {
    Ok(Draft {
        id: id(row.try_get("id")?)?,
        system: id(row.try_get("system")?)?,
        who: id(row.try_get("who")?)?,
        version: row.try_get("version")?,
        visit: from_json(row.try_get("body")?)?,
        at: row.try_get::<&str, _>("at")?.parse().map_err(|_| StoreError::Corrupt("a draft's time".into()))?,
    })
}

impl Store {
    /// The draft of a person at a system.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn draft(&self, system: Uuid, who: Uuid) -> Result<Option<Draft>> {
        let row = sqlx::query("SELECT * FROM draft WHERE system = ? AND who = ?").bind(system.to_string()).bind(who.to_string()).fetch_optional(&self.read).await?;
        row.as_ref().map(read).transpose()
    }

    /// Saves a draft on top of the version that the writer saw, 0 for a new one.
    ///
    /// # Errors
    /// `DraftChanged` with the present draft when it was saved meanwhile from elsewhere.
    pub async fn save_draft(&self, draft: &Draft) -> Result<Draft> {
        let mut tx = self.begin().await?;
        let row = sqlx::query("SELECT * FROM draft WHERE system = ? AND who = ?").bind(draft.system.to_string()).bind(draft.who.to_string()).fetch_optional(&mut *tx).await?;
        let present = row.as_ref().map(read).transpose()?;
        if let Some(present) = &present {
            if present.id == draft.id && present.visit == draft.visit {
                return Ok(present.clone());
            }
            if present.id != draft.id || present.version != draft.version {
                return Err(StoreError::DraftChanged(Box::new(present.clone())));
            }
        }
        let saved = Draft { version: draft.version + 1, ..draft.clone() };
        sqlx::query("INSERT OR REPLACE INTO draft (system, who, id, version, body, at) VALUES (?, ?, ?, ?, ?, ?)")
            .bind(saved.system.to_string())
            .bind(saved.who.to_string())
            .bind(saved.id.to_string())
            .bind(saved.version)
            .bind(to_json(&saved.visit)?)
            .bind(saved.at.to_string())
            .execute(&mut *tx)
            .await?;
        tx.commit().await?;
        Ok(saved)
    }

    /// Puts a draft away.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn drop_draft(&self, system: Uuid, who: Uuid) -> Result<()> {
        sqlx::query("DELETE FROM draft WHERE system = ? AND who = ?").bind(system.to_string()).bind(who.to_string()).execute(&self.write).await?;
        Ok(())
    }
}
