//! Who wants to be told what by mail, and what they were told already.

use crate::{Result, Store, StoreError, rows};
use jiff::{SignedDuration, Timestamp};
use mopsel_core::remind::ReminderWish;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use std::collections::BTreeSet;
use uuid::Uuid;

/// What somebody wants to be told.
#[derive(Debug, Clone, PartialEq)]
pub struct Reminder {
    /// An account, or a person where nobody signs in.
    pub whose: Uuid,
    /// What, and when.
    pub wish: ReminderWish,
    /// Whether somebody at the address said yes.
    pub confirmed: bool,
    /// When a letter that asks for that was last sent.
    pub asked: Timestamp,
}

/// What was told so long ago is forgotten: it is asked for no more.
const KEPT: SignedDuration = SignedDuration::from_hours(24 * 90);
/// A letter that asks is good for so long.
const ASKED: SignedDuration = SignedDuration::from_hours(24 * 7);

fn reminder(row: &SqliteRow) -> Result<Reminder> {
    Ok(Reminder {
        whose: rows::id_in(row, "whose")?,
        wish: rows::from_json(row.try_get("wish")?)?,
        confirmed: row.try_get("confirmed")?,
        asked: rows::time_in(row, "asked")?,
    })
}

impl Store {
    /// What everybody wants to be told.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn reminders(&self) -> Result<Vec<Reminder>> {
        let query = sqlx::query("SELECT whose, wish, confirmed, asked FROM reminder ORDER BY whose");
        query.fetch_all(&self.read).await?.iter().map(reminder).collect()
    }

    /// What one wants to be told.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn reminder(&self, whose: Uuid) -> Result<Option<Reminder>> {
        let query = sqlx::query("SELECT whose, wish, confirmed, asked FROM reminder WHERE whose = ?");
        query.bind(whose.to_string()).fetch_optional(&self.read).await?.as_ref().map(reminder).transpose()
    }

    /// Keeps a wish. With `confirm`, the hash of what a letter says, it waits until that was opened.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn wish_reminder(&self, new: &Reminder, confirm: Option<&str>) -> Result<()> {
        let wish = rows::to_json(&new.wish)?;
        self.writing(async |tx| {
            sqlx::query(
                "INSERT OR REPLACE INTO reminder (whose, wish, confirm, confirmed, asked) VALUES (?, ?, ?, ?, ?)",
            )
            .bind(new.whose.to_string())
            .bind(&wish)
            .bind(confirm)
            .bind(new.confirmed)
            .bind(new.asked.as_millisecond())
            .execute(&mut **tx)
            .await?;
            Ok(())
        })
        .await
    }

    /// Ends somebody's reminders.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn end_reminder(&self, whose: Uuid) -> Result<()> {
        self.writing(async |tx| {
            sqlx::query("DELETE FROM reminder WHERE whose = ?").bind(whose.to_string()).execute(&mut **tx).await?;
            Ok(())
        })
        .await
    }

    /// Says yes for the address to which a letter went, by the hash of what it says.
    ///
    /// # Errors
    /// Not found for what no letter of the last days says; when the file cannot be written.
    pub async fn confirm_reminder(&self, confirm: &str, now: Timestamp) -> Result<()> {
        self.writing(async |tx| {
            let since = now.saturating_sub(ASKED).unwrap_or(now);
            // Opened twice it is the same yes.
            let done = sqlx::query("UPDATE reminder SET confirmed = 1 WHERE confirm = ? AND asked >= ?")
                .bind(confirm)
                .bind(since.as_millisecond())
                .execute(&mut **tx)
                .await?;
            if done.rows_affected() == 0 { Err(StoreError::NotFound("letter")) } else { Ok(()) }
        })
        .await
    }

    /// What somebody was told already.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn told(&self, whose: Uuid) -> Result<BTreeSet<String>> {
        let query = sqlx::query_scalar("SELECT what FROM reminded WHERE whose = ?").bind(whose.to_string());
        Ok(query.fetch_all(&self.read).await?.into_iter().collect())
    }

    /// Notes what is being told, before it is sent; `false` where another process was faster with any of it, and nothing
    /// is noted.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn tell_once(&self, whose: Uuid, what: &[String], now: Timestamp) -> Result<bool> {
        self.writing(async |tx| {
            let old = now.saturating_sub(KEPT).unwrap_or(now).as_millisecond();
            sqlx::query("DELETE FROM reminded WHERE at < ?").bind(old).execute(&mut **tx).await?;
            for one in what {
                let there = "SELECT count(*) FROM reminded WHERE whose = ? AND what = ?";
                let there: i64 =
                    sqlx::query_scalar(there).bind(whose.to_string()).bind(one).fetch_one(&mut **tx).await?;
                if there > 0 {
                    return Ok(false);
                }
            }
            for one in what {
                sqlx::query("INSERT INTO reminded (whose, what, at) VALUES (?, ?, ?)")
                    .bind(whose.to_string())
                    .bind(one)
                    .bind(now.as_millisecond())
                    .execute(&mut **tx)
                    .await?;
            }
            Ok(true)
        })
        .await
    }

    /// Takes the note back: it could not be sent and is tried again, or it is over and is told anew when it comes again.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn not_told(&self, whose: Uuid, what: &[String]) -> Result<()> {
        self.writing(async |tx| {
            for one in what {
                let query = sqlx::query("DELETE FROM reminded WHERE whose = ? AND what = ?");
                query.bind(whose.to_string()).bind(one).execute(&mut **tx).await?;
            }
            Ok(())
        })
        .await
    }
}
