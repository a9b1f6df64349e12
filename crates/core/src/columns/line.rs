//! What one line of a file says of which system.

use super::{Column, ColumnIs, DecimalMark, How, MOST_COLUMNS, WrittenBy, cell, moment};
use crate::fact::{Clarity, Plants, Roots, Sensed, Timeline, TopOff, TopOffWater, Visit, WaterGlass};
use crate::message::{count, typed};
use crate::quantity::{Celsius, EcReading, Litres, Millimetres, Note, Ph};
use crate::refusal::Refusal;
use crate::refuse;
use crate::reservoir::LevelReading;
use crate::system::{Check, System};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use std::collections::HashMap;
use uuid::Uuid;

/// A system that a line can be about.
#[derive(Debug, Clone)]
pub struct Known {
    /// Its id.
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// The clock of its place.
    pub zone: TimeZone,
    /// How it was when.
    pub history: Timeline<System>,
}

/// What is wrong with a line, and in which cell; in none where it is the whole line.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    /// The column, from 0.
    pub column: Option<usize>,
    /// What is wrong.
    pub refusal: Refusal,
}

/// What a line says of one system.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Which of the systems that are known.
    pub system: usize,
    /// What was read.
    pub read: Sensed,
    /// Height of the water.
    pub height: Option<Millimetres>,
    /// Plain water that was added.
    pub added: Option<Litres>,
    /// How long it took, in minutes.
    pub minutes: Option<u16>,
    /// A note.
    pub note: Option<Note>,
    /// Checks that were ticked.
    pub ticks: Vec<Check>,
}

impl Line {
    /// The visit that it tells of. The paper says “tick what was done and looked sound”: a tick at a look is a sound look, as
    /// it is where the same paper is typed in by hand.
    #[must_use]
    pub fn visit(&self) -> Visit {
        let ticked = |check: Check| self.ticks.contains(&check);
        let looks = [Check::LookIn, Check::Plants, Check::Roots, Check::WaterGlass];
        Visit {
            all_fine: ticked(Check::LookIn),
            plants: ticked(Check::Plants).then(Plants::default),
            roots: ticked(Check::Roots).then(Roots::sound),
            glass: ticked(Check::WaterGlass).then_some(WaterGlass { clarity: Clarity::Clear, smell: None }),
            done: self.ticks.iter().copied().filter(|check| !looks.contains(check)).collect(),
            ..self.as_written()
        }
    }

    /// The line as it stands on the paper, its ticks as no more than ticks. What they are taken for may change with a later
    /// release; this is by what the same line is known again.
    #[must_use]
    pub fn as_written(&self) -> Visit {
        let height = self.height.map(|height_mm| LevelReading::Height { height_mm, pump_ran: true });
        let read = self.read.as_visit();
        Visit {
            level: height.or(read.level),
            top_off: self.added.map(|litres| TopOff { litres, water: TopOffWater::Plain }),
            minutes: self.minutes,
            note: self.note.clone(),
            done: self.ticks.clone(),
            ..read
        }
    }

    fn is_empty(&self) -> bool {
        let more = self.height.is_some() || self.added.is_some() || self.note.is_some() || !self.ticks.is_empty();
        self.read.is_empty() && !more
    }
}

/// Reads lines, one after the other.
pub struct LineReader<'a> {
    how: &'a How,
    systems: &'a [Known],
    by_name: HashMap<String, Option<usize>>,
    /// The last moment of each system.
    last: Vec<Option<Timestamp>>,
    time: usize,
    clock: Option<usize>,
    named: Option<usize>,
    values: Vec<(usize, Column, Option<usize>)>,
}

fn plain(name: &str) -> String {
    name.trim().to_lowercase()
}

impl<'a> LineReader<'a> {
    /// Makes ready to read lines.
    ///
    /// # Errors
    /// A refusal of how the file is to be read, at the column: no time, nothing that is read, a unit or a system that is missing.
    pub fn new(how: &'a How, systems: &'a [Known]) -> Result<Self, Refusal> {
        if how.columns.len() > MOST_COLUMNS {
            let found = count(how.columns.len());
            return Err(refuse!("columns_too_many", found = found, most = count(MOST_COLUMNS)).at("columns"));
        }
        let only = |is: ColumnIs| -> Result<Option<usize>, Refusal> {
            let mut all = how.columns.iter().enumerate().filter(|(_, column)| column.is == is).map(|(n, _)| n);
            match (all.next(), all.next()) {
                (_, Some(twice)) => Err(refuse!("column_twice").at(&format!("columns.{twice}"))),
                (first, None) => Ok(first),
            }
        };
        let (time, day, clock, named) =
            (only(ColumnIs::Time)?, only(ColumnIs::Day)?, only(ColumnIs::Clock)?, only(ColumnIs::System)?);
        let time = time.or(day).ok_or_else(|| refuse!("column_no_time").at("columns"))?;
        let by_id: HashMap<Uuid, usize> = systems.iter().enumerate().map(|(n, known)| (known.id, n)).collect();
        let known = |id: Option<Uuid>, field: &str| {
            id.map(|id| by_id.get(&id).copied().ok_or_else(|| refuse!("column_system").at(field))).transpose()
        };
        let whole = known(how.system, "system")?;
        let mut by_name: HashMap<String, Option<usize>> = HashMap::new();
        for (n, known) in systems.iter().enumerate() {
            // A name that two systems have is none.
            by_name.entry(plain(&known.name)).and_modify(|there| *there = None).or_insert(Some(n));
        }
        for (name, id) in &how.systems {
            by_name.insert(plain(name), known(Some(*id), "systems")?);
        }
        let mut values = Vec::new();
        for (n, column) in how.columns.iter().enumerate() {
            let field = format!("columns.{n}");
            if !column.is.reads() {
                continue;
            }
            if how.by == WrittenBy::Logger && column.is.only_people() {
                return Err(refuse!("column_only_people").at(&field));
            }
            match column.unit {
                None if column.is == ColumnIs::Ec => return Err(refuse!("scale_missing").at(&field)),
                None if !column.is.units().is_empty() => return Err(refuse!("column_unit").at(&field)),
                Some(unit) if !column.is.units().contains(&unit) => return Err(refuse!("column_unit").at(&field)),
                _ => {}
            }
            if column.is == ColumnIs::Tick && column.check.is_none() {
                return Err(refuse!("column_check").at(&field));
            }
            let system = known(column.system, &field)?.or(whole);
            if system.is_none() && named.is_none() {
                return Err(refuse!("column_system").at(&field));
            }
            if values.iter().any(|(_, there, of): &(usize, Column, Option<usize>)| {
                there.is == column.is && *of == system && there.check == column.check
            }) {
                return Err(refuse!("column_twice").at(&field));
            }
            values.push((n, *column, system));
        }
        if values.is_empty() {
            return Err(refuse!("column_nothing").at("columns"));
        }
        Ok(Self { how, systems, by_name, last: vec![None; systems.len()], time, clock, named, values })
    }

    fn system_named(&self, name: &str) -> Result<usize, Refusal> {
        match self.by_name.get(&plain(name)) {
            Some(Some(n)) => Ok(*n),
            Some(None) => Err(refuse!("line_system_twice", found = typed(name.trim()))),
            None => Err(refuse!("line_system", found = typed(name.trim()))),
        }
    }

    /// What a line says, for each system that it speaks of; a line on which nothing was read says nothing. `now` is where
    /// time ends.
    ///
    /// # Errors
    /// Everything that is wrong with it.
    pub fn read(&mut self, cells: &[&str], now: Timestamp, into: &mut Vec<Line>) -> Result<(), Vec<Fault>> {
        into.clear();
        if cells.iter().all(|cell| cell.trim().is_empty()) {
            return Ok(());
        }
        let mut faults = Vec::new();
        let cell = |n: usize| cells.get(n).copied().unwrap_or_default();
        if cells.len() != self.how.columns.len() {
            let (found, wanted) = (count(cells.len()), count(self.how.columns.len()));
            let refusal = refuse!("line_cells", found = found, wanted = wanted);
            return Err(vec![Fault { column: None, refusal }]);
        }
        let named = match self.named.map(|n| (n, self.system_named(cell(n)))) {
            Some((_, Ok(system))) => Some(system),
            Some((n, Err(refusal))) => {
                faults.push(Fault { column: Some(n), refusal });
                None
            }
            None => None,
        };
        for (n, column, system) in &self.values {
            let Some(system) = system.or(named) else { continue };
            let place = into.iter().position(|line| line.system == system).unwrap_or_else(|| {
                into.push(Line {
                    system,
                    read: Sensed::nothing(Timestamp::UNIX_EPOCH),
                    height: None,
                    added: None,
                    minutes: None,
                    note: None,
                    ticks: Vec::new(),
                });
                into.len() - 1
            });
            if let Err(refusal) = take(&mut into[place], *column, cell(*n), self.how.decimal) {
                faults.push(Fault { column: Some(*n), refusal });
            }
        }
        into.retain(|line| !line.is_empty());
        let told = (cell(self.time), self.clock.map(cell));
        for line in into.iter_mut() {
            let known = &self.systems[line.system];
            let (how, last) = ((self.how.day, self.how.clock), self.last[line.system]);
            match moment::moment(told, how, &known.zone, last) {
                Ok(at) => {
                    line.read.at = at;
                    self.last[line.system] = Some(at);
                    if let Err(refusal) = line.read.check(known.history.at(at), now) {
                        let column = self.column_of(&refusal.field, line.system, named);
                        faults.push(Fault { column, refusal });
                    }
                }
                Err(refusal) => {
                    faults.push(Fault { column: Some(self.time), refusal });
                    break;
                }
            }
        }
        if faults.is_empty() { Ok(()) } else { Err(faults) }
    }

    /// The column that a field of a system stands in.
    #[must_use]
    pub fn column_of(&self, field: &str, system: usize, named: Option<usize>) -> Option<usize> {
        let is = match field.split('.').next().unwrap_or_default() {
            "at" => return Some(self.time),
            "ph" => ColumnIs::Ph,
            "ec" => ColumnIs::Ec,
            "temperature" => ColumnIs::Temperature,
            "litres" | "level" => ColumnIs::Volume,
            "top_off" => ColumnIs::Added,
            "minutes" => ColumnIs::Minutes,
            "note" => ColumnIs::Note,
            "done" => ColumnIs::Tick,
            _ => return None,
        };
        let of = |(_, column, of): &&(usize, Column, Option<usize>)| {
            let there = column.is == is || (is == ColumnIs::Volume && column.is == ColumnIs::Height);
            there && of.or(named).is_none_or(|of| of == system)
        };
        self.values.iter().find(of).map(|(n, ..)| *n)
    }
}

/// Minutes are whole.
const MOST_MINUTES: f64 = 240.0;

/// Takes one cell.
fn take(line: &mut Line, column: Column, text: &str, mark: DecimalMark) -> Result<(), Refusal> {
    match column.is {
        ColumnIs::Note => {
            let text = text.trim();
            if !text.is_empty() {
                line.note = Some(Note::new(text)?);
            }
            return Ok(());
        }
        ColumnIs::Tick => {
            if cell::ticked(text)? {
                line.ticks.extend(column.check);
            }
            return Ok(());
        }
        _ => {}
    }
    let Some(value) = cell::number(text, mark)? else { return Ok(()) };
    let canonical = column.unit.map_or(value, |unit| unit.canonical(value));
    match column.is {
        ColumnIs::Ph => line.read.ph = Some(Ph::new(value)?),
        ColumnIs::Ec => {
            let scale = column.unit.and_then(super::ColumnUnit::scale).ok_or_else(|| refuse!("scale_missing"))?;
            line.read.ec = Some(EcReading { value, scale, compensated: true }.at_25(None)?);
        }
        ColumnIs::Temperature => line.read.temperature = Some(Celsius::new(canonical)?),
        ColumnIs::Volume => line.read.litres = Some(Litres::new(canonical)?),
        ColumnIs::Height => line.height = Some(Millimetres::new(canonical)?),
        ColumnIs::Added if canonical == 0.0 => {}
        ColumnIs::Added => line.added = Some(Litres::new(canonical)?),
        ColumnIs::Minutes if value.fract() == 0.0 && (1.0..=MOST_MINUTES).contains(&value) => {
            line.minutes = Some(value as u16);
        }
        ColumnIs::Minutes => {
            return Err(refuse!("cell_minutes", found = typed(text.trim()), most = count(MOST_MINUTES as u32)));
        }
        _ => {}
    }
    Ok(())
}

impl Fault {
    /// A fault of a whole line.
    #[must_use]
    pub fn of_line(refusal: Refusal) -> Self {
        Self { column: None, refusal }
    }
}
