//! How fast a system drinks, and when its water reaches the minimum.

use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::projection::{Tank, VolumePoint};
use crate::quantity::Litres;
use crate::reservoir::Reservoir;
use crate::statistics::{median, quantile};
use jiff::{SignedDuration, Timestamp};

/// Water used a day: the middle, and how far the intervals spread.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Uptake {
    /// Water a day, median of the intervals.
    pub a_day: Litres,
    /// Upper quartile: a thirsty day.
    pub high: Litres,
    /// From how many intervals.
    pub intervals: usize,
}

/// Water used a day, from the intervals between two measured volumes without a change between
/// them. Water that was added unmeasured in between is counted. `None` until one interval is known.
#[must_use]
pub fn uptake(tank: &Tank) -> Option<Uptake> {
    let mut rates = Vec::new();
    let mut from: Option<VolumePoint> = None;
    let mut added = Litres::ZERO;
    for point in &tank.volumes {
        if point.changed {
            from = Some(*point);
            added = Litres::ZERO;
            continue;
        }
        let Some(before) = point.before else {
            added += point.added;
            continue;
        };
        if let Some(start) = from {
            let days = days_between(start.at, point.at);
            if days >= FIGURES.uptake.shortest {
                // A level that rose by itself was misread, or filled unseen: it says nothing was drunk.
                rates.push((start.after + added - before).or_nothing().get() / days);
            }
        }
        from = Some(*point);
        added = Litres::ZERO;
    }
    let litres = |a_day: f64| Litres::new(a_day).ok();
    let (a_day, high) = (litres(median(&rates)?)?, litres(quantile(&rates, FIGURES.uptake.thirsty)?)?);
    Some(Uptake { a_day, high, intervals: rates.len() })
}

/// The volume now: the last known one less what has been drunk since, and never less than nothing.
#[must_use]
pub fn volume_now(tank: &Tank, now: Timestamp) -> Option<Litres> {
    let last = tank.last_volume()?;
    let since = days_between(last.at, now).max(0.0);
    let drunk = uptake(tank).map_or(Litres::ZERO, |uptake| uptake.a_day * since);
    Some((last.after - drunk).or_nothing())
}

/// When water reaches the minimum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Minimum {
    /// On a usual day's drinking.
    pub at: Timestamp,
    /// On thirsty days.
    pub earliest: Timestamp,
    /// When to have topped off, with some of the time in hand.
    pub act_by: Timestamp,
    /// What is drunk on a usual day.
    pub a_day: Litres,
}

/// A forecast reaches no further than this, in days.
const HORIZON: f64 = 3650.0;

/// When the water reaches the minimum; `None` without a known uptake or where nothing is drunk.
#[must_use]
pub fn minimum_reached(tank: &Tank, reservoir: &Reservoir) -> Option<Minimum> {
    let (last, uptake) = (tank.last_volume()?, uptake(tank)?);
    if uptake.a_day <= Litres::ZERO {
        return None;
    }
    let spare = (last.after - reservoir.minimum).or_nothing();
    let after = |days: f64| {
        let seconds = (days.min(HORIZON) * 86_400.0) as i64;
        last.at.saturating_add(SignedDuration::from_secs(seconds)).unwrap_or(Timestamp::MAX)
    };
    let days = spare / uptake.a_day;
    Some(Minimum {
        at: after(days),
        earliest: after(spare / uptake.high.max(uptake.a_day)),
        act_by: after(days * (1.0 - FIGURES.uptake.in_hand)),
        a_day: uptake.a_day,
    })
}
