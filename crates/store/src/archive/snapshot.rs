//! Reading a file in one piece, while others go on writing.

use super::{ArchivedCard, ArchivedDelivery, ArchivedEntry, ArchivedPicture, ArchivedSensed};
use crate::{Fault, Result, Store, StoreError, facts, log, rows, sensed};
use mopsel_core::fact::Timeline;
use mopsel_core::fact::upcast::{self, CARD_VERSION, ENTRY_VERSION};
use mopsel_core::quantity::Note;
use mopsel_core::system::System;
use serde::Serialize;
use serde_json::value::RawValue;
use sqlx::sqlite::{SqliteConnection, SqliteRow};
use sqlx::{Connection, Row};
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// Readings of loggers that are read at once.
const READINGS_AT_ONCE: i64 = 5000;

/// A file as it stood at one moment, while others go on writing. It has a connection of its own, however slowly it is
/// read, so that it takes none from those who look at the round meanwhile.
pub struct Snapshot {
    connection: SqliteConnection,
    /// What cannot be read, by its table and its id: once, however often it is come across.
    unreadable: BTreeMap<(&'static str, String), Unreadable>,
}

/// A row that cannot be read, just as it is kept: whoever knows more than this program may still make something of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Unreadable {
    /// A card or an entry.
    pub what: &'static str,
    /// Its id, as far as that can be read.
    pub id: String,
    /// The system of an entry, or what a card hangs on.
    pub of: String,
    /// What it says.
    pub text: String,
    /// Why that cannot be read.
    pub why: String,
}

/// The text of a column, whatever is in it.
fn text_of(row: &SqliteRow, column: &str) -> String {
    let bytes: Vec<u8> = row.try_get_unchecked(column).unwrap_or_default();
    String::from_utf8_lossy(&bytes).into_owned()
}

impl Unreadable {
    /// A row of which nothing is left but where it was.
    fn lost(what: &'static str, id: String, why: &StoreError) -> Self {
        Self { what, id, of: String::new(), text: String::new(), why: why.to_string() }
    }

    fn of(what: &'static str, row: &SqliteRow, (id, of): (&str, &str), why: &StoreError) -> Self {
        Self { what, id: text_of(row, id), of: text_of(row, of), text: text_of(row, "body"), why: why.to_string() }
    }
}

fn raw(text: String) -> Result<Box<RawValue>> {
    RawValue::from_string(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

fn archived_card(row: &SqliteRow) -> Result<ArchivedCard> {
    let shape: i64 = row.try_get("shape")?;
    if shape <= CARD_VERSION {
        rows::version(row)?;
    }
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

fn archived_entry(row: &SqliteRow) -> Result<ArchivedEntry> {
    let shape: i64 = row.try_get("shape")?;
    if shape <= ENTRY_VERSION {
        rows::body(shape, row.try_get("body")?)?;
    }
    let reason: Option<&str> = row.try_get("reason")?;
    Ok(ArchivedEntry {
        id: rows::id(row.try_get("id")?)?,
        system: rows::id(row.try_get("system")?)?,
        at: rows::time_in(row, "at")?,
        recorded: rows::time_in(row, "recorded")?,
        by: rows::id(row.try_get("who")?)?,
        device: row.try_get("device")?,
        amends: row.try_get::<Option<&str>, _>("amends")?.map(rows::id).transpose()?,
        reason: reason.map(Note::new).transpose().map_err(|why| StoreError::Corrupt(why.code.to_string()))?,
        files: Vec::new(),
        shape: shape.max(ENTRY_VERSION),
        body: raw(upcast::entry(shape, row.try_get("body")?).into_owned())?,
    })
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
        let found = match found.fetch_all(&mut self.connection).await {
            Ok(found) => found,
            Err(error) => self.cards_one_by_one(error.into()).await?,
        };
        let mut cards = Vec::with_capacity(found.len());
        for row in &found {
            match archived_card(row) {
                Ok(card) => cards.push(card),
                Err(why) => self.set_apart(Unreadable::of("card", row, ("card", "parent"), &why)),
            }
        }
        Ok(cards)
    }

    /// The versions of cards that can be read in a file that is damaged.
    async fn cards_one_by_one(&mut self, error: StoreError) -> Result<Vec<SqliteRow>> {
        if !error.is_damage() {
            return Err(error);
        }
        let mut found = Vec::new();
        for kind in ["place", "product", "recipe", "person", "meter", "system", "planting"] {
            let ids = sqlx::query_scalar("SELECT id FROM card WHERE kind = ? ORDER BY id").bind(kind);
            let ids: Vec<String> = ids.fetch_all(&mut self.connection).await.unwrap_or_default();
            for id in ids {
                let versions = sqlx::query(
                    "SELECT v.card, c.parent, v.version, v.archived, v.holds_from, v.at, v.shape, v.body
                     FROM card_version v JOIN card c ON c.id = v.card WHERE v.card = ? ORDER BY v.version",
                );
                match versions.bind(&id).fetch_all(&mut self.connection).await {
                    Ok(versions) => found.extend(versions),
                    Err(why) => self.set_apart(Unreadable::lost("card", id, &why.into())),
                }
            }
        }
        Ok(found)
    }

    /// The entries of a stretch of the log that can be read in a file that is damaged.
    async fn entries_one_by_one(&mut self, error: StoreError, after: i64, most: u32) -> Result<(i64, Vec<SqliteRow>)> {
        if !error.is_damage() {
            return Err(error);
        }
        let last: i64 = sqlx::query_scalar("SELECT max(seq) FROM entry").fetch_one(&mut self.connection).await?;
        let upto = last.min(after + i64::from(most));
        let mut found = Vec::new();
        for seq in after + 1..=upto {
            let row = sqlx::query(log::select_entries!("WHERE seq = ?")).bind(seq).fetch_optional(&mut self.connection);
            match row.await {
                Ok(row) => found.extend(row),
                Err(why) => self.set_apart(Unreadable::lost("entry", seq.to_string(), &why.into())),
            }
        }
        Ok((upto, found))
    }

    fn set_apart(&mut self, found: Unreadable) {
        self.unreadable.entry((found.what, found.id.clone())).or_insert(found);
    }

    /// What was come across so far and cannot be read.
    pub fn unreadable(&self) -> impl Iterator<Item = &Unreadable> {
        self.unreadable.values()
    }

    /// Some entries after a place in the log, in the order of recording, and the place of the last of them; `None` where
    /// there are no more. What cannot be read is set apart; what amended such a one stands by itself.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn entries(&mut self, after: i64, most: u32) -> Result<Option<(i64, Vec<ArchivedEntry>)>> {
        let found = sqlx::query(log::select_entries!("WHERE seq > ? ORDER BY seq LIMIT ?")).bind(after).bind(most);
        let (last, found) = match found.fetch_all(&mut self.connection).await {
            Ok(found) => {
                let Some(last) = found.last() else { return Ok(None) };
                (last.try_get("seq")?, found)
            }
            Err(error) => self.entries_one_by_one(error.into(), after, most).await?,
        };
        if last == after {
            return Ok(None);
        }
        let mut entries = Vec::with_capacity(found.len());
        for row in &found {
            match archived_entry(row) {
                Ok(entry) => entries.push(entry),
                Err(why) => self.set_apart(Unreadable::of("entry", row, ("id", "system"), &why)),
            }
        }
        if !self.unreadable.is_empty() {
            self.let_stand(&mut entries);
        }
        let files: Vec<(String, String)> = sqlx::query_as(
            "SELECT brought.entry, delivery.id FROM delivery_entry brought JOIN delivery ON delivery.no = brought.delivery
             WHERE brought.entry IN (SELECT id FROM entry WHERE seq > ? ORDER BY seq LIMIT ?) ORDER BY delivery.no",
        )
        .bind(after)
        .bind(most)
        .fetch_all(&mut self.connection)
        .await
        .or_else(|error| if Fault::of(&error) == Fault::Damaged { Ok(Vec::new()) } else { Err(error) })?;
        let mut by_entry: HashMap<Uuid, Vec<Uuid>> = HashMap::new();
        for (entry, delivery) in &files {
            by_entry.entry(rows::id(entry)?).or_default().push(rows::id(delivery)?);
        }
        for entry in &mut entries {
            entry.files = by_entry.remove(&entry.id).unwrap_or_default();
        }
        Ok(Some((last, entries)))
    }

    /// What replaced an entry that cannot be read stands by itself; what only took one away goes with it.
    fn let_stand(&self, entries: &mut Vec<ArchivedEntry>) {
        let lost = |entry: &ArchivedEntry| {
            entry.amends.is_some_and(|amends| self.unreadable.contains_key(&("entry", amends.to_string())))
        };
        entries.retain(|entry| !(lost(entry) && entry.body.get().contains("\"withdrawn\"")));
        for entry in entries.iter_mut().filter(|entry| lost(entry)) {
            (entry.amends, entry.reason) = (None, None);
        }
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
        Ok(Snapshot { connection, unreadable: BTreeMap::new() })
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
