//! The readings of loggers: many rows of a few numbers, kept as they came, and what each day of them comes to.

use crate::archive::ArchivedDelivery;
use crate::{Result, Store, StoreError, Tx, facts, next_tick, projections, rows};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use mopsel_core::calendar::{end_of, start_of};
use mopsel_core::fact::{Actor, Body, Entry, Sensed, condensed};
use mopsel_core::quantity::{Celsius, Conductivity, Litres, Note, Ph, Quantity};
use mopsel_core::refuse;
use sqlx::sqlite::SqliteRow;
use sqlx::{QueryBuilder, Row, Sqlite};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use uuid::Uuid;

/// A reading of a system, with the line that brought it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SensedLine {
    /// At which system.
    pub system: Uuid,
    /// In which line.
    pub line: u64,
    /// What was read.
    pub read: Sensed,
}

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
    /// How many readings were new.
    pub readings: u64,
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

/// Lines that are taken in at once.
const AT_ONCE: usize = 2000;
/// Rows of one statement; each binds seven values.
const ROWS: usize = 1000;
/// Differences that are told.
const MOST_TOLD: usize = 500;
/// More rows than this between the first and the last line are not read whole.
const NEAR: i64 = 8000;

fn number<Q>(
    row: &SqliteRow,
    column: &str,
    of: impl Fn(f64) -> std::result::Result<Q, mopsel_core::Refusal>,
) -> Result<Option<Q>> {
    let value: Option<f64> = row.try_get(column)?;
    value.map(of).transpose().map_err(|refusal| StoreError::Corrupt(refusal.to_string()))
}

pub(crate) fn sensed(row: &SqliteRow) -> Result<Sensed> {
    Ok(Sensed {
        at: rows::time_in(row, "at")?,
        ph: number(row, "ph", Ph::new)?,
        ec: number(row, "ec", Conductivity::new)?,
        temperature: number(row, "temperature", Celsius::new)?,
        litres: number(row, "litres", Litres::new)?,
    })
}

/// Rows of one moment from several deliveries are one reading.
fn together(mut all: Vec<Sensed>) -> Vec<Sensed> {
    all.dedup_by(|later, earlier| {
        let same = later.at == earlier.at;
        if same {
            *earlier = earlier.with(later);
        }
        same
    });
    all
}

/// What is delivered, while it is.
#[derive(Default)]
pub(crate) struct Taking {
    numbers: HashMap<Uuid, i64>,
    zones: HashMap<Uuid, TimeZone>,
    days: BTreeMap<Uuid, BTreeSet<Date>>,
    /// The day that was looked up last, and its bounds.
    today: Option<(Uuid, Timestamp, Timestamp)>,
    /// What came of it so far.
    pub(crate) came: Delivered,
    /// Lines that say something else than is there.
    pub(crate) differs: Vec<Differs>,
}

impl Taking {
    async fn number(&mut self, tx: &mut Tx<'_>, system: Uuid) -> Result<i64> {
        if let Some(number) = self.numbers.get(&system) {
            return Ok(*number);
        }
        let zone = facts::zone_at(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
        sqlx::query("INSERT INTO sensed_system (system) VALUES (?) ON CONFLICT DO NOTHING")
            .bind(system.to_string())
            .execute(&mut **tx)
            .await?;
        let number: i64 = sqlx::query_scalar("SELECT no FROM sensed_system WHERE system = ?")
            .bind(system.to_string())
            .fetch_one(&mut **tx)
            .await?;
        self.numbers.insert(system, number);
        self.zones.insert(system, zone);
        Ok(number)
    }

    fn touch(&mut self, system: Uuid, at: Timestamp) {
        if self.today.is_some_and(|(of, from, to)| of == system && from <= at && at < to) {
            return;
        }
        let Some(zone) = self.zones.get(&system) else { return };
        let day = at.to_zoned(zone.clone()).date();
        self.today = Some((system, start_of(day, zone), end_of(day, zone)));
        self.days.entry(system).or_default().insert(day);
    }

    /// What is there of one system for the moments of some lines.
    async fn there(tx: &mut Tx<'_>, system: i64, lines: &[SensedLine]) -> Result<HashMap<i64, Sensed>> {
        let times = lines.iter().map(|line| line.read.at.as_millisecond());
        let (Some(first), Some(last)) = (times.clone().min(), times.clone().max()) else { return Ok(HashMap::new()) };
        let near: i64 = sqlx::query_scalar(
            "SELECT count(*) FROM (SELECT 1 FROM sensed WHERE system = ? AND at BETWEEN ? AND ? LIMIT ?)",
        )
        .bind(system)
        .bind(first)
        .bind(last)
        .bind(NEAR)
        .fetch_one(&mut **tx)
        .await?;
        if near == 0 {
            return Ok(HashMap::new());
        }
        let found = if near < NEAR {
            let query = sqlx::query("SELECT * FROM sensed WHERE system = ? AND at BETWEEN ? AND ?");
            query.bind(system).bind(first).bind(last).fetch_all(&mut **tx).await?
        } else {
            let times = rows::to_json(&times.collect::<Vec<_>>())?;
            let query = sqlx::query("SELECT * FROM sensed WHERE system = ? AND at IN (SELECT value FROM json_each(?))");
            query.bind(system).bind(times).fetch_all(&mut **tx).await?
        };
        let mut there: HashMap<i64, Sensed> = HashMap::with_capacity(found.len());
        for row in &found {
            let one = sensed(row)?;
            there.entry(one.at.as_millisecond()).and_modify(|known| *known = known.with(&one)).or_insert(one);
        }
        Ok(there)
    }

    /// Takes some lines in.
    pub(crate) async fn take(&mut self, tx: &mut Tx<'_>, delivery: i64, lines: &[SensedLine]) -> Result<()> {
        let mut by_system: BTreeMap<Uuid, Vec<SensedLine>> = BTreeMap::new();
        for line in lines {
            by_system.entry(line.system).or_default().push(*line);
        }
        for (system, lines) in by_system {
            let number = self.number(tx, system).await?;
            let mut there = Self::there(tx, number, &lines).await?;
            let mut fresh: Vec<Sensed> = Vec::with_capacity(lines.len());
            for line in lines {
                let at = line.read.at.as_millisecond();
                let Some(known) = there.get(&at) else {
                    there.insert(at, line.read);
                    fresh.push(line.read);
                    continue;
                };
                match line.read.beyond(known) {
                    Ok(beyond) if beyond.is_empty() => self.came.there += 1,
                    Ok(beyond) => {
                        there.insert(at, known.with(&beyond));
                        fresh.push(beyond);
                    }
                    Err(_) if self.differs.len() >= MOST_TOLD => {}
                    Err(field) => self.differs.push((line.line, field)),
                }
            }
            for one in &fresh {
                self.touch(system, one.at);
            }
            self.came.new += fresh.len() as u64;
            for some in fresh.chunks(ROWS) {
                insert(tx, number, delivery, some).await?;
            }
        }
        Ok(())
    }

    /// Condenses the days that were touched; gives the systems.
    pub(crate) async fn condense(self, tx: &mut Tx<'_>) -> Result<Vec<Uuid>> {
        let Self { days, zones, .. } = self;
        let systems = days.keys().copied().collect();
        for (system, days) in days {
            let Some(zone) = zones.get(&system) else { continue };
            for day in days {
                condense(tx, system, day, zone).await?;
            }
        }
        Ok(systems)
    }

    /// The same, and folds what they come to.
    pub(crate) async fn finish(self, tx: &mut Tx<'_>, tick: i64) -> Result<()> {
        for system in self.condense(tx).await? {
            let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            projections::rebuild(tx, system, &history, tick).await?;
        }
        Ok(())
    }
}

async fn insert(tx: &mut Tx<'_>, system: i64, delivery: i64, some: &[Sensed]) -> Result<()> {
    let mut query: QueryBuilder<Sqlite> =
        QueryBuilder::new("INSERT INTO sensed (system, at, delivery, ph, ec, temperature, litres) ");
    query.push_values(some, |mut row, one| {
        row.push_bind(system).push_bind(one.at.as_millisecond()).push_bind(delivery);
        row.push_bind(one.ph.map(Quantity::number)).push_bind(one.ec.map(Quantity::number));
        row.push_bind(one.temperature.map(Quantity::number)).push_bind(one.litres.map(Quantity::number));
    });
    // Another line of the same file may say the rest of a moment.
    query.push(
        " ON CONFLICT DO UPDATE SET ph = coalesce(ph, excluded.ph), ec = coalesce(ec, excluded.ec),
          temperature = coalesce(temperature, excluded.temperature), litres = coalesce(litres, excluded.litres)",
    );
    query.build().execute(&mut **tx).await?;
    Ok(())
}

async fn between(tx: &mut Tx<'_>, system: Uuid, from: Timestamp, to: Timestamp) -> Result<Vec<Sensed>> {
    let found = sqlx::query(
        "SELECT at, ph, ec, temperature, litres FROM sensed
         WHERE system = (SELECT no FROM sensed_system WHERE system = ?) AND at >= ? AND at < ? ORDER BY at, delivery",
    )
    .bind(system.to_string())
    .bind(from.as_millisecond())
    .bind(to.as_millisecond())
    .fetch_all(&mut **tx)
    .await?;
    Ok(together(found.iter().map(sensed).collect::<Result<_>>()?))
}

/// Makes anew what one day comes to.
async fn condense(tx: &mut Tx<'_>, system: Uuid, day: Date, zone: &TimeZone) -> Result<()> {
    let read = between(tx, system, start_of(day, zone), end_of(day, zone)).await?;
    let query = sqlx::query("DELETE FROM sensed_day WHERE system = ? AND day = ?");
    query.bind(system.to_string()).bind(day.to_string()).execute(&mut **tx).await?;
    for one in condensed(&read) {
        sqlx::query(
            "INSERT INTO sensed_day (system, day, at, ph, ec, temperature, litres) VALUES (?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(system.to_string())
        .bind(day.to_string())
        .bind(one.at.as_millisecond())
        .bind(one.ph.map(Quantity::number))
        .bind(one.ec.map(Quantity::number))
        .bind(one.temperature.map(Quantity::number))
        .bind(one.litres.map(Quantity::number))
        .execute(&mut **tx)
        .await?;
    }
    Ok(())
}

/// Makes anew what every day comes to, on another clock than before.
pub(crate) async fn condense_all(tx: &mut Tx<'_>, system: Uuid, zone: &TimeZone) -> Result<()> {
    sqlx::query("DELETE FROM sensed_day WHERE system = ?").bind(system.to_string()).execute(&mut **tx).await?;
    let of = "SELECT at FROM sensed WHERE system = (SELECT no FROM sensed_system WHERE system = ?)";
    let mut next = i64::MIN;
    loop {
        let query = sqlx::query_scalar(sqlx::AssertSqlSafe(format!("{of} AND at >= ? ORDER BY at LIMIT 1")));
        let found: Option<i64> = query.bind(system.to_string()).bind(next).fetch_optional(&mut **tx).await?;
        let Some(at) = found else { return Ok(()) };
        let at = Timestamp::from_millisecond(at).map_err(|error| StoreError::Corrupt(error.to_string()))?;
        let day = at.to_zoned(zone.clone()).date();
        condense(tx, system, day, zone).await?;
        next = end_of(day, zone).as_millisecond();
    }
}

/// An id for what a moment comes to: the same each time it is folded, and no entry's.
fn id_of(system: Uuid, at: Timestamp) -> Uuid {
    Uuid::from_u128(system.as_u128() ^ u128::from(at.as_millisecond().unsigned_abs()))
}

/// What the days of a system come to, as entries to be folded among those of the log.
pub(crate) async fn days(tx: &mut Tx<'_>, system: Uuid, from: Timestamp) -> Result<Vec<Entry>> {
    let found = sqlx::query("SELECT * FROM sensed_day WHERE system = ? AND at >= ? ORDER BY day, at")
        .bind(system.to_string())
        .bind(from.as_millisecond())
        .fetch_all(&mut **tx)
        .await?;
    let entry = |row| {
        let read = sensed(row)?;
        let (id, at) = (id_of(system, read.at), read.at);
        Ok(Entry { id, at, by: Uuid::nil(), body: Body::Sensed(read), amends: None, reason: None })
    };
    found.iter().map(entry).collect()
}

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
        taken_back: taken.map(|ms| Ok::<_, StoreError>((at(ms)?, reason.unwrap_or_default()))).transpose()?,
    })
}

/// A delivery as an archive has it.
pub(crate) fn archived(row: &SqliteRow) -> Result<ArchivedDelivery> {
    let Delivery { id, who, source, recorded, readings, taken_back } = delivery(row)?;
    let (taken_back, reason) = taken_back.unzip();
    let taken_back_by = row.try_get::<Option<&str>, _>("taken_back_by")?.map(rows::id).transpose()?;
    Ok(ArchivedDelivery { id, by: who, source, recorded, readings, taken_back, taken_back_by, reason })
}

/// Brings an archived delivery; gives its number, and whether it is new. `None` where another is there by its id.
pub(crate) async fn bring(tx: &mut Tx<'_>, brings: &ArchivedDelivery) -> Result<Option<(i64, bool)>> {
    let there = sqlx::query("SELECT * FROM delivery WHERE id = ?").bind(brings.id.to_string());
    if let Some(row) = there.fetch_optional(&mut **tx).await? {
        let number = row.try_get("no")?;
        return Ok((archived(&row)? == *brings).then_some((number, false)));
    }
    let number: i64 = sqlx::query_scalar(
        "INSERT INTO delivery (id, who, source, recorded, readings, taken_back, taken_back_by, reason)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?) RETURNING no",
    )
    .bind(brings.id.to_string())
    .bind(brings.by.to_string())
    .bind(&brings.source)
    .bind(brings.recorded.as_millisecond())
    .bind(i64::try_from(brings.readings).unwrap_or(i64::MAX))
    .bind(brings.taken_back.map(Timestamp::as_millisecond))
    .bind(brings.taken_back_by.map(|by| by.to_string()))
    .bind(&brings.reason)
    .fetch_one(&mut **tx)
    .await?;
    Ok(Some((number, true)))
}

/// Begins a delivery; gives its number.
pub(crate) async fn begin(tx: &mut Tx<'_>, kept: &Delivery) -> Result<i64> {
    Ok(sqlx::query_scalar(
        "INSERT INTO delivery (id, who, source, recorded, readings) VALUES (?, ?, ?, ?, ?) RETURNING no",
    )
    .bind(kept.id.to_string())
    .bind(kept.who.to_string())
    .bind(&kept.source)
    .bind(kept.recorded.as_millisecond())
    .bind(i64::try_from(kept.readings).unwrap_or(i64::MAX))
    .fetch_one(&mut **tx)
    .await?)
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
                let there = sqlx::query("SELECT * FROM delivery WHERE id = ?").bind(new.id.to_string());
                if let Some(row) = there.fetch_optional(&mut **tx).await? {
                    let there = delivery(&row)?;
                    return match there.taken_back {
                        Some(_) => Err(StoreError::Refused(refuse!("delivery_taken_back").at("id"))),
                        None => Ok(Delivered { new: there.readings, there: 0, again: true }),
                    };
                }
                let who = actor.person.unwrap_or_default();
                let person = facts::person(tx, actor).await?.filter(|person| !person.archived);
                person.ok_or(StoreError::NotFound("person"))?;
                let kept = Delivery {
                    id: new.id,
                    who,
                    source: new.source.as_str().to_owned(),
                    recorded: now,
                    readings: 0,
                    taken_back: None,
                };
                let number = begin(tx, &kept).await?;
                let mut taking = Taking::default();
                while let Some(lines) = next()? {
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
                if came.new == 0 {
                    sqlx::query("DELETE FROM delivery WHERE no = ?").bind(number).execute(&mut **tx).await?;
                } else {
                    sqlx::query("UPDATE delivery SET readings = ? WHERE no = ?")
                        .bind(i64::try_from(came.new).unwrap_or(i64::MAX))
                        .bind(number)
                        .execute(&mut **tx)
                        .await?;
                }
                sqlx::query("UPDATE file_facts SET last_written = max(last_written, ?)")
                    .bind(now.as_millisecond())
                    .execute(&mut **tx)
                    .await?;
                Ok(came)
            })
            .await;
        if differs.is_empty() { done.map(Ok) } else { Ok(Err(differs)) }
    }

    /// Takes a delivery back: its readings are gone, and what was judged by them is judged anew. That it was there, and why it
    /// is not, stays.
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
            let person = facts::person(tx, actor).await?.filter(|person| !person.archived);
            person.ok_or(StoreError::NotFound("person"))?;
            let number: i64 = row.try_get("no")?;
            let reached: Vec<(String, i64, i64)> = sqlx::query_as(
                "SELECT s.system, min(d.at), max(d.at) FROM sensed d JOIN sensed_system s ON s.no = d.system
                 WHERE d.delivery = ? GROUP BY d.system",
            )
            .bind(number)
            .fetch_all(&mut **tx)
            .await?;
            sqlx::query("DELETE FROM sensed WHERE delivery = ?").bind(number).execute(&mut **tx).await?;
            let tick = next_tick(tx).await?;
            for (system, ..) in reached {
                let system = rows::id(&system)?;
                let zone = facts::zone_at(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
                condense_all(tx, system, &zone).await?;
                let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
                projections::rebuild(tx, system, &history, tick).await?;
            }
            sqlx::query("UPDATE delivery SET taken_back = ?, taken_back_by = ?, reason = ? WHERE no = ?")
                .bind(now.as_millisecond())
                .bind(actor.person.map(|person| person.to_string()))
                .bind(reason.as_str())
                .bind(number)
                .execute(&mut **tx)
                .await?;
            Ok(Delivery { taken_back: Some((now, reason.as_str().to_owned())), ..there })
        })
        .await
    }

    /// The last deliveries, newest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn deliveries(&self, most: u32) -> Result<Vec<Delivery>> {
        let found = sqlx::query("SELECT * FROM delivery ORDER BY no DESC LIMIT ?").bind(most);
        found.fetch_all(&self.read).await?.iter().map(delivery).collect()
    }

    /// What loggers read at a system, oldest first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn sensed(&self, system: Uuid, from: Timestamp, to: Timestamp) -> Result<Vec<Sensed>> {
        let mut tx = self.read.begin().await?;
        between(&mut tx, system, from, to).await
    }

    /// The same, at most so many moments of it.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn sensed_page(&self, system: Uuid, from: Timestamp, to: Timestamp, most: u32) -> Result<Vec<Sensed>> {
        // One moment may stand in several rows: what is counted are moments.
        let last: Option<i64> = sqlx::query_scalar(
            "SELECT max(at) FROM (SELECT DISTINCT at FROM sensed
             WHERE system = (SELECT no FROM sensed_system WHERE system = ?) AND at >= ? AND at < ? ORDER BY at LIMIT ?)",
        )
        .bind(system.to_string())
        .bind(from.as_millisecond())
        .bind(to.as_millisecond())
        .bind(most)
        .fetch_one(&self.read)
        .await?;
        let Some(last) = last else { return Ok(Vec::new()) };
        let after = Timestamp::from_millisecond(last + 1).map_err(|error| StoreError::Corrupt(error.to_string()))?;
        self.sensed(system, from, after).await
    }
}
