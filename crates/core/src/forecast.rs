//! When the water reaches the minimum, by what the system drinks.

use crate::figures::FIGURES;
use crate::projection::Tank;
use crate::quantity::Litres;
use crate::reservoir::Reservoir;
use jiff::{SignedDuration, Timestamp};

pub use crate::projection::{Uptake, uptake};

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
