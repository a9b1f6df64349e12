//! Pictures: kept, listed, given out, erased.

use crate::{Result, Store, StoreError, Tx, rows};
use jiff::Timestamp;
use mopsel_core::fact::{NewPicture, Picture};
use mopsel_core::gate::PictureFacts;
use mopsel_core::quantity::Note;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

const WITHOUT_BYTES: &str = "SELECT id, system, at, who, ports, note, width, height, bytes FROM picture";

fn picture(row: &SqliteRow) -> Result<Picture> {
    let corrupt = |what: String| StoreError::Corrupt(what);
    let id = |column: &str| rows::id(row.try_get(column)?);
    let ports: Option<&str> = row.try_get("ports")?;
    let note: Option<&str> = row.try_get("note")?;
    let at = Timestamp::from_millisecond(row.try_get("at")?).map_err(|error| corrupt(error.to_string()))?;
    Ok(Picture {
        id: id("id")?,
        system: id("system")?,
        at,
        by: id("who")?,
        ports: ports.map(rows::from_json).transpose()?,
        note: note.map(|note| Note::new(note).map_err(|refusal| corrupt(refusal.code.to_string()))).transpose()?,
        width: row.try_get("width")?,
        height: row.try_get("height")?,
        bytes: row.try_get("bytes")?,
    })
}

/// What a picture's command rests on.
pub(crate) async fn facts(tx: &mut Tx<'_>, system: Uuid, id: Uuid) -> Result<PictureFacts> {
    let there = sqlx::query(sqlx::AssertSqlSafe(format!("{WITHOUT_BYTES} WHERE id = ?")))
        .bind(id.to_string())
        .fetch_optional(&mut **tx)
        .await?;
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM picture WHERE system = ?")
        .bind(system.to_string())
        .fetch_one(&mut **tx)
        .await?;
    let there = there.as_ref().map(picture).transpose()?;
    Ok(PictureFacts { there, kept: u32::try_from(kept).unwrap_or(u32::MAX) })
}

pub(crate) async fn keep(tx: &mut Tx<'_>, kept: &Picture, new: &NewPicture, now: Timestamp) -> Result<()> {
    sqlx::query(
        "INSERT INTO picture (id, system, at, recorded, who, ports, note, width, height, bytes, small, image)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(kept.id.to_string())
    .bind(kept.system.to_string())
    .bind(kept.at.as_millisecond())
    .bind(now.as_millisecond())
    .bind(kept.by.to_string())
    .bind(kept.ports.as_ref().map(rows::to_json).transpose()?)
    .bind(kept.note.as_ref().map(Note::as_str))
    .bind(kept.width)
    .bind(kept.height)
    .bind(kept.bytes)
    .bind(&new.small)
    .bind(&new.image)
    .execute(&mut **tx)
    .await?;
    Ok(())
}

pub(crate) async fn erase(tx: &mut Tx<'_>, id: Uuid) -> Result<()> {
    sqlx::query("DELETE FROM picture WHERE id = ?").bind(id.to_string()).execute(&mut **tx).await?;
    Ok(())
}

impl Store {
    /// The pictures of a system without their bytes, the newest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn pictures(&self, system: Uuid) -> Result<Vec<Picture>> {
        let query = sqlx::query(sqlx::AssertSqlSafe(format!("{WITHOUT_BYTES} WHERE system = ? ORDER BY at DESC, id")));
        query.bind(system.to_string()).fetch_all(&self.read).await?.iter().map(picture).collect()
    }

    /// A picture's bytes, whole or small; `None` where there is no such picture.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn picture_bytes(&self, id: Uuid, small: bool) -> Result<Option<(Uuid, Vec<u8>)>> {
        let wanted = if small {
            "SELECT system, small AS bytes FROM picture WHERE id = ?"
        } else {
            "SELECT system, image AS bytes FROM picture WHERE id = ?"
        };
        let row = sqlx::query(wanted).bind(id.to_string()).fetch_optional(&self.read).await?;
        row.map(|row| Ok((rows::id(row.try_get("system")?)?, row.try_get("bytes")?))).transpose()
    }
}
