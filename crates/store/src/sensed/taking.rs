//! Taking readings in: what is there already is passed over, what says something else is told.

use super::days::{Clock, condense};
use super::{Delivered, Differs, sensed};
use crate::{Result, StoreError, Tx, facts, projections, rows};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use mopsel_core::calendar::{end_of, start_of};
use mopsel_core::fact::Sensed;
use mopsel_core::quantity::Quantity;
use sqlx::{QueryBuilder, Sqlite};
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

/// Rows of one statement; each binds seven values.
const ROWS: usize = 1000;
/// Differences that are told.
const MOST_TOLD: usize = 500;
/// More rows than this between the first and the last line are not read whole.
const NEAR: i64 = 8000;

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
            let mut brought: Vec<Sensed> = Vec::with_capacity(lines.len());
            for line in lines {
                let at = line.read.at.as_millisecond();
                let beyond = match there.get(&at) {
                    None => Ok(line.read),
                    Some(known) => line.read.beyond(known),
                };
                match beyond {
                    // A row is what one delivery says of a moment, whoever said it before: taking that one back leaves it.
                    Ok(beyond) => {
                        if beyond.is_empty() {
                            self.came.there += 1;
                        } else {
                            there.entry(at).and_modify(|known| *known = known.with(&beyond)).or_insert(line.read);
                            self.touch(system, line.read.at);
                            self.came.new += 1;
                        }
                        brought.push(line.read);
                    }
                    Err(_) if self.differs.len() >= MOST_TOLD => {}
                    Err(field) => self.differs.push((line.line, field)),
                }
            }
            for some in brought.chunks(ROWS) {
                insert(tx, number, delivery, some).await?;
            }
        }
        Ok(())
    }

    /// Condenses the days that were touched; gives the systems.
    async fn condense(self, tx: &mut Tx<'_>) -> Result<Vec<Uuid>> {
        let systems = self.systems();
        for (system, days) in self.days {
            let clock = Clock::of(tx, system).await?;
            for day in days {
                condense(tx, system, day, &clock).await?;
            }
        }
        Ok(systems)
    }

    /// The systems that something was taken in of.
    pub(crate) fn systems(&self) -> Vec<Uuid> {
        self.days.keys().copied().collect()
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
