//! The one body of water of a system: its shape, what it holds, and how far still water may rise.

mod refill_limit;
mod shape;

pub(crate) use refill_limit::one_inch_up;
pub use refill_limit::{RefillLimit, RefillMethod, refill_limit, refills_needed};
pub use shape::{Mark, Shape};

pub(crate) use shape::A_HAIR;

use crate::figures::FIGURES;
use crate::quantity::{Kilograms, Litres, Millimetres, Quantity};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
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

impl Reservoir {
    /// The reservoir that is suggested for a vessel into which so much runs home, to be corrected by
    /// whoever knows it.
    #[must_use]
    pub fn suggested(shape: Shape, drain_back: Litres) -> Self {
        let figures = &FIGURES.level;
        // What runs home has to fit below the rim.
        let holds = (shape.capacity() - drain_back).or_nothing().get();
        // Down to a hundredth of a litre, so that nothing comes out above its line.
        let share = |part: f64| Litres::calculated((holds * part * 100.0).floor() / 100.0);
        let (minimum, working, maximum) =
            (share(figures.minimum_share), share(figures.working_share), share(figures.maximum_share));
        Self { minimum, working, maximum, shape }
    }

    /// Checks that minimum < working ≤ maximum ≤ what the shape holds.
    ///
    /// # Errors
    /// A refusal at the volume that is out of order, or at the shape.
    pub fn check(&self) -> Result<(), Refusal> {
        self.shape.check().at("shape")?;
        let rim = self.shape.capacity();
        if self.maximum > rim * A_HAIR {
            return Err(refuse!("maximum_over_rim", found = self.maximum, rim = rim).at("maximum"));
        }
        if self.working > self.maximum {
            return Err(refuse!("working_over_maximum", found = self.working, most = self.maximum).at("working"));
        }
        if self.working <= Litres::ZERO {
            return Err(refuse!("working_empty", found = self.working).at("working"));
        }
        if self.minimum >= self.working {
            return Err(refuse!("minimum_over_working", found = self.minimum, most = self.working).at("minimum"));
        }
        Ok(())
    }
}

/// A level as it was read.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum LevelReading {
    /// Height of the water over the floor of the vessel.
    Height {
        /// In millimetres.
        height_mm: Millimetres,
        /// Whether the pump ran. With the pump off, the drain-back stands in the vessel too.
        #[serde(default = "yes")]
        pump_ran: bool,
    },
    /// Weighed, vessel and all: 1 kg is 1 L less what the vessel weighs empty.
    Weight {
        /// What the scale shows.
        weight: Kilograms,
        /// What the empty vessel weighs, with all that hangs in it.
        tare: Kilograms,
        /// Whether the pump ran.
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

fn below_rim(litres: Litres, reservoir: &Reservoir) -> Result<Litres, Refusal> {
    let rim = reservoir.shape.capacity();
    if litres > rim * A_HAIR {
        return Err(refuse!("volume_over_rim", found = litres, rim = rim));
    }
    Ok(litres)
}

/// A level read off a scale that the vessel stands on, or hangs from.
fn by_weight(weight: Kilograms, tare: Kilograms) -> Result<Litres, Refusal> {
    if weight < tare {
        return Err(refuse!("lighter_than_tare", found = weight, tare = tare).at("weight"));
    }
    Ok(Litres::calculated(weight.get() - tare.get()))
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
            Self::Volume { litres, pump_ran } => (below_rim(litres, reservoir).at("litres")?, pump_ran),
            Self::Weight { weight, tare, pump_ran } => {
                (below_rim(by_weight(weight, tare)?, reservoir).at("weight")?, pump_ran)
            }
        };
        // With less standing there than runs home, the vessel is empty once the pump runs.
        Ok(if pump_ran { standing } else { (standing - drain_back).or_nothing() })
    }
}
