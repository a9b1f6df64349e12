//! What the log teaches: the salt ledger, what doses did to the pH, the EC rises of batches, where
//! fresh fillings settle, and the feed that stands ready.

use super::standing::strength_of;
use super::{Drum, Projection, SaltLedger, keep_last};
use crate::calendar::days_between;
use crate::fact::{
    Batch, Body, Change, Correction, Dated, Entry, Premix, PremixIn, TopOffWater, TreatmentKind, Used, Visit,
};
use crate::figures::FIGURES;
use crate::mixing::alkalinity::held;
use crate::mixing::{BatchPoint, ProductKind, Water};
use crate::quantity::{AmountUnit, Conductivity, EcReading, Litres, Name, PhReading};
use crate::statistics::median;
use crate::system::{PhMethod, SourceWater, System};
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
    /// Of how much in each litre it was a part: the whole estimate of that moment. `None` for a trial.
    pub whole: Option<f64>,
    /// pH before.
    pub from: f64,
    /// pH read next, once it had mixed and within a day; `None` while nobody has looked.
    pub to: Option<f64>,
    /// pH read next once it had mixed, whenever that was.
    #[serde(default)]
    pub next: Option<Dated<f64>>,
    /// Whether water or feed went in with it, which moves the pH too: it teaches nothing of the dose.
    #[serde(default)]
    pub stirred: bool,
}

impl PhDose {
    /// How far it moved what the water holds, by the pH before and after. `None` where it has not
    /// been measured, moved nothing that a meter tells, or the pH went the other way.
    #[must_use]
    pub fn moved(&self) -> Option<f64> {
        let to = self.to.filter(|_| !self.stirred)?;
        let (ph, share) = (to - self.from, held(to) - held(self.from));
        let (ph, share) = if self.up { (ph, share) } else { (-ph, -share) };
        (ph >= FIGURES.ph.least_step && share >= FIGURES.ph.least_change).then_some(share)
    }

    /// What it says of this water: mL or g in a litre for each change of what open water holds.
    #[must_use]
    pub fn buffer(&self) -> Option<f64> {
        self.moved().map(|share| self.per_litre / share)
    }
}

/// Acid that went into a batch, and the water that it was of.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct BatchAcid {
    /// Which product.
    pub product: Uuid,
    /// mL or g of it in each litre of the batch.
    pub per_litre: f64,
    source: SourceWater,
    source_ec: Conductivity,
    alkalinity: Option<f64>,
}

impl BatchAcid {
    /// Whether a system is filled from the same water still.
    #[must_use]
    pub fn of_same_water(&self, system: &System) -> bool {
        let methods = &system.methods;
        (self.source, self.source_ec, self.alkalinity) == (methods.source, system.source_ec, methods.alkalinity)
    }
}

/// A product that moves pH, as it was when it was last poured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct PhProduct {
    /// Which one.
    pub product: Uuid,
    /// What it was called.
    pub name: Name,
    /// Measured in mL or g.
    pub unit: AmountUnit,
}

/// Feed that stands ready.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Premixed {
    /// Where.
    pub into: PremixIn,
    /// How much is left.
    pub litres: Litres,
    /// How strong, where that is known: as measured, else as worked out from what went in.
    pub ec: Option<Conductivity>,
    /// Days that it keeps.
    pub keeps_days: f64,
}

/// How many doses, batches and fillings are kept to learn from.
const LEARN_FROM: usize = 8;
/// How many products are remembered of one water.
const MOST_PUT_IN: usize = 40;
const MINUTES_A_DAY: f64 = 1440.0;

/// Minutes until something that was poured has mixed and can be measured.
#[must_use]
pub fn mixes_in(system: &System) -> f64 {
    if system.traits.circulates { FIGURES.ph.mix_pumped } else { FIGURES.ph.mix_unpumped }
}

/// What the log teaches.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Lessons {
    /// Salt and water taken up between readings.
    pub ledger: SaltLedger,
    /// The last doses of acid or base, oldest first.
    pub ph_doses: Vec<PhDose>,
    /// The last measured batches, oldest first.
    pub batches: Vec<BatchPoint>,
    /// The acid that was last poured.
    pub acid: Option<PhProduct>,
    /// The base that was last poured.
    pub base: Option<PhProduct>,
    /// What acid the last batch of this water took, before roots met it.
    #[serde(default)]
    pub batch_acid: Option<BatchAcid>,
    /// When water was last changed for a batch that was put right with acid: it climbs as gas leaves.
    #[serde(default)]
    pub acid_in_fresh: Option<Timestamp>,
    /// Products that went into this water since it was last changed in full.
    pub put_in: Vec<Uuid>,
    /// Peroxide that last went into the reservoir.
    pub peroxide: Option<Timestamp>,
    /// Feed that was mixed ahead.
    pub premixed: Option<Dated<Premixed>>,
    /// What was left behind the float valve when it was last read or filled.
    #[serde(default)]
    pub behind: Option<Litres>,
    /// Which reservoir that was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub behind_of: Option<Drum>,
    /// pH of the last fresh fillings, once mixed, oldest first.
    pub fresh_ph: Vec<f64>,
}

impl Lessons {
    /// mL or g in a litre for each change of what open water holds, median over the doses of one
    /// product; so that it holds at another pH.
    #[must_use]
    pub fn buffer(&self, product: Uuid) -> Option<f64> {
        let of_product = self.ph_doses.iter().filter(|dose| dose.product == product);
        median(&of_product.filter_map(PhDose::buffer).collect::<Vec<_>>())
    }

    /// Feed that stands ready to be poured by hand here: not that of a reservoir that belongs to another system.
    #[must_use]
    pub fn ready(&self, system: &System) -> Option<Dated<Premixed>> {
        self.premixed.filter(|ready| ready.value.into != PremixIn::TopOffReservoir || system.own_drum())
    }

    /// The strength of what stands behind the float valve: as it was mixed, else the plain water it is filled with.
    #[must_use]
    pub fn behind_ec(&self, system: &System) -> Conductivity {
        let mixed = self.premixed.filter(|ready| ready.value.into == PremixIn::TopOffReservoir);
        mixed.and_then(|ready| ready.value.ec).unwrap_or(system.source_ec)
    }

    /// Keeps the salt ledger: a full reading closes a stretch, what is drained and poured goes in.
    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        if let Some(ph) = visit.ph {
            self.ph_read(at, ph, system);
        }
        let part = system.drum_part();
        let (whole, behind) = (visit.left_behind(system), visit.left_behind(system).map(|left| left * part));
        // Out of a reservoir that was put in the place of another nobody knows what flowed.
        if behind.is_some() && self.behind_of.is_some_and(|was| was.differs(Drum::of(system))) {
            self.behind = None;
            self.ledger.breaks();
        }
        if behind.is_some() {
            self.behind_of = Some(Drum::of(system));
        }
        if let (Some(left), Some(was)) = (behind, self.behind) {
            // What the valve let in is what was drunk while the level stood still.
            self.ledger.added((was - left).or_nothing(), Some(self.behind_ec(system)));
        }
        self.behind = behind.or(self.behind);
        if let (Some(left), Some(ready)) = (whole, &mut self.premixed)
            && ready.value.into == PremixIn::TopOffReservoir
        {
            ready.value.litres = left;
        }
        let ec = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok());
        // Behind a valve a reading without its reservoir's closes nothing: nobody knows what flowed in.
        // What comes from a reservoir that is read elsewhere is never known here.
        let unread = system.traits.top_off_reservoir && self.behind.is_some() && behind.is_none();
        let blind = unread || system.drum_of.is_some();
        if let (Some(litres), Some(ec), false) = (visit.measured(system), ec, blind) {
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
        if let Some(correction) = visit.corrected() {
            self.dosed(at, &correction, visit.pours());
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

    /// The first pH read once a dose has mixed tells what it did.
    fn ph_read(&mut self, at: Timestamp, ph: PhReading, system: &System) {
        let mixed = mixes_in(system) / MINUTES_A_DAY;
        let Some(dose) = self.ph_doses.last_mut().filter(|dose| dose.next.is_none()) else { return };
        let since = days_between(dose.at, at);
        if since >= mixed {
            dose.next = Some(Dated { at, value: ph.middle() });
            dose.to = Some(ph.middle()).filter(|_| since <= FIGURES.ph.dose_shows);
        }
    }

    fn correction(&mut self, at: Timestamp, correction: &Correction, system: &System) {
        self.ph_read(at, correction.from, system);
        self.dosed(at, correction, false);
    }

    fn dosed(&mut self, at: Timestamp, correction: &Correction, stirred: bool) {
        let dosed = &correction.dosed;
        let up = dosed.what == ProductKind::PhUp;
        let poured = PhProduct { product: dosed.product, name: dosed.name.clone(), unit: dosed.amount.unit };
        if up {
            self.base = Some(poured)
        } else {
            self.acid = Some(poured)
        }
        // A correction without water was refused when it was recorded.
        if correction.litres > Litres::ZERO {
            let dose = PhDose {
                at,
                product: dosed.product,
                up,
                per_litre: correction.per_litre(),
                whole: correction.whole.map(|whole| whole / correction.litres.get()),
                from: correction.from.middle(),
                to: None,
                next: None,
                stirred,
            };
            keep_last(&mut self.ph_doses, dose, LEARN_FROM);
        }
    }

    fn premix(&mut self, at: Timestamp, premix: &Premix, system: &System) {
        let at_25 = |ec: EcReading| ec.at_25(None).ok();
        let mixed = premix.batch.as_ref().and_then(|batch| {
            let ec = batch.ec.and_then(at_25).or_else(|| strength_of(batch, system))?;
            // What stood there before is in it too, where it was poured behind the valve.
            let before = (premix.litres - batch.fresh).positive().filter(|_| premix.into == PremixIn::TopOffReservoir);
            let before = Water::new(before.unwrap_or(Litres::ZERO), self.behind_ec(system));
            Some(Water::new(batch.fresh, ec).with(before).ec)
        });
        let ec = premix.ec.and_then(at_25).or(mixed);
        if premix.into == PremixIn::TopOffReservoir {
            self.behind = Some(premix.litres * system.drum_part());
            self.behind_of = Some(Drum::of(system));
        }
        let keeps_days = premix.keeps_days.map_or(FIGURES.bench.stale_days, f64::from);
        self.premixed =
            Some(Dated { at, value: Premixed { into: premix.into, litres: premix.litres, ec, keeps_days } });
        if let Some(batch) = &premix.batch {
            let before = self.batch_acid;
            self.batch(&Batch { ec: batch.ec.or(premix.ec), ..batch.clone() }, system);
            // Some of its acid may be for the tank: it does not tell what the batch takes.
            if premix.into == PremixIn::TopOffReservoir && system.methods.ph == PhMethod::Drum {
                self.batch_acid = before;
            }
        }
    }

    fn change(&mut self, at: Timestamp, change: &Change, system: &System) {
        let drawn = change.drawn(system);
        if change.renews() {
            // What ready feed was made of is in this water now.
            if drawn.is_none() {
                self.put_in.clear();
            }
            // What was dosed went down the drain.
            self.peroxide = None;
        }
        if change.parts.as_ref().is_some_and(|parts| parts.treated(TreatmentKind::PeroxideDose)) {
            self.peroxide = Some(at);
        }
        if let Some(batch) = &change.batch {
            self.batch(batch, system);
        }
        if let Some((store, litres)) = drawn {
            let left = |there: Litres| (there - litres).or_nothing();
            if let Some(ready) = self.premixed.as_mut().filter(|ready| ready.value.into == store) {
                ready.value.litres = left(ready.value.litres);
            }
            if store == PremixIn::TopOffReservoir {
                self.behind = self.behind.map(|there| (there - litres * system.drum_part()).or_nothing());
            }
        }
        self.acid_in_fresh = change.batch.as_ref().and_then(acid_in).map(|_| at);
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
        for used in batch.used.iter().filter(|used| used.amount.value > 0.0) {
            if !self.put_in.contains(&used.product) {
                keep_last(&mut self.put_in, used.product, MOST_PUT_IN);
            }
        }
        if let Some(used) = acid_in(batch) {
            self.batch_acid = Some(BatchAcid {
                product: used.product,
                per_litre: used.amount.value / batch.fresh.get(),
                source: system.methods.source,
                source_ec: system.source_ec,
                alkalinity: system.methods.alkalinity,
            });
        }
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

/// The acid that went into a batch, if any did.
fn acid_in(batch: &Batch) -> Option<&Used> {
    let acid = |used: &&Used| used.what == ProductKind::PhDown && used.amount.value > 0.0;
    batch.used.iter().find(acid).filter(|_| batch.fresh > Litres::ZERO)
}

impl Projection for Lessons {
    fn apply(&mut self, entry: &Entry, system: &System) {
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit, system),
            Body::Sensed(sensed) => self.visit(entry.at, &sensed.as_visit(), system),
            Body::Change(change) => self.change(entry.at, change, system),
            Body::Correction(correction) => self.correction(entry.at, correction, system),
            Body::Premix(premix) => self.premix(entry.at, premix, system),
            Body::Treatment(treatment) if treatment.what == TreatmentKind::PeroxideDose => {
                self.peroxide = Some(entry.at);
            }
            Body::Treatment(_) | Body::Withdrawn {} | Body::FromNewer | Body::Unreadable => {}
        }
    }
}
