//! Reading a file in one piece, while others go on writing.

use super::{ArchivedCard, ArchivedDelivery, ArchivedEntry, ArchivedPicture, ArchivedSensed};
use crate::{Result, Store, StoreError, facts, log, rows, sensed};
use mopsel_core::fact::Timeline;
use mopsel_core::fact::upcast::{self, CARD_VERSION, ENTRY_VERSION};
use mopsel_core::quantity::Note;
use mopsel_core::system::System;
use serde_json::value::RawValue;
use sqlx::sqlite::{SqliteConnection, SqliteRow};
use sqlx::{Connection, Row};
use std::collections::HashMap;
use uuid::Uuid;

/// Readings of loggers that are read at once.
const READINGS_AT_ONCE: i64 = 5000;

/// A file as it stood at one moment, while others go on writing. It has a connection of its own, however slowly it is
/// read, so that it takes none from those who look at the round meanwhile.
pub struct Snapshot {
    connection: SqliteConnection,
}

fn raw(text: String) -> Result<Box<RawValue>> {
    RawValue::from_string(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

fn archived_card(row: &SqliteRow) -> Result<ArchivedCard> {
    let shape: i64 = row.try_get("shape")?;
    let holds: Option<&str> = row.try_get("holds_from")?;
    Ok(ArchivedCard {
        id: rows::id(row.try_get("card")?)?,
        parent: row.try_get::<Option<&str>, _>("parent")?.map(rows::id).transpose()?,
        version: row.try_get("version")?,
        archived: row.try_get::<i64, _>("archived")? != 0,
        holds_from: holds.map(str::parse).transpose().map_err(|_| StoreError::Corrupt("a card's day".into()))?,
        at: rows::written(row)?,
        shape: shape.max(CARD_VERSION),
        card: raw(upcast::card(shape, row.try_get("body")?).into_owned())?,
    })
}

fn archived_entry(row: &SqliteRow) -> Result<(i64, ArchivedEntry)> {
    let shape: i64 = row.try_get("shape")?;
    let reason: Option<&str> = row.try_get("reason")?;
    let entry = ArchivedEntry {
        id: rows::id(row.try_get("id")?)?,
        system: rows::id(row.try_get("system")?)?,
        at: rows::time_in(row, "at")?,
        recorded: rows::time_in(row, "recorded")?,
        by: rows::id(row.try_get("who")?)?,
        device: row.try_get("device")?,
        amends: row.try_get::<Option<&str>, _>("amends")?.map(rows::id).transpose()?,
        reason: reason.map(Note::new).transpose().map_err(|why| StoreError::Corrupt(why.code.to_string()))?,
        shape: shape.max(ENTRY_VERSION),
        body: raw(upcast::entry(shape, row.try_get("body")?).into_owned())?,
    };
    Ok((row.try_get("seq")?, entry))
}

impl Snapshot {
    /// How many versions of cards, entries and pictures there are.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn counts(&mut self) -> Result<(i64, i64, i64)> {
        let query =
            "SELECT (SELECT count(*) FROM card_version), (SELECT count(*) FROM entry), (SELECT count(*) FROM picture)";
        Ok(sqlx::query_as(query).fetch_one(&mut self.connection).await?)
    }

    /// Every version of every card, what others hang on first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn cards(&mut self) -> Result<Vec<ArchivedCard>> {
        let found = sqlx::query(
            "SELECT v.card, c.parent, v.version, v.archived, v.holds_from, v.at, v.shape, v.body
             FROM card_version v JOIN card c ON c.id = v.card
             ORDER BY CASE c.kind WHEN 'place' THEN 0 WHEN 'product' THEN 1 WHEN 'recipe' THEN 2 WHEN 'person' THEN 3
                 WHEN 'meter' THEN 4 WHEN 'system' THEN 5 ELSE 6 END, v.card, v.version",
        );
        found.fetch_all(&mut self.connection).await?.iter().map(archived_card).collect()
    }

    /// Some entries after a place in the log, in the order of recording, each with its place.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn entries(&mut self, after: i64, most: u32) -> Result<Vec<(i64, ArchivedEntry)>> {
        let found = sqlx::query(log::select_entries!("WHERE seq > ? ORDER BY seq LIMIT ?")).bind(after).bind(most);
        found.fetch_all(&mut self.connection).await?.iter().map(archived_entry).collect()
    }

    /// Every delivery of a logger's readings, in the order in which they came.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn deliveries(&mut self) -> Result<Vec<ArchivedDelivery>> {
        let found = sqlx::query("SELECT * FROM delivery ORDER BY no").fetch_all(&mut self.connection).await?;
        found.iter().map(sensed::archived).collect()
    }

    /// Hands on every reading of every logger, by system and in order of time, some at a time, until `each` has enough.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn sensed<E>(
        &mut self,
        mut each: impl AsyncFnMut(&[ArchivedSensed]) -> std::result::Result<(), E>,
    ) -> Result<std::result::Result<(), E>> {
        let named = |all: Vec<(i64, String)>| -> Result<HashMap<i64, Uuid>> {
            all.into_iter().map(|(no, id)| Ok((no, rows::id(&id)?))).collect()
        };
        let systems = "SELECT no, system FROM sensed_system";
        let systems = named(sqlx::query_as(systems).fetch_all(&mut self.connection).await?)?;
        let deliveries = "SELECT no, id FROM delivery";
        let deliveries = named(sqlx::query_as(deliveries).fetch_all(&mut self.connection).await?)?;
        let mut after = (i64::MIN, i64::MIN, i64::MIN);
        loop {
            let found = sqlx::query(
                "SELECT * FROM sensed WHERE (system, at, delivery) > (?, ?, ?) ORDER BY system, at, delivery LIMIT ?",
            );
            let found = found.bind(after.0).bind(after.1).bind(after.2).bind(READINGS_AT_ONCE);
            let found = found.fetch_all(&mut self.connection).await?;
            let Some(last) = found.last() else { return Ok(Ok(())) };
            after = (last.try_get("system")?, last.try_get("at")?, last.try_get("delivery")?);
            let missing = || StoreError::Corrupt("a reading of nothing".to_owned());
            let one = |row: &SqliteRow| {
                let system = *systems.get(&row.try_get("system")?).ok_or_else(missing)?;
                let delivery = *deliveries.get(&row.try_get("delivery")?).ok_or_else(missing)?;
                Ok(ArchivedSensed { system, delivery, read: sensed::sensed(row)? })
            };
            let some: Vec<ArchivedSensed> = found.iter().map(one).collect::<Result<_>>()?;
            if let Err(enough) = each(&some).await {
                return Ok(Err(enough));
            }
        }
    }

    /// The next picture after an id, by id, with its bytes.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn picture(&mut self, after: &str) -> Result<Option<ArchivedPicture>> {
        let query = sqlx::query("SELECT * FROM picture WHERE id > ? ORDER BY id LIMIT 1").bind(after.to_owned());
        let Some(row) = query.fetch_optional(&mut self.connection).await? else { return Ok(None) };
        let ports: Option<&str> = row.try_get("ports")?;
        let note: Option<&str> = row.try_get("note")?;
        Ok(Some(ArchivedPicture {
            id: rows::id(row.try_get("id")?)?,
            system: rows::id(row.try_get("system")?)?,
            at: rows::time_in(&row, "at")?,
            recorded: rows::time_in(&row, "recorded")?,
            by: rows::id(row.try_get("who")?)?,
            ports: ports.map(rows::from_json).transpose()?,
            note: note.map(Note::new).transpose().map_err(|why| StoreError::Corrupt(why.code.to_string()))?,
            width: row.try_get("width")?,
            height: row.try_get("height")?,
            image: row.try_get("image")?,
            small: row.try_get("small")?,
        }))
    }
}

impl Store {
    /// The file as it stands now, to be read in pieces while others go on writing.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn snapshot(&self) -> Result<Snapshot> {
        let mut connection = SqliteConnection::connect_with(&self.read.connect_options()).await?;
        // A transaction begins with its first look, and ends with the connection.
        for begin in ["BEGIN", "SELECT count(*) FROM tick"] {
            sqlx::query(begin).execute(&mut connection).await?;
        }
        Ok(Snapshot { connection })
    }

    /// A system by when it was how.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn history(&self, system: Uuid) -> Result<Timeline<System>> {
        let mut tx = self.read.begin().await?;
        facts::history_of(&mut tx, system).await?.ok_or(StoreError::NotFound("system"))
    }
}
