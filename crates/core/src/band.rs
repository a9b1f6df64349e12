//! A band of one's own, for a system or a planting, over the crop's.

use crate::figures::FIGURES;
use crate::message::ph;
use crate::quantity::{Conductivity, Ph};
use crate::refusal::Refusal;
use crate::refuse;
use serde::{Deserialize, Serialize};

/// Strength that is wanted, from one end to the other.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EcBand {
    /// Lower end.
    pub low: Conductivity,
    /// Upper end.
    pub high: Conductivity,
}

/// pH that is wanted, from one end to the other.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PhBand {
    /// Lower end.
    pub low: Ph,
    /// Upper end.
    pub high: Ph,
}

impl EcBand {
    /// Checks that the ends are in order, far enough apart for a meter, and such as plants live in.
    ///
    /// # Errors
    /// A refusal at the end that is wrong.
    pub fn check(&self) -> Result<(), Refusal> {
        let (least, most) =
            (Conductivity::constant(FIGURES.strength.rise), Conductivity::constant(FIGURES.strength.read_most));
        if (self.high - self.low).get() < least.get() - LAST_PLACES {
            return Err(refuse!("ec_band_order", low = self.low, high = self.high, least = least).at("high"));
        }
        if self.high > most {
            return Err(refuse!("ec_band_beyond", found = self.high, most = most).at("high"));
        }
        Ok(())
    }
}

impl PhBand {
    /// The band that holds where nothing else is said.
    #[must_use]
    pub fn usual() -> Self {
        Self { low: Ph::constant(FIGURES.ph.band_low), high: Ph::constant(FIGURES.ph.band_high) }
    }

    /// Checks that the ends are in order, far enough apart for a meter, and within what roots take.
    ///
    /// # Errors
    /// A refusal at the end that is wrong.
    pub fn check(&self) -> Result<(), Refusal> {
        let (least, most) = (FIGURES.ph.blocked_below, FIGURES.ph.blocked_above);
        let apart = 2.0 * FIGURES.ph.meter_error;
        if self.high.get() - self.low.get() < apart - LAST_PLACES {
            return Err(refuse!("ph_band_order", low = self.low, high = self.high, least = ph(apart)).at("high"));
        }
        for (field, end) in [("low", self.low), ("high", self.high)] {
            if !(least..=most).contains(&end.get()) {
                return Err(refuse!("ph_band_beyond", found = end, low = ph(least), high = ph(most)).at(field));
            }
        }
        Ok(())
    }

    /// What a correction aims at: the usual aim where it lies well inside, else the middle of the band.
    #[must_use]
    pub fn aim(&self) -> f64 {
        let usual = FIGURES.ph.aim;
        let margin = FIGURES.ph.meter_error;
        let inside = usual >= self.low.get() + margin && usual <= self.high.get() - margin;
        if inside { usual } else { f64::midpoint(self.low.get(), self.high.get()) }
    }

    /// Where it and another meet; `None` where they do not.
    #[must_use]
    pub fn meets(&self, other: &Self) -> Option<Self> {
        let (low, high) = (
            if self.low > other.low { self.low } else { other.low },
            if self.high < other.high { self.high } else { other.high },
        );
        (low < high).then_some(Self { low, high })
    }
}

/// What sums are off by in their last places.
const LAST_PLACES: f64 = 1e-9;
