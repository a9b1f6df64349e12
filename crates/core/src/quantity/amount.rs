//! Amounts of product: liquids by the millilitre, salts by the gram.

use crate::message::{Param, Unit, plain};
use crate::quantity::Litres;
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};
use std::ops::Mul;

/// What amounts of a product are counted in: liquids by volume, salts by weight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AmountUnit {
    /// Millilitres.
    Ml,
    /// Grams.
    G,
}

impl AmountUnit {
    /// The same, as a sentence names it.
    #[must_use]
    pub fn unit(self) -> Unit {
        match self {
            Self::Ml => Unit::Millilitres,
            Self::G => Unit::Grams,
        }
    }
}

/// An amount of product.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(try_from = "WireAmount")]
pub struct Amount {
    /// How much, 0 to 100 000.
    #[schema(minimum = 0, maximum = 100_000)]
    pub value: f64,
    /// Of what.
    pub unit: AmountUnit,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct WireAmount {
    value: f64,
    unit: AmountUnit,
}

impl TryFrom<WireAmount> for Amount {
    type Error = Refusal;
    fn try_from(wire: WireAmount) -> Result<Self, Refusal> {
        if (0.0..=100_000.0).contains(&wire.value) {
            return Ok(Self { value: wire.value, unit: wire.unit });
        }
        Err(refuse!("amount_out_of_bounds", found = plain(wire.value)))
    }
}

impl Amount {
    /// So many millilitres.
    #[must_use]
    pub fn ml(value: f64) -> Self {
        Self { value, unit: AmountUnit::Ml }
    }

    /// So many grams.
    #[must_use]
    pub fn grams(value: f64) -> Self {
        Self { value, unit: AmountUnit::G }
    }

    /// The same unit with another number.
    #[must_use]
    pub fn with(self, value: f64) -> Self {
        Self { value, ..self }
    }
}

impl Mul<Litres> for Amount {
    type Output = Self;
    /// A rate for one litre, over so many of them.
    fn mul(self, litres: Litres) -> Self {
        self.with(self.value * litres.get())
    }
}

impl Mul<f64> for Amount {
    type Output = Self;
    /// A share of it; 0 or more.
    fn mul(self, share: f64) -> Self {
        self.with(self.value * share)
    }
}

impl From<Amount> for Param {
    fn from(amount: Amount) -> Self {
        Self::Number(amount.value, amount.unit.unit())
    }
}

/// Millilitres in a US fluid ounce.
pub const FLUID_OUNCE_ML: f64 = 29.573_529_562_5;
/// Millilitres in a US teaspoon: a sixth of a fluid ounce.
pub const TEASPOON_ML: f64 = FLUID_OUNCE_ML / 6.0;
/// Millilitres in a US tablespoon: half a fluid ounce.
pub const TABLESPOON_ML: f64 = FLUID_OUNCE_ML / 2.0;
/// Millilitres in a US cup: eight fluid ounces.
pub const CUP_ML: f64 = FLUID_OUNCE_ML * 8.0;
/// Grams in an avoirdupois ounce.
pub const OUNCE_G: f64 = 28.349_523_125;
