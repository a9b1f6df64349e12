//! Series of readings over time, with the bands that held at the time: a stage that is moved on
//! today leaves last month's band alone.
//!
//! [`trends`] are the readings of a stretch of the log, for a system's own page. [`history::over`] goes through the whole log:
//! readings with the estimate between them, what was drunk and taken up, the light, and in words where each of them goes.

pub mod history;
mod thin;
mod told;

pub use thin::thin;

use crate::calendar::{days_between, local_date};
use crate::crop::ec_target;
use crate::fact::{Body, CaseOutcome, Entry, Sensed, Sort, effective};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::quantity::{About, Celsius, EcReading, Litres, PhReading, Quantity};
use crate::situation::Situation;
use jiff::Timestamp;
use serde::Serialize;
use std::collections::HashSet;
use uuid::Uuid;

/// One reading in a series, with its precision.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Point {
    /// When it was read.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Lowest value that the reading allows.
    pub low: f64,
    /// Highest value that the reading allows.
    pub high: f64,
    /// Whether its meter was out of date by then.
    #[serde(skip_serializing_if = "is_false")]
    #[schema(default = false)]
    pub stale: bool,
    /// Whether so long nothing was read before it that no line leads there.
    #[serde(skip_serializing_if = "is_false")]
    #[schema(default = false)]
    pub gap: bool,
}

#[allow(clippy::trivially_copy_pass_by_ref, reason = "serde asks for it so")]
fn is_false(told: &bool) -> bool {
    !told
}

impl Point {
    /// A value at a time, with its range.
    #[must_use]
    pub fn new(at: Timestamp, low: f64, high: f64) -> Self {
        Self { at, low, high, stale: false, gap: false }
    }

    /// Its middle.
    #[must_use]
    pub fn middle(&self) -> f64 {
        f64::midpoint(self.low, self.high)
    }
}

/// A band that was wanted from a moment on, until the next one.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BandSince {
    /// From when; absent on the first one, which reaches back as far as the series does.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub since: Option<Timestamp>,
    /// Lower end.
    pub low: f64,
    /// Upper end.
    pub high: f64,
}

/// Which quantity a series is of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Measured {
    Ph,
    Ec,
    Temperature,
    Volume,
    /// Litres drunk a day, between two levels that were read; each holds since the one before.
    Drunk,
    /// Grams of dissolved nutrients taken up a day, between two times at which level and EC were read.
    Eaten,
    /// Hours of light a day.
    Light,
}

/// One quantity over time, in its canonical unit.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Trend<W = Message> {
    /// The quantity; it decides the unit of every number here.
    pub quantity: Measured,
    /// The bands that were wanted, oldest first; none where nothing is wanted.
    pub bands: Vec<BandSince>,
    /// Readings, oldest first.
    pub points: Vec<Point>,
    /// Where it stands now by the estimate, where nothing was read today: drawn otherwise than a reading.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub about: Option<Point>,
    /// The estimate between the readings, where it was asked for; drawn otherwise than they are.
    pub estimate: Vec<Point>,
    /// How many readings there are, before any was left out for drawing.
    pub readings: usize,
    /// Where it goes, in a sentence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub told: Option<W>,
}

impl<W> Trend<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Trend<V> {
        let Self { quantity, bands, points, about, estimate, readings, told } = self;
        Trend { quantity, bands, points, about, estimate, readings, told: told.map(say) }
    }
}

impl Trend {
    fn of(quantity: Measured, bands: Vec<BandSince>, points: Vec<Point>, about: Option<Point>) -> Self {
        Self { quantity, bands, readings: points.len(), points, about, estimate: Vec::new(), told: None }
    }
}

/// The estimate as a point, unless it is a reading of today.
fn about<Q: Quantity>(known: Option<About<Q>>, s: &Situation<'_>) -> Option<Point> {
    let (known, now) = (known?, s.now.timestamp());
    let fresh = known.moved.is_none() && known.read.is_some_and(|at| days_between(at, now) < FIGURES.level.fresh);
    (!fresh).then(|| Point::new(now, known.low.number(), known.high.number()))
}

/// The series while they are read off the log.
#[derive(Default)]
struct Series {
    ph: Vec<Point>,
    ec: Vec<Point>,
    temperature: Vec<Point>,
    volume: Vec<Point>,
}

fn exact(at: Timestamp, value: f64) -> Point {
    Point::new(at, value, value)
}

impl Series {
    fn water(&mut self, at: Timestamp, ph: Option<PhReading>, ec: Option<EcReading>, temperature: Option<Celsius>) {
        self.ph.extend(ph.map(|ph| match ph {
            PhReading::Kit { low, high } => Point::new(at, low.get(), high.get()),
            PhReading::Meter(value) => exact(at, value.get()),
        }));
        self.ec.extend(ec.and_then(|ec| ec.at_25(temperature).ok()).map(|ec| exact(at, ec.get())));
        self.temperature.extend(temperature.map(|temperature| exact(at, temperature.get())));
    }

    fn sensed(&mut self, sensed: &Sensed) {
        let at = sensed.at;
        self.ph.extend(sensed.ph.map(|ph| exact(at, ph.get())));
        self.ec.extend(sensed.ec.map(|ec| exact(at, ec.get())));
        self.temperature.extend(sensed.temperature.map(|temperature| exact(at, temperature.get())));
        self.volume.extend(sensed.litres.map(|litres| exact(at, litres.get())));
    }

    fn level(&mut self, at: Timestamp, volume: Litres) {
        self.volume.push(exact(at, volume.get()));
    }
}

/// Something that was done to the water, marked on the lines.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Deed {
    /// By which entry.
    pub entry: Uuid,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What.
    pub what: DeedKind,
}

/// What was done to the water.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DeedKind {
    /// It was changed.
    Change,
    /// Acid or base moved its pH.
    Dose,
    /// It was treated.
    Treatment,
    /// Water was added.
    TopOff,
    /// Something was cleaned.
    Cleaning,
    /// A case was opened.
    Case,
}

/// What was done to the water in a stretch of the log, oldest first.
#[must_use]
pub fn deeds(entries: &[Entry]) -> Vec<Deed> {
    let mut open: HashSet<&str> = HashSet::new();
    let what = |body: &Body| match body {
        Body::Change(_) => Some(DeedKind::Change),
        Body::Correction(_) => Some(DeedKind::Dose),
        Body::Treatment(_) => Some(DeedKind::Treatment),
        body if Sort::TopOff.holds(body) => Some(DeedKind::TopOff),
        body if Sort::Cleaning.holds(body) => Some(DeedKind::Cleaning),
        _ => None,
    };
    let mut deeds = Vec::new();
    for entry in effective(entries) {
        let mut add = |what| deeds.push(Deed { entry: entry.id, at: entry.at, what });
        if let Body::Visit(visit) = &entry.body {
            for look in &visit.cases {
                // It is open from its first look on, until it is gone.
                if look.outcome == CaseOutcome::Gone {
                    open.remove(look.cause.as_str());
                } else if open.insert(look.cause.as_str()) {
                    add(DeedKind::Case);
                }
            }
            if visit.dosed.is_some() {
                add(DeedKind::Dose);
            }
        }
        if let Some(what) = what(&entry.body) {
            add(what);
        }
    }
    deeds
}

/// The four series of a system from a stretch of its log.
#[must_use]
pub fn trends(entries: &[Entry], s: &Situation<'_>) -> Vec<Trend> {
    let mut series = Series::default();
    for entry in effective(entries) {
        let at = entry.at;
        match &entry.body {
            Body::Visit(visit) => {
                series.water(at, visit.ph, visit.ec, visit.temperature);
                // In the vessel that stood there then.
                if let Some(read) = visit.measured(s.history.at(at)) {
                    series.level(at, read);
                    if let Some(top_off) = visit.top_off {
                        series.level(at, read + top_off.litres);
                    }
                }
            }
            Body::Change(change) => {
                series.water(at, change.ph, change.ec, change.temperature);
                series.level(at, change.volume_after);
            }
            Body::Sensed(sensed) => series.sensed(sensed),
            Body::Correction(correction) => series.water(at, Some(correction.from), None, None),
            Body::Treatment(_) | Body::Premix(_) | Body::Withdrawn {} | Body::FromNewer | Body::Unreadable => {}
        }
    }
    let (water, stands) = (&FIGURES.water, s.water());
    let always = |low: f64, high: f64| vec![BandSince { since: None, low, high }];
    vec![
        Trend::of(Measured::Ph, ph_bands(s), series.ph, about(stands.ph(), s)),
        Trend::of(Measured::Ec, ec_bands(entries, s), series.ec, about(stands.ec(), s)),
        Trend::of(Measured::Temperature, always(water.best_low, water.best_high), series.temperature, None),
        Trend::of(Measured::Volume, volume_bands(s), series.volume, about(stands.litres(), s)),
    ]
}

/// The bands of what grew, by when.
fn ec_bands(entries: &[Entry], s: &Situation<'_>) -> Vec<BandSince> {
    let from = entries.iter().map(|entry| entry.at).min().unwrap_or(Timestamp::MIN);
    let mut turns = s.planted.turns(s.now.time_zone());
    turns.extend(s.history.segments().iter().skip(1).map(|segment| segment.start));
    turns.retain(|turn| *turn > from && *turn <= s.now.timestamp());
    turns.sort_unstable();
    let starts = std::iter::once(from).chain(turns);
    let bands = starts.filter_map(|at| {
        let on = local_date(at, s.now);
        let system = s.history.at(at);
        let fed: Vec<_> = s.planted.at(at, on).map(|planting| planting.fed(system.methods.ripening)).collect();
        let target = ec_target(&fed, system.ec_band, system.source_ec)?;
        let since = Some(at).filter(|at| *at > from);
        Some(BandSince { since, low: target.low.get(), high: target.high.get() })
    });
    joined(bands)
}

/// The system's own pH band, by when; else the one that holds now.
fn ph_bands(s: &Situation<'_>) -> Vec<BandSince> {
    joined(s.history.segments().iter().map(|segment| {
        let band = segment.says.ph_band.unwrap_or_else(|| s.ph_band());
        let since = segment.from.map(|_| segment.start);
        BandSince { since, low: band.low.get(), high: band.high.get() }
    }))
}

/// Minimum to working line of the vessel that stood there, by when.
fn volume_bands(s: &Situation<'_>) -> Vec<BandSince> {
    joined(s.history.segments().iter().map(|segment| {
        let reservoir = &segment.says.reservoir;
        let since = segment.from.map(|_| segment.start);
        BandSince { since, low: reservoir.minimum.get(), high: reservoir.working.get() }
    }))
}

/// Neighbours that want the same are one.
fn joined(bands: impl Iterator<Item = BandSince>) -> Vec<BandSince> {
    let mut joined: Vec<BandSince> = Vec::new();
    for band in bands {
        if !joined.last().is_some_and(|last| (last.low, last.high) == (band.low, band.high)) {
            joined.push(band);
        }
    }
    joined
}
