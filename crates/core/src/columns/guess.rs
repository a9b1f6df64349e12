//! What a file is like, guessed from its head and its first lines. Every guess can be changed; what is not plain is asked.

use super::moment::{says_zone, three};
use super::{
    ClockOf, Column, ColumnIs, ColumnUnit, DayOrder, DecimalMark, How, Known, Separator, WrittenBy, cell, moment,
};
use crate::figures::FIGURES;
use crate::message::{Message, typed};
use crate::say;
use crate::statistics::median;
use crate::system::checks;
use jiff::Timestamp;
use jiff::tz::TimeZone;
use serde::Serialize;
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// Something that is not plain.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Question<W = Message> {
    /// About which column, from 0; absent where it is about all of them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub column: Option<usize>,
    /// The question.
    pub said: W,
    /// Whether it has to be answered before anything can be brought in; else the guess may do.
    pub must: bool,
}

impl<W> Question<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Question<V> {
        Question { column: self.column, said: say(self.said), must: self.must }
    }
}

/// What a file is taken for.
#[derive(Debug, Clone, PartialEq)]
pub struct Guess {
    /// How it is read.
    pub how: How,
    /// What is not plain.
    pub asks: Vec<Question>,
}

/// Between two of these a separator is text.
const QUOTE: u8 = 0x22;

/// What stands between the cells: what divides the first lines into equally many, and into the most.
#[must_use]
pub fn separator(text: &str) -> Separator {
    let lines: Vec<&str> = text.lines().filter(|line| !line.trim().is_empty()).take(20).collect();
    let outside = |line: &str, mark: u8| {
        let (mut quoted, mut found) = (false, 0usize);
        for byte in line.bytes() {
            quoted ^= byte == QUOTE;
            found += usize::from(!quoted && byte == mark);
        }
        found
    };
    let score = |separator: &Separator| {
        let counts: Vec<usize> = lines.iter().map(|line| outside(line, separator.byte())).collect();
        let first = counts.first().copied().unwrap_or(0);
        let same = counts.iter().filter(|count| **count == first).count();
        // A comma that stands before tenths differs from line to line, or divides the head not at all.
        if first == 0 { (0, 0) } else { (same * 100 / counts.len().max(1), first) }
    };
    Separator::ALL
        .into_iter()
        .max_by_key(|separator| (score(separator), *separator == Separator::Semicolon))
        .unwrap_or(Separator::Comma)
}

/// In which line the head stands, from 1: the first that has as many cells as most have.
#[must_use]
pub fn head_line(rows: &[Vec<String>]) -> u32 {
    let mut counts: HashMap<usize, usize> = HashMap::new();
    rows.iter().for_each(|row| *counts.entry(row.len()).or_default() += 1);
    let usual = counts.into_iter().max_by_key(|(cells, times)| (*times, *cells)).map_or(1, |(cells, _)| cells);
    let first = rows.iter().position(|row| row.len() == usual).unwrap_or(0);
    u32::try_from(first + 1).unwrap_or(1)
}

/// A header in words: lower case, letters and digits, one space between.
fn words(header: &str) -> String {
    let lower = header.to_lowercase().replace(['µ', 'μ'], "u");
    let parts = lower.split(|c: char| !(c.is_alphanumeric() || c == '°')).filter(|part| !part.is_empty());
    parts.collect::<Vec<_>>().join(" ")
}

fn has(text: &str, any: &[&str]) -> bool {
    let parts: Vec<&str> = text.split(' ').collect();
    any.iter().any(|one| if one.contains(' ') { text.contains(one) } else { parts.contains(one) })
}

fn column(header: &str) -> Column {
    let text = words(header);
    let is = if has(&text, &["ph"]) {
        ColumnIs::Ph
    } else if has(&text, &["ec", "conductivity", "tds", "ppm", "cf"]) {
        ColumnIs::Ec
    } else if has(&text, &["added", "top off", "topped", "refill"]) {
        ColumnIs::Added
    } else if has(&text, &["air", "humidity", "co2", "light", "lux"]) {
        ColumnIs::LeftOut
    } else if has(&text, &["temp", "temperature", "°c", "°f", "celsius", "fahrenheit"]) {
        ColumnIs::Temperature
    } else if has(&text, &["minutes", "took"]) {
        ColumnIs::Minutes
    } else if has(&text, &["note", "notes", "remark", "remarks", "comment", "comments"]) {
        ColumnIs::Note
    } else if has(&text, &["level", "volume", "litres", "liters", "litre", "gal", "gallons", "height", "depth"]) {
        if has(&text, &["cm", "mm", "in", "inch", "inches", "height", "depth"]) {
            ColumnIs::Height
        } else {
            ColumnIs::Volume
        }
    } else if has(&text, &["timestamp", "datetime", "date time", "time stamp"]) {
        ColumnIs::Time
    } else if has(&text, &["date", "day"]) {
        ColumnIs::Day
    } else if has(&text, &["time", "clock", "hour"]) {
        ColumnIs::Clock
    } else if has(&text, &["system", "tower", "tank", "reservoir", "bucket"]) {
        ColumnIs::System
    } else if checks().iter().any(|facts| facts.key.code().replace('_', " ") == text) {
        ColumnIs::Tick
    } else {
        ColumnIs::LeftOut
    };
    let check =
        checks().iter().map(|facts| facts.key).find(|key| is == ColumnIs::Tick && key.code().replace('_', " ") == text);
    Column { is, unit: unit(is, &text), system: None, check }
}

/// A unit that the header names.
fn unit(is: ColumnIs, text: &str) -> Option<ColumnUnit> {
    use ColumnUnit as U;
    let named: &[(U, &[&str])] = match is {
        ColumnIs::Ec => &[
            (U::Ppm500, &["500", "ppm500"]),
            (U::Ppm640, &["640", "ppm640"]),
            (U::Ppm700, &["700", "ppm700"]),
            (U::UsCm, &["us", "us cm", "microsiemens"]),
            (U::MsCm, &["ms", "ms cm", "millisiemens"]),
        ],
        ColumnIs::Temperature => &[(U::Fahrenheit, &["°f", "f", "fahrenheit"]), (U::Celsius, &["°c", "c", "celsius"])],
        ColumnIs::Volume | ColumnIs::Added => &[
            (U::ImperialGallon, &["imperial", "imp"]),
            (U::UsGallon, &["us gal", "us gallons", "us gallon"]),
            (U::Litre, &["l", "litre", "litres", "liter", "liters"]),
        ],
        ColumnIs::Height => &[(U::Millimetre, &["mm"]), (U::Centimetre, &["cm"]), (U::Inch, &["in", "inch", "inches"])],
        _ => &[],
    };
    named.iter().find(|(_, names)| has(text, names)).map(|(unit, _)| *unit)
}

/// A unit that the values can only be of.
fn unit_by_values(column: Column, values: &[f64]) -> Option<ColumnUnit> {
    let middle = median(values)?;
    match column.is {
        // Feed is 0.5 to 4 mS/cm; hundreds could be µS/cm or any ppm.
        ColumnIs::Ec if middle < 10.0 => Some(ColumnUnit::MsCm),
        // No water that plants live in has 45 °C, nor 35 °F in a house.
        ColumnIs::Temperature if middle > 45.0 => Some(ColumnUnit::Fahrenheit),
        ColumnIs::Temperature if middle < 35.0 => Some(ColumnUnit::Celsius),
        _ => None,
    }
}

fn order(dates: &[&str]) -> (DayOrder, bool) {
    let (mut day_first, mut month_first, mut dots) = (false, false, false);
    for text in dates {
        let Some(([a, b, _], _)) = three(text.trim()) else { continue };
        if a.1 == 4 {
            return (DayOrder::YearFirst, true);
        }
        day_first |= a.0 > 12;
        month_first |= b.0 > 12;
        dots |= text.contains('.');
    }
    match (day_first, month_first, dots) {
        (false, true, _) => (DayOrder::MonthFirst, true),
        (true, _, _) | (false, false, true) => (DayOrder::DayFirst, true),
        // Seconds since 1970, or nothing that is a date.
        _ if dates.iter().all(|text| three(text.trim()).is_none()) => (DayOrder::YearFirst, true),
        (false, false, false) => (DayOrder::DayFirst, false),
    }
}

/// What a file is like by its head and its first lines. `systems` are those that it can be about.
#[must_use]
pub fn guess(separator: Separator, head: &[&str], rows: &[Vec<&str>], systems: &[Known]) -> Guess {
    let mut asks = Vec::new();
    let mut columns: Vec<Column> = head.iter().map(|header| column(header)).collect();
    let cells = |n: usize| rows.iter().filter_map(move |row| row.get(n).copied());
    if !columns.iter().any(|column| column.is == ColumnIs::Time) {
        let (day, clock) = (is_at(&columns, ColumnIs::Day), is_at(&columns, ColumnIs::Clock));
        match (day, clock) {
            // A single column named date or time has both.
            (Some(n), None) | (None, Some(n)) => columns[n].is = ColumnIs::Time,
            (None, None) => {
                let dated =
                    (0..columns.len()).find(|n| cells(*n).next().is_some_and(|text| three(text.trim()).is_some()));
                if let Some(n) = dated {
                    columns[n] = Column::of(ColumnIs::Time);
                }
            }
            _ => {}
        }
    }
    let time = is_at(&columns, ColumnIs::Time).or(is_at(&columns, ColumnIs::Day));
    if time.is_none() {
        asks.push(Question { column: None, said: say!("file.ask_time"), must: true });
    }
    let decimal = decimal(&columns, rows, separator);
    for n in 0..columns.len() {
        let values: Vec<f64> = cells(n).filter_map(|text| cell::number(text, decimal).ok().flatten()).collect();
        if columns[n].unit.is_none() {
            columns[n].unit = unit_by_values(columns[n], &values);
        }
        if columns[n].unit.is_none() && !columns[n].is.units().is_empty() {
            let said = if columns[n].is == ColumnIs::Ec {
                say!("file.ask_scale", column = typed(head[n]))
            } else {
                say!("file.ask_unit", column = typed(head[n]))
            };
            asks.push(Question { column: Some(n), said, must: true });
        }
    }
    let dates: Vec<&str> = time.map(|n| cells(n).collect()).unwrap_or_default();
    let (day, plain) = order(&dates);
    if !plain {
        asks.push(Question {
            column: time,
            said: say!("file.ask_day", found = typed(dates.first().copied().unwrap_or_default())),
            must: true,
        });
    }
    let clocks: Vec<&str> = is_at(&columns, ColumnIs::Clock).map_or_else(|| dates.clone(), |n| cells(n).collect());
    let clock = if clocks.iter().any(|text| says_zone(text)) { ClockOf::Said } else { ClockOf::Place };
    if clock == ClockOf::Place && time.is_some() {
        asks.push(Question { column: time, said: say!("file.ask_clock"), must: false });
    }
    let mut how = How {
        by: WrittenBy::People,
        separator,
        decimal,
        day,
        clock,
        head: 1,
        columns,
        system: None,
        systems: BTreeMap::new(),
    };
    name_systems(&mut how, head, systems, &mut asks);
    how.by = written_by(&how, rows, systems);
    Guess { how, asks }
}

fn is_at(columns: &[Column], is: ColumnIs) -> Option<usize> {
    columns.iter().position(|column| column.is == is)
}

fn decimal(columns: &[Column], rows: &[Vec<&str>], separator: Separator) -> DecimalMark {
    let number =
        |column: &Column| matches!(column.is, ColumnIs::Ph | ColumnIs::Ec | ColumnIs::Temperature | ColumnIs::Volume);
    let numbers: Vec<usize> = columns.iter().enumerate().filter(|(_, column)| number(column)).map(|(n, _)| n).collect();
    let cells = rows.iter().flat_map(|row| numbers.iter().filter_map(|n| row.get(*n)));
    let (mut commas, mut points) = (0, 0);
    for text in cells {
        commas += usize::from(text.contains(','));
        points += usize::from(text.contains('.'));
    }
    if commas > points || (commas == points && separator == Separator::Semicolon && commas > 0) {
        DecimalMark::Comma
    } else {
        DecimalMark::Point
    }
}

/// Which systems the file speaks of: named in a column, in the headers, or there is only one.
fn name_systems(how: &mut How, head: &[&str], systems: &[Known], asks: &mut Vec<Question>) {
    let mut found = false;
    for (n, header) in head.iter().enumerate() {
        let header = header.to_lowercase();
        // The longest name: "Shelf jars" before "Shelf".
        let named = systems
            .iter()
            .filter(|known| header.contains(&known.name.to_lowercase()))
            .max_by_key(|known| known.name.len());
        if let (Some(known), false) =
            (named, matches!(how.columns[n].is, ColumnIs::Time | ColumnIs::Day | ColumnIs::Clock | ColumnIs::LeftOut))
        {
            if how.columns[n].is == ColumnIs::System {
                continue;
            }
            how.columns[n].system = Some(known.id);
            found = true;
        }
    }
    if is_at(&how.columns, ColumnIs::System).is_none() && !found {
        match systems {
            [only] => how.system = Some(only.id),
            _ => asks.push(Question { column: None, said: say!("file.ask_system"), must: true }),
        }
    }
}

/// A logger's where most lines follow the one before within two hours.
fn written_by(how: &How, rows: &[Vec<&str>], systems: &[Known]) -> WrittenBy {
    if how.columns.iter().any(|column| column.is.only_people()) {
        return WrittenBy::People;
    }
    let Some(time) = is_at(&how.columns, ColumnIs::Time).or(is_at(&how.columns, ColumnIs::Day)) else {
        return WrittenBy::People;
    };
    let (clock, named) = (is_at(&how.columns, ColumnIs::Clock), is_at(&how.columns, ColumnIs::System));
    let zone = systems.first().map_or(TimeZone::UTC, |known| known.zone.clone());
    let mut last: HashMap<&str, Timestamp> = HashMap::new();
    let mut apart = Vec::new();
    for row in rows {
        let cell = |n: usize| row.get(n).copied().unwrap_or_default();
        let told = (cell(time), clock.map(cell));
        let Ok(at) = moment::moment(told, (how.day, how.clock), &zone, None) else { continue };
        if let Some(before) = last.insert(named.map_or("", cell), at) {
            apart.push(at.duration_since(before).as_secs_f64().abs() / 3600.0);
        }
    }
    let dense = median(&apart).is_some_and(|hours| hours < FIGURES.sensed.dense_hours);
    if dense { WrittenBy::Logger } else { WrittenBy::People }
}

/// Names in a system column that are no system's, each once, as far as they are among the first lines.
#[must_use]
pub fn unknown_names(how: &How, rows: &[Vec<&str>], systems: &[Known]) -> Vec<String> {
    let Some(n) = is_at(&how.columns, ColumnIs::System) else { return Vec::new() };
    let known: HashMap<String, Uuid> = systems.iter().map(|known| (known.name.to_lowercase(), known.id)).collect();
    let mut unknown: Vec<String> = Vec::new();
    for name in rows.iter().filter_map(|row| row.get(n)).map(|name| name.trim()) {
        let meant = how.systems.keys().any(|key| key.eq_ignore_ascii_case(name));
        if !name.is_empty() && !meant && !known.contains_key(&name.to_lowercase()) && !unknown.iter().any(|u| u == name)
        {
            unknown.push(name.to_owned());
        }
    }
    unknown
}
