//! The whole log of a system gone through once: what was read, the estimate between the readings, what was drunk and what
//! was taken up, with the bands that held at the time, and in words where each of them goes.

use super::{BandSince, Measured, Point, Trend, deeds, ec_bands, thin, told, trends};
use crate::calendar::{after, days_between};
use crate::care::routine::interval;
use crate::care::slack;
use crate::fact::{Body, Entry, Sensed, effective};
use crate::figures::FIGURES;
use crate::projection::{Known, Standing};
use crate::quantity::{About, Quantity};
use crate::situation::Situation;
use crate::system::{Check, System};
use crate::trend::DeedKind;
use jiff::Timestamp;

/// A stretch of time that is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Span {
    /// From this moment on.
    pub from: Timestamp,
    /// Before this moment.
    pub to: Timestamp,
}

impl Span {
    /// Whether a moment lies in it.
    #[must_use]
    pub fn holds(&self, at: Timestamp) -> bool {
        self.from <= at && at < self.to
    }
}

/// What is carried on through the log.
#[derive(Default)]
struct Carried {
    ph: Vec<Point>,
    ec: Vec<Point>,
    volume: Vec<Point>,
    drunk: Vec<Point>,
    eaten: Vec<Point>,
    light: Vec<Point>,
    /// When the meter was calibrated.
    calibrated: Vec<Timestamp>,
    /// Litres that stood there after the last level that was read, with what was added since.
    level: Option<(Timestamp, f64)>,
}

/// Days from one estimate to the next, between two entries.
const STEP: f64 = 1.0;
/// Days after an entry that are estimated: beyond, nobody knows anything.
const FURTHEST: f64 = 30.0;

impl Carried {
    /// The estimate day by day from one entry to the next, and at both.
    fn estimate(&mut self, from: Timestamp, to: Timestamp, known: &Known, system: &System, span: Span) {
        let days = days_between(from, to).min(FURTHEST);
        let steps = (days / STEP).floor() as u32;
        let last = after(from, days);
        let times = (0..=steps).map(|n| after(from, f64::from(n) * STEP)).chain([last]);
        for at in times.filter(|at| span.holds(*at)) {
            let water: Standing = known.water.clone().carried(at, known, system);
            let point = |low: f64, high: f64| Point::new(at, low, high);
            fn add<Q: Quantity>(into: &mut Vec<Point>, about: Option<About<Q>>, point: impl Fn(f64, f64) -> Point) {
                into.extend(about.map(|about| point(about.low.number(), about.high.number())));
            }
            add(&mut self.ph, water.ph(), point);
            add(&mut self.ec, water.ec(), point);
            add(&mut self.volume, water.litres(), point);
        }
    }

    /// What was drunk since the last level that was read.
    fn level(&mut self, entry: &Entry, system: &System, span: Span) {
        match &entry.body {
            Body::Visit(visit) => {
                let added = visit.top_off.map_or(0.0, |top_off| top_off.litres.get());
                let drained = visit.drained.map_or(0.0, Quantity::number);
                match (visit.measured(system).map(Quantity::number), &mut self.level) {
                    (Some(read), level) => {
                        if let Some((since, stood)) = *level {
                            let days = days_between(since, entry.at);
                            let a_day = (stood - read) / days;
                            if days >= FIGURES.uptake.shortest && a_day >= 0.0 && span.holds(entry.at) {
                                let gap = self.drunk.last().is_none_or(|last| last.at < since);
                                self.drunk.push(Point { gap, ..Point::new(entry.at, a_day, a_day) });
                            }
                        }
                        self.level = Some((entry.at, read + added - drained));
                    }
                    (None, Some((_, stood))) => *stood += added - drained,
                    (None, None) => {}
                }
            }
            Body::Change(change) => self.level = Some((entry.at, change.volume_after.get())),
            _ => {}
        }
    }

    /// What was taken up, where the ledger closed a stretch with this entry.
    fn eaten(&mut self, at: Timestamp, before: usize, known: &Known, span: Span) {
        let ledger = &known.lessons.ledger;
        // Only the last few are kept: a new one is known by that it ends now.
        let Some(stretch) = ledger.stretches.last().filter(|_| ledger.closed() != before) else { return };
        if span.holds(at) && stretch.days > 0.0 {
            let grams = |salt: f64| salt.max(0.0) * FIGURES.strength.grams / stretch.days;
            let (salt, off) = (stretch.salt.get(), stretch.off);
            self.eaten.push(Point::new(at, grams(salt - off), grams(salt + off)));
        }
    }
}

/// Every reading of a logger in its place among those that were written down, instead of what its days came to.
fn every_one(trend: &mut Trend, sensed: &[Sensed]) {
    let value = |one: &Sensed| match trend.quantity {
        Measured::Ph => one.ph.map(Quantity::number),
        Measured::Ec => one.ec.map(Quantity::number),
        Measured::Temperature => one.temperature.map(Quantity::number),
        Measured::Volume => one.litres.map(Quantity::number),
        Measured::Drunk | Measured::Eaten | Measured::Light => None,
    };
    trend.points.extend(sensed.iter().filter_map(|one| value(one).map(|value| Point::new(one.at, value, value))));
    trend.points.sort_by_key(|point| point.at);
    trend.readings = trend.points.len();
}

/// Everything that is drawn of a system over a span, each at most about so many points. `entries` is its whole log, in
/// the order of recording, with what a logger's days came to; `sensed` are the logger's readings in the span.
#[must_use]
pub fn over(entries: &[Entry], sensed: &[Sensed], span: Span, most: usize, s: &Situation<'_>) -> Vec<Trend> {
    let all = effective(entries);
    let (mut known, mut carried) = (Known::default(), Carried::default());
    for (n, entry) in all.iter().enumerate().filter(|(_, entry)| entry.at < span.to) {
        let system = s.history.at(entry.at);
        let closed = known.lessons.ledger.closed();
        known.apply(entry, system);
        carried.level(entry, system, span);
        carried.eaten(entry.at, closed, &known, span);
        if let Body::Visit(visit) = &entry.body {
            if visit.done.contains(&Check::Calibrate) {
                carried.calibrated.push(entry.at);
            }
            let hours = visit.lamp.and_then(|lamp| lamp.hours).filter(|_| span.holds(entry.at));
            carried.light.extend(hours.map(|hours| Point::new(entry.at, hours, hours)));
        }
        let next = all.get(n + 1).map_or(s.now.timestamp(), |next| next.at).min(span.to);
        if next > span.from {
            carried.estimate(entry.at, next, &known, system, span);
        }
    }
    // Where every reading of a logger is drawn, what its days came to is not drawn beside it.
    let drawn_whole = |entry: &Entry| sensed.is_empty() || !matches!(entry.body, Body::Sensed(_));
    let here = all.iter().filter(|entry| span.holds(entry.at) && drawn_whole(entry));
    let within: Vec<Entry> = here.map(|entry| (*entry).clone()).collect();
    let now_in = span.holds(s.now.timestamp());
    let changed = deeds(&within).into_iter().rev().find(|deed| deed.what == DeedKind::Change).map(|deed| deed.at);
    let mut drawn: Vec<Trend> = trends(&within, s);
    for trend in &mut drawn {
        every_one(trend, sensed);
        trend.about = trend.about.filter(|_| now_in);
        trend.estimate = match trend.quantity {
            Measured::Ph => std::mem::take(&mut carried.ph),
            Measured::Ec => std::mem::take(&mut carried.ec),
            Measured::Volume => std::mem::take(&mut carried.volume),
            _ => Vec::new(),
        };
        if trend.quantity == Measured::Ec {
            trend.bands = ec_bands(&within, s);
        }
        if matches!(trend.quantity, Measured::Ph | Measured::Ec) {
            out_of_date(&mut trend.points, &carried.calibrated, s);
        }
    }
    let light =
        s.light_target().map(|target| vec![BandSince { since: None, low: target.hours[0], high: target.hours[1] }]);
    drawn.push(Trend::of(Measured::Drunk, Vec::new(), carried.drunk, None));
    // What runs through the pots is not eaten: where a timer feeds, nobody knows what is.
    let eaten = if s.system.traits.to_waste { Vec::new() } else { carried.eaten };
    drawn.push(Trend::of(Measured::Eaten, Vec::new(), eaten, None));
    drawn.push(Trend::of(Measured::Light, light.unwrap_or_default(), carried.light, None));
    for trend in &mut drawn {
        if !matches!(trend.quantity, Measured::Drunk | Measured::Eaten) {
            gaps(&mut trend.points);
        }
        trend.told = told::told(trend, changed, s);
        trend.points = thin(&trend.points, most);
        trend.estimate = thin(&trend.estimate, most);
    }
    drawn
}

const HOURS_A_DAY: f64 = 24.0;

/// A reading long after the last one has no line to it: four times as long as usual here, and a week at least; a logger's
/// after a quarter of a day.
fn gaps(points: &mut [Point]) {
    let apart: Vec<f64> = points.windows(2).map(|pair| days_between(pair[0].at, pair[1].at)).collect();
    let usual = crate::statistics::median(&apart).unwrap_or(0.0);
    let figures = &FIGURES.sensed;
    let dense = usual < figures.dense_hours / HOURS_A_DAY;
    let least = if dense { figures.dense_gap / HOURS_A_DAY } else { FIGURES.trend.gap_days };
    let long = (usual * FIGURES.trend.gap_times).max(least);
    for (n, days) in apart.iter().enumerate() {
        points[n + 1].gap = *days > long;
    }
}

/// A reading is marked where the meter should have been calibrated long before. Where nobody ever wrote one down, nothing
/// is known of it.
fn out_of_date(points: &mut [Point], calibrated: &[Timestamp], s: &Situation<'_>) {
    let Some(every) = interval(Check::Calibrate, s) else { return };
    let fresh = f64::from(every) + slack(Check::Calibrate, s).days;
    for point in points {
        let last = calibrated.iter().rev().find(|at| **at <= point.at);
        // A drop kit is not calibrated.
        let by_meter = point.low == point.high;
        point.stale = by_meter && last.is_some_and(|at| days_between(*at, point.at) > fresh);
    }
}
