//! What a logger reads by itself, many times a day, and what of it is judged by.
//!
//! Nobody stands at the tank when a logger reads, so it does no check that wants eyes. Its readings are kept as they came; a
//! day of them is condensed to what a person would have written down: the water as it stood last, and how warm it got.

use super::Visit;
use crate::figures::FIGURES;
use crate::quantity::{Celsius, Conductivity, EcReading, Litres, Ph, PhReading, Quantity};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::reservoir::LevelReading;
use crate::statistics::median;
use crate::system::System;
use jiff::{SignedDuration, Timestamp};
use std::collections::BTreeMap;

/// One reading of a logger: whatever of it was read at one moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sensed {
    /// When.
    pub at: Timestamp,
    /// pH.
    pub ph: Option<Ph>,
    /// EC at 25 °C.
    pub ec: Option<Conductivity>,
    /// The water's temperature.
    pub temperature: Option<Celsius>,
    /// What stands in the vessel.
    pub litres: Option<Litres>,
}

impl Sensed {
    /// Nothing yet, at a moment.
    #[must_use]
    pub fn nothing(at: Timestamp) -> Self {
        Self { at, ph: None, ec: None, temperature: None, litres: None }
    }

    /// Whether nothing was read.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.ph.is_none() && self.ec.is_none() && self.temperature.is_none() && self.litres.is_none()
    }

    /// Checks a reading on its system as it was then.
    ///
    /// # Errors
    /// A refusal at the field: dated to come or before there were loggers, more water than the vessel holds.
    pub fn check(&self, system: &System, now: Timestamp) -> Result<(), Refusal> {
        // A logger's clock runs a little ahead; a day ahead is another matter.
        let ahead = SignedDuration::from_secs((FIGURES.sensed.ahead_minutes * 60.0) as i64);
        if self.at.duration_since(now) > ahead {
            return Err(refuse!("time_to_come", found = self.at.to_string(), now = now.to_string()).at("at"));
        }
        if self.at.as_second() < EARLIEST {
            return Err(refuse!("time_long_ago", found = self.at.to_string()).at("at"));
        }
        let level = self.litres.map(|litres| LevelReading::Volume { litres, pump_ran: true });
        let volume = level.map(|level| level.volume(&system.reservoir, system.traits.drain_back));
        volume.transpose().at("litres").map(|_| ())
    }

    /// What there is of it in `there` already, and what is new. A value that says something else than what is there is an
    /// error: which of them is right, nobody here knows.
    ///
    /// # Errors
    /// The name of the field that differs.
    pub fn beyond(&self, there: &Self) -> Result<Self, &'static str> {
        fn fresh<Q: Quantity>(new: Option<Q>, old: Option<Q>, name: &'static str) -> Result<Option<Q>, &'static str> {
            match (new, old) {
                (Some(new), Some(old)) if new.number().to_bits() != old.number().to_bits() => Err(name),
                (_, Some(_)) => Ok(None),
                (new, None) => Ok(new),
            }
        }
        Ok(Self {
            at: self.at,
            ph: fresh(self.ph, there.ph, "ph")?,
            ec: fresh(self.ec, there.ec, "ec")?,
            temperature: fresh(self.temperature, there.temperature, "temperature")?,
            litres: fresh(self.litres, there.litres, "litres")?,
        })
    }

    /// Both together.
    #[must_use]
    pub fn with(&self, other: &Self) -> Self {
        Self {
            at: self.at,
            ph: self.ph.or(other.ph),
            ec: self.ec.or(other.ec),
            temperature: self.temperature.or(other.temperature),
            litres: self.litres.or(other.litres),
        }
    }

    /// What a person would have written down who read the same.
    #[must_use]
    pub fn as_visit(&self) -> Visit {
        Visit {
            level: self.litres.map(|litres| LevelReading::Volume { litres, pump_ran: true }),
            temperature: self.temperature,
            ph: self.ph.map(PhReading::Meter),
            ec: self.ec.map(EcReading::worked_out),
            ..Visit::default()
        }
    }
}

/// 1 January 2000: no reading of a hydroponic logger is older, and clocks that were never set begin before it.
const EARLIEST: i64 = 946_684_800;

/// When the water of a vessel was touched, and how long it takes until a reading says what stands there again.
#[derive(Debug, Clone, Copy)]
pub struct Stirred<'a> {
    /// The moments, oldest first.
    pub at: &'a [Timestamp],
    /// Until it has mixed.
    pub settles: SignedDuration,
}

impl Stirred<'_> {
    /// Water that nobody touched.
    pub const NEVER: Self = Self { at: &[], settles: SignedDuration::ZERO };

    /// Whether a reading says what stands there: not while something that was poured mixes.
    fn settled(&self, at: Timestamp) -> bool {
        self.at.iter().all(|poured| at < *poured || at.duration_since(*poured) >= self.settles)
    }

    /// The last time before a moment.
    fn before(&self, at: Timestamp) -> Timestamp {
        self.at.iter().rev().find(|poured| **poured <= at).copied().unwrap_or(Timestamp::MIN)
    }
}

/// The median of what one quantity read in the last minutes before its last reading, and since the water was last touched;
/// with that reading's time.
fn last<Q: Quantity>(
    day: &[Sensed],
    stirred: Stirred<'_>,
    of: impl Fn(&Sensed) -> Option<Q>,
) -> Option<(Timestamp, f64)> {
    let at = day.iter().rev().find(|one| of(one).is_some())?.at;
    let window = SignedDuration::from_secs((FIGURES.sensed.last_minutes * 60.0) as i64);
    let from = stirred.before(at);
    let recent = day.iter().rev().filter(|one| one.at <= at && one.at >= from);
    let recent = recent.take_while(|one| at.duration_since(one.at) <= window);
    let values: Vec<f64> = recent.filter_map(|one| of(one).map(Quantity::number)).collect();
    Some((at, median(&values)?))
}

/// The warmest hour of a day: when it ended, and the median in it.
fn warmest(day: &[Sensed]) -> Option<(Timestamp, f64)> {
    let mut hours: BTreeMap<i64, (Timestamp, Vec<f64>)> = BTreeMap::new();
    for one in day {
        if let Some(temperature) = one.temperature {
            let hour = hours.entry(one.at.as_second().div_euclid(3600)).or_insert((one.at, Vec::new()));
            hour.0 = one.at;
            hour.1.push(temperature.get());
        }
    }
    let hours = hours.into_values().filter_map(|(at, values)| Some((at, median(&values)?)));
    hours.max_by(|a, b| a.1.total_cmp(&b.1))
}

/// What a day of readings comes to, oldest first: each quantity as it stood last, by the median of the last minutes, so
/// that a spike is outvoted; and the warmest hour, where it was warmer than that. What was read while something that was
/// poured mixed says nothing, and what was read before it is not mixed with what was read after: advice that was followed
/// is not given again by water that is no more. `day` are the readings of one system and one day, in order of time.
#[must_use]
pub fn condensed(day: &[Sensed], stirred: Stirred<'_>) -> Vec<Sensed> {
    let day: Vec<Sensed> = day.iter().copied().filter(|one| stirred.settled(one.at)).collect();
    let mut all = Vec::new();
    if let Some((when, value)) = last(&day, stirred, |one| one.ph) {
        all.push(Sensed { ph: Ph::new(value).ok(), ..Sensed::nothing(when) });
    }
    if let Some((when, value)) = last(&day, stirred, |one| one.ec) {
        all.push(Sensed { ec: Conductivity::new(value).ok(), ..Sensed::nothing(when) });
    }
    if let Some((when, value)) = last(&day, stirred, |one| one.litres) {
        all.push(Sensed { litres: Litres::new(value).ok(), ..Sensed::nothing(when) });
    }
    if let Some((when, value)) = last(&day, stirred, |one| one.temperature) {
        all.push(Sensed { temperature: Celsius::new(value).ok(), ..Sensed::nothing(when) });
        let peak = warmest(&day).filter(|(at, warm)| *at < when && *warm > value + FIGURES.sensed.warmer);
        if let Some((then, warm)) = peak {
            all.push(Sensed { temperature: Celsius::new(warm).ok(), ..Sensed::nothing(then) });
        }
    }
    let mut said: BTreeMap<Timestamp, Sensed> = BTreeMap::new();
    for one in all {
        said.entry(one.at).and_modify(|there| *there = there.with(&one)).or_insert(one);
    }
    said.into_values().filter(|one| !one.is_empty()).collect()
}
