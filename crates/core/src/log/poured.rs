//! What was mixed and poured, with the amounts that were really used.

use crate::mixing::{Amount, ProductKind};
use crate::quantity::{Conductivity, EcReading, Litres, Name, Note, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
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
        if self.used.len() > 20 {
            return Err(Refusal::new(format!("found {} products", self.used.len()), "allowed are 20", "Add the amounts of the same product together.").at("used"));
        }
        let has = |what| self.used.iter().any(|used| used.what == what && used.amount.value > 0.0);
        if has(ProductKind::PhUp) && has(ProductKind::PhDown) {
            return Err(Refusal::new(
                "found pH up and pH down in one batch",
                "allowed is one of them on a visit",
                "Leave the second one out. If both went in already, record two entries and say so in a note.",
            )
            .at("used"));
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}

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
            return Err(Refusal::new(format!("found {}", self.dosed.what.say()), "allowed is pH up or pH down", "Record feed as a top-off or a batch.").at("dosed"));
        }
        if self.dosed.amount.value <= 0.0 {
            return Err(Refusal::new("found a dose of 0", "allowed is more than 0", "Say how much was poured.").at("dosed.amount"));
        }
        let most = system.reservoir.shape.capacity();
        if self.litres <= Litres::ZERO || self.litres > most {
            return Err(Refusal::new(
                format!("found {:.1} L", self.litres.get()),
                format!("allowed is more than 0, up to what the vessel holds, {:.1} L", most.get()),
                "Say how much water it went into.",
            )
            .at("litres"));
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
            return Err(Refusal::new("found 0 L", "allowed is more than 0 L", "Say how much stands there now.").at("litres"));
        }
        if let Some(batch) = &self.batch {
            batch.check().at("batch")?;
        }
        self.ec.map_or(Ok(()), |ec| ec.at_25(None).at("ec").map(|_| ()))
    }
}
