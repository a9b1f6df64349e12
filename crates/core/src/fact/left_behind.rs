//! What is left in the top-off reservoir behind the float valve, as it was read on a visit.

use super::{Premix, PremixIn, Visit};
use crate::quantity::Litres;
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;

/// No top-off reservoir holds more, in litres.
const MOST_SUPPLY: f64 = 5000.0;

impl Visit {
    /// What was left in the top-off reservoir: as it was read in litres, else by the height of the water in it.
    #[must_use]
    pub fn left_behind(&self, system: &System) -> Option<Litres> {
        let by_height = || system.drum.as_ref()?.volume_at(self.supply_height_mm?).ok();
        self.supply.or_else(by_height)
    }

    /// Checks what was read of it.
    ///
    /// # Errors
    /// A refusal at the field: none there, read twice, a height where nobody said how large it is, more than it holds.
    pub(crate) fn check_left_behind(&self, system: &System) -> Result<(), Refusal> {
        if (self.supply.is_some() || self.supply_height_mm.is_some()) && !system.traits.top_off_reservoir {
            return Err(refuse!("supply_not_here").at("supply"));
        }
        if (self.supply.is_some() || self.supply_height_mm.is_some()) && system.drum_of.is_some() {
            return Err(refuse!("supply_elsewhere").at("supply"));
        }
        if let Some(height) = self.supply_height_mm {
            if self.supply.is_some() {
                return Err(refuse!("supply_twice").at("supply_height_mm"));
            }
            let Some(drum) = &system.drum else { return Err(refuse!("supply_without_size").at("supply_height_mm")) };
            drum.volume_at(height).at("supply_height_mm")?;
        }
        self.supply.map_or(Ok(()), |found| fits_behind(found, system).at("supply"))
    }
}

impl Premix {
    /// Checks it, and that what is behind the float valve fits there.
    ///
    /// # Errors
    /// A refusal at the field.
    pub(super) fn check_at(&self, system: &System) -> Result<(), Refusal> {
        self.check()?;
        let behind = self.into == PremixIn::TopOffReservoir;
        if behind && system.drum_of.is_some() {
            return Err(refuse!("supply_elsewhere").at("into"));
        }
        if behind { fits_behind(self.litres, system).at("litres") } else { Ok(()) }
    }
}

/// Whether the top-off reservoir holds so much.
///
/// # Errors
/// A refusal with what it holds.
fn fits_behind(found: Litres, system: &System) -> Result<(), Refusal> {
    if let Some(holds) = system.drum.as_ref().map(|drum| drum.capacity()).filter(|holds| !drum_holds(*holds, found)) {
        return Err(refuse!("supply_over_drum", found = found, most = holds));
    }
    if found.get() > MOST_SUPPLY {
        return Err(refuse!("supply_amount", found = found, most = Litres::constant(MOST_SUPPLY)));
    }
    Ok(())
}

/// A mark in gallons may be a hair over.
fn drum_holds(holds: Litres, found: Litres) -> bool {
    found <= holds * crate::reservoir::A_HAIR
}
