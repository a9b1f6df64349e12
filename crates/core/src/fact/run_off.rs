//! What runs out of the pots where a timer feeds and nothing comes back.

use crate::quantity::{Celsius, Conductivity, EcReading, Litres, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;
use serde::{Deserialize, Serialize};

/// Run-off, caught under some of the pots over one feed or a day of them.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunOff {
    /// What was caught.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub caught: Option<Litres>,
    /// What the same pots were given meanwhile.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub given: Option<Litres>,
    /// Its EC.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec: Option<EcReading>,
    /// Its pH.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph: Option<PhReading>,
}

/// Two saucers of a hand's measure differ by this much.
const MISREAD: f64 = 1.05;

impl RunOff {
    /// How much of what was given ran through, 0–1; `None` where not both were measured.
    #[must_use]
    pub fn share(self) -> Option<f64> {
        let (caught, given) = (self.caught?, self.given.filter(|given| *given > Litres::ZERO)?);
        Some((caught / given).min(1.0))
    }

    /// Its strength at 25 °C.
    #[must_use]
    pub fn strength(self, temperature: Option<Celsius>) -> Option<Conductivity> {
        self.ec.and_then(|ec| ec.at_25(temperature).ok())
    }

    /// Checks it against the system that it ran out of, once it is whole.
    ///
    /// # Errors
    /// A refusal at the field: what [`Self::check_so_far`] refuses, nothing measured, one half of the share.
    pub fn check(self, system: &System, temperature: Option<Celsius>) -> Result<(), Refusal> {
        self.check_so_far(system, temperature)?;
        if self == Self::default() {
            return Err(refuse!("run_off_unmeasured"));
        }
        if self.caught.is_some() && self.given.is_none_or(|given| given <= Litres::ZERO) {
            return Err(refuse!("run_off_of_what").at("given"));
        }
        if self.given.is_some() && self.caught.is_none() {
            return Err(refuse!("run_off_not_caught").at("caught"));
        }
        Ok(())
    }

    /// Checks what was typed of it so far: the other half may be on its way.
    ///
    /// # Errors
    /// A refusal at the field: water that comes back, more caught than given, an EC that cannot be.
    pub fn check_so_far(self, system: &System, temperature: Option<Celsius>) -> Result<(), Refusal> {
        if !system.traits.to_waste {
            return Err(refuse!("run_off_comes_back"));
        }
        if let (Some(caught), Some(given)) = (self.caught, self.given)
            && caught.get() > given.get() * MISREAD
        {
            return Err(refuse!("run_off_over_given", caught = caught, given = given).at("caught"));
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(temperature).at("ec").map(|_| ()))
    }
}
