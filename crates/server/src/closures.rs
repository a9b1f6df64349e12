//! Closures read from a calendar file (RFC 5545): its whole days, with their repetitions, up to two years ahead.
//!
//! A closure is a day on which nobody comes; an event with hours is none, and is said to be left out. What cannot be
//! read is named with its reason, and nothing of it is guessed.

use crate::Problem;
use icalendar::parser::{Component, Property, read_calendar, unfold};
use jiff::civil::Date;
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
/// Repetitions of one event that are followed.
const MOST_REPEATS: u16 = 400;
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
    let calendar = read_calendar(&unfolded).map_err(|error| broken(error).at("body"))?;
    let mut told = ClosuresRead { closures: vec![], past: 0, left_out: vec![] };
    for event in calendar.components.iter().filter(|component| component.name == "VEVENT") {
        let what = value(event, "SUMMARY").unwrap_or("without a name").replace("\\,", ",").replace("\\;", ";");
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
        (None, Some(duration)) => {
            let (number, unit) = duration.trim_start_matches('P').split_at(duration.len().saturating_sub(2));
            let number: i64 = number.parse().map_err(|_| "its length cannot be read".to_owned())?;
            match unit {
                "D" => number,
                "W" => number * 7,
                _ => return Err("its length cannot be read".to_owned()),
            }
        }
        (None, None) => 1,
    };
    if (1..=400).contains(&days) { Ok(days) } else { Err(format!("it lasts {days} days")) }
}

/// The days on which a series begins, up to two years ahead.
fn repeats(event: &Component<'_>, rule: &str, first: Date, today: Date) -> Result<Vec<Date>, String> {
    let whole = |date: Date| date.strftime("%Y%m%d").to_string();
    let mut lines = format!("DTSTART:{}T000000Z\nRRULE:{rule}", whole(first));
    for left_out in event.properties.iter().filter(|property| property.name == "EXDATE") {
        let days = left_out.val.as_str().split(',').filter_map(|day| whole_day(day.get(..8)?));
        days.for_each(|day| lines.push_str(&format!("\nEXDATE:{}T000000Z", whole(day))));
    }
    let set: rrule::RRuleSet = lines.parse().map_err(|error| format!("its repetition cannot be read: {error}"))?;
    let until = add_days(today, AHEAD);
    let mut begins = Vec::new();
    for moment in set.into_iter().take(usize::from(MOST_REPEATS)) {
        let day = whole_day(&moment.format("%Y%m%d").to_string()).ok_or("its repetition cannot be read")?;
        if day > until {
            break;
        }
        begins.push(day);
    }
    Ok(begins)
}
