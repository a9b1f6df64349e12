//! When a place is open, and what day it is there.

use crate::message::{Param, count};
use crate::quantity::Name;
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

/// Days on which nobody comes, besides the weekly ones: a holiday, a term break, a single day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Closure {
    /// What it is called, if it is called anything.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<Name>,
    /// Its first day.
    #[serde(deserialize_with = "crate::quantity::day")]
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// Its last day.
    #[serde(deserialize_with = "crate::quantity::day")]
    #[schema(value_type = String, format = Date)]
    pub to: Date,
}

/// The longest closure, in days.
const MOST_CLOSED: i32 = 400;
/// The most closures of a place.
pub const MOST_CLOSURES: usize = 200;

impl Closure {
    /// Checks the closures of a place. They may overlap: a bank holiday within a term break is closed once.
    ///
    /// # Errors
    /// A refusal at the closure: too many of them, one that ends before it begins, that is longer than a year and a
    /// bit, or that stands there twice.
    pub fn check_all(all: &[Self]) -> Result<(), Refusal> {
        if all.len() > MOST_CLOSURES {
            let (found, most) = (count(all.len()), count(MOST_CLOSURES));
            return Err(refuse!("too_many_closures", found = found, most = most).at("closures"));
        }
        for (n, closure) in all.iter().enumerate() {
            let at = |field: &str| format!("closures.{n}.{field}");
            let days = (closure.to - closure.from).get_days();
            if days < 0 {
                let (from, found) = (closure.from.to_string(), closure.to.to_string());
                return Err(refuse!("closure_ends_first", from = from, found = found).at(&at("to")));
            }
            if days >= MOST_CLOSED {
                let (found, most) = (count(days.unsigned_abs() + 1), count(MOST_CLOSED.unsigned_abs()));
                return Err(refuse!("closure_too_long", found = found, most = most).at(&at("to")));
            }
            if all[..n].iter().any(|other| (other.from, other.to) == (closure.from, closure.to)) {
                return Err(refuse!("closure_twice", from = closure.from.to_string()).at(&at("from")));
            }
        }
        Ok(())
    }
}

/// Days in a row on which nobody comes, with the last open day before and the first one after.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stretch {
    /// The last open day before it.
    pub last_open: Date,
    /// The first open day after it.
    pub first_open: Date,
}

impl Stretch {
    /// Its first closed day.
    #[must_use]
    pub fn from(&self) -> Date {
        add_days(self.last_open, 1)
    }

    /// Its last closed day.
    #[must_use]
    pub fn to(&self) -> Date {
        add_days(self.first_open, -1)
    }

    /// How many closed days it has.
    #[must_use]
    pub fn days(&self) -> i64 {
        i64::from((self.first_open - self.last_open).get_days()) - 1
    }
}

/// The days on which someone can come: week by week, without the closures. Rules ask [`Calendar::is_open`] and the
/// functions built on it, and never a list of weekdays.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Calendar {
    open: Vec<Weekday>,
    /// Closed from one day to another, both among them; in order, and none touches the next.
    closed: Vec<(Date, Date)>,
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
        Ok(Self { open: open.to_vec(), closed: Vec::new() })
    }

    /// The same without some closures; those that overlap or touch are one.
    #[must_use]
    pub fn without(mut self, closures: &[Closure]) -> Self {
        let mut spans: Vec<(Date, Date)> = closures.iter().map(|closure| (closure.from, closure.to)).collect();
        spans.sort_unstable();
        for (from, to) in spans {
            match self.closed.last_mut() {
                Some((_, end)) if from <= add_days(*end, 1) => *end = to.max(*end),
                _ => self.closed.push((from, to)),
            }
        }
        self
    }

    /// Its weekly open days alone, as if it never closed otherwise.
    #[must_use]
    pub fn week(&self) -> Self {
        Self { open: self.open.clone(), closed: Vec::new() }
    }

    /// The closure that a day lies in.
    fn closure_of(&self, date: Date) -> Option<(Date, Date)> {
        let next = self.closed.partition_point(|(from, _)| *from <= date);
        let last = self.closed.get(next.checked_sub(1)?)?;
        (last.1 >= date).then_some(*last)
    }

    /// Whether someone can come on that day.
    #[must_use]
    pub fn is_open(&self, date: Date) -> bool {
        self.open.contains(&Weekday::of(date)) && self.closure_of(date).is_none()
    }

    /// The days in a row on which nobody comes that a closed day lies in; `None` for an open day.
    #[must_use]
    pub fn stretch_at(&self, date: Date) -> Option<Stretch> {
        let around = || Stretch { last_open: self.open_on_or_before(date), first_open: self.open_on_or_after(date) };
        (!self.is_open(date)).then(around)
    }

    /// The closures that are not over by a day, each with the closed days around it, in order; those within a year.
    #[must_use]
    pub fn stretches_from(&self, date: Date) -> Vec<Stretch> {
        let soon = |(from, to): &&(Date, Date)| *to >= date && (*from - date).get_days() <= MOST_CLOSED;
        let mut all: Vec<Stretch> = self
            .closed
            .iter()
            .filter(soon)
            .filter_map(|(from, to)| {
                let days = (*to - *from).get_days();
                // A closure that begins on a day that is closed anyway still closes the next open one.
                (0..=i64::from(days)).map(|n| add_days(*from, n)).find_map(|day| self.stretch_at(day))
            })
            .collect();
        all.dedup();
        all
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
        for _ in 0..MOST_STEPS {
            match self.closure_of(date) {
                Some((first, last)) => date = add_days(if step > 0 { last } else { first }, step),
                None if self.open.contains(&Weekday::of(date)) => break,
                None => date = add_days(date, step),
            }
        }
        date
    }
}

/// Each closure is one step, and each weekday between two of them: more are never needed.
const MOST_STEPS: usize = MOST_CLOSURES * 8;

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
