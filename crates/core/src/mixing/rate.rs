//! Rates as they are printed on labels, and what they come to in one litre.

use crate::Refusal;
use crate::quantity::{Litres, factors};
use serde::{Deserialize, Serialize};

/// What a printed rate counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum RateAmount {
    Millilitres,
    FluidOunces,
    Teaspoons,
    Tablespoons,
    Grams,
    Ounces,
}

/// What a printed rate is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum RatePer {
    /// One litre.
    Litre,
    /// So many US gallons: 1, 5 and 100 are usual.
    UsGallons(u16),
    /// So many imperial gallons.
    ImperialGallons(u16),
}

/// A rate as it is printed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct PrintedRate {
    /// The number.
    pub value: f64,
    /// Of what.
    pub amount: RateAmount,
    /// Per what.
    pub per: RatePer,
}

/// An amount of product: a liquid by volume or a salt by weight.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Amount {
    /// Millilitres of a liquid.
    Millilitres(f64),
    /// Grams of a salt.
    Grams(f64),
}

impl Amount {
    /// The bare number.
    #[must_use]
    pub fn get(self) -> f64 {
        match self {
            Self::Millilitres(value) | Self::Grams(value) => value,
        }
    }

    /// The same unit with another number.
    #[must_use]
    pub fn with(self, value: f64) -> Self {
        match self {
            Self::Millilitres(_) => Self::Millilitres(value),
            Self::Grams(_) => Self::Grams(value),
        }
    }
}

/// A rate per litre of fresh water.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rate(Amount);

/// Millilitres in a US fluid ounce, teaspoon and tablespoon; grams in an ounce.
const FLUID_OUNCE_ML: f64 = 29.573_529_562_5;
const TEASPOON_ML: f64 = FLUID_OUNCE_ML / 6.0;
const TABLESPOON_ML: f64 = FLUID_OUNCE_ML / 2.0;
const OUNCE_G: f64 = 28.349_523_125;

impl PrintedRate {
    /// The rate per litre.
    ///
    /// # Errors
    /// No rate, a negative one, one beyond 200 mL or g a litre, or 0 gallons.
    pub fn per_litre(self) -> Result<Rate, Refusal> {
        let litres = match self.per {
            RatePer::Litre => 1.0,
            RatePer::UsGallons(n) => f64::from(n) * factors::US_GALLON_L,
            RatePer::ImperialGallons(n) => f64::from(n) * factors::IMPERIAL_GALLON_L,
        };
        let unit = match self.amount {
            RateAmount::Millilitres | RateAmount::Grams => 1.0,
            RateAmount::FluidOunces => FLUID_OUNCE_ML,
            RateAmount::Teaspoons => TEASPOON_ML,
            RateAmount::Tablespoons => TABLESPOON_ML,
            RateAmount::Ounces => OUNCE_G,
        };
        let rate = self.value * unit / litres;
        if !(rate.is_finite() && rate > 0.0 && rate <= 200.0) {
            return Err(Refusal::new(
                format!("found a rate of {} that comes to {rate:.2} a litre", self.value),
                "allowed is more than 0, up to 200 mL or g a litre",
                "Read the label again: per litre, per gallon, per 5 or per 100 gallons?",
            ));
        }
        Ok(Rate(match self.amount {
            RateAmount::Grams | RateAmount::Ounces => Amount::Grams(rate),
            _ => Amount::Millilitres(rate),
        }))
    }
}

impl Rate {
    /// How much goes into so many litres of fresh water.
    #[must_use]
    pub fn into(self, fresh: Litres) -> Amount {
        self.0.with(self.0.get() * fresh.get())
    }
}
