//! When a place is open, and what day it is there.

use crate::message::Param;
use crate::{Refusal, refuse};
use jiff::{SignedDuration, Span, Timestamp, Zoned, civil::Date, tz::TimeZone};
use serde::{Deserialize, Serialize};

/// A day of the week.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Weekday {
    Monday,
    Tuesday,
    Wednesday,
    Thursday,
    Friday,
    Saturday,
    Sunday,
}

impl Weekday {
    /// All seven, Monday first.
    pub const ALL: [Self; 7] =
        [Self::Monday, Self::Tuesday, Self::Wednesday, Self::Thursday, Self::Friday, Self::Saturday, Self::Sunday];

    /// The weekday of a date.
    #[must_use]
    pub fn of(date: Date) -> Self {
        Self::ALL[usize::try_from(date.weekday().to_monday_zero_offset()).unwrap_or(0) % 7]
    }
}

/// The days on which someone can come, week by week. Rules ask [`Calendar::is_open`] and the
/// functions built on it, and never a list of weekdays.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Calendar {
    open: Vec<Weekday>,
}

impl Calendar {
    /// A calendar of weekly open days.
    ///
    /// # Errors
    /// A refusal when no day is open.
    pub fn weekly(open: &[Weekday]) -> Result<Self, Refusal> {
        if open.is_empty() {
            return Err(refuse!("never_open"));
        }
        Ok(Self { open: open.to_vec() })
    }

    /// Whether someone can come on that day.
    #[must_use]
    pub fn is_open(&self, date: Date) -> bool {
        self.open.contains(&Weekday::of(date))
    }

    /// The first open day on or after `date`.
    #[must_use]
    pub fn open_on_or_after(&self, date: Date) -> Date {
        self.search(date, 1)
    }

    /// The last open day on or before `date`.
    #[must_use]
    pub fn open_on_or_before(&self, date: Date) -> Date {
        self.search(date, -1)
    }

    /// Moves a due day off the closed days: to the last open day before when the slack would be
    /// used up inside the closure, otherwise to the first one after.
    #[must_use]
    pub fn settle(&self, due: Date, slack_days: f64) -> Date {
        if self.is_open(due) {
            return due;
        }
        let after = self.open_on_or_after(due);
        let closed_for = f64::from((after - due).get_days());
        if slack_days < closed_for { self.open_on_or_before(due) } else { after }
    }

    fn search(&self, from: Date, step: i64) -> Date {
        let mut date = from;
        for _ in 0..7 {
            if self.is_open(date) {
                break;
            }
            date = add_days(date, step);
        }
        date
    }
}

/// The date `days` later; the calendar's end stands for anything beyond it.
#[must_use]
pub fn add_days(date: Date, days: i64) -> Date {
    date.saturating_add(Span::new().days(days))
}

/// The same for a figure that counts whole days.
#[must_use]
pub fn add_whole_days(date: Date, days: f64) -> Date {
    add_days(date, days.round() as i64)
}

/// The moment at which a date begins in a zone, whatever the clocks do.
#[must_use]
pub fn start_of(date: Date, zone: &TimeZone) -> Timestamp {
    date.to_zoned(zone.clone()).map_or(Timestamp::MIN, |midnight| midnight.timestamp())
}

/// The moment at which a date ends in a zone: the next local midnight, whatever the clocks do.
#[must_use]
pub fn end_of(date: Date, zone: &TimeZone) -> Timestamp {
    add_days(date, 1).to_zoned(zone.clone()).map_or(Timestamp::MAX, |midnight| midnight.timestamp())
}

/// Days from `from` to `to`, as 24-hour days; negative when `to` lies before.
#[must_use]
pub fn days_between(from: Timestamp, to: Timestamp) -> f64 {
    to.duration_since(from).as_secs_f64() / 86_400.0
}

/// The local date of a moment, as seen from `now`'s zone.
#[must_use]
pub fn local_date(at: Timestamp, now: &Zoned) -> Date {
    at.to_zoned(now.time_zone().clone()).date()
}

/// So many days after a moment, at most as far as time is counted.
#[must_use]
pub fn after(at: Timestamp, days: f64) -> Timestamp {
    let span = SignedDuration::from_secs((days * 86_400.0) as i64);
    at.checked_add(span).unwrap_or(if days < 0.0 { Timestamp::MIN } else { Timestamp::MAX })
}

/// A date as a sentence names it from `today`.
#[must_use]
pub fn day(date: Date, today: Date) -> Param {
    Param::Day(date, today)
}
