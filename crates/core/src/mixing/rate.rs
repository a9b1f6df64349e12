//! Rates as they are printed on labels, and what they come to in one litre.

use super::product::OwnMeasure;
use crate::message::{Message, Param, count, member, plain, term};
use crate::quantity::{Amount, AmountUnit, FLUID_OUNCE_ML, Name, OUNCE_G, TABLESPOON_ML, TEASPOON_ML, factors};
use crate::refusal::Refusal;
use crate::{refuse, say};
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

/// The most of a feed that is believed in one litre.
const MOST_PER_LITRE: f64 = 200.0;

impl PrintedRate {
    /// The rate for one litre, in the unit of the product: `unit` is mL for a liquid and g for a
    /// salt, `density` its grams in a millilitre, `measures` the caps and scoops it is given with.
    ///
    /// # Errors
    /// No rate, a negative one, one beyond 200 mL or g a litre, per 0 of a volume; an own measure that
    /// is not named; a liquid by weight or a salt by the spoon without a density.
    pub fn per_litre(
        &self,
        unit: AmountUnit,
        density: Option<f64>,
        measures: &[OwnMeasure],
    ) -> Result<Amount, Refusal> {
        let litres = f64::from(self.per) * self.volume.litres();
        let (size, of) = self.one(unit, measures)?;
        let rate = self.value * size / litres;
        let rate = match (of, unit, density) {
            (a, b, _) if a == b => rate,
            (AmountUnit::G, AmountUnit::Ml, Some(density)) => rate / density,
            (AmountUnit::Ml, AmountUnit::G, Some(density)) => rate * density,
            (AmountUnit::G, ..) => return Err(refuse!("liquid_by_weight")),
            (AmountUnit::Ml, ..) => return Err(refuse!("salt_by_volume")),
        };
        if !(rate.is_finite() && rate > 0.0 && rate <= MOST_PER_LITRE) {
            let found = plain(self.value);
            return Err(refuse!("rate_unlikely", found = found, rate = plain(rate), most = plain(MOST_PER_LITRE)));
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
                    let asked = self.measure.as_ref().map_or("", Name::as_str);
                    let known: Vec<&str> = measures.iter().map(|own| own.name.as_str()).collect();
                    refuse!("own_measure_unknown", found = asked, known = known.join(", ")).at("measure")
                })?;
                (own.holds, unit)
            }
        })
    }

    /// As it is printed: "8.5 oz per 100 US gal".
    #[must_use]
    pub fn say(&self) -> Message {
        let amount = match (self.amount, &self.measure) {
            (RateAmount::Millilitres, _) => term("rate.millilitres"),
            (RateAmount::FluidOunces, _) => term("rate.fluid_ounces"),
            (RateAmount::Teaspoons, _) => term("rate.teaspoons"),
            (RateAmount::Tablespoons, _) => term("rate.tablespoons"),
            (RateAmount::Grams, _) => term("rate.grams"),
            (RateAmount::Ounces, _) => term("rate.ounces"),
            (RateAmount::OwnMeasure, Some(name)) => Param::from(name),
            (RateAmount::OwnMeasure, None) => term("rate.own_measure"),
        };
        let volume = member(
            "rate",
            match self.volume {
                RateVolume::Litre => "litre",
                RateVolume::UsGallon => "us_gallon",
                RateVolume::ImperialGallon => "imperial_gallon",
            },
        );
        let value = plain(self.value);
        if self.per == 1 {
            return say!("rate.per_one", value = value, amount = amount, volume = volume);
        }
        say!("rate.per_many", value = value, amount = amount, per = count(self.per), volume = volume)
    }
}
