//! Where a series goes, in a sentence: by the robust slope since the last change of the water, else over what is shown.

use super::{Measured, Point, Trend, thin};
use crate::calendar::{day, days_between};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, count, ph};
use crate::quantity::{Conductivity, Quantity, band};
use crate::say;
use crate::situation::Situation;
use crate::statistics::{quantile, slope};
use jiff::Timestamp;

/// As many points are enough for a slope: all pairs of them are looked at.
const ENOUGH: usize = 200;

/// The sentence on a series; nothing where nothing was read.
pub(super) fn told(trend: &Trend, changed: Option<Timestamp>, s: &Situation<'_>) -> Option<Message> {
    let all = &trend.points;
    let last = all.last()?;
    match trend.quantity {
        Measured::Ph | Measured::Ec => Some(goes(trend, changed, s)),
        Measured::Temperature => {
            let (low, high) = reach(all);
            Some(say!("trend.between", readings = count(all.len()), range = Param::Band(low, high, Unit::Celsius)))
        }
        Measured::Drunk => spread(all, Unit::LitresADay)
            .map(|(usual, range)| say!("trend.drinks", usual = usual, range = range, stretches = count(all.len()))),
        Measured::Eaten => spread(all, Unit::OneDecimal)
            .map(|(usual, range)| say!("trend.eats", usual = usual, range = range, stretches = count(all.len()))),
        Measured::Light => {
            Some(say!("trend.light", hours = Param::Number(last.middle(), Unit::Hours), day = on(last.at, s)))
        }
        Measured::Volume => None,
    }
}

fn on(at: Timestamp, s: &Situation<'_>) -> Param {
    day(s.date(at), s.today())
}

fn reach(all: &[Point]) -> (f64, f64) {
    all.iter().fold((f64::MAX, f64::MIN), |(low, high), point| (low.min(point.low), high.max(point.high)))
}

/// A range, or the number that it is.
fn narrow(low: f64, high: f64, unit: Unit) -> Param {
    if low == high { Param::Number(low, unit) } else { Param::Band(low, high, unit) }
}

/// The usual value, and from the tenth to the ninetieth of a hundred.
fn spread(all: &[Point], unit: Unit) -> Option<(Param, Param)> {
    let middles: Vec<f64> = all.iter().map(Point::middle).collect();
    let part = |q: f64| quantile(&middles, q);
    Some((Param::Number(part(0.5)?, unit), Param::Band(part(0.1)?, part(0.9)?, unit)))
}

/// Whether pH or EC climbs, falls or holds.
fn goes(trend: &Trend, changed: Option<Timestamp>, s: &Situation<'_>) -> Message {
    let since_change: Vec<Point> =
        changed.map(|at| trend.points.iter().filter(|point| point.at > at).copied().collect()).unwrap_or_default();
    let by_change = since_change.len() >= FIGURES.trend.least_readings as usize;
    let points = if by_change { since_change } else { trend.points.clone() };
    let (first, last) = (points[0], points[points.len() - 1]);
    let since = match changed.filter(|_| by_change) {
        Some(at) => say!("trend.since_change", day = on(at, s)),
        None => say!("trend.since", day = on(first.at, s)),
    };
    let is_ph = trend.quantity == Measured::Ph;
    let what = if is_ph { say!("last_of.ph.name") } else { say!("last_of.ec.name") };
    let long = days_between(first.at, last.at);
    if points.len() < FIGURES.trend.least_readings as usize || long < FIGURES.trend.least_days {
        return say!("trend.few", what = what, readings = count(points.len()), since = since);
    }
    let pairs: Vec<(f64, f64)> =
        thin(&points, ENOUGH).iter().map(|point| (days_between(first.at, point.at), point.middle())).collect();
    let a_week = slope(&pairs).unwrap_or(0.0) * 7.0;
    let least = if is_ph { FIGURES.trend.ph_moves } else { FIGURES.trend.ec_moves };
    let (low, high) = reach(&points);
    let (range, by) = if is_ph {
        (Param::Band(low, high, Unit::Ph), ph(a_week.abs()))
    } else {
        (
            band(Conductivity::calculated(low), Conductivity::calculated(high)),
            Conductivity::calculated(a_week.abs()).into(),
        )
    };
    // Less than the meter is true to, over all of the time, is no movement.
    if (a_week * long / 7.0).abs() < least {
        // The middle of many hides the one that was read a moment ago.
        let before = reach(&points[..points.len() - 1]);
        let stray = last.low > before.1 + least || last.high < before.0 - least;
        if stray {
            let unit = if is_ph { Unit::Ph } else { Unit::MilliSiemens };
            let [before, now] = [before, (last.low, last.high)].map(|(low, high)| narrow(low, high, unit));
            return say!("trend.strays", what = what, since = since, range = before, last = now, day = on(last.at, s));
        }
        if high - low > FIGURES.trend.wavers * least {
            return say!("trend.wavers", what = what, since = since, range = range);
        }
        return say!("trend.holds", what = what, since = since, range = range);
    }
    let n = count(points.len());
    if a_week > 0.0 {
        say!("trend.climbs", what = what, by = by, since = since, range = range, readings = n)
    } else {
        say!("trend.falls", what = what, by = by, since = since, range = range, readings = n)
    }
}
