//! The salt ledger: what was taken up of salt and of water between two times at which both level
//! and EC were read. S = EC · V; taken up = S before + S added − S drained − S after.

use crate::calendar::days_between;
use crate::mixing::balance::{Water, uptake_concentration};
use crate::quantity::{Conductivity, Litres};
use crate::robust::median;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// A stretch between two full readings.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Interval {
    /// How long.
    pub days: f64,
    /// Litres that were drunk.
    pub water: f64,
    /// The strength at which they were drunk: salt over water, in mS/cm.
    pub concentration: Conductivity,
}

/// The stretch under way.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Open {
    at: Timestamp,
    litres: f64,
    ec: f64,
    added: f64,
    added_salt: f64,
    drained: f64,
    drained_salt: f64,
    /// Whether every strength that was poured is known.
    known: bool,
}

/// The ledger of one system.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Ledger {
    open: Option<Open>,
    /// The last closed stretches, oldest first.
    pub intervals: Vec<Interval>,
}

/// How many stretches are kept.
const KEPT: usize = 6;
/// Stretches shorter than this, or in which less was drunk, say more about the readings.
const SHORTEST_DAYS: f64 = 0.4;
const LEAST_WATER: f64 = 0.5;
/// The uptake concentration is trusted from so many stretches on.
pub const TRUSTED_FROM: usize = 2;

impl Ledger {
    /// Level and EC were both read, before anything was drained or added.
    pub(super) fn read(&mut self, at: Timestamp, standing: Water) {
        if let Some(open) = self.open.take() {
            let days = days_between(open.at, at);
            let water = |litres: f64, salt: f64| Water::new(Litres::nearest(litres), Conductivity::nearest(if litres > 0.0 { salt / litres } else { 0.0 }));
            let before = Water::new(Litres::nearest(open.litres), Conductivity::nearest(open.ec));
            let drunk = open.litres + open.added - open.drained - standing.litres.get();
            let taken = uptake_concentration(before, water(open.added, open.added_salt), water(open.drained, open.drained_salt), standing);
            if let Some(concentration) = taken.filter(|_| open.known && days >= SHORTEST_DAYS && drunk >= LEAST_WATER) {
                self.intervals.push(Interval { days, water: drunk, concentration });
                if self.intervals.len() > KEPT {
                    self.intervals.remove(0);
                }
            }
        }
        self.start(at, standing);
    }

    /// Water was added; `ec` is `None` where its strength is not known.
    pub(super) fn added(&mut self, litres: Litres, ec: Option<Conductivity>) {
        if let Some(open) = &mut self.open {
            open.added += litres.get();
            open.added_salt += litres.get() * ec.map_or(0.0, Conductivity::get);
            open.known &= ec.is_some();
        }
    }

    /// Water was taken out, at the strength that was last read.
    pub(super) fn drained(&mut self, litres: Litres) {
        if let Some(open) = &mut self.open {
            open.drained += litres.get();
            open.drained_salt += litres.get() * open.ec;
        }
    }

    /// Something was done that the ledger cannot follow: nothing is read across it.
    pub(super) fn breaks(&mut self) {
        self.open = None;
    }

    /// A new stretch begins.
    pub(super) fn start(&mut self, at: Timestamp, standing: Water) {
        self.open = Some(Open { at, litres: standing.litres.get(), ec: standing.ec.get(), added: 0.0, added_salt: 0.0, drained: 0.0, drained_salt: 0.0, known: true });
    }

    /// The strength at which a top-off holds EC level, median of the stretches, once two are known.
    #[must_use]
    pub fn uptake_concentration(&self) -> Option<Conductivity> {
        if self.intervals.len() < TRUSTED_FROM {
            return None;
        }
        let all: Vec<f64> = self.intervals.iter().map(|i| i.concentration.get()).collect();
        median(&all).map(Conductivity::nearest)
    }

    /// Litres drunk a day, median of the stretches.
    #[must_use]
    pub fn water_a_day(&self) -> Option<f64> {
        let all: Vec<f64> = self.intervals.iter().map(|i| i.water / i.days).collect();
        median(&all)
    }
}
