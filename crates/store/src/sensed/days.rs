//! What each day of a place's clock comes to, kept beside the readings: made anew when readings come or go, when the water
//! was touched on it, and when the clock of the place changes.

use super::{between, sensed};
use crate::log::select_entries;
use crate::{Result, StoreError, Tx, facts, rows};
use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use mopsel_core::calendar::{end_of, start_of};
use mopsel_core::fact::{Body, Entry, Sensed, Stirred, Timeline, condensed};
use mopsel_core::projection::mixes_in;
use mopsel_core::quantity::Quantity;
use mopsel_core::system::System;
use std::collections::BTreeSet;
use uuid::Uuid;

/// What a day of a system is condensed by.
pub(super) struct Clock {
    zone: TimeZone,
    history: Timeline<System>,
}

impl Clock {
    /// That of a system.
    pub(super) async fn of(tx: &mut Tx<'_>, system: Uuid) -> Result<Self> {
        let missing = || StoreError::NotFound("system");
        let zone = facts::zone_at(tx, system).await?.ok_or_else(missing)?;
        Ok(Self { zone, history: facts::history_of(tx, system).await?.ok_or_else(missing)? })
    }

    /// How long what was poured mixes, as the system was on a day.
    fn settles(&self, at: Timestamp) -> SignedDuration {
        SignedDuration::from_secs((mixes_in(self.history.at(at)) * 60.0) as i64)
    }
}

/// The moments of a stretch of time at which the water was touched, by what stands in the log.
async fn touched(tx: &mut Tx<'_>, system: Uuid, from: Timestamp, to: Timestamp) -> Result<Vec<Timestamp>> {
    let found = sqlx::query(select_entries!(
        "WHERE system = ? AND at >= ? AND at < ?
         AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id) ORDER BY at"
    ))
    .bind(system.to_string())
    .bind(from.as_millisecond())
    .bind(to.as_millisecond())
    .fetch_all(&mut **tx)
    .await?;
    let mut times = Vec::new();
    for row in &found {
        let entry = rows::entry(row)?.entry;
        if entry.body.stirs() {
            times.push(entry.at);
        }
    }
    Ok(times)
}

/// What is kept of a day.
async fn kept(tx: &mut Tx<'_>, system: Uuid, day: Date) -> Result<Vec<Sensed>> {
    let query = sqlx::query("SELECT * FROM sensed_day WHERE system = ? AND day = ? ORDER BY at");
    let found = query.bind(system.to_string()).bind(day.to_string()).fetch_all(&mut **tx).await?;
    found.iter().map(sensed).collect()
}

/// Makes anew what one day comes to; says whether it is another than before.
pub(super) async fn condense(tx: &mut Tx<'_>, system: Uuid, day: Date, clock: &Clock) -> Result<bool> {
    let (from, to) = (start_of(day, &clock.zone), end_of(day, &clock.zone));
    let settles = clock.settles(from);
    let touched = touched(tx, system, from - settles, to).await?;
    let read = between(tx, system, from, to).await?;
    let comes_to = condensed(&read, Stirred { at: &touched, settles });
    if kept(tx, system, day).await? == comes_to {
        return Ok(false);
    }
    let query = sqlx::query("DELETE FROM sensed_day WHERE system = ? AND day = ?");
    query.bind(system.to_string()).bind(day.to_string()).execute(&mut **tx).await?;
    for one in comes_to {
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
    Ok(true)
}

/// Whether a logger ever read at a system.
async fn is_read(tx: &mut Tx<'_>, system: Uuid) -> Result<bool> {
    let query = sqlx::query_scalar("SELECT no FROM sensed_system WHERE system = ?").bind(system.to_string());
    let number: Option<i64> = query.fetch_optional(&mut **tx).await?;
    Ok(number.is_some())
}

/// Makes anew the days on which something was done at these moments, where a logger read on them; says whether any of them
/// comes to something else now. What is poured before midnight mixes into the next day.
pub(crate) async fn retouch(tx: &mut Tx<'_>, system: Uuid, times: &[Timestamp]) -> Result<bool> {
    if !is_read(tx, system).await? {
        return Ok(false);
    }
    let clock = Clock::of(tx, system).await?;
    let ends = times.iter().map(|at| *at + clock.settles(*at));
    let days: BTreeSet<Date> =
        times.iter().copied().chain(ends).map(|at| at.to_zoned(clock.zone.clone()).date()).collect();
    let mut another = false;
    for day in days {
        another |= condense(tx, system, day, &clock).await?;
    }
    Ok(another)
}

/// Makes anew what every day comes to, where a logger read at all.
pub(crate) async fn condense_all(tx: &mut Tx<'_>, system: Uuid) -> Result<()> {
    if !is_read(tx, system).await? {
        return Ok(());
    }
    // On another clock a day may be none any more.
    sqlx::query("DELETE FROM sensed_day WHERE system = ?").bind(system.to_string()).execute(&mut **tx).await?;
    let clock = Clock::of(tx, system).await?;
    let mut next = i64::MIN;
    loop {
        let found: Option<i64> = sqlx::query_scalar(
            "SELECT at FROM sensed WHERE system = (SELECT no FROM sensed_system WHERE system = ?) AND at >= ?
             ORDER BY at LIMIT 1",
        )
        .bind(system.to_string())
        .bind(next)
        .fetch_optional(&mut **tx)
        .await?;
        let Some(at) = found else { return Ok(()) };
        let at = Timestamp::from_millisecond(at).map_err(|error| StoreError::Corrupt(error.to_string()))?;
        let day = at.to_zoned(clock.zone.clone()).date();
        condense(tx, system, day, &clock).await?;
        next = end_of(day, &clock.zone).as_millisecond();
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
