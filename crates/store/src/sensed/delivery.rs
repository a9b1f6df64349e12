//! Deliveries: a file or a post that brought readings, and that is taken back whole.

use super::{SensedLine, Taking, condense_all};
use crate::archive::ArchivedDelivery;
use crate::log::select_entries;
use crate::{
    LongTask, Result, Store, StoreError, Tx, Underway, accounts, facts, next_tick, projections, rows, search, write,
};
use jiff::{SignedDuration, Timestamp};
use mopsel_core::fact::{Actor, Body, Entry, LoggedEntry};
use mopsel_core::quantity::Note;
use mopsel_core::refuse;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use std::collections::BTreeSet;
use uuid::Uuid;

/// Lines that are taken in at once.
const AT_ONCE: usize = 2000;

/// What brings readings.
#[derive(Debug, Clone, PartialEq)]
pub struct NewDelivery {
    /// Made by whoever sends it, so that a repeated request is the same delivery.
    pub id: Uuid,
    /// The file, or the logger.
    pub source: Note,
}

/// A delivery as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Delivery {
    /// Its id.
    pub id: Uuid,
    /// Who brought it.
    pub who: Uuid,
    /// The file, or the logger.
    pub source: String,
    /// When it was brought.
    pub recorded: Timestamp,
    /// How many readings or visits were new.
    pub readings: u64,
    /// How many of them another had brought before.
    pub there: u64,
    /// When and why it was taken back.
    pub taken_back: Option<(Timestamp, String)>,
}

/// What came of a delivery.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Delivered {
    /// Readings that are new.
    pub new: u64,
    /// Readings that were there already, and the same.
    pub there: u64,
    /// Whether the same delivery had come before.
    pub again: bool,
}

/// A line that says another value for a moment than is there: which line, and in which field.
pub type Differs = (u64, &'static str);

fn delivery(row: &SqliteRow) -> Result<Delivery> {
    let taken: Option<i64> = row.try_get("taken_back")?;
    let reason: Option<String> = row.try_get("reason")?;
    let at = |ms| Timestamp::from_millisecond(ms).map_err(|error| StoreError::Corrupt(error.to_string()));
    Ok(Delivery {
        id: rows::id(row.try_get("id")?)?,
        who: rows::id(row.try_get("who")?)?,
        source: row.try_get("source")?,
        recorded: rows::time_in(row, "recorded")?,
        readings: u64::try_from(row.try_get::<i64, _>("readings")?).unwrap_or(0),
        there: u64::try_from(row.try_get::<i64, _>("there")?).unwrap_or(0),
        taken_back: taken.map(|ms| Ok::<_, StoreError>((at(ms)?, reason.unwrap_or_default()))).transpose()?,
    })
}

/// A delivery as an archive has it.
pub(crate) fn archived(row: &SqliteRow) -> Result<ArchivedDelivery> {
    let Delivery { id, who, source, recorded, readings, there, taken_back } = delivery(row)?;
    let (taken_back, reason) = taken_back.unzip();
    let taken_back_by = row.try_get::<Option<&str>, _>("taken_back_by")?.map(rows::id).transpose()?;
    Ok(ArchivedDelivery { id, by: who, source, recorded, readings, there, taken_back, taken_back_by, reason })
}

/// Keeps that a delivery brought a visit, be it new or not.
pub(crate) async fn brought(tx: &mut Tx<'_>, number: i64, entry: Uuid) -> Result<()> {
    let query = sqlx::query("INSERT INTO delivery_entry (entry, delivery) VALUES (?, ?) ON CONFLICT DO NOTHING");
    query.bind(entry.to_string()).bind(number).execute(&mut **tx).await?;
    Ok(())
}

/// Brings an archived delivery; gives its number, and whether it is new. `None` where another is there by its id.
pub(crate) async fn bring(tx: &mut Tx<'_>, brings: &ArchivedDelivery) -> Result<Option<(i64, bool)>> {
    let there = sqlx::query("SELECT * FROM delivery WHERE id = ?").bind(brings.id.to_string());
    if let Some(row) = there.fetch_optional(&mut **tx).await? {
        let number = row.try_get("no")?;
        let there = archived(&row)?;
        // An archive of an earlier release does not say what was there already.
        let same = there == *brings || there.without_whose() == *brings;
        return Ok(same.then_some((number, false)));
    }
    let number: i64 = sqlx::query_scalar(
        "INSERT INTO delivery (id, who, source, recorded, readings, there, taken_back, taken_back_by, reason)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING no",
    )
    .bind(brings.id.to_string())
    .bind(brings.by.to_string())
    .bind(&brings.source)
    .bind(brings.recorded.as_millisecond())
    .bind(i64::try_from(brings.readings).unwrap_or(i64::MAX))
    .bind(i64::try_from(brings.there).unwrap_or(i64::MAX))
    .bind(brings.taken_back.map(Timestamp::as_millisecond))
    .bind(brings.taken_back_by.map(|by| by.to_string()))
    .bind(&brings.reason)
    .fetch_one(&mut **tx)
    .await?;
    // An archive of an earlier release knows the visits of a file by its name and the moment.
    sqlx::query(
        "INSERT INTO delivery_entry (entry, delivery)
         SELECT entry.id, delivery.no FROM delivery
         JOIN entry ON entry.recorded = delivery.recorded AND entry.device = delivery.source
         WHERE delivery.no = ? AND delivery.taken_back IS NULL",
    )
    .bind(number)
    .execute(&mut **tx)
    .await?;
    Ok(Some((number, true)))
}

/// Now, or just after the last delivery of the same name where a clock stood still or was set back.
pub(crate) async fn after_any(tx: &mut Tx<'_>, new: &NewDelivery, now: Timestamp) -> Result<Timestamp> {
    let last: Option<i64> = sqlx::query_scalar("SELECT max(recorded) FROM delivery WHERE source = ?")
        .bind(new.source.as_str())
        .fetch_one(&mut **tx)
        .await?;
    let last = last.and_then(|last| Timestamp::from_millisecond(last).ok());
    Ok(last.map_or(now, |last| now.max(last + SignedDuration::from_millis(1))))
}

/// Begins a delivery: gives its number, or what came of it where it had come before.
pub(crate) async fn begin(
    tx: &mut Tx<'_>,
    new: &NewDelivery,
    actor: &Actor,
    now: Timestamp,
) -> Result<std::result::Result<i64, Delivered>> {
    let there = sqlx::query("SELECT * FROM delivery WHERE id = ?").bind(new.id.to_string());
    if let Some(row) = there.fetch_optional(&mut **tx).await? {
        let there = delivery(&row)?;
        return match there.taken_back {
            Some(_) => Err(StoreError::Refused(refuse!("delivery_taken_back").at("id"))),
            None => Ok(Err(Delivered { new: there.readings, there: there.there, again: true })),
        };
    }
    let who = whoever(tx, actor).await?;
    let query = sqlx::query_scalar(
        "INSERT INTO delivery (id, who, source, recorded, readings) VALUES (?, ?, ?, ?, 0) RETURNING no",
    );
    let query = query.bind(new.id.to_string()).bind(who.to_string()).bind(new.source.as_str());
    Ok(Ok(query.bind(now.as_millisecond()).fetch_one(&mut **tx).await?))
}

/// Ends a delivery; one that brought nothing is none.
pub(crate) async fn end(tx: &mut Tx<'_>, number: i64, came: Delivered, now: Timestamp) -> Result<()> {
    if came.new + came.there == 0 {
        sqlx::query("DELETE FROM delivery WHERE no = ?").bind(number).execute(&mut **tx).await?;
    } else {
        let query = sqlx::query("UPDATE delivery SET readings = ?, there = ? WHERE no = ?");
        let [new, there] = [came.new, came.there].map(|many| i64::try_from(many).unwrap_or(i64::MAX));
        query.bind(new).bind(there).bind(number).execute(&mut **tx).await?;
    }
    let query = sqlx::query("UPDATE file_facts SET last_written = max(last_written, ?)");
    query.bind(now.as_millisecond()).execute(&mut **tx).await?;
    Ok(())
}

/// Who acts: somebody who is there, and was not put away.
async fn whoever(tx: &mut Tx<'_>, actor: &Actor) -> Result<Uuid> {
    let person = facts::person(tx, actor).await?.filter(|person| !person.archived);
    actor.person.filter(|_| person.is_some()).ok_or(StoreError::NotFound("person"))
}

/// Takes out the readings of a delivery; gives the systems.
async fn take_out(tx: &mut Tx<'_>, number: i64) -> Result<Vec<Uuid>> {
    let systems: Vec<String> = sqlx::query_scalar(
        "SELECT system FROM sensed_system WHERE no IN (SELECT DISTINCT system FROM sensed WHERE delivery = ?)",
    )
    .bind(number)
    .fetch_all(&mut **tx)
    .await?;
    sqlx::query("DELETE FROM sensed WHERE delivery = ?").bind(number).execute(&mut **tx).await?;
    systems.iter().map(|system| rows::id(system)).collect()
}

/// Withdraws the visits of a file that people wrote, but for those that were amended since and those that another file
/// brought as well; gives the systems.
async fn withdraw(tx: &mut Tx<'_>, number: i64, reason: &Note, who: Uuid, now: Timestamp) -> Result<Vec<Uuid>> {
    let found = sqlx::query(select_entries!(
        "WHERE id IN (SELECT entry FROM delivery_entry WHERE delivery = ?1)
         AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)
         AND NOT EXISTS (SELECT 1 FROM delivery_entry other JOIN delivery ON delivery.no = other.delivery
                         WHERE other.entry = entry.id AND other.delivery <> ?1 AND delivery.taken_back IS NULL)"
    ))
    .bind(number)
    .fetch_all(&mut **tx)
    .await?;
    let mut systems = Vec::new();
    for row in &found {
        let LoggedEntry { system, entry, .. } = rows::entry(row)?;
        let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
        let id = Uuid::new_v5(&entry.id, b"taken back");
        let (at, amends, reason) = (entry.at, Some(entry.id), Some(reason.clone()));
        let gone = Entry { id, at, by: who, body: Body::Withdrawn {}, amends, reason };
        let logged = write::insert_entry(tx, system, &gone, None, now).await?;
        search::take_in(tx, &logged, &history).await?;
        systems.push(system);
    }
    Ok(systems)
}

impl Store {
    /// Takes in what `next` gives until it gives nothing more; all of it or nothing. A reading that is there, and the same, is
    /// passed over; lines that say something else than is there are given back, and then nothing is kept.
    ///
    /// # Errors
    /// What `next` says; `NotFound`; `IdTaken` for a delivery that was taken back; when the file cannot be written.
    pub async fn deliver(
        &self,
        new: &NewDelivery,
        actor: &Actor,
        now: Timestamp,
        next: &mut (dyn FnMut() -> Result<Option<Vec<SensedLine>>> + Send),
    ) -> Result<std::result::Result<Delivered, Vec<Differs>>> {
        let mut differs = Vec::new();
        let done = self
            .writing(async |tx| {
                let actor = &accounts::granted(tx, actor, now).await?;
                let number = match begin(tx, new, actor, now).await? {
                    Ok(number) => number,
                    Err(again) => return Ok(again),
                };
                let underway = Underway::new(self, LongTask::File, None);
                let mut taking = Taking::default();
                while let Some(lines) = next()? {
                    underway.add(lines.len() as u64);
                    for some in lines.chunks(AT_ONCE) {
                        taking.take(tx, number, some).await?;
                    }
                }
                if !taking.differs.is_empty() {
                    differs = std::mem::take(&mut taking.differs);
                    // Ends the transaction: nothing of it is kept.
                    return Err(StoreError::IdTaken);
                }
                let came = taking.came;
                let tick = next_tick(tx).await?;
                taking.finish(tx, tick).await?;
                end(tx, number, came, now).await?;
                Ok(came)
            })
            .await;
        if differs.is_empty() { done.map(Ok) } else { Ok(Err(differs)) }
    }

    /// Takes a delivery back: its readings are gone, its visits are withdrawn, and what was judged by them is judged anew. What
    /// another delivery brought as well stays. That it was there, and why it is not, stays too.
    ///
    /// # Errors
    /// `NotFound`; when the file cannot be written.
    pub async fn take_back(&self, id: Uuid, reason: &Note, actor: &Actor, now: Timestamp) -> Result<Delivery> {
        self.writing(async |tx| {
            let found = sqlx::query("SELECT * FROM delivery WHERE id = ?").bind(id.to_string());
            let row = found.fetch_optional(&mut **tx).await?.ok_or(StoreError::NotFound("delivery"))?;
            let there = delivery(&row)?;
            if there.taken_back.is_some() {
                return Ok(there);
            }
            let _underway = Underway::new(self, LongTask::TakingBack, None);
            let actor = &accounts::granted(tx, actor, now).await?;
            let who = whoever(tx, actor).await?;
            let number = row.try_get("no")?;
            let mut reached: BTreeSet<Uuid> = take_out(tx, number).await?.into_iter().collect();
            reached.extend(withdraw(tx, number, reason, who, now).await?);
            let tick = next_tick(tx).await?;
            for system in reached {
                condense_all(tx, system).await?;
                let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
                projections::rebuild(tx, system, &history, tick).await?;
            }
            sqlx::query("UPDATE delivery SET taken_back = ?, taken_back_by = ?, reason = ? WHERE no = ?")
                .bind(now.as_millisecond())
                .bind(who.to_string())
                .bind(reason.as_str())
                .bind(number)
                .execute(&mut **tx)
                .await?;
            Ok(Delivery { taken_back: Some((now, reason.as_str().to_owned())), ..there })
        })
        .await
    }

    /// Who brought a delivery; `None` where there is none such.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn delivered_by(&self, id: Uuid) -> Result<Option<Uuid>> {
        let query = sqlx::query_scalar("SELECT who FROM delivery WHERE id = ?").bind(id.to_string());
        let who: Option<String> = query.fetch_optional(&self.read).await?;
        who.map(|who| rows::id(&who)).transpose()
    }

    /// The last deliveries, the newest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn deliveries(&self, most: u32) -> Result<Vec<Delivery>> {
        let found = sqlx::query("SELECT * FROM delivery ORDER BY no DESC LIMIT ?").bind(most);
        found.fetch_all(&self.read).await?.iter().map(delivery).collect()
    }
}
