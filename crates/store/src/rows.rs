//! How each thing stands in its row.

use crate::{Result, StoreError};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::upcast::{self, ENTRY_VERSION};
use mopsel_core::fact::{Body, Draft, Entry, Holds, LoggedEntry, StoredCard, StoredRun, Timer, Version, WaitFor};
use mopsel_core::quantity::Note;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

/// To the text that a column keeps.
pub(crate) fn to_json<T: serde::Serialize>(value: &T) -> Result<String> {
    serde_json::to_string(value).map_err(|error| StoreError::Corrupt(error.to_string()))
}

/// From the text that a column keeps.
pub(crate) fn from_json<T: serde::de::DeserializeOwned>(text: &str) -> Result<T> {
    serde_json::from_str(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

/// An id from its column.
pub(crate) fn id(text: &str) -> Result<Uuid> {
    Uuid::parse_str(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

pub(crate) fn id_in(row: &SqliteRow, column: &str) -> Result<Uuid> {
    id(row.try_get(column)?)
}

pub(crate) fn time_in(row: &SqliteRow, column: &str) -> Result<Timestamp> {
    Timestamp::from_millisecond(row.try_get(column)?).map_err(|error| StoreError::Corrupt(error.to_string()))
}

fn holds_in(row: &SqliteRow) -> Result<Holds> {
    match row.try_get::<Option<&str>, _>("holds_from")? {
        None => Ok(Holds::Always),
        Some(day) => {
            day.parse::<Date>().map(Holds::From).map_err(|error| StoreError::Corrupt(format!("a card's day: {error}")))
        }
    }
}

/// The day from which an edit holds, as it is kept.
pub(crate) fn holds_from(holds: Holds) -> Option<String> {
    if let Holds::From(day) = holds { Some(day.to_string()) } else { None }
}

fn says(row: &SqliteRow) -> Result<Card> {
    from_json(&upcast::card(row.try_get("shape")?, row.try_get("body")?))
}

/// A card.
pub(crate) fn card(row: &SqliteRow) -> Result<StoredCard> {
    Ok(StoredCard {
        id: id_in(row, "id")?,
        parent: row.try_get::<Option<&str>, _>("parent")?.map(id).transpose()?,
        version: row.try_get("version")?,
        archived: row.try_get::<i64, _>("archived")? != 0,
        holds: holds_in(row)?,
        card: says(row)?,
    })
}

/// When a version of a card was written.
pub(crate) fn written(row: &SqliteRow) -> Result<Timestamp> {
    row.try_get::<&str, _>("at")?.parse().map_err(|_| StoreError::Corrupt("a card's time".to_owned()))
}

/// One version of a card.
pub(crate) fn version(row: &SqliteRow) -> Result<Version<Card>> {
    let archived = row.try_get::<i64, _>("archived")? != 0;
    Ok(Version { holds: holds_in(row)?, archived, made: written(row)?, says: says(row)? })
}

/// What an entry says.
pub(crate) fn body(shape: i64, text: &str) -> Result<Body> {
    from_json(&upcast::entry(shape, text))
}

/// An entry. One that says what cannot be read is there all the same: what else is known of it is shown, and the rest of
/// the log goes on without it.
pub(crate) fn entry(row: &SqliteRow) -> Result<LoggedEntry> {
    let corrupt = |error: mopsel_core::Refusal| StoreError::Corrupt(error.to_string());
    let reason = row.try_get::<Option<&str>, _>("reason")?.map(Note::new).transpose().map_err(corrupt)?;
    let shape: i64 = row.try_get("shape")?;
    let text: &str = row.try_get("body")?;
    let body = if shape > ENTRY_VERSION { Body::FromNewer } else { body(shape, text).unwrap_or(Body::Unreadable) };
    Ok(LoggedEntry {
        seq: row.try_get("seq")?,
        system: id_in(row, "system")?,
        recorded: time_in(row, "recorded")?,
        device: row.try_get("device")?,
        entry: Entry {
            id: id_in(row, "id")?,
            at: time_in(row, "at")?,
            by: id_in(row, "who")?,
            body,
            amends: row.try_get::<Option<&str>, _>("amends")?.map(id).transpose()?,
            reason,
        },
    })
}

/// A visit half done.
pub(crate) fn draft(row: &SqliteRow) -> Result<Draft> {
    let at = row.try_get::<&str, _>("at")?.parse();
    Ok(Draft {
        id: id_in(row, "id")?,
        system: id_in(row, "system")?,
        who: id_in(row, "who")?,
        version: row.try_get("version")?,
        visit: from_json(&upcast::entry(row.try_get("shape")?, row.try_get("body")?))?,
        at: at.map_err(|_| StoreError::Corrupt("a draft's time".into()))?,
        read_at: row.get::<Option<String>, _>("read_at").and_then(|at| at.parse().ok()),
    })
}

/// A change under way.
pub(crate) fn run(row: &SqliteRow) -> Result<StoredRun> {
    Ok(StoredRun {
        id: id_in(row, "id")?,
        system: id_in(row, "system")?,
        who: id_in(row, "who")?,
        version: row.try_get("version")?,
        run: from_json(row.try_get("body")?)?,
        started: time_in(row, "started")?,
        at: time_in(row, "at")?,
    })
}

/// A timer.
pub(crate) fn timer(row: &SqliteRow) -> Result<Timer> {
    let what: &str = row.try_get("what")?;
    Ok(Timer {
        id: id_in(row, "id")?,
        system: row.try_get::<Option<&str>, _>("system")?.map(id).transpose()?,
        what: from_json(&format!("\"{what}\""))?,
        label: row.try_get("label")?,
        started: time_in(row, "started")?,
        ends: time_in(row, "ends")?,
        account: row.try_get::<Option<&str>, _>("account")?.map(id).transpose()?,
    })
}

/// What is waited for, as it is kept.
pub(crate) fn wait_code(what: WaitFor) -> Result<String> {
    Ok(to_json(&what)?.trim_matches('"').to_owned())
}
