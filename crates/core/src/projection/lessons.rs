//! What the log teaches: the salt ledger, what doses did to the pH, the EC rises of batches, where
//! fresh fillings settle, and the feed that stands ready.

use super::{Projection, SaltLedger, keep_last};
use crate::calendar::days_between;
use crate::fact::{Batch, Body, Change, Correction, Dated, Entry, Premix, PremixIn, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::mixing::{BatchPoint, ProductKind, Water};
use crate::quantity::{Conductivity, Litres, PhReading};
use crate::system::System;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A dose of acid or base, and what it did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct PhDose {
    /// When it was poured.
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

/// How many doses, batches and fillings are kept to learn from.
const LEARN_FROM: usize = 8;

/// What the log teaches.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Lessons {
    /// Salt and water taken up between readings.
    pub ledger: SaltLedger,
    /// The last doses of acid or base, oldest first.
    pub ph_doses: Vec<PhDose>,
    /// The last measured batches, oldest first.
    pub batches: Vec<BatchPoint>,
    /// Feed that was mixed ahead.
    pub premixed: Option<Dated<Premixed>>,
    /// pH of the last fresh fillings, once mixed, oldest first.
    pub fresh_ph: Vec<f64>,
}

impl Lessons {
    /// Keeps the salt ledger: a full reading closes a stretch, what is drained and poured goes in.
    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        if let Some(ph) = visit.ph {
            self.ph_read(at, ph);
        }
        let ec = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok());
        if let (Some(litres), Some(ec)) = (visit.measured(system), ec) {
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
            // Nobody draws more than there is; what was told beyond that was there after all.
            premixed.value.litres = (premixed.value.litres - top_off.litres).or_nothing();
        }
        self.ledger.added(top_off.litres, ec);
    }

    fn ph_read(&mut self, at: Timestamp, ph: PhReading) {
        let shows = |dose: &&mut PhDose| dose.to.is_none() && days_between(dose.at, at) <= FIGURES.ph.dose_shows;
        if let Some(dose) = self.ph_doses.last_mut().filter(shows) {
            dose.to = Some(ph.middle());
        }
    }

    fn correction(&mut self, at: Timestamp, correction: &Correction) {
        self.ph_read(at, correction.from);
        // A correction without water was refused when it was recorded.
        if correction.litres > Litres::ZERO {
            let dose = PhDose {
                at,
                product: correction.dosed.product,
                up: correction.dosed.what == ProductKind::PhUp,
                per_litre: correction.dosed.amount.value / correction.litres.get(),
                from: correction.from.middle(),
                to: None,
            };
            keep_last(&mut self.ph_doses, dose, LEARN_FROM);
        }
    }

    fn premix(&mut self, at: Timestamp, premix: &Premix, system: &System) {
        let measured = premix.ec.or(premix.batch.as_ref().and_then(|batch| batch.ec));
        let ec = measured.and_then(|ec| ec.at_25(None).ok());
        self.premixed = Some(Dated { at, value: Premixed { into: premix.into, litres: premix.litres, ec } });
        if let Some(batch) = &premix.batch {
            self.batch(&Batch { ec: batch.ec.or(premix.ec), ..batch.clone() }, system);
        }
    }

    fn change(&mut self, at: Timestamp, change: &Change, system: &System) {
        if let Some(batch) = &change.batch {
            self.batch(batch, system);
        }
        self.ledger.breaks();
        if let Some(ec) = change.ec_after() {
            self.ledger.start(at, Water::new(change.volume_after, ec));
        }
        if let Some(ph) = change.ph {
            keep_last(&mut self.fresh_ph, ph.middle(), LEARN_FROM);
        }
    }

    /// Keeps what a measured batch teaches of its products.
    fn batch(&mut self, batch: &Batch, system: &System) {
        let Some(ec) = batch.ec.and_then(|ec| ec.at_25(None).ok()) else { return };
        let feeds = batch.used.iter().filter(|used| used.what.feeds());
        let per_litre: Vec<(Uuid, f64)> =
            feeds.map(|used| (used.product, used.amount.value / batch.fresh.get())).collect();
        if batch.fresh <= Litres::ZERO || per_litre.is_empty() {
            return;
        }
        let rise = (ec - batch.source_ec.unwrap_or(system.source_ec)).get();
        keep_last(&mut self.batches, BatchPoint { per_litre, rise }, LEARN_FROM);
    }
}

impl Projection for Lessons {
    fn apply(&mut self, entry: &Entry, system: &System) {
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit, system),
            Body::Change(change) => self.change(entry.at, change, system),
            Body::Correction(correction) => self.correction(entry.at, correction),
            Body::Premix(premix) => self.premix(entry.at, premix, system),
            Body::Treatment(_) | Body::Withdrawn {} | Body::FromNewer => {}
        }
    }
}
