//! What was mixed and poured, with the amounts that were really used.

use crate::message::{count, plain, term};
use crate::mixing::ProductKind;
use crate::quantity::{Amount, Conductivity, EcReading, Litres, Name, Note, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A product that went in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Used {
    /// Which product.
    pub product: Uuid,
    /// What it was called then.
    pub name: Name,
    /// What it is.
    pub what: ProductKind,
    /// How much.
    pub amount: Amount,
    /// EC rise of 1 mL or 1 g in a litre, as it was known then, in mS/cm, 0–10: so that the log alone
    /// tells what it did to the water.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rise: Option<f64>,
}

/// Water with products stirred in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Batch {
    /// The fresh water that they went into.
    pub fresh: Litres,
    /// What went in, at most 20.
    pub used: Vec<Used>,
    /// EC of the water before.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source_ec: Option<Conductivity>,
    /// EC of the batch, measured once it was mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec: Option<EcReading>,
}

impl Batch {
    /// Checks that acid and base did not go in together, and that the EC can be.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.used.len() > MOST_PRODUCTS {
            let (found, most) = (count(self.used.len()), count(MOST_PRODUCTS));
            return Err(refuse!("too_many_products", found = found, most = most).at("used"));
        }
        let odd = |used: &&Used| used.rise.is_some_and(|rise| !(0.0..=MOST_RISE).contains(&rise));
        if let Some(used) = self.used.iter().find(odd) {
            let (found, high) = (plain(used.rise.unwrap_or_default()), plain(MOST_RISE));
            let refusal =
                refuse!("label_figure", found = found, low = plain(0.0), high = high, wanted = term("label.rise"));
            return Err(refusal.at("used"));
        }
        let has = |what| self.used.iter().any(|used| used.what == what && used.amount.value > 0.0);
        if has(ProductKind::PhUp) && has(ProductKind::PhDown) {
            return Err(refuse!("acid_and_base").at("used"));
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}

/// No product raises EC by more, in mS/cm for 1 mL or 1 g in a litre.
const MOST_RISE: f64 = 10.0;
/// Products of one batch.
const MOST_PRODUCTS: usize = 20;

/// A dose of acid or base, and the pH that it was to move. The next pH that is read tells what it
/// did; the next estimate learns from that.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Correction {
    /// pH before it.
    pub from: PhReading,
    /// The pH that is aimed at in the end.
    pub aim: Ph,
    /// What was poured.
    pub dosed: Used,
    /// The water that it went into.
    pub litres: Litres,
    /// The whole of the estimate that it was a part of, in its own unit; absent for a trial.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub whole: Option<f64>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Correction {
    /// mL or g of it in each litre; nothing where there was no water.
    #[must_use]
    pub fn per_litre(&self) -> f64 {
        if self.litres > Litres::ZERO { self.dosed.amount.value / self.litres.get() } else { 0.0 }
    }

    /// Checks that it is an acid or a base, some of it, into some water.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, system: &System) -> Result<(), Refusal> {
        if !matches!(self.dosed.what, ProductKind::PhUp | ProductKind::PhDown) {
            return Err(refuse!("dose_of_another_sort", found = self.dosed.what.say()).at("dosed"));
        }
        if self.dosed.amount.value <= 0.0 {
            return Err(refuse!("dose_of_nothing").at("dosed.amount"));
        }
        if let Some(found) = self.whole.filter(|whole| !(*whole > 0.0 && *whole <= MOST_WHOLE)) {
            return Err(refuse!("dose_of_estimate", found = plain(found), most = plain(MOST_WHOLE)).at("whole"));
        }
        let most = system.reservoir.shape.capacity();
        if self.litres <= Litres::ZERO || self.litres > most {
            return Err(refuse!("dosed_water", found = self.litres, most = most).at("litres"));
        }
        Ok(())
    }
}

/// Acid or base that was poured on a visit, after what was read, drained, stirred in and topped off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Dosed {
    /// The pH that it was worked out from: the visit's, or one that was read before it.
    pub from: PhReading,
    /// The pH that is aimed at in the end.
    pub aim: Ph,
    /// What was poured.
    pub dosed: Used,
    /// The water that it went into: what is in the tank after the top-off.
    pub litres: Litres,
    /// The whole of the estimate that it was a part of, in its own unit; absent for a trial.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub whole: Option<f64>,
}

/// No feed keeps longer once it is mixed, in days.
const MOST_KEEPS: u16 = 60;
/// No estimate is larger, in mL or g.
const MOST_WHOLE: f64 = 100_000.0;

/// Where feed is kept that was mixed ahead.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PremixIn {
    /// The vessel behind the float valve.
    TopOffReservoir,
    /// A jug or barrel, dark and lidded, that is drawn from by hand.
    Jug,
}

/// Feed that was mixed ahead: it has a volume, a strength and a date like any reservoir.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Premix {
    /// Where it is kept.
    pub into: PremixIn,
    /// What stands there afterwards.
    pub litres: Litres,
    /// What was mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub batch: Option<Batch>,
    /// Its EC, once mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec: Option<EcReading>,
    /// Its pH, once mixed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph: Option<PhReading>,
    /// Days that it keeps, 1–60, where that is not the usual fortnight.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub keeps_days: Option<u16>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Premix {
    /// So much feed, of which nothing more is said.
    #[must_use]
    pub fn of(into: PremixIn, litres: Litres) -> Self {
        Self { into, litres, batch: None, ec: None, ph: None, keeps_days: None, note: None }
    }

    /// Checks that something stands there and that its batch holds together.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.litres <= Litres::ZERO {
            return Err(refuse!("premix_of_nothing").at("litres"));
        }
        if let Some(found) = self.keeps_days.filter(|days| !(1..=MOST_KEEPS).contains(days)) {
            let (found, most) = (plain(found.into()), plain(MOST_KEEPS.into()));
            return Err(refuse!("premix_keeps", found = found, most = most).at("keeps_days"));
        }
        if let Some(batch) = &self.batch {
            batch.check().at("batch")?;
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}
