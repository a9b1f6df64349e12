//! Classes that are open: a room, a short code, an hour at which it ends, and the devices that joined.

use crate::{Result, Store, StoreError, Tx, rows};
use jiff::Timestamp;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

/// A class that is open.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Class {
    /// Its id.
    pub id: Uuid,
    /// The room.
    pub place: Uuid,
    /// Since when.
    pub opened: Timestamp,
    /// Until when.
    pub ends: Timestamp,
    /// How many devices joined.
    pub devices: u32,
}

const CLASS: &str = "SELECT id, place, opened, ends,
    (SELECT count(*) FROM class_device WHERE class = class.id) AS devices FROM class";

fn class(row: &SqliteRow) -> Result<Class> {
    Ok(Class {
        id: rows::id(row.try_get("id")?)?,
        place: rows::id(row.try_get("place")?)?,
        opened: rows::time_in(row, "opened")?,
        ends: rows::time_in(row, "ends")?,
        devices: row.try_get("devices")?,
    })
}

/// Whether a class is still open.
pub(crate) async fn is_open(tx: &mut Tx<'_>, id: Uuid, now: Timestamp) -> Result<bool> {
    let query = sqlx::query_scalar("SELECT count(*) FROM class WHERE id = ? AND ends > ?");
    let open: i64 = query.bind(id.to_string()).bind(now.as_millisecond()).fetch_one(&mut **tx).await?;
    Ok(open > 0)
}

async fn put(tx: &mut Tx<'_>, new: &Class, code: &str) -> Result<()> {
    // One class in a room at a time: the code before is good no more. What has ended is forgotten.
    sqlx::query("DELETE FROM class WHERE place = ? OR ends <= ?")
        .bind(new.place.to_string())
        .bind(new.opened.as_millisecond())
        .execute(&mut **tx)
        .await?;
    sqlx::query("INSERT INTO class (id, place, code, opened, ends) VALUES (?, ?, ?, ?, ?)")
        .bind(new.id.to_string())
        .bind(new.place.to_string())
        .bind(code)
        .bind(new.opened.as_millisecond())
        .bind(new.ends.as_millisecond())
        .execute(&mut **tx)
        .await?;
    Ok(())
}

impl Store {
    /// Opens a class; another one that is open in that room ends. `code` is the hash of what is told.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn open_class(&self, new: &Class, code: &str) -> Result<()> {
        self.writing(async |tx| put(tx, new, code).await).await
    }

    /// The classes that are open.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn classes(&self, now: Timestamp) -> Result<Vec<Class>> {
        let query = sqlx::query(sqlx::AssertSqlSafe(format!("{CLASS} WHERE ends > ? ORDER BY opened")));
        query.bind(now.as_millisecond()).fetch_all(&self.read).await?.iter().map(class).collect()
    }

    /// Ends a class, and with it what its devices may do.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn end_class(&self, id: Uuid) -> Result<()> {
        self.writing(async |tx| {
            sqlx::query("DELETE FROM class WHERE id = ?").bind(id.to_string()).execute(&mut **tx).await?;
            Ok(())
        })
        .await
    }

    /// Lets a device join the class of a code, by its hash; `token` is the hash of what its cookie says.
    ///
    /// # Errors
    /// Not found for a code of no open class, or a class with as many devices as it takes; when the file cannot be
    /// written.
    pub async fn join_class(&self, code: &str, token: &str, device: &str, now: Timestamp, most: u32) -> Result<Class> {
        self.writing(async |tx| {
            let query = sqlx::query(sqlx::AssertSqlSafe(format!("{CLASS} WHERE code = ? AND ends > ?")));
            let row = query.bind(code).bind(now.as_millisecond()).fetch_optional(&mut **tx).await?;
            let open = row.as_ref().map(class).transpose()?.filter(|open| open.devices < most);
            let open = open.ok_or(StoreError::NotFound("class"))?;
            sqlx::query("INSERT INTO class_device (token, class, device, joined) VALUES (?, ?, ?, ?)")
                .bind(token)
                .bind(open.id.to_string())
                .bind(device)
                .bind(now.as_millisecond())
                .execute(&mut **tx)
                .await?;
            Ok(open)
        })
        .await
    }

    /// The class that a device is of, by the hash of its cookie, while it is open.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn class_of(&self, token: &str, now: Timestamp) -> Result<Option<Class>> {
        let query = sqlx::query(sqlx::AssertSqlSafe(format!(
            "{CLASS} WHERE ends > ? AND id = (SELECT class FROM class_device WHERE token = ?)"
        )));
        let row = query.bind(now.as_millisecond()).bind(token).fetch_optional(&self.read).await?;
        row.as_ref().map(class).transpose()
    }

    /// Lets a device leave its class.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn leave_class(&self, token: &str) -> Result<()> {
        self.writing(async |tx| {
            sqlx::query("DELETE FROM class_device WHERE token = ?").bind(token).execute(&mut **tx).await?;
            Ok(())
        })
        .await
    }
}
