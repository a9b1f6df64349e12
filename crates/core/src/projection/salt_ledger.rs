//! The salt ledger: what was taken up of salt and of water between two times at which both level
//! and EC were read. S = EC · V; taken up = S before + S added − S drained − S after.

use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::mixing::Water;
use crate::quantity::{Conductivity, Litres, Salt};
use crate::statistics::median;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// A stretch between two full readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Stretch {
    /// How long, in days.
    pub days: f64,
    /// What was drunk.
    pub water: Litres,
    /// What was taken up with it; negative where the readings contradict each other.
    pub salt: Salt,
}

impl Stretch {
    /// The strength at which the water was taken up, in mS/cm.
    #[must_use]
    pub fn uptake(&self) -> f64 {
        (self.salt / self.water).get()
    }
}

/// The stretch under way.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Open {
    at: Timestamp,
    litres: Litres,
    ec: Conductivity,
    added: Litres,
    added_salt: Salt,
    drained: Litres,
    /// Whether every strength that was poured is known.
    known: bool,
}

/// The ledger of one system.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct SaltLedger {
    open: Option<Open>,
    /// The last closed stretches, oldest first.
    pub stretches: Vec<Stretch>,
}

/// How many stretches are kept.
const KEPT: usize = 6;

impl SaltLedger {
    /// Level and EC were both read, before anything was drained or added.
    pub(super) fn read(&mut self, at: Timestamp, standing: Water) {
        if let Some(open) = self.open.take().filter(|open| open.known) {
            let days = days_between(open.at, at);
            // What is drained goes at the strength that was last read.
            let before = open.ec * open.litres + open.added_salt - open.ec * open.drained;
            let salt = before - standing.salt();
            let drunk = (open.litres + open.added - (open.drained + standing.litres)).positive();
            let least = Litres::constant(FIGURES.uptake.least_water);
            if let Some(water) = drunk.filter(|drunk| days >= FIGURES.uptake.shortest && *drunk >= least) {
                super::keep_last(&mut self.stretches, Stretch { days, water, salt }, KEPT);
            }
        }
        self.start(at, standing);
    }

    /// Water was added; `ec` is `None` where its strength is not known.
    pub(super) fn added(&mut self, litres: Litres, ec: Option<Conductivity>) {
        if let Some(open) = &mut self.open {
            open.added += litres;
            open.added_salt += ec.map_or(Salt::NONE, |ec| ec * litres);
            open.known &= ec.is_some();
        }
    }

    /// Water was taken out.
    pub(super) fn drained(&mut self, litres: Litres) {
        if let Some(open) = &mut self.open {
            open.drained += litres;
        }
    }

    /// Something was done that the ledger cannot follow: nothing is read across it.
    pub(super) fn breaks(&mut self) {
        self.open = None;
    }

    /// A new stretch begins.
    pub(super) fn start(&mut self, at: Timestamp, standing: Water) {
        self.open = Some(Open {
            at,
            litres: standing.litres,
            ec: standing.ec,
            added: Litres::ZERO,
            added_salt: Salt::NONE,
            drained: Litres::ZERO,
            known: true,
        });
    }

    /// The strength at which a top-off holds EC level, median of the stretches, once two are known.
    /// Nothing where the plants gave off more than they took: then the readings contradict each other.
    #[must_use]
    pub fn uptake_concentration(&self) -> Option<Conductivity> {
        if (self.stretches.len() as f64) < FIGURES.uptake.trusted_from {
            return None;
        }
        let all: Vec<f64> = self.stretches.iter().map(Stretch::uptake).collect();
        median(&all).and_then(|usual| Conductivity::new(usual.max(0.0)).ok())
    }

    /// Water drunk a day, median of the stretches.
    #[must_use]
    pub fn water_a_day(&self) -> Option<Litres> {
        let all: Vec<f64> = self.stretches.iter().map(|stretch| stretch.water.get() / stretch.days).collect();
        median(&all).and_then(|usual| Litres::new(usual).ok())
    }
}
