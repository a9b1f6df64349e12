//! How fast a system drinks, and when its water reaches the minimum.

use crate::calendar::days_between;
use crate::log::{State, VolumePoint};
use crate::quantity::Litres;
use crate::reservoir::Reservoir;
use crate::robust::{median, quantile};
use jiff::{SignedDuration, Timestamp};

/// Intervals shorter than this say more about the reading than about the plants.
const SHORTEST_DAYS: f64 = 0.4;

/// Water used a day: the middle, and how far the intervals spread.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Uptake {
    /// Litres a day, median of the intervals.
    pub a_day: f64,
    /// Upper quartile: a thirsty day.
    pub high: f64,
    /// From how many intervals.
    pub intervals: usize,
}

/// Litres used a day, from the intervals between two measured volumes without a change between
/// them. Water that was added unmeasured in between is counted. `None` until one interval is known.
#[must_use]
pub fn uptake(state: &State) -> Option<Uptake> {
    let mut rates = Vec::new();
    let mut from: Option<VolumePoint> = None;
    let mut added = 0.0;
    for point in &state.volumes {
        if point.changed {
            from = Some(*point);
            added = 0.0;
            continue;
        }
        let Some(before) = point.before else {
            added += point.added.get();
            continue;
        };
        if let Some(start) = from {
            let days = days_between(start.at, point.at);
            if days >= SHORTEST_DAYS {
                rates.push(((start.after.get() + added - before.get()) / days).max(0.0));
            }
        }
        from = Some(*point);
        added = 0.0;
    }
    Some(Uptake { a_day: median(&rates)?, high: quantile(&rates, 0.75)?, intervals: rates.len() })
}

/// The volume now: the last known one less what has been drunk since.
#[must_use]
pub fn volume_now(state: &State, now: Timestamp) -> Option<Litres> {
    let last = state.last_volume()?;
    let drunk = uptake(state).map_or(0.0, |u| u.a_day * days_between(last.at, now).max(0.0));
    Some(Litres::nearest(last.after.get() - drunk))
}

/// When water reaches the minimum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Minimum {
    /// On a usual day's drinking.
    pub at: Timestamp,
    /// On thirsty days.
    pub earliest: Timestamp,
    /// When to have topped off: 20 % of the way in hand.
    pub act_by: Timestamp,
}

/// Share of the time to the minimum that is kept in hand.
const IN_HAND: f64 = 0.2;

/// When the water reaches the minimum; `None` without a known uptake or where nothing is drunk.
#[must_use]
pub fn minimum_reached(state: &State, reservoir: &Reservoir) -> Option<Minimum> {
    let (last, uptake) = (state.last_volume()?, uptake(state)?);
    if uptake.a_day < 1e-6 {
        return None;
    }
    let spare = (last.after.get() - reservoir.minimum.get()).max(0.0);
    let after = |days: f64| last.at.saturating_add(SignedDuration::from_secs((days.min(3650.0) * 86_400.0) as i64)).unwrap_or(Timestamp::MAX);
    let days = spare / uptake.a_day;
    Some(Minimum { at: after(days), earliest: after(spare / uptake.high.max(uptake.a_day)), act_by: after(days * (1.0 - IN_HAND)) })
}
