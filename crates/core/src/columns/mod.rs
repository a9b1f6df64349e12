//! Files of readings, from a spreadsheet or a logger: what each column is, and what a line of it says.
//!
//! What a file is like is guessed ([`guess`]) and can be changed; what is not plain is asked, never assumed: a "ppm" without its
//! scale, a date that could be of two months, a clock without its zone. Nothing here reads a file: it is given cells.

mod cell;
mod guess;
mod line;
mod moment;

pub use guess::{Guess, Question, guess, head_line, separator, unknown_names};
pub use line::{Fault, Known, Line, LineReader};

use crate::quantity::EcScale;
use crate::system::Check;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// A file has no more columns.
pub const MOST_COLUMNS: usize = 200;

/// Who wrote it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WrittenBy {
    /// A logger: each line is a reading, a day of them counts as one.
    Logger,
    /// People: each line is a visit.
    People,
}

/// What stands between two cells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Separator {
    Comma,
    Semicolon,
    Tab,
}

impl Separator {
    /// Each of them.
    pub const ALL: [Self; 3] = [Self::Comma, Self::Semicolon, Self::Tab];

    /// As it stands in the file.
    #[must_use]
    pub fn byte(self) -> u8 {
        match self {
            Self::Comma => b',',
            Self::Semicolon => b';',
            Self::Tab => b'\t',
        }
    }
}

/// What stands before tenths.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum DecimalMark {
    Point,
    Comma,
}

/// In which order a date is written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DayOrder {
    /// 2027-03-09, or seconds since 1970.
    YearFirst,
    /// 9.3.2027
    DayFirst,
    /// 3/9/2027
    MonthFirst,
}

/// On which clock times are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ClockOf {
    /// Of the place that the system stands in, with its summer time.
    Place,
    /// UTC.
    Utc,
    /// Each line says its own zone.
    Said,
}

/// What a column is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ColumnIs {
    /// Nothing that is taken.
    LeftOut,
    /// Date and time.
    Time,
    /// The date; the time stands in another column, or it was noon.
    Day,
    /// The time of the day.
    Clock,
    /// The name of the system.
    System,
    /// pH.
    Ph,
    /// EC.
    Ec,
    /// The water's temperature.
    Temperature,
    /// What stands in the vessel.
    Volume,
    /// Height of the water over the vessel's floor. Only by people.
    Height,
    /// Plain water that was added. Only by people.
    Added,
    /// How long it took. Only by people.
    Minutes,
    /// A note. Only by people.
    Note,
    /// A check that was ticked. Only by people.
    Tick,
}

impl ColumnIs {
    /// Each of them, in the order in which they are offered.
    pub const ALL: [Self; 14] = [
        Self::LeftOut,
        Self::Time,
        Self::Day,
        Self::Clock,
        Self::System,
        Self::Ph,
        Self::Ec,
        Self::Temperature,
        Self::Volume,
        Self::Height,
        Self::Added,
        Self::Minutes,
        Self::Note,
        Self::Tick,
    ];

    /// Whether it holds something of a system, and no time or name.
    #[must_use]
    pub fn reads(self) -> bool {
        !matches!(self, Self::LeftOut | Self::Time | Self::Day | Self::Clock | Self::System)
    }

    /// Whether a logger cannot say it.
    #[must_use]
    pub fn only_people(self) -> bool {
        matches!(self, Self::Height | Self::Added | Self::Minutes | Self::Note | Self::Tick)
    }

    /// The units that it can be in; none where it has none.
    #[must_use]
    pub fn units(self) -> &'static [ColumnUnit] {
        use ColumnUnit as U;
        match self {
            Self::Ec => &[U::MsCm, U::UsCm, U::Ppm500, U::Ppm640, U::Ppm700],
            Self::Temperature => &[U::Celsius, U::Fahrenheit],
            Self::Volume | Self::Added => &[U::Litre, U::UsGallon, U::ImperialGallon],
            Self::Height => &[U::Centimetre, U::Millimetre, U::Inch],
            _ => &[],
        }
    }
}

/// The unit of a column.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum ColumnUnit {
    MsCm,
    UsCm,
    Ppm500,
    Ppm640,
    Ppm700,
    Celsius,
    Fahrenheit,
    Litre,
    UsGallon,
    ImperialGallon,
    Centimetre,
    Millimetre,
    Inch,
}

impl ColumnUnit {
    /// The scale that an EC is read on.
    #[must_use]
    pub fn scale(self) -> Option<EcScale> {
        match self {
            Self::MsCm => Some(EcScale::MilliSiemens),
            Self::UsCm => Some(EcScale::MicroSiemens),
            Self::Ppm500 => Some(EcScale::Ppm500),
            Self::Ppm640 => Some(EcScale::Ppm640),
            Self::Ppm700 => Some(EcScale::Ppm700),
            _ => None,
        }
    }

    /// A number in this unit as °C, litres or millimetres.
    #[must_use]
    pub fn canonical(self, value: f64) -> f64 {
        use crate::quantity::UnitSystem;
        match self {
            Self::Fahrenheit => (value - 32.0) / 1.8,
            Self::UsGallon => value * UnitSystem::Us.litres_per_unit(),
            Self::ImperialGallon => value * UnitSystem::Imperial.litres_per_unit(),
            Self::Centimetre => value * 10.0,
            Self::Inch => value * 25.4,
            _ => value,
        }
    }
}

/// One column.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Column {
    /// What it is.
    pub is: ColumnIs,
    /// Its unit, where it has one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<ColumnUnit>,
    /// Of which system, where every system has columns of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub system: Option<Uuid>,
    /// Which check is ticked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
}

impl Column {
    /// A column that is nothing but what it is.
    #[must_use]
    pub fn of(is: ColumnIs) -> Self {
        Self { is, unit: None, system: None, check: None }
    }
}

fn first() -> u32 {
    1
}

/// How a file is read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct How {
    /// Who wrote it.
    pub by: WrittenBy,
    /// Between cells.
    pub separator: Separator,
    /// Before tenths.
    pub decimal: DecimalMark,
    /// The order of a date.
    pub day: DayOrder,
    /// Whose clock.
    pub clock: ClockOf,
    /// In which line the head stands, from 1; what is above it is passed over.
    #[serde(default = "first")]
    #[schema(minimum = 1, maximum = 50)]
    pub head: u32,
    /// Its columns, from the left.
    pub columns: Vec<Column>,
    /// The system that all of it is about, where no column says.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub system: Option<Uuid>,
    /// Which system a name means that is not a system's own.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = BTreeMap<String, String>)]
    pub systems: BTreeMap<String, Uuid>,
}
