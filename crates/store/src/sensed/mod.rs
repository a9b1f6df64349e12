//! The readings of loggers: many rows of a few numbers, kept as they came, and what each day of them comes to.

mod days;
mod delivery;
mod taking;

pub(crate) use days::{condense_all, days, retouch};
pub use delivery::{Delivered, Delivery, Differs, NewDelivery};
pub(crate) use delivery::{after_any, archived, begin, bring, brought, end};
pub use taking::SensedLine;
pub(crate) use taking::Taking;

use crate::{Result, Store, StoreError, Tx, rows};
use jiff::Timestamp;
use mopsel_core::fact::Sensed;
use mopsel_core::quantity::{Celsius, Conductivity, Litres, Ph};
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use uuid::Uuid;

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

impl Store {
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
