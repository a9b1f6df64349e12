//! What the log teaches: the salt ledger, what doses did to the pH, the EC rises of batches, and the
//! feed that stands ready.

use super::fold::{Dated, State};
use super::{Batch, Correction, Premix, PremixIn, TopOffWater, Visit};
use crate::calendar::days_between;
use crate::care::Check;
use crate::mixing::balance::Water;
use crate::mixing::{BatchPoint, ProductKind};
use crate::quantity::{Conductivity, Litres, PhReading};
use crate::system::System;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A dose of acid or base, and what it did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct PhDose {
    /// When.
    pub at: Timestamp,
    /// Which product.
    pub product: Uuid,
    /// Whether it was a base.
    pub up: bool,
    /// mL or g of it in each litre.
    pub per_litre: f64,
    /// pH before.
    pub from: f64,
    /// pH read next, within a day; `None` while nobody has looked.
    pub to: Option<f64>,
}

/// Feed that stands ready.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Premixed {
    /// Where.
    pub into: PremixIn,
    /// How much is left.
    pub litres: Litres,
    /// How strong, where that is known.
    pub ec: Option<Conductivity>,
}

/// How many doses and batches are kept to learn from.
pub(super) const LEARN_FROM: usize = 8;
/// A pH that is read later than this after a dose tells of drift, not of the dose.
const DOSE_SHOWS_DAYS: f64 = 1.0;

impl State {
    /// Keeps the salt ledger: a full reading closes a stretch, what is drained and poured goes in.
    pub(super) fn salt(&mut self, at: Timestamp, visit: &Visit, measured: Option<Litres>, system: &System) {
        let ec = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok());
        if let (Some(litres), Some(ec)) = (measured, ec) {
            self.ledger.read(at, Water::new(litres, ec));
        }
        if let Some(litres) = visit.drained {
            self.ledger.drained(litres);
        }
        if let Some(batch) = &visit.batch {
            self.batch(batch, system);
            if visit.top_off.is_none() && !batch.used.is_empty() {
                self.ledger.breaks();
            }
        }
        let Some(top_off) = visit.top_off else { return };
        let ec = match top_off.water {
            TopOffWater::Plain => Some(system.source_ec),
            TopOffWater::Feed { ec } => ec,
            TopOffWater::Premixed {} => self.premixed.and_then(|premixed| premixed.value.ec),
        };
        if let (TopOffWater::Premixed {}, Some(premixed)) = (top_off.water, &mut self.premixed) {
            premixed.value.litres = Litres::nearest(premixed.value.litres.get() - top_off.litres.get());
        }
        self.ledger.added(top_off.litres, ec);
    }

    pub(super) fn ph_read(&mut self, at: Timestamp, ph: PhReading) {
        self.ph = Some(Dated { at, value: ph });
        self.ph_since.push((at, ph.middle()));
        if self.ph_since.len() > LEARN_FROM {
            self.ph_since.remove(0);
        }
        if let Some(dose) = self.ph_doses.last_mut().filter(|dose| dose.to.is_none() && days_between(dose.at, at) <= DOSE_SHOWS_DAYS) {
            dose.to = Some(ph.middle());
        }
    }

    pub(super) fn correction(&mut self, at: Timestamp, correction: &Correction) {
        self.ph_read(at, correction.from);
        self.ph_since.clear();
        self.did(Check::Readings, at);
        let up = correction.dosed.what == ProductKind::PhUp;
        let per_litre = correction.dosed.amount.value / correction.litres.get().max(0.001);
        self.ph_doses.push(PhDose { at, product: correction.dosed.product, up, per_litre, from: correction.from.middle(), to: None });
        if self.ph_doses.len() > LEARN_FROM {
            self.ph_doses.remove(0);
        }
    }

    pub(super) fn premix(&mut self, at: Timestamp, premix: &Premix, system: &System) {
        let ec = premix.ec.or(premix.batch.as_ref().and_then(|batch| batch.ec)).and_then(|ec| ec.at_25(None).ok());
        self.premixed = Some(Dated { at, value: Premixed { into: premix.into, litres: premix.litres, ec } });
        if let Some(batch) = &premix.batch {
            self.batch(&Batch { ec: batch.ec.or(premix.ec), ..batch.clone() }, system);
        }
    }

    /// Keeps what a measured batch teaches of its products.
    pub(super) fn batch(&mut self, batch: &Batch, system: &System) {
        let Some(ec) = batch.ec.and_then(|ec| ec.at_25(None).ok()) else { return };
        let litres = batch.fresh.get();
        let per_litre: Vec<(Uuid, f64)> = batch.used.iter().filter(|used| used.what.feeds()).map(|used| (used.product, used.amount.value / litres)).collect();
        if litres <= 0.0 || per_litre.is_empty() {
            return;
        }
        self.batches.push(BatchPoint { per_litre, rise: ec.get() - batch.source_ec.unwrap_or(system.source_ec).get() });
        if self.batches.len() > LEARN_FROM {
            self.batches.remove(0);
        }
    }
}
