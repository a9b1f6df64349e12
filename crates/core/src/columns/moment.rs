//! When a line was written.

use super::{ClockOf, DayOrder};
use crate::message::typed;
use crate::refusal::Refusal;
use crate::refuse;
use jiff::Timestamp;
use jiff::civil::{Date, DateTime, Time};
use jiff::tz::{AmbiguousOffset, Offset, TimeZone};

/// A date without a time was noon.
const NOON: Time = Time::constant(12, 0, 0, 0);
/// Two digits of a year are of this century.
const CENTURY: i16 = 2000;

fn no_time(text: &str) -> Refusal {
    refuse!("cell_no_time", found = typed(&text.chars().take(60).collect::<String>()))
}

/// Digits at the beginning, with how many there are.
fn digits(text: &str) -> Option<(i64, usize)> {
    let length = text.bytes().take_while(u8::is_ascii_digit).count();
    (1..=13).contains(&length).then(|| text[..length].parse().ok().map(|value| (value, length)))?
}

/// The three numbers of a date, each with how many digits it has, and what follows.
pub(super) fn three(text: &str) -> Option<([(i64, usize); 3], &str)> {
    let mut rest = text;
    let mut found = [(0, 0); 3];
    for (n, part) in found.iter_mut().enumerate() {
        *part = digits(rest)?;
        rest = &rest[part.1..];
        if n < 2 {
            rest = rest.strip_prefix(['-', '/', '.'])?;
            rest = rest.strip_prefix(' ').unwrap_or(rest);
        }
    }
    Some((found, rest))
}

fn date(text: &str, order: DayOrder) -> Option<(Date, &str)> {
    let ([a, b, c], rest) = three(text)?;
    let (year, month, day) = match order {
        DayOrder::YearFirst => (a, b, c),
        DayOrder::DayFirst => (c, b, a),
        DayOrder::MonthFirst => (c, a, b),
    };
    let full = match year.1 {
        4 => i16::try_from(year.0).ok()?,
        2 => CENTURY + i16::try_from(year.0).ok()?,
        _ => return None,
    };
    Some((Date::new(full, i8::try_from(month.0).ok()?, i8::try_from(day.0).ok()?).ok()?, rest))
}

fn clock(text: &str) -> Option<(Time, &str)> {
    let (hour, length) = digits(text)?;
    let mut rest = text[length..].strip_prefix(':')?;
    let (minute, length) = digits(rest)?;
    rest = &rest[length..];
    let mut second = 0;
    if let Some(more) = rest.strip_prefix(':') {
        let (value, length) = digits(more)?;
        (second, rest) = (value, &more[length..]);
        if let Some(more) = rest.strip_prefix(['.', ',']) {
            rest = more.trim_start_matches(|c: char| c.is_ascii_digit());
        }
    }
    let tail = rest.trim_start();
    let half = tail.get(..2).map(str::to_ascii_lowercase);
    let (hour, rest) = match half.as_deref() {
        Some("am") if (1..=12).contains(&hour) => (hour % 12, &tail[2..]),
        Some("pm") if (1..=12).contains(&hour) => (hour % 12 + 12, &tail[2..]),
        _ => (hour, rest),
    };
    let part = |value: i64| i8::try_from(value).ok();
    Some((Time::new(part(hour)?, part(minute)?, part(second)?, 0).ok()?, rest))
}

/// A zone as it stands behind a time.
fn offset(text: &str) -> Option<Offset> {
    if text.eq_ignore_ascii_case("z") || text.eq_ignore_ascii_case("utc") {
        return Some(Offset::UTC);
    }
    let sign = match text.as_bytes().first()? {
        b'+' => 1,
        b'-' => -1,
        _ => return None,
    };
    let digits: String = text[1..].chars().filter(|c| *c != ':').collect();
    let (hours, minutes) = match digits.len() {
        2 => (digits.parse::<i32>().ok()?, 0),
        4 => (digits[..2].parse::<i32>().ok()?, digits[2..].parse::<i32>().ok()?),
        _ => return None,
    };
    Offset::from_seconds(sign * (hours * 3600 + minutes * 60)).ok()
}

/// Seconds or milliseconds since 1970.
fn since_1970(text: &str) -> Option<Timestamp> {
    let (value, length) = digits(text)?;
    match (length, length == text.len()) {
        (9 | 10, true) => Timestamp::from_second(value).ok(),
        (12 | 13, true) => Timestamp::from_millisecond(value).ok(),
        _ => None,
    }
}

/// Whether a time names its zone by itself.
pub(super) fn says_zone(text: &str) -> bool {
    let text = text.trim();
    let tail = text.find(':').map_or("", |colon| &text[colon..]);
    since_1970(text).is_some()
        || tail.ends_with(['Z', 'z'])
        || tail.to_ascii_lowercase().ends_with("utc")
        || tail.contains(['+', '-'])
}

/// The moment that a line tells. `last` is that of the line before it of the same system: in the hour that comes twice when
/// clocks are set back, it goes on from there.
///
/// # Errors
/// A refusal of what is no time, of one that no clock showed, of a zone where none is expected and the other way round.
pub(super) fn moment(
    (day, time): (&str, Option<&str>),
    (order, whose): (DayOrder, ClockOf),
    zone: &TimeZone,
    last: Option<Timestamp>,
) -> Result<Timestamp, Refusal> {
    let (day, time) = (day.trim(), time.map(str::trim).filter(|time| !time.is_empty()));
    if time.is_none()
        && let Some(at) = since_1970(day)
    {
        return Ok(at);
    }
    let (date, rest) = date(day, order).ok_or_else(|| no_time(day))?;
    let told = time.unwrap_or_else(|| rest.trim_start_matches(['T', 't', ' ', ',']));
    let (time, rest) = if told.is_empty() { (NOON, "") } else { clock(told).ok_or_else(|| no_time(told))? };
    let at = DateTime::from_parts(date, time);
    match (whose, rest.trim()) {
        (ClockOf::Said, "") => Err(refuse!("time_without_zone", found = typed(day))),
        (ClockOf::Said, said) => {
            let offset = offset(said).ok_or_else(|| no_time(day))?;
            offset.to_timestamp(at).map_err(|_| no_time(day))
        }
        (ClockOf::Utc, "") => TimeZone::UTC.to_timestamp(at).map_err(|_| no_time(day)),
        (ClockOf::Place, "") => on_clock(at, zone, last),
        (_, said) if offset(said).is_some() => Err(refuse!("time_with_zone", found = typed(day))),
        _ => Err(no_time(day)),
    }
}

fn on_clock(at: DateTime, zone: &TimeZone, last: Option<Timestamp>) -> Result<Timestamp, Refusal> {
    let ambiguous = zone.to_ambiguous_timestamp(at);
    let wrong = |_| no_time(&at.to_string());
    match ambiguous.offset() {
        AmbiguousOffset::Unambiguous { .. } => ambiguous.unambiguous().map_err(wrong),
        AmbiguousOffset::Gap { .. } => Err(refuse!("time_not_on_clock", found = typed(&at.to_string()))),
        AmbiguousOffset::Fold { .. } => {
            let first = zone.to_ambiguous_timestamp(at).earlier().map_err(wrong)?;
            if last.is_some_and(|last| last >= first) { ambiguous.later().map_err(wrong) } else { Ok(first) }
        }
    }
}
