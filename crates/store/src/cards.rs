//! Cards: made once, edited by version, archived rather than deleted. Every version is kept.

use crate::entries::rebuild_fold;
use crate::{Result, Store, StoreError, from_json, id, next_tick, to_json};
use jiff::Timestamp;
use mopsel_core::card::Card;
use serde::Serialize;
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, Sqlite, Transaction};
use uuid::Uuid;

/// A card to be made. The id comes from the client, so that a repeated request makes one card.
#[derive(Debug, Clone, Serialize)]
pub struct NewCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// What it says.
    pub card: Card,
}

/// A card as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// Counts up with every edit, from 1.
    pub version: i64,
    /// Whether it was put away.
    pub archived: bool,
    /// What it says.
    pub card: Card,
}

pub(crate) fn read(row: &SqliteRow) -> Result<StoredCard> {
    Ok(StoredCard {
        id: id(row.try_get("id")?)?,
        parent: row.try_get::<Option<&str>, _>("parent")?.map(id).transpose()?,
        version: row.try_get("version")?,
        archived: row.try_get::<i64, _>("archived")? != 0,
        card: from_json(row.try_get("body")?)?,
    })
}

async fn find(tx: &mut Transaction<'_, Sqlite>, card: Uuid) -> Result<(StoredCard, String)> {
    let row = sqlx::query("SELECT id, parent, version, archived, body, made_from FROM card WHERE id = ?").bind(card.to_string()).fetch_optional(&mut **tx).await?;
    let row = row.ok_or(StoreError::NotFound("card"))?;
    Ok((read(&row)?, row.try_get("made_from")?))
}

async fn keep_version(tx: &mut Transaction<'_, Sqlite>, card: &StoredCard, body: &str, now: Timestamp) -> Result<()> {
    sqlx::query("INSERT INTO card_version (card, version, archived, body, at) VALUES (?, ?, ?, ?, ?)")
        .bind(card.id.to_string())
        .bind(card.version)
        .bind(i64::from(card.archived))
        .bind(body)
        .bind(now.to_string())
        .execute(&mut **tx)
        .await?;
    Ok(())
}

impl Store {
    /// Makes a card. The same request again gives the card as it stands now, and makes nothing.
    ///
    /// # Errors
    /// `IdTaken` when the id belongs to a card that was made from something else.
    pub async fn create_card(&self, new: &NewCard, now: Timestamp) -> Result<StoredCard> {
        let mut tx = self.begin().await?;
        let made_from = to_json(new)?;
        match find(&mut tx, new.id).await {
            Ok((card, from)) if from == made_from => return Ok(card),
            Ok(_) => return Err(StoreError::IdTaken),
            Err(StoreError::NotFound(_)) => {}
            Err(error) => return Err(error),
        }
        let tick = next_tick(&mut tx).await?;
        let card = StoredCard { id: new.id, parent: new.parent, version: 1, archived: false, card: new.card.clone() };
        let body = to_json(&card.card)?;
        sqlx::query("INSERT INTO card (id, kind, parent, version, body, made_from, changed) VALUES (?, ?, ?, 1, ?, ?, ?)")
            .bind(card.id.to_string())
            .bind(card.card.code())
            .bind(card.parent.map(|p| p.to_string()))
            .bind(&body)
            .bind(made_from)
            .bind(tick)
            .execute(&mut *tx)
            .await?;
        keep_version(&mut tx, &card, &body, now).await?;
        if let Card::System(system) = &card.card {
            rebuild_fold(&mut tx, card.id, system, tick).await?;
        }
        tx.commit().await?;
        Ok(card)
    }

    /// Edits a card, or puts it away, on top of the version that the editor saw.
    ///
    /// # Errors
    /// `Changed` with the present card when that version is not the newest; `NotFound`.
    pub async fn edit_card(&self, card: Uuid, version: i64, to: Option<&Card>, archived: Option<bool>, now: Timestamp) -> Result<StoredCard> {
        let mut tx = self.begin().await?;
        let (mut stored, _) = find(&mut tx, card).await?;
        let wanted = (to.cloned().unwrap_or_else(|| stored.card.clone()), archived.unwrap_or(stored.archived));
        if stored.version == version + 1 && (&stored.card, stored.archived) == (&wanted.0, wanted.1) {
            return Ok(stored);
        }
        if stored.version != version {
            return Err(StoreError::Changed(Box::new(stored)));
        }
        let tick = next_tick(&mut tx).await?;
        (stored.card, stored.archived) = wanted;
        stored.version += 1;
        let body = to_json(&stored.card)?;
        sqlx::query("UPDATE card SET version = ?, archived = ?, body = ?, changed = ? WHERE id = ?")
            .bind(stored.version)
            .bind(i64::from(stored.archived))
            .bind(&body)
            .bind(tick)
            .bind(card.to_string())
            .execute(&mut *tx)
            .await?;
        keep_version(&mut tx, &stored, &body, now).await?;
        if let Card::System(system) = &stored.card {
            rebuild_fold(&mut tx, stored.id, system, tick).await?;
        }
        tx.commit().await?;
        Ok(stored)
    }
}
