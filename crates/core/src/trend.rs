//! Series of readings over time, with the band that they are held against.

use crate::care::Situation;
use crate::crop::{PH_BAND, ec_target};
use crate::log::{Body, Entry, effective};
use crate::quantity::{EcReading, PhReading};
use jiff::Timestamp;
use serde::Serialize;

/// One reading in a series, with its precision.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Point {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Lowest value that the reading allows.
    pub low: f64,
    /// Highest value that the reading allows.
    pub high: f64,
}

/// One quantity over time, in its canonical unit.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Trend {
    /// `ph`, `ec`, `temperature` or `volume`.
    pub quantity: String,
    /// The band wanted, if there is one.
    pub band: Option<[f64; 2]>,
    /// Readings, oldest first.
    pub points: Vec<Point>,
}

/// The four series of a system from a stretch of its log.
#[must_use]
pub fn trends(entries: &[Entry], s: &Situation<'_>) -> Vec<Trend> {
    let (mut ph, mut ec, mut temperature, mut volume) = (vec![], vec![], vec![], vec![]);
    let exact = |at, value: f64| Point { at, low: value, high: value };
    for entry in effective(entries) {
        let at = entry.at;
        let mut water = |p: Option<PhReading>, e: Option<EcReading>, t: Option<crate::quantity::Celsius>| {
            ph.extend(p.map(|p| if let PhReading::Kit { low, high } = p { Point { at, low: low.get(), high: high.get() } } else { exact(at, p.middle()) }));
            ec.extend(e.and_then(|e| e.at_25(t).ok()).map(|e| exact(at, e.get())));
            temperature.extend(t.map(|t| exact(at, t.get())));
        };
        match &entry.body {
            Body::Visit(visit) => {
                water(visit.ph, visit.ec, visit.temperature);
                let read = visit.level.and_then(|l| l.volume(&s.system.reservoir, s.system.traits.drain_back).ok());
                volume.extend(read.map(|v| exact(at, v.get())));
                if let (Some(read), Some(top_off)) = (read, visit.top_off) {
                    volume.push(exact(at, read.get() + top_off.litres.get()));
                }
            }
            Body::Change(change) => {
                water(change.ph, change.ec, change.temperature);
                volume.push(exact(at, change.volume_after.get()));
            }
            Body::Correction(correction) => water(Some(correction.from), None, None),
            Body::Treatment(_) | Body::Premix(_) | Body::Withdrawn {} => {}
        }
    }
    let target = ec_target(s.plantings, s.system.source_ec).map(|t| [t.low.get(), t.high.get()]);
    let reservoir = &s.system.reservoir;
    let make = |quantity: &str, band, points| Trend { quantity: quantity.to_owned(), band, points };
    vec![
        make("ph", Some([PH_BAND.0, PH_BAND.1]), ph),
        make("ec", target, ec),
        make("temperature", Some([18.0, 22.0]), temperature),
        make("volume", Some([reservoir.minimum.get(), reservoir.working.get()]), volume),
    ]
}
