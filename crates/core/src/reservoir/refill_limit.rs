//! How far still water may rise in one refill.
//!
//! In water that is neither moved nor aerated the roots above the line turn into air roots.
//! Covering them drowns the plant, so the line rises little, and seldom.

use super::Reservoir;
use crate::Refusal;
use crate::quantity::{Litres, Millimetres, Wording};
use serde::{Deserialize, Serialize};

/// How a grower guards the air roots.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RefillMethod {
    /// Moved or aerated water: no limit but the maximum.
    #[default]
    NoLimit,
    /// Refill to the highest level of the last three days, never higher.
    HoldTheLine,
    /// Raise by at most 25 mm, seven days apart. The default for still water.
    OneInch,
    /// Act at a quarter full, fill to a half: rafts with mature plants.
    QuarterToHalf,
}

/// The highest volume that a refill may reach, and why.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct RefillLimit {
    /// Fill no further than this.
    pub up_to: Litres,
    /// Litres from the present volume to there.
    pub litres: Litres,
    /// The reason, in a sentence.
    pub reason: String,
}

/// Days between refills under the one-inch method.
pub const ONE_INCH_REST_DAYS: f64 = 7.0;

/// The limit for a refill from `now_litres`.
///
/// `recent_high` is the highest volume of the last three days, `days_since_refill` counts from the
/// last one; where either is unknown the cautious reading applies.
#[must_use]
pub fn refill_limit(method: RefillMethod, reservoir: &Reservoir, now_litres: Litres, recent_high: Option<Litres>, days_since_refill: Option<f64>, wording: Wording) -> RefillLimit {
    let now = now_litres.get();
    let (target, reason) = match method {
        RefillMethod::NoLimit => (reservoir.working.get(), "Moving or aerated water: fill to the working line.".to_owned()),
        RefillMethod::HoldTheLine => {
            (recent_high.map_or(now, Litres::get), "Hold the line: no higher than the water stood in the last three days, for the roots above it breathe air.".to_owned())
        }
        RefillMethod::OneInch => {
            if let Some(days) = days_since_refill.filter(|days| *days < ONE_INCH_REST_DAYS) {
                (now, format!("The last refill was {days:.1} days ago; air roots are given seven days between two rises."))
            } else {
                let raised = one_inch_up(reservoir, now_litres);
                (raised, format!("At most {} at a time: the roots above the line have turned into air roots and drown when they are covered.", wording.length(Millimetres::INCH)))
            }
        }
        RefillMethod::QuarterToHalf => {
            let full = reservoir.shape.capacity().get();
            if now > full / 4.0 {
                (now, "Refilled only once a quarter is left: until then the roots above keep their air.".to_owned())
            } else {
                (full / 2.0, "From a quarter full up to a half, and no further: the upper roots keep their air.".to_owned())
            }
        }
    };
    let up_to = Litres::nearest(target.min(reservoir.maximum.get()).max(now));
    RefillLimit { up_to, litres: Litres::nearest(up_to.get() - now), reason }
}

/// The volume one inch above the present one. Where only litres are known, a tenth of the vessel
/// stands for the inch: vessels in use are 25 cm deep or more.
fn one_inch_up(reservoir: &Reservoir, now: Litres) -> f64 {
    match reservoir.shape.height_of(now) {
        Some(height) => {
            let rim = reservoir.shape.height().map_or(0.0, Millimetres::get);
            let raised = Millimetres::nearest((height.get() + Millimetres::INCH.get()).min(rim));
            reservoir.shape.volume_at(raised).map_or(now.get(), Litres::get)
        }
        None => now.get() + reservoir.shape.capacity().get() / 10.0,
    }
}

/// How many one-inch refills lead from one volume to another.
///
/// # Errors
/// A refusal when the wanted volume passes the vessel's maximum.
pub fn refills_needed(reservoir: &Reservoir, from: Litres, to: Litres) -> Result<u32, Refusal> {
    if to > reservoir.maximum {
        return Err(Refusal::new(format!("found a wish for {:.1} L", to.get()), format!("allowed is up to {:.1} L", reservoir.maximum.get()), "Fill to the maximum at most."));
    }
    let mut count = 0;
    let mut now = from.get();
    while now + 1e-9 < to.get() && count < 400 {
        now = one_inch_up(reservoir, Litres::nearest(now));
        count += 1;
    }
    Ok(count)
}
