//! The one body of water of a system: its shape, what it holds, and how far still water may rise.

mod refill_limit;
mod shape;

pub use refill_limit::{ONE_INCH_REST_DAYS, RefillLimit, RefillMethod, refill_limit, refills_needed};
pub use shape::{Mark, Shape};

use crate::quantity::{Litres, Millimetres};
use crate::refusal::{AtField, Refusal};
use serde::{Deserialize, Serialize};

/// A reservoir: a shape and the three volumes that matter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reservoir {
    /// How height turns into litres.
    pub shape: Shape,
    /// Below this, pump or roots run dry.
    pub minimum: Litres,
    /// What it is filled to.
    pub working: Litres,
    /// Above this it spills when the pump stops.
    pub maximum: Litres,
}

/// Share of the capacity that is suggested as the minimum: pump and root tips still covered.
const MINIMUM_SHARE: f64 = 0.35;
/// Share that is suggested as the working volume.
const WORKING_SHARE: f64 = 0.85;
/// Share that is suggested as the maximum: room for what runs back when the pump stops.
const MAXIMUM_SHARE: f64 = 0.95;

impl Reservoir {
    /// The reservoir that is suggested for a vessel, to be corrected by whoever knows it.
    #[must_use]
    pub fn suggested(shape: Shape) -> Self {
        let capacity = shape.capacity().get();
        let share = |part: f64| Litres::nearest((capacity * part * 100.0).floor() / 100.0);
        Self { minimum: share(MINIMUM_SHARE), working: share(WORKING_SHARE), maximum: share(MAXIMUM_SHARE), shape }
    }

    /// Checks that minimum < working ≤ maximum ≤ what the shape holds.
    ///
    /// # Errors
    /// A refusal at the volume that is out of order, or at the shape.
    pub fn check(&self) -> Result<(), Refusal> {
        self.shape.check().at("shape")?;
        let capacity = self.shape.capacity().get();
        let (min, work, max) = (self.minimum.get(), self.working.get(), self.maximum.get());
        let say = |v: f64| format!("found {v:.1} L");
        if max > capacity * 1.0001 {
            return Err(Refusal::new(say(max), format!("allowed is up to the rim, {capacity:.1} L"), "Lower the maximum, or measure the vessel again.").at("maximum"));
        }
        if work > max {
            return Err(Refusal::new(say(work), format!("allowed is up to the maximum, {max:.1} L"), "Lower the working volume.").at("working"));
        }
        if work <= 0.0 {
            return Err(Refusal::new(say(work), "allowed is more than 0 L", "Say how much water the system runs on.").at("working"));
        }
        if min >= work {
            return Err(Refusal::new(say(min), format!("allowed is less than the working volume, {work:.1} L"), "Lower the minimum.").at("minimum"));
        }
        Ok(())
    }
}

/// A level as it was read.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "by", rename_all = "snake_case")]
pub enum LevelReading {
    /// Height of the water over the floor of the vessel.
    Height {
        /// In millimetres.
        height_mm: Millimetres,
        /// Whether the pump ran. With the pump off, the drain-back stands in the vessel too.
        #[serde(default = "yes")]
        pump_ran: bool,
    },
    /// Litres read off a scale on the vessel or the drum.
    Volume {
        /// In litres.
        litres: Litres,
        /// Whether the pump ran.
        #[serde(default = "yes")]
        pump_ran: bool,
    },
}

fn yes() -> bool {
    true
}

impl LevelReading {
    /// The volume in the vessel as it is with the pump running: the height through the shape, less
    /// the drain-back when the pump was off.
    ///
    /// # Errors
    /// A refusal when the level stands above the rim, or when a height is given for a vessel of
    /// which only the litres are known.
    pub fn volume(self, reservoir: &Reservoir, drain_back: Litres) -> Result<Litres, Refusal> {
        let (standing, pump_ran) = match self {
            Self::Height { height_mm, pump_ran } => (reservoir.shape.volume_at(height_mm).at("height_mm")?, pump_ran),
            Self::Volume { litres, pump_ran } => {
                let capacity = reservoir.shape.capacity();
                if litres.get() > capacity.get() * 1.0001 {
                    return Err(Refusal::new(
                        format!("found {:.1} L", litres.get()),
                        format!("allowed is 0 L up to the rim, {:.1} L", capacity.get()),
                        "Read the scale again, or correct the vessel's shape under Set-up.",
                    )
                    .at("litres"));
                }
                (litres, pump_ran)
            }
        };
        Ok(if pump_ran { standing } else { Litres::nearest(standing.get() - drain_back.get()) })
    }
}
