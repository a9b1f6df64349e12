//! What is new since a reader last looked.

use crate::{Result, Store, StoredCard, cards, from_json, id};
use mopsel_core::log::State;
use sqlx::Row;
use uuid::Uuid;

/// Cards and folded states that changed, and the tick to ask from next time.
#[derive(Debug, Default)]
pub struct Changes {
    /// The clock of changes.
    pub tick: i64,
    /// Cards, newest version of each.
    pub cards: Vec<StoredCard>,
    /// States by system.
    pub states: Vec<(Uuid, State)>,
}

impl Store {
    /// Everything that changed after `since`; 0 gives everything there is.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn changes_since(&self, since: i64) -> Result<Changes> {
        let mut tx = self.read.begin().await?;
        let tick: i64 = sqlx::query_scalar("SELECT value FROM tick").fetch_one(&mut *tx).await?;
        if tick == since {
            return Ok(Changes { tick, ..Changes::default() });
        }
        let rows = sqlx::query("SELECT id, parent, version, archived, body FROM card WHERE changed > ?").bind(since).fetch_all(&mut *tx).await?;
        let cards = rows.iter().map(cards::read).collect::<Result<_>>()?;
        let rows = sqlx::query("SELECT system, state FROM fold WHERE changed > ?").bind(since).fetch_all(&mut *tx).await?;
        let states = rows.iter().map(|row| Ok((id(row.try_get("system")?)?, from_json(row.try_get("state")?)?))).collect::<Result<_>>()?;
        Ok(Changes { tick, cards, states })
    }
}
