//! Rates as they are printed on labels, and what they come to in one litre.

use super::product::OwnMeasure;
use crate::Refusal;
use crate::quantity::{Litres, Name, factors};
use serde::{Deserialize, Serialize};

/// What a printed rate counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum RateAmount {
    Millilitres,
    FluidOunces,
    Teaspoons,
    Tablespoons,
    Grams,
    Ounces,
    /// A cap or scoop of one's own, named in `measure`.
    OwnMeasure,
}

/// The water that a printed rate is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum RateVolume {
    Litre,
    UsGallon,
    ImperialGallon,
}

impl RateVolume {
    /// Litres in one of it.
    #[must_use]
    pub fn litres(self) -> f64 {
        match self {
            Self::Litre => 1.0,
            Self::UsGallon => factors::US_GALLON_L,
            Self::ImperialGallon => factors::IMPERIAL_GALLON_L,
        }
    }
}

/// A rate as it is printed: “2.5 mL per litre”, “8.5 oz per 100 gallons”, “2 caps per 5 gallons”.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PrintedRate {
    /// The number.
    #[schema(minimum = 0)]
    pub value: f64,
    /// Of what.
    pub amount: RateAmount,
    /// Which of the product's own measures, where the rate counts those.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measure: Option<Name>,
    /// Per how many of the volume: 1, 5 and 100 are usual; 1–1000.
    #[serde(default = "one")]
    pub per: u16,
    /// Per which volume of water.
    pub volume: RateVolume,
}

fn one() -> u16 {
    1
}

/// What amounts of a product are counted in: liquids by volume, salts by weight.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum AmountUnit {
    /// Millilitres.
    Ml,
    /// Grams.
    G,
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
        Err(Refusal::new(format!("found an amount of {}", wire.value), "allowed is 0 to 100000 mL or g", "Check the number and its unit."))
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

/// Millilitres in a US fluid ounce, teaspoon, tablespoon and cup; grams in an ounce.
pub const FLUID_OUNCE_ML: f64 = 29.573_529_562_5;
/// A sixth of a fluid ounce.
pub const TEASPOON_ML: f64 = FLUID_OUNCE_ML / 6.0;
/// Half a fluid ounce.
pub const TABLESPOON_ML: f64 = FLUID_OUNCE_ML / 2.0;
/// Eight fluid ounces.
pub const CUP_ML: f64 = FLUID_OUNCE_ML * 8.0;
/// An avoirdupois ounce.
pub const OUNCE_G: f64 = 28.349_523_125;

/// The most of a feed that is believed in one litre.
const MOST_PER_LITRE: f64 = 200.0;

impl PrintedRate {
    /// The rate for one litre, in the unit of the product: `unit` is mL for a liquid and g for a
    /// salt, `density` its grams in a millilitre, `measures` the caps and scoops it is given with.
    ///
    /// # Errors
    /// No rate, a negative one, one beyond 200 mL or g a litre, per 0 of a volume; an own measure that
    /// is not named; a liquid by weight or a salt by the spoon without a density.
    pub fn per_litre(&self, unit: AmountUnit, density: Option<f64>, measures: &[OwnMeasure]) -> Result<Amount, Refusal> {
        let litres = f64::from(self.per) * self.volume.litres();
        let (size, of) = self.one(unit, measures)?;
        let rate = self.value * size / litres;
        let rate = match (of, unit, density) {
            (a, b, _) if a == b => rate,
            (AmountUnit::G, AmountUnit::Ml, Some(density)) => rate / density,
            (AmountUnit::Ml, AmountUnit::G, Some(density)) => rate * density,
            (AmountUnit::G, ..) => {
                return Err(Refusal::new(
                    "found a liquid with a rate by weight, and no density",
                    "allowed is a rate in mL, fl oz or spoons, or a density in g/mL",
                    "Weigh 100 mL of it: the grams over 100 are its density.",
                ));
            }
            (AmountUnit::Ml, ..) => {
                return Err(Refusal::new(
                    "found a salt with a rate by volume, and no density",
                    "allowed is a rate in g or oz, or the grams in a millilitre of it",
                    "Weigh ten level spoons: the grams over their millilitres are its density.",
                ));
            }
        };
        if !(rate.is_finite() && rate > 0.0 && rate <= MOST_PER_LITRE) {
            return Err(Refusal::new(
                if rate.abs() < 1e6 { format!("found a rate of {} that comes to {rate:.2} a litre", self.value) } else { format!("found a rate that comes to {rate:.1e} a litre") },
                format!("allowed is more than 0, up to {MOST_PER_LITRE} mL or g a litre"),
                "Read the label again: per litre, per gallon, per 5 or per 100 gallons?",
            ));
        }
        Ok(Amount { value: rate, unit })
    }

    /// What one of the counted amount comes to, in mL or g.
    fn one(&self, unit: AmountUnit, measures: &[OwnMeasure]) -> Result<(f64, AmountUnit), Refusal> {
        Ok(match self.amount {
            RateAmount::Millilitres => (1.0, AmountUnit::Ml),
            RateAmount::FluidOunces => (FLUID_OUNCE_ML, AmountUnit::Ml),
            RateAmount::Teaspoons => (TEASPOON_ML, AmountUnit::Ml),
            RateAmount::Tablespoons => (TABLESPOON_ML, AmountUnit::Ml),
            RateAmount::Grams => (1.0, AmountUnit::G),
            RateAmount::Ounces => (OUNCE_G, AmountUnit::G),
            RateAmount::OwnMeasure => {
                let found = measures.iter().find(|own| Some(&own.name) == self.measure.as_ref());
                let own = found.ok_or_else(|| {
                    let names: Vec<&str> = measures.iter().map(|own| own.name.as_str()).collect();
                    let known = if names.is_empty() { "none yet".to_owned() } else { names.join(", ") };
                    Refusal::new(
                        format!("found the measure “{}”", self.measure.as_ref().map_or("", |name| name.as_str())),
                        format!("allowed are the product's own measures: {known}"),
                        "Add the cap or scoop to the product, with what it holds.",
                    )
                    .at("measure")
                })?;
                (own.holds, unit)
            }
        })
    }

    /// As it is printed: "8.5 oz per 100 US gal".
    #[must_use]
    pub fn say(&self) -> String {
        let amount = match self.amount {
            RateAmount::Millilitres => "mL",
            RateAmount::FluidOunces => "fl oz",
            RateAmount::Teaspoons => "tsp",
            RateAmount::Tablespoons => "tbsp",
            RateAmount::Grams => "g",
            RateAmount::Ounces => "oz",
            RateAmount::OwnMeasure => self.measure.as_ref().map_or("measure", |name| name.as_str()),
        };
        let volume = match self.volume {
            RateVolume::Litre => "L",
            RateVolume::UsGallon => "US gal",
            RateVolume::ImperialGallon => "imp gal",
        };
        let per = if self.per == 1 { String::new() } else { format!("{} ", self.per) };
        format!("{} {amount} per {per}{volume}", self.value)
    }
}

/// How much goes into so many litres at a rate for one litre.
#[must_use]
pub fn into_litres(per_litre: Amount, litres: Litres) -> Amount {
    per_litre.with(per_litre.value * litres.get())
}
