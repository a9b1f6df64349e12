//! The water as it stands: the one estimate that every rule asks.
//!
//! Each pour, drain, change and correction moves it by the balance at once; a reading resets it; in
//! between it is carried on by drinking, eating and drift, with a range that widens.
//!
//! - Volume: V − w · t, with what the system drinks a day, from quiet to thirsty days.
//! - Strength: by the salt balance, S = EC · V. What is drunk takes salt along at the strength of the
//!   ledger; where that is not known, at anything from a third to half as much again of the tank's.
//! - pH: its robust drift a day. A dose moves what open water holds, not the pH, in
//!   proportion; fresh water leaves it uncertain.

use super::{Known, Premixed, Uptake, behind, drinks};
use crate::calendar::days_between;
use crate::fact::{Batch, Body, Change, Correction, Entry, PremixIn, TopOff, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::mixing::alkalinity::{held, ph_holding};
use crate::mixing::products;
use crate::quantity::{About, Celsius, Conductivity, Litres, Ph, PhReading, Quantity};
use crate::system::System;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// One figure with its range.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Guess {
    low: f64,
    value: f64,
    high: f64,
    read: Option<Timestamp>,
    moved: Option<Timestamp>,
}

impl Guess {
    fn read(value: f64, share: f64, at: Timestamp) -> Self {
        let off = value * share;
        Self { low: (value - off).max(0.0), value, high: value + off, read: Some(at), moved: None }
    }

    fn worked_out(low: f64, value: f64, high: f64, at: Timestamp) -> Self {
        Self { low: low.min(value), value, high: high.max(value), read: None, moved: Some(at) }
    }

    /// The same, moved by something that was poured or drained.
    fn moved(self, at: Timestamp, low: f64, value: f64, high: f64) -> Self {
        Self { read: self.read, ..Self::worked_out(low, value, high, at) }
    }

    fn about<Q: Quantity>(self, at: Timestamp) -> About<Q> {
        About {
            low: Q::calculated(self.low),
            value: Q::calculated(self.value),
            high: Q::calculated(self.high),
            read: self.read,
            moved: self.moved,
            measured: self.read == Some(at) && self.moved.is_none(),
        }
    }
}

/// From the least over the usual to the most.
type Range = (f64, f64, f64);

/// The water that stands in a system, as of the last thing that touched it.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Standing {
    at: Option<Timestamp>,
    litres: Option<Guess>,
    /// The litres as they were when they were last read, poured or drained.
    #[serde(default)]
    left: Option<Guess>,
    ec: Option<Guess>,
    ph: Option<Guess>,
}

/// What carries the water on between two looks, as far as the log knows.
struct Rates {
    drinks: Option<Uptake>,
    takes_up: Option<Range>,
    ph_a_day: f64,
    /// Water leaves with all that is in it.
    to_waste: bool,
}

impl Rates {
    fn of(known: &Known, system: &System, ec: Option<f64>) -> Self {
        let around = ec.and_then(|ec| Conductivity::new(ec).ok());
        Self {
            drinks: drinks(known, system),
            takes_up: around
                .and_then(|around| known.lessons.ledger.takes_up(around))
                .map(|u| (u.low.get(), u.value.get(), u.high.get())),
            ph_a_day: Standing::ph_a_day(known),
            to_waste: system.traits.to_waste,
        }
    }

    /// Litres drunk a day.
    fn drinking(&self, system: &System) -> Range {
        match self.drinks {
            Some(uptake) => {
                let (low, high) = uptake.spread();
                (low.get(), uptake.a_day.get(), high.get())
            }
            // Nothing is known: perhaps nothing is drunk, perhaps as much as thirsty plants would.
            None => (0.0, 0.0, system.full().get() * FIGURES.uptake.unknown),
        }
    }
}

impl Standing {
    /// The same water at a later moment.
    #[must_use]
    pub fn carried(mut self, now: Timestamp, known: &Known, system: &System) -> Self {
        let Some(at) = self.at else { return Self { at: Some(now), ..self } };
        let days = days_between(at, now);
        if days <= 0.0 {
            return self;
        }
        // Water that is drunk is gone, however long nobody looked; its strength and pH are anybody's guess by then.
        let (all, days) = (days, days.min(FIGURES.uptake.horizon));
        let rates = Rates::of(known, system, self.ec.map(|ec| ec.value));
        let (quiet, usual, thirsty) = rates.drinking(system);
        let behind = |a_day: f64| behind(known, system, at, Litres::calculated(a_day)).get();
        if let (Some(ec), Some(litres)) = (&mut self.ec, self.litres) {
            let behind = Behind { litres: behind(usual), ec: known.lessons.behind_ec(system).get() };
            carry_ec(ec, litres.value, (quiet * days, usual * days, thirsty * days), &rates, &behind, days);
        }
        if let Some(litres) = &mut self.litres {
            // Behind a float valve the vessel stands still until what stands there is drunk.
            let falls = |a_day: f64| (a_day * all - behind(a_day)).max(0.0);
            litres.low = (litres.low - falls(thirsty)).max(0.0);
            litres.value = (litres.value - falls(usual)).max(0.0);
            litres.high = (litres.high - falls(quiet)).max(0.0);
        }
        if let Some(ph) = &mut self.ph {
            let (drift, widens) = (rates.ph_a_day * days, FIGURES.ph.widens * days);
            let within = |ph: f64| ph.clamp(FIGURES.ph.read_least, FIGURES.ph.read_most);
            (ph.low, ph.value, ph.high) =
                (within(ph.low + drift - widens), within(ph.value + drift), within(ph.high + drift + widens));
        }
        self.at = Some(now);
        self
    }

    /// How the pH drifts a day, by its robust slope since the last change or correction; where the readings since are too
    /// close together to tell, before it.
    #[must_use]
    pub fn ph_a_day(known: &Known) -> f64 {
        known.readings.ph_a_day().or(known.readings.ph_drifted).unwrap_or(0.0)
    }

    /// Litres that stand there, with the pump running.
    #[must_use]
    pub fn litres(&self) -> Option<About<Litres>> {
        Some(self.litres?.about(self.at?))
    }

    /// The litres as they were left when they were last read, poured or drained, with that moment: from there they are
    /// carried on by what is drunk.
    #[must_use]
    pub fn left(&self) -> Option<(Timestamp, About<Litres>)> {
        let at = self.left?.moved.max(self.left?.read)?;
        Some((at, self.left?.about(at)))
    }

    /// Their strength, at 25 °C.
    #[must_use]
    pub fn ec(&self) -> Option<About<Conductivity>> {
        Some(self.ec?.about(self.at?))
    }

    /// Their pH.
    #[must_use]
    pub fn ph(&self) -> Option<About<Ph>> {
        Some(self.ph?.about(self.at?))
    }

    /// What a visit read resets the estimate; nothing is poured yet.
    pub fn read(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        self.at = Some(at);
        if let Some(litres) = visit.measured(system) {
            self.litres = Some(Guess::read(litres.get(), FIGURES.level.read_error, at));
            self.left = self.litres;
        }
        if let Some(ec) = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok()) {
            self.ec = Some(Guess::read(ec.get(), FIGURES.strength.meter_error, at));
        }
        if let Some(ph) = visit.ph {
            self.ph = Some(read_ph(ph, at));
        }
    }

    /// What a visit drained, stirred in, poured and dosed moves it.
    pub fn pour(&mut self, at: Timestamp, visit: &Visit, known: &Known, system: &System) {
        if let (Some(drained), Some(litres)) = (visit.drained, &mut self.litres) {
            let left = |litres: f64| (litres - drained.get()).max(0.0);
            *litres = litres.moved(at, left(litres.low), left(litres.value), left(litres.high));
            self.left = self.litres;
        }
        match (visit.top_off, &visit.batch) {
            (Some(top_off), batch) => self.top_off(at, top_off, batch.as_ref(), known, system),
            (None, Some(batch)) => self.stir_in(at, batch, system),
            (None, None) => {}
        }
        if let Some(correction) = visit.corrected() {
            self.correction(at, &correction, known);
        }
    }

    fn top_off(&mut self, at: Timestamp, top_off: TopOff, batch: Option<&Batch>, known: &Known, system: &System) {
        let Some(litres) = &mut self.litres else {
            // Nobody knows what stood there: only that it is no less than what was poured.
            self.ec = None;
            return;
        };
        let (before, added) = (*litres, top_off.litres.get());
        let rim = system.reservoir.shape.capacity().get();
        let up = |litres: f64| (litres + added).min(rim);
        *litres = before.moved(at, up(before.low), up(before.value), up(before.high));
        self.left = self.litres;
        if let Some(ec) = &mut self.ec {
            let (weak, usual, strong) = poured_ec(top_off, batch, ec.value, known, system);
            let mixed = |ec: f64, litres: f64, poured: f64| {
                let all = litres + added;
                if all > 0.0 { (ec * litres + poured * added) / all } else { poured }
            };
            let corner = |pick: fn(f64, f64) -> f64, ec: f64, poured: f64| {
                pick(mixed(ec, before.low, poured), mixed(ec, before.high, poured))
            };
            let value = mixed(ec.value, before.value, usual);
            *ec = ec.moved(at, corner(f64::min, ec.low, weak), value, corner(f64::max, ec.high, strong));
        }
        if let Some(ph) = &mut self.ph {
            let figures = &FIGURES.ph;
            let little = added < (before.value + added) * figures.new_water_little;
            let spread = if little { figures.spread_little } else { figures.spread_much };
            let (mut low, mut high) = (ph.low - spread, ph.high + spread);
            if !little {
                // It may be anywhere between what was there and what came in.
                (low, high) = (low.min(figures.fresh_low), high.max(figures.fresh_high));
            }
            *ph = ph.moved(at, low, ph.value, high);
        }
    }

    /// Feed stirred into the water that stands there.
    fn stir_in(&mut self, at: Timestamp, batch: &Batch, system: &System) {
        // Measured in the tank once it had mixed.
        if let Some(read) = batch.ec.and_then(|ec| ec.at_25(None::<Celsius>).ok()) {
            self.ec = Some(Guess::read(read.get(), FIGURES.strength.meter_error, at));
            if let Some(ph) = &mut self.ph {
                *ph = ph.moved(at, ph.low - FIGURES.ph.spread_much, ph.value, ph.high);
            }
            return;
        }
        let Some(litres) = self.litres else { return };
        let Some(ec) = &mut self.ec else { return };
        let volume = litres.value.max(system.full().get() * LEAST_WATER);
        let (sure, unsure) = rise_of(batch);
        if sure + unsure <= 0.0 {
            return;
        }
        let spread = FIGURES.strength.label_spread;
        let (little, usual, much) =
            (sure * (1.0 - spread) / volume, sure / volume, (sure * (1.0 + spread) + unsure) / volume);
        *ec = ec.moved(at, ec.low + little, ec.value + usual, ec.high + much);
        if let Some(ph) = &mut self.ph {
            *ph = ph.moved(at, ph.low - FIGURES.ph.spread_much, ph.value, ph.high);
        }
    }

    fn change(&mut self, at: Timestamp, change: &Change, known: &Known, system: &System) {
        let whole = change.volume_after.get();
        let heel = change.left_in(system).get();
        let before = self.ec;
        let figures = &FIGURES.ph;
        self.at = Some(at);
        self.litres = Some(Guess::read(whole, FIGURES.level.read_error, at));
        self.left = self.litres;
        let read = change.ec.and_then(|ec| ec.at_25(change.temperature).ok()).map(Conductivity::get);
        let worked_out = || {
            let (weak, usual, strong) = match change.drawn(system) {
                Some((store, _)) => ready_ec(known.lessons.premixed?.value, store)?,
                None => batch_ec(change.batch.as_ref()?, system)?,
            };
            let old = if heel > 0.0 { before? } else { Guess::worked_out(0.0, 0.0, 0.0, at) };
            // With the drain-back more goes in than stands there once the pump runs.
            let fresh = change.batch.as_ref().map_or(whole - heel, |batch| batch.fresh.get()).max(whole - heel);
            let mix = |ec: f64, old: f64| (ec * fresh + old * heel) / (fresh + heel);
            Some(Guess::worked_out(mix(weak, old.low), mix(usual, old.value), mix(strong, old.high), at))
        };
        self.ec = match read {
            Some(ec) => Some(Guess::read(ec, FIGURES.strength.meter_error, at)),
            None if whole > 0.0 => worked_out(),
            None => None,
        };
        self.ph = Some(match change.ph {
            Some(ph) => read_ph(ph, at),
            None => {
                let usual = crate::statistics::median(&known.lessons.fresh_ph);
                let spread = figures.spread_little;
                match usual {
                    Some(usual) => Guess::worked_out(usual - spread, usual, usual + spread, at),
                    None => Guess::worked_out(figures.fresh_low, figures.fresh_usual, figures.fresh_high, at),
                }
            }
        });
    }

    /// A dose moves what the water holds by as much as it was meant to, or as the log has learnt.
    fn correction(&mut self, at: Timestamp, correction: &Correction, known: &Known) {
        let from = read_ph(correction.from, at);
        let (aim, per_litre) = (correction.aim.get(), correction.per_litre());
        let (start, end) = (held(from.value), held(aim));
        let reached = match known.lessons.buffer(correction.dosed.product) {
            Some(buffer) if buffer > 0.0 => {
                let by = per_litre / buffer;
                ph_holding(if end < start { start - by } else { start + by })
            }
            _ => match correction.whole {
                Some(whole) if whole > 0.0 => {
                    ph_holding(start + (end - start) * (correction.dosed.amount.value / whole).min(1.0))
                }
                _ => from.value,
            },
        };
        self.at = Some(at);
        let off = FIGURES.ph.after_dose_spread;
        self.ph = Some(Guess {
            read: Some(at),
            ..Guess::worked_out(from.low.min(aim) - off, reached, from.high.max(aim) + off, at)
        });
    }

    /// Applies one more entry, of a system as it was on that day. Entries come in order of time;
    /// `known` is what the log came to before it.
    pub(super) fn apply(&mut self, entry: &Entry, system: &System, known: &Known) {
        let at = entry.at;
        let mut carried = || std::mem::take(self).carried(at, known, system);
        match &entry.body {
            Body::Visit(visit) => {
                let mut standing = carried();
                standing.read(at, visit, system);
                standing.pour(at, visit, known, system);
                *self = standing;
            }
            Body::Sensed(sensed) => {
                let mut standing = carried();
                standing.read(at, &sensed.as_visit(), system);
                *self = standing;
            }
            Body::Change(change) => {
                let mut standing = carried();
                standing.change(at, change, known, system);
                *self = standing;
            }
            Body::Correction(correction) => {
                let mut standing = carried();
                standing.correction(at, correction, known);
                *self = standing;
            }
            Body::Treatment(_) | Body::Premix(_) | Body::Withdrawn {} | Body::FromNewer | Body::Unreadable => {}
        }
    }
}

/// Stirred into less than this share of a filling, a figure says nothing.
const LEAST_WATER: f64 = 0.05;

fn read_ph(reading: PhReading, at: Timestamp) -> Guess {
    let (low, high) = reading.range();
    Guess { low, value: reading.middle(), high, read: Some(at), moved: None }
}

/// Carries a strength on while water is drunk: S − u · w over what is left.
fn carry_ec(ec: &mut Guess, litres: f64, (quiet, usual, thirsty): Range, rates: &Rates, behind: &Behind, days: f64) {
    let figures = &FIGURES.strength;
    if rates.drinks.is_none() || rates.to_waste {
        let off = ec.value * figures.widens * days;
        (ec.low, ec.high) = ((ec.low - off).max(0.0), ec.high + off);
        return;
    }
    let (eats, takes, sips) =
        rates.takes_up.unwrap_or((ec.value * figures.takes_least, ec.value, ec.value * figures.takes_most));
    let after = |ec: f64, drunk: f64, taken: f64| {
        // What flows in behind a valve takes the place of what is drunk, at its own strength.
        let fed = drunk.min(behind.litres);
        // The last of the water is not followed to its end: what is left would be anything.
        let drunk = (drunk - fed).min(litres * MOST_DRUNK);
        let salt = ec * litres + behind.ec * fed - taken * (drunk + fed);
        if litres > 0.0 { (salt / (litres - drunk)).max(0.0) } else { ec }
    };
    let ends = |ec: f64, taken: f64| (after(ec, quiet, taken), after(ec, thirsty, taken));
    let (weak, strong) = (ends(ec.low, sips), ends(ec.high, eats));
    (ec.low, ec.value, ec.high) =
        (weak.0.min(weak.1), after(ec.value, usual, takes), strong.0.max(strong.1).min(Conductivity::MAX));
}

/// What stands behind a float valve: its litres, and its strength.
struct Behind {
    litres: f64,
    ec: f64,
}

/// More than this share of the water is not taken for drunk when its strength is carried on.
const MOST_DRUNK: f64 = 0.8;

/// What products add to a litre of water, in mS/cm · L: what is known of it, and what may come on top
/// from those whose rise nobody knows.
fn rise_of(batch: &Batch) -> (f64, f64) {
    let feeds = batch.used.iter().filter(|used| used.what.feeds());
    feeds.fold((0.0, 0.0), |(sure, unsure), used| {
        let shipped = || products().iter().find(|(id, _)| *id == used.product).and_then(|(_, product)| product.rise);
        match used.rise.or_else(shipped) {
            Some(rise) => (sure + rise * used.amount.value, unsure),
            None => (sure, unsure + FIGURES.strength.unknown_rise * used.amount.value),
        }
    })
}

/// The strength of a batch: as it was measured, else by its products.
fn batch_ec(batch: &Batch, system: &System) -> Option<Range> {
    let error = FIGURES.strength.meter_error;
    if let Some(ec) = batch.ec.and_then(|ec| ec.at_25(None::<Celsius>).ok()) {
        return Some((ec.get() * (1.0 - error), ec.get(), ec.get() * (1.0 + error)));
    }
    if batch.fresh <= Litres::ZERO {
        return None;
    }
    let source = batch.source_ec.unwrap_or(system.source_ec).get();
    let ((sure, unsure), spread, fresh) = (rise_of(batch), FIGURES.strength.label_spread, batch.fresh.get());
    Some((
        source + sure * (1.0 - spread) / fresh,
        source + sure / fresh,
        source + (sure * (1.0 + spread) + unsure) / fresh,
    ))
}

/// The strength of ready feed, where the store still holds what was mixed last.
fn ready_ec(ready: Premixed, store: PremixIn) -> Option<Range> {
    let (ec, error) = (ready.ec.filter(|_| ready.into == store)?.get(), FIGURES.strength.meter_error);
    Some((ec * (1.0 - error), ec, ec * (1.0 + error)))
}

/// The same as one figure.
pub(super) fn strength_of(batch: &Batch, system: &System) -> Option<Conductivity> {
    batch_ec(batch, system).and_then(|(_, ec, _)| Conductivity::new(ec).ok())
}

/// The strength of what was poured; where nobody knows it, anything from the source's to a strong feed's.
fn poured_ec(top_off: TopOff, batch: Option<&Batch>, tank: f64, known: &Known, system: &System) -> Range {
    let figures = &FIGURES.strength;
    let source = system.source_ec.get();
    let exactly = |ec: Conductivity| {
        let off = ec.get() * figures.meter_error;
        (ec.get() - off, ec.get(), ec.get() + off)
    };
    let unknown = || (source.min(tank), tank.max(source), (tank.max(source)) * 2.0);
    match top_off.water {
        TopOffWater::Plain => exactly(system.source_ec),
        TopOffWater::Feed { ec: Some(ec) } => exactly(ec),
        TopOffWater::Premixed {} => {
            known.lessons.premixed.and_then(|premixed| premixed.value.ec).map_or_else(unknown, exactly)
        }
        TopOffWater::Feed { ec: None } => {
            // The batch may be a part of what was poured: the rest came from the hose.
            let share = |batch: &Batch| (batch.fresh / top_off.litres).min(1.0);
            let mixed = batch.and_then(|batch| Some((batch_ec(batch, system)?, share(batch))));
            mixed.map_or_else(unknown, |((weak, usual, strong), part)| {
                let with_hose = |ec: f64| ec * part + source * (1.0 - part);
                (with_hose(weak), with_hose(usual), with_hose(strong))
            })
        }
    }
}
