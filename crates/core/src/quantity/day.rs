//! Days as they come from outside: of a year in which somebody grows something. Arithmetic with a day of the year
//! −9999 has no answer, and one such day in a card would end every page that reckons with it.

use crate::{Refusal, refuse};
use jiff::civil::{Date, date};
use serde::{Deserialize, Deserializer, de};

/// The first day that is accepted.
pub const FIRST_DAY: Date = date(1900, 1, 1);
/// The last day that is accepted.
pub const LAST_DAY: Date = date(2199, 12, 31);

/// Checks a day.
///
/// # Errors
/// A refusal for one before 1900 or after 2199.
pub fn checked_day(day: Date) -> Result<Date, Refusal> {
    if (FIRST_DAY..=LAST_DAY).contains(&day) {
        return Ok(day);
    }
    let [found, low, high] = [day, FIRST_DAY, LAST_DAY].map(|day| day.to_string());
    Err(refuse!("day_out_of_bounds", found = found, low = low, high = high))
}

/// For `#[serde(deserialize_with)]`: a day within bounds.
///
/// # Errors
/// For what is no day, or is out of bounds.
pub fn day<'de, D: Deserializer<'de>>(from: D) -> Result<Date, D::Error> {
    checked_day(Date::deserialize(from)?).map_err(de::Error::custom)
}

/// The same, where there may be none.
///
/// # Errors
/// For what is no day, or is out of bounds.
pub fn day_if_any<'de, D: Deserializer<'de>>(from: D) -> Result<Option<Date>, D::Error> {
    Option::<Date>::deserialize(from)?.map(checked_day).transpose().map_err(de::Error::custom)
}
