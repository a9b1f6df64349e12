//! The vessels of one loop, each read by itself.

use super::Visit;
use crate::figures::FIGURES;
use crate::message::count;
use crate::quantity::{Litres, Quantity};
use crate::refusal::Refusal;
use crate::refuse;
use crate::reservoir::LevelReading;
use crate::system::System;
use serde::{Deserialize, Serialize};

/// What stood in each of the vessels that share one water.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EachVessel {
    /// Litres in each, in the order of the loop, 2–24 of them.
    pub litres: Vec<Litres>,
    /// Whether the pump ran.
    #[serde(default = "yes")]
    pub pump_ran: bool,
}

fn yes() -> bool {
    true
}

/// The longest loop.
const MOST_VESSELS: usize = 24;

impl EachVessel {
    /// All of them together.
    #[must_use]
    pub fn sum(&self) -> Litres {
        Litres::calculated(self.litres.iter().map(|litres| litres.get()).sum())
    }

    /// The one that stands lowest, counted from 1, with its litres, where it stands so far below the fullest that they are not
    /// joined any more: water in joined vessels of one size stands level.
    #[must_use]
    pub fn apart(&self) -> Option<Apart> {
        let fullest = self.litres.iter().copied().reduce(|a, b| if b > a { b } else { a })?;
        let lowest = self.litres.iter().enumerate().min_by(|a, b| a.1.get().total_cmp(&b.1.get()))?;
        let far = (fullest.get() - lowest.1.get()) > fullest.get() * FIGURES.level.vessels_apart;
        (far && self.pump_ran).then_some(Apart { which: lowest.0 + 1, lowest: *lowest.1, fullest })
    }

    fn check(&self) -> Result<(), Refusal> {
        if !(2..=MOST_VESSELS).contains(&self.litres.len()) {
            let (found, most) = (count(self.litres.len()), count(MOST_VESSELS));
            return Err(refuse!("vessels_count", found = found, most = most).at("litres"));
        }
        Ok(())
    }
}

/// Vessels of one loop that do not stand level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Apart {
    /// Which stands lowest, counted from 1 in the order of the loop.
    pub which: usize,
    /// What stands in it.
    pub lowest: Litres,
    /// What stands in the fullest.
    pub fullest: Litres,
}

impl Visit {
    /// The level as it was read: of the whole, else of each vessel together.
    #[must_use]
    pub fn read_level(&self) -> Option<LevelReading> {
        let each =
            || self.vessels.as_ref().map(|each| LevelReading::Volume { litres: each.sum(), pump_ran: each.pump_ran });
        self.level.or_else(each)
    }

    /// Checks what was read of each vessel.
    ///
    /// # Errors
    /// A refusal at the field: read twice, one vessel or too many, water that is not shared.
    pub(crate) fn check_vessels(&self, system: &System) -> Result<(), Refusal> {
        let Some(each) = &self.vessels else { return Ok(()) };
        if !system.traits.circulates {
            return Err(refuse!("vessels_not_joined").at("vessels"));
        }
        if self.level.is_some() {
            return Err(refuse!("level_twice").at("vessels"));
        }
        each.check().map_err(|refusal| refusal.at("vessels"))
    }
}
