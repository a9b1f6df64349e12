//! What was mixed and poured, with the amounts that were really used.

use crate::message::count;
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
        let has = |what| self.used.iter().any(|used| used.what == what && used.amount.value > 0.0);
        if has(ProductKind::PhUp) && has(ProductKind::PhDown) {
            return Err(refuse!("acid_and_base").at("used"));
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}

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
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Correction {
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
        let most = system.reservoir.shape.capacity();
        if self.litres <= Litres::ZERO || self.litres > most {
            return Err(refuse!("dosed_water", found = self.litres, most = most).at("litres"));
        }
        Ok(())
    }
}

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
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}

impl Premix {
    /// Checks that something stands there and that its batch holds together.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.litres <= Litres::ZERO {
            return Err(refuse!("premix_of_nothing").at("litres"));
        }
        if let Some(batch) = &self.batch {
            batch.check().at("batch")?;
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}
