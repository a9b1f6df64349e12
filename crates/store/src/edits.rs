//! What was edited of the cards: each version beside the one before it.

use crate::{Result, Store, rows};
use jiff::Timestamp;
use mopsel_core::fact::Version;
use mopsel_core::fact::card::Card;
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, SqliteConnection};
use uuid::Uuid;

/// A version of a card, with what stood before it.
#[derive(Debug, Clone, PartialEq)]
pub struct Edit {
    /// The card.
    pub card: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// The version that the edit made.
    pub version: i64,
    /// When.
    pub at: Timestamp,
    /// Which person, where that was written down.
    pub who: Option<Uuid>,
    /// Whether an entry of the log turned it: a harvest, a move. It is taken back in the log.
    pub by_entry: bool,
    /// What it says since.
    pub after: Version<Card>,
    /// What it said before; none where it was made then.
    pub before: Option<Version<Card>>,
    /// The newest version of the card.
    pub now: (i64, Version<Card>),
}

async fn version(on: &mut SqliteConnection, card: Uuid, version: i64) -> Result<Option<Version<Card>>> {
    let query =
        sqlx::query("SELECT archived, body, shape, holds_from, at FROM card_version WHERE card = ? AND version = ?");
    let row = query.bind(card.to_string()).bind(version).fetch_optional(on).await?;
    row.as_ref().map(rows::version).transpose()
}

async fn edit(on: &mut SqliteConnection, row: &SqliteRow) -> Result<Option<Edit>> {
    let (card, number, newest) = (rows::id_in(row, "card")?, row.try_get("version")?, row.try_get("newest")?);
    let Some(now) = version(on, card, newest).await? else { return Ok(None) };
    Ok(Some(Edit {
        card,
        parent: row.try_get::<Option<&str>, _>("parent")?.map(rows::id).transpose()?,
        version: number,
        at: rows::written(row)?,
        who: row.try_get::<Option<&str>, _>("who")?.map(rows::id).transpose()?,
        by_entry: row.try_get::<Option<&str>, _>("entry")?.is_some(),
        after: rows::version(row)?,
        before: version(on, card, number - 1).await?,
        now: (newest, now),
    }))
}

impl Store {
    /// The edits of a card and of all that hangs on it, the newest first: of a place with its people, systems and
    /// plantings, of a system with its plantings. One that cannot be read is left out.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn edits(&self, of: Uuid, skip: u32, most: u32) -> Result<Vec<Edit>> {
        let mut on = self.read.acquire().await?;
        let found = sqlx::query(
            "SELECT v.card, c.parent, v.version, c.version AS newest, v.archived, v.body, v.shape, v.holds_from, v.at, v.who, v.entry
             FROM card_version v JOIN card c ON c.id = v.card
             WHERE c.id = ?1 OR c.parent = ?1 OR c.parent IN (SELECT id FROM card WHERE parent = ?1)
             ORDER BY v.at DESC, c.changed DESC, v.version DESC LIMIT ?2 OFFSET ?3",
        )
        .bind(of.to_string())
        .bind(most)
        .bind(skip)
        .fetch_all(&mut *on)
        .await?;
        let mut all = Vec::with_capacity(found.len());
        for row in &found {
            match edit(&mut on, row).await {
                Ok(found) => all.extend(found),
                Err(crate::StoreError::Corrupt(_)) => {}
                Err(error) => return Err(error),
            }
        }
        Ok(all)
    }
}
