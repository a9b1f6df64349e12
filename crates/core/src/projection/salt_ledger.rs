//! The salt ledger: what was taken up of salt and of water between two times at which both level
//! and EC were read. S = EC · V; taken up = S before + S added − S drained − S after.

use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::mixing::Water;
use crate::quantity::{Conductivity, Litres, Quantity, Salt};
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
    /// How far that may be off, by what the readings at its two ends are true to.
    pub off: f64,
}

/// The strength at which water is taken up, with its range.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TakesUp {
    /// From here.
    pub low: Conductivity,
    /// The likeliest.
    pub value: Conductivity,
    /// To here.
    pub high: Conductivity,
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
    /// How many stretches were ever closed.
    #[serde(default)]
    closed: usize,
    /// The last closed stretches, oldest first.
    pub stretches: Vec<Stretch>,
}

/// How many stretches are kept.
const KEPT: usize = 6;
/// A stretch in which hardly anything is drunk is given up after so many days.
const LONGEST: f64 = 60.0;

impl SaltLedger {
    /// How many stretches were ever closed, those that are not kept any more among them.
    #[must_use]
    pub fn closed(&self) -> usize {
        self.closed
    }

    /// Level and EC were both read, before anything was drained or added.
    pub(super) fn read(&mut self, at: Timestamp, standing: Water) {
        if let Some(open) = self.open.take().filter(|open| open.known) {
            let days = days_between(open.at, at);
            // What is drained goes at the strength that was last read.
            let before = open.ec * open.litres + open.added_salt - open.ec * open.drained;
            let salt = before - standing.salt();
            let drunk = (open.litres + open.added - (open.drained + standing.litres)).positive();
            let least = open.litres.max(standing.litres) * FIGURES.uptake.least_share;
            match drunk.filter(|drunk| days >= FIGURES.uptake.shortest && *drunk >= least) {
                Some(water) => {
                    let error = FIGURES.strength.meter_error + FIGURES.level.read_error;
                    let off = error * (open.ec * open.litres).get().hypot(standing.salt().get());
                    self.closed += 1;
                    super::keep_last(&mut self.stretches, Stretch { days, water, salt, off }, KEPT);
                }
                // Too little was drunk to tell: the stretch goes on, for long if it has to.
                None if days < LONGEST => {
                    self.open = Some(open);
                    return;
                }
                None => {}
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

    /// The strength at which a top-off holds EC level, once two stretches are known: all the salt that
    /// was taken up over all the water that was drunk. Sums, not a middle of ratios, for a short stretch
    /// says little; and never further from `around`, the middle of the band, than plants go.
    #[must_use]
    pub fn takes_up(&self, around: Conductivity) -> Option<TakesUp> {
        let figures = &FIGURES.strength;
        let water: Litres = self.stretches.iter().map(|stretch| stretch.water).sum();
        if (self.stretches.len() as f64) < FIGURES.uptake.trusted_from || water <= Litres::ZERO {
            return None;
        }
        let salt: Salt = self.stretches.iter().map(|stretch| stretch.salt).sum();
        let off = self.stretches.iter().map(|stretch| stretch.off.powi(2)).sum::<f64>().sqrt() / water.get();
        let (least, most) = (around * figures.takes_least, around * figures.takes_most);
        let within = |ec: f64| Conductivity::calculated(ec.clamp(least.get(), most.get()));
        let value = (salt / water).get();
        Some(TakesUp { low: within(value - off), value: within(value), high: within(value + off) })
    }

    /// Water drunk a day over all stretches.
    #[must_use]
    pub fn water_a_day(&self) -> Option<Litres> {
        let water: Litres = self.stretches.iter().map(|stretch| stretch.water).sum();
        let days: f64 = self.stretches.iter().map(|stretch| stretch.days).sum();
        (days > 0.0).then(|| water / days)
    }
}
