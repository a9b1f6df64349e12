//! What is stirred into the water: liquids by the millilitre, salts by the gram.

use super::{PrintedRate, ProductKind};
use crate::message::{count, plain, term};
use crate::quantity::{Amount, AmountUnit, Name, Note};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use serde::{Deserialize, Serialize};

/// A cap, spoon or scoop of one's own: "my cap = 4 mL", "blue scoop = 2.5 g".
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnMeasure {
    /// What it is called.
    pub name: Name,
    /// What it holds, level: mL of a liquid, g of a salt; more than 0, up to 1000.
    #[schema(minimum = 0, maximum = 1000)]
    pub holds: f64,
}

/// A product, as its label says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Product {
    /// What it is called.
    pub name: Name,
    /// What it is; gives its place in the order of mixing.
    pub what: ProductKind,
    /// A liquid is measured in mL, a salt weighed in g.
    pub unit: AmountUnit,
    /// The rate on the label, at full strength; absent for what has none, such as pH down.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<PrintedRate>,
    /// Its caps and scoops, at most 10.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub measures: Vec<OwnMeasure>,
    /// Grams in a millilitre, 0.3–3.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub density: Option<f64>,
    /// EC rise of 1 mL or 1 g in a litre, in mS/cm, 0–10; learnt from logged batches when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rise: Option<f64>,
    /// Whether it lowers the pH of the water by itself; absent where nobody has looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lowers_ph: Option<bool>,
    /// Whether living inoculants are in it, which peroxide and chlorine would kill.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub living: bool,
    /// What the label says is in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub analysis: Option<Analysis>,
    /// Strength of a peroxide, in per cent, above 0 up to 35.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub percent: Option<f64>,
    /// Acid or base in one mL or g, in meq, above 0 up to 40, for doses worked out from alkalinity.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub meq: Option<f64>,
    /// What a pack of it cost.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<Price>,
    /// Anything to remember.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

/// What a pack of a product cost.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Price {
    /// What was paid, above 0 up to 100 000.
    pub paid: f64,
    /// In which money, as it is written: up to four letters.
    #[schema(value_type = String, example = "GBP")]
    pub money: Name,
    /// How much was in the pack, in the product's unit, above 0 up to 1 000 000.
    pub holds: f64,
}

/// Money is written in no more letters.
const MONEY: usize = 4;

impl Price {
    /// What an amount of the product costs.
    #[must_use]
    pub fn of(&self, amount: f64) -> f64 {
        amount * self.paid / self.holds
    }

    fn check(&self) -> Result<(), Refusal> {
        inside(Some(self.paid), 0.0, 100_000.0, "paid", "label.paid")?;
        inside(Some(self.holds), 0.0, 1_000_000.0, "holds", "label.holds")?;
        if self.money.as_str().chars().count() > MONEY {
            return Err(refuse!("money_long", found = &self.money, most = count(MONEY)).at("money"));
        }
        Ok(())
    }
}

/// What a label says is in a product, in per cent by weight: nitrogen, phosphate and potash as they are
/// printed, and what else is named. Absent is not said, 0 is none.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Analysis {
    /// Nitrogen, N.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub nitrogen: Option<f64>,
    /// Phosphate, P₂O₅.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub phosphate: Option<f64>,
    /// Potash, K₂O.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub potash: Option<f64>,
    /// Calcium, Ca.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub calcium: Option<f64>,
    /// Magnesium, Mg.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub magnesium: Option<f64>,
    /// Iron, Fe.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 60)]
    pub iron: Option<f64>,
}

impl Analysis {
    fn check(&self) -> Result<(), Refusal> {
        let parts = [
            ("nitrogen", self.nitrogen),
            ("phosphate", self.phosphate),
            ("potash", self.potash),
            ("calcium", self.calcium),
            ("magnesium", self.magnesium),
            ("iron", self.iron),
        ];
        for (field, part) in parts {
            inside(part.filter(|part| *part != 0.0), 0.0, MOST_PART, field, "label.part")?;
        }
        let whole: f64 = parts.iter().filter_map(|(_, part)| *part).sum();
        inside(Some(whole).filter(|whole| *whole != 0.0), 0.0, 100.0, "nitrogen", "label.parts")
    }
}

/// No salt is more of one nutrient, in per cent as labels print it.
const MOST_PART: f64 = 60.0;

/// A stronger peroxide sets fire to what it touches: not for a bench.
pub const STRONGEST_PEROXIDE: f64 = 35.0;

fn inside(found: Option<f64>, low: f64, high: f64, field: &'static str, wanted: &'static str) -> Result<(), Refusal> {
    match found {
        Some(value) if !(value.is_finite() && value > low && value <= high) => {
            let (found, low, high) = (plain(value), plain(low), plain(high));
            Err(refuse!("label_figure", found = found, low = low, high = high, wanted = term(wanted)).at(field))
        }
        _ => Ok(()),
    }
}

/// Caps and scoops of one product.
const MOST_MEASURES: usize = 10;

impl Product {
    /// Checks the numbers of the label, and that the rate can be read.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        inside(self.density, 0.3, 3.0, "density", "label.density")?;
        // What does not feed has a rise of 0.
        inside(self.rise.filter(|rise| *rise != 0.0), 0.0, 10.0, "rise", "label.rise")?;
        inside(self.percent, 0.0, STRONGEST_PEROXIDE, "percent", "label.percent")?;
        inside(self.meq, 0.0, 40.0, "meq", "label.meq")?;
        self.analysis.map_or(Ok(()), |analysis| analysis.check()).at("analysis")?;
        self.price.as_ref().map_or(Ok(()), Price::check).at("price")?;
        if self.measures.len() > MOST_MEASURES {
            let (found, most) = (count(self.measures.len()), count(MOST_MEASURES));
            return Err(refuse!("too_many_measures", found = found, most = most).at("measures"));
        }
        for own in &self.measures {
            inside(Some(own.holds), 0.0, 1000.0, "measures", "label.measure")?;
        }
        if self.what == ProductKind::Peroxide && self.percent.is_none() {
            return Err(refuse!("peroxide_without_strength").at("percent"));
        }
        if self.rate.is_some() { self.per_litre(None).map(|_| ()) } else { Ok(()) }
    }

    /// The rate for one litre: `own` where one is given, else the label's.
    ///
    /// # Errors
    /// A refusal at `rate` when there is none or it cannot be read.
    pub fn per_litre(&self, own: Option<&PrintedRate>) -> Result<Amount, Refusal> {
        let rate = own.or(self.rate.as_ref());
        let rate = rate.ok_or_else(|| refuse!("product_without_rate", name = &self.name).at("rate"))?;
        rate.per_litre(self.unit, self.density, &self.measures).at("rate")
    }
}
