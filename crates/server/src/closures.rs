//! Closures read from a calendar file (RFC 5545): its whole days, with their repetitions, up to two years ahead.
//!
//! A closure is a day on which nobody comes; an event with hours is none, and is said to be left out. What cannot be
//! read is named with its reason, and nothing of it is guessed.

use crate::Problem;
use chrono::TimeZone;
use icalendar::parser::{Component, Property, read_calendar, unfold};
use jiff::civil::Date;
use jiff::{Span, SpanRelativeTo, Unit};
use mopsel_core::calendar::{Closure, MOST_CLOSURES, add_days};
use mopsel_core::message::typed;
use mopsel_core::quantity::Name;
use mopsel_core::refuse;
use serde::Serialize;
use utoipa::ToSchema;

/// The largest file that is read.
pub const LIMIT: usize = 1024 * 1024;
/// Repetitions are followed so far ahead, in days.
const AHEAD: i64 = 730;
/// Repetitions of one event that are followed, from those on that may still last.
const MOST_REPEATS: u16 = 1200;
/// Series that are followed; a school has a handful.
const MOST_SERIES: usize = 60;
/// A closure is no longer than this, in days.
const MOST_DAYS: i64 = 400;
/// Parts of a calendar that lie within each other: a calendar, a zone, its summer time.
const MOST_DEEP: usize = 4;
/// A line is no longer, unfolded, in bytes: its parser cannot say where in a longer one it broke off.
const LONGEST_LINE: usize = 32 * 1024;
/// Lines of what was left out that are told.
const MOST_TOLD: usize = 20;

/// An event that is not taken for a closure, with the reason.
#[derive(Debug, Serialize, ToSchema)]
pub struct LeftOut {
    /// What it is called.
    pub what: String,
    /// Why.
    pub why: String,
}

/// What a calendar file comes to.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClosuresRead {
    /// Closures that are not over, in order.
    pub closures: Vec<Closure>,
    /// How many are over, and left out.
    pub past: usize,
    /// What else was left out, with the reason; at most twenty are told.
    pub left_out: Vec<LeftOut>,
}

/// Reads a calendar file as of a day.
///
/// # Errors
/// A refusal for what is no calendar.
pub fn read(text: &str, today: Date) -> Result<ClosuresRead, Problem> {
    let text = text.trim_start_matches('\u{feff}');
    let unfolded = unfold(text);
    let broken = |why: String| refuse!("no_calendar_file", found = typed(why.lines().next().unwrap_or_default()));
    if !text.contains("BEGIN:VCALENDAR") {
        return Err(broken(text.chars().take(40).collect()).at("body").into());
    }
    if deepest(&unfolded) > MOST_DEEP {
        return Err(broken("parts within parts, far too deep".to_owned()).at("body").into());
    }
    if unfolded.lines().any(|line| line.len() > LONGEST_LINE) {
        return Err(broken("a line without an end".to_owned()).at("body").into());
    }
    let calendar = read_calendar(&unfolded).map_err(|error| broken(error).at("body"))?;
    let mut told = ClosuresRead { closures: vec![], past: 0, left_out: vec![] };
    let mut series = 0;
    for event in calendar.components.iter().filter(|component| component.name == "VEVENT") {
        let what = value(event, "SUMMARY").unwrap_or("without a name").replace("\\,", ",").replace("\\;", ";");
        series += usize::from(value(event, "RRULE").is_some());
        if series > MOST_SERIES && value(event, "RRULE").is_some() {
            let why = format!("{MOST_SERIES} series are followed at most: send it in a file of its own");
            told.left_out.push(LeftOut { what, why });
            continue;
        }
        match days_of(event, today) {
            Ok(days) => {
                for (from, to) in days {
                    if to < today {
                        told.past += 1;
                    } else {
                        let name = Name::new(&what.chars().take(80).collect::<String>()).ok();
                        told.closures.push(Closure { name, from, to });
                    }
                }
            }
            Err(why) => told.left_out.push(LeftOut { what, why }),
        }
    }
    told.closures.sort_by_key(|closure| (closure.from, closure.to));
    told.closures.dedup_by_key(|closure| (closure.from, closure.to));
    if told.closures.len() > MOST_CLOSURES {
        let more = told.closures.len() - MOST_CLOSURES;
        told.closures.truncate(MOST_CLOSURES);
        let what = format!("{more} more");
        told.left_out.push(LeftOut { what, why: format!("a place takes {MOST_CLOSURES} closures at most") });
    }
    told.left_out.truncate(MOST_TOLD);
    Ok(told)
}

/// How deep the parts of a calendar lie within each other: its parser goes down a floor of the stack for each.
fn deepest(unfolded: &str) -> usize {
    let starts = |line: &str, with: &str| line.get(..with.len()).is_some_and(|head| head.eq_ignore_ascii_case(with));
    let (mut deep, mut deepest) = (0usize, 0);
    for line in unfolded.lines().map(str::trim_start) {
        if starts(line, "BEGIN:") {
            deep += 1;
        } else if starts(line, "END:") {
            deep = deep.saturating_sub(1);
        }
        deepest = deepest.max(deep);
    }
    deepest
}

fn property<'a>(event: &'a Component<'a>, name: &str) -> Option<&'a Property<'a>> {
    event.properties.iter().find(|property| property.name == name)
}

fn value<'a>(event: &'a Component<'a>, name: &str) -> Option<&'a str> {
    property(event, name).map(|property| property.val.as_str())
}

/// A whole day, as `20270308`.
fn whole_day(text: &str) -> Option<Date> {
    let plain = text.len() == 8 && text.bytes().all(|byte| byte.is_ascii_digit());
    let part = |from: usize, to: usize| text.get(from..to)?.parse::<i16>().ok();
    let date = || Date::new(part(0, 4)?, i8::try_from(part(4, 6)?).ok()?, i8::try_from(part(6, 8)?).ok()?).ok();
    if plain { date() } else { None }
}

/// The days of an event, from one to another, repetitions among them; or why they are left out.
fn days_of(event: &Component<'_>, today: Date) -> Result<Vec<(Date, Date)>, String> {
    if value(event, "STATUS") == Some("CANCELLED") {
        return Err("it is cancelled".to_owned());
    }
    if value(event, "RECURRENCE-ID").is_some() {
        return Err("it moves one day of a series: add that one by hand".to_owned());
    }
    let start = value(event, "DTSTART").ok_or("it has no beginning")?;
    let Some(first) = whole_day(start) else {
        let hours = start.len() >= 15 && start.get(8..9) == Some("T");
        return Err(if hours {
            "it has hours: only whole days are closures".to_owned()
        } else {
            format!("its beginning cannot be read: {}", start.chars().take(30).collect::<String>())
        });
    };
    let length = length_of(event, first)?;
    let last = |from: Date| add_days(from, length - 1);
    let Some(rule) = value(event, "RRULE") else { return Ok(vec![(first, last(first))]) };
    let begins = repeats(event, rule, first, today)?;
    Ok(begins.into_iter().map(|from| (from, last(from))).collect())
}

/// How many days it lasts.
fn length_of(event: &Component<'_>, first: Date) -> Result<i64, String> {
    let days = match (value(event, "DTEND"), value(event, "DURATION")) {
        (Some(end), _) => {
            let end = whole_day(end).ok_or("it ends at an hour: only whole days are closures")?;
            i64::from((end - first).get_days())
        }
        (None, Some(duration)) => days_in(duration)?,
        (None, None) => 1,
    };
    if (1..=MOST_DAYS).contains(&days) { Ok(days) } else { Err(format!("it lasts {days} days")) }
}

/// The whole days of a duration (RFC 5545, 3.3.6): `P3D`, `P1W`, `PT24H` and `P1DT0H` alike.
fn days_in(duration: &str) -> Result<i64, String> {
    let span: Span = duration.trim().parse().map_err(|_| "its length cannot be read".to_owned())?;
    let time = span.total((Unit::Hour, SpanRelativeTo::days_are_24_hours()));
    let hours = time.map_err(|_| "its length cannot be read".to_owned())?;
    let days = hours / 24.0;
    if days.fract() == 0.0 && days.abs() < 1e6 {
        #[allow(clippy::cast_possible_truncation, reason = "a small whole number, as was just seen")]
        Ok(days as i64)
    } else {
        Err("it lasts some hours: only whole days are closures".to_owned())
    }
}

/// The days on which a series begins that are not long over, up to two years ahead. How far it is followed is bounded
/// by days and by steps, whatever its rule says.
fn repeats(event: &Component<'_>, rule: &str, first: Date, today: Date) -> Result<Vec<Date>, String> {
    let unreadable = || "its repetition cannot be read".to_owned();
    let within_a_day = ["SECONDLY", "MINUTELY", "HOURLY"];
    let often = rule.split(';').find_map(|part| part.trim().strip_prefix("FREQ=")).ok_or_else(unreadable)?;
    if within_a_day.contains(&often.trim()) {
        return Err("it repeats within a day: only whole days are closures".to_owned());
    }
    let whole = |date: Date| date.strftime("%Y%m%d").to_string();
    let mut lines = format!("DTSTART:{}T000000Z\nRRULE:{rule}", whole(first));
    for left_out in event.properties.iter().filter(|property| property.name == "EXDATE") {
        let days = left_out.val.as_str().split(',').filter_map(|day| whole_day(day.get(..8)?));
        days.for_each(|day| lines.push_str(&format!("\nEXDATE:{}T000000Z", whole(day))));
    }
    let set: rrule::RRuleSet = lines.parse().map_err(|error| format!("its repetition cannot be read: {error}"))?;
    let at = |day: Date| {
        let (year, month, day) = (i32::from(day.year()), day.month().unsigned_abs(), day.day().unsigned_abs());
        let midnight = rrule::Tz::UTC.with_ymd_and_hms(year, u32::from(month), u32::from(day), 0, 0, 0);
        midnight.single().ok_or_else(unreadable)
    };
    // What began so long ago may still last.
    let set = set.after(at(first.max(add_days(today, -MOST_DAYS)))?).before(at(add_days(today, AHEAD))?);
    let found = set.all(MOST_REPEATS);
    let begins: Option<Vec<Date>> =
        found.dates.into_iter().map(|moment| whole_day(&moment.format("%Y%m%d").to_string())).collect();
    begins.ok_or_else(unreadable)
}
