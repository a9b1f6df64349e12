//! The state of a system, folded from its log.
//!
//! The fold is small and bounded, so that it can be cached; it can always be rebuilt from the
//! entries, and gives the same.

use super::lessons::{LEARN_FROM, PhDose, Premixed};
use super::{Body, Change, Entry, Ledger, Plants, RootStage, Roots, Running, Treatment, TreatmentKind, Visit, WaterGlass};
use crate::calendar::days_between;
use crate::care::Check;
use crate::mixing::BatchPoint;
use crate::mixing::balance::Water;
use crate::quantity::{Celsius, Conductivity, Litres, PhReading};
use crate::system::System;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashSet};

/// Something with the time at which it was so.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Dated<T> {
    /// When.
    pub at: Timestamp,
    /// What.
    pub value: T,
}

/// The water at one visit or change: what stood there, and what stands there after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct VolumePoint {
    /// When.
    pub at: Timestamp,
    /// Measured before anything was added; `None` when nobody measured.
    pub before: Option<Litres>,
    /// After top-off or change. Without a measurement it is the last known volume plus what was
    /// added, and too high by what was drunk since.
    pub after: Litres,
    /// Litres added without draining.
    pub added: Litres,
    /// Whether the water was changed here: no uptake is read across it.
    pub changed: bool,
}

/// How many volume points are kept: enough for eight intervals of uptake and the last refills.
const VOLUME_POINTS: usize = 9;

/// All that is known of a system now.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(default)]
pub struct State {
    /// Entries that count.
    pub entries: u32,
    /// Time of the oldest of them.
    pub first_at: Option<Timestamp>,
    /// Time of the newest of them.
    pub last_at: Option<Timestamp>,
    /// When each check was last done.
    pub done: BTreeMap<Check, Timestamp>,
    /// The latest volumes, oldest first.
    pub volumes: Vec<VolumePoint>,
    /// The last pH.
    pub ph: Option<Dated<PhReading>>,
    /// The last EC, at 25 °C.
    pub ec: Option<Dated<Conductivity>>,
    /// The EC before the last one, since the last change, with the volume that it was read at.
    pub ec_before: Option<Dated<(Conductivity, Litres)>>,
    /// The last temperature.
    pub temperature: Option<Dated<Celsius>>,
    /// The last water glass.
    pub glass: Option<Dated<WaterGlass>>,
    /// The last root check: the stage, and in how many ports.
    pub roots: Option<Dated<(RootStage, u16)>>,
    /// When roots were first found unsound in the present case; `None` when no case is open.
    pub root_case: Option<Dated<RootStage>>,
    /// Sound root checks in a row since then; two close the case.
    pub sound_since_case: u8,
    /// The last treatment in the case.
    pub treated: Option<Timestamp>,
    /// The last look at what runs; each part as it was last seen.
    pub running: Option<Dated<Running>>,
    /// The last look at the plants.
    pub plants: Option<Dated<Plants>>,
    /// Litres topped off since the last change.
    pub topped_off_since_change: f64,
    /// When the water was last changed.
    pub last_change: Option<Timestamp>,
    /// Salt and water taken up between readings.
    pub ledger: Ledger,
    /// The last doses of acid or base, oldest first.
    pub ph_doses: Vec<PhDose>,
    /// The last measured batches, oldest first.
    pub batches: Vec<BatchPoint>,
    /// Feed that was mixed ahead.
    pub premixed: Option<Dated<Premixed>>,
    /// pH of the last fresh fillings, once mixed, oldest first.
    pub fresh_ph: Vec<f64>,
    /// pH since the last change or correction, oldest first, for its drift.
    pub ph_since: Vec<(Timestamp, f64)>,
}

/// The entries that count: of every chain of amendments the newest, in order of time; withdrawn
/// ones are left out. `entries` come in the order in which they were recorded.
#[must_use]
pub fn effective(entries: &[Entry]) -> Vec<&Entry> {
    let amended: HashSet<_> = entries.iter().filter_map(|entry| entry.amends).collect();
    let mut newest: Vec<&Entry> = entries.iter().filter(|e| !amended.contains(&e.id) && !matches!(e.body, Body::Withdrawn {})).collect();
    newest.sort_by_key(|entry| entry.at);
    newest
}

/// Folds the whole log of a system.
#[must_use]
pub fn fold(entries: &[Entry], system: &System) -> State {
    let mut state = State::default();
    for entry in effective(entries) {
        state.apply(entry, system);
    }
    state
}

impl State {
    /// Whether `entry` can be applied on top of this state instead of folding everything again:
    /// it is no amendment, and nothing later has been applied.
    #[must_use]
    pub fn can_apply(&self, entry: &Entry) -> bool {
        entry.amends.is_none() && self.last_at.is_none_or(|last| entry.at >= last)
    }

    /// Applies one more entry. Entries come in order of time.
    pub fn apply(&mut self, entry: &Entry, system: &System) {
        self.entries += 1;
        self.first_at = self.first_at.or(Some(entry.at));
        self.last_at = Some(entry.at);
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit, system),
            Body::Change(change) => self.change(entry.at, change, system),
            Body::Treatment(treatment) => self.treatment(entry.at, treatment),
            Body::Correction(correction) => self.correction(entry.at, correction),
            Body::Premix(premix) => self.premix(entry.at, premix, system),
            Body::Withdrawn {} => {}
        }
    }

    /// The volume after the last event, if any volume was ever known.
    #[must_use]
    pub fn last_volume(&self) -> Option<VolumePoint> {
        self.volumes.last().copied()
    }

    /// The highest volume of the last `days`.
    #[must_use]
    pub fn highest_volume(&self, now: Timestamp, days: f64) -> Option<Litres> {
        let recent = self.volumes.iter().filter(|p| days_between(p.at, now) <= days);
        let carried = self.volumes.iter().rev().find(|p| days_between(p.at, now) > days).map(|p| p.after);
        recent.map(|p| p.after).chain(carried).max_by(|a, b| a.get().total_cmp(&b.get()))
    }

    /// When water was last added without draining.
    #[must_use]
    pub fn last_refill(&self) -> Option<Timestamp> {
        self.volumes.iter().rev().find(|p| p.added > Litres::ZERO).map(|p| p.at)
    }

    pub(super) fn did(&mut self, check: Check, at: Timestamp) {
        self.done.insert(check, at);
    }

    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        if visit.all_fine || visit.running.is_some() || visit.plants.is_some() {
            self.did(Check::LookIn, at);
        }
        for check in &visit.done {
            self.did(*check, at);
        }
        if let Some(plants) = &visit.plants {
            self.did(Check::Plants, at);
            self.plants = Some(Dated { at, value: plants.clone() });
        }
        if visit.all_fine {
            self.running = Some(Dated { at, value: Running::default() });
            if visit.plants.is_none() && self.plants.as_ref().is_none_or(|p| p.value.signs.is_empty()) {
                self.plants = Some(Dated { at, value: Plants::default() });
            }
        }
        if let Some(running) = visit.running {
            let earlier = self.running.map(|r| r.value).unwrap_or_default();
            self.running = Some(Dated { at, value: running.over(earlier) });
        }
        let measured = visit.level.and_then(|level| level.volume(&system.reservoir, system.traits.drain_back).ok());
        if measured.is_some() {
            self.did(Check::Level, at);
        }
        self.readings(at, visit, measured);
        self.salt(at, visit, measured, system);
        if measured.is_some() || visit.top_off.is_some() || visit.drained.is_some() {
            self.volume(at, measured, visit, system);
        }
        if let Some(glass) = visit.glass {
            self.did(Check::WaterGlass, at);
            self.glass = Some(Dated { at, value: glass });
        }
        if let Some(roots) = &visit.roots {
            self.roots(at, roots);
        }
    }

    fn readings(&mut self, at: Timestamp, visit: &Visit, measured: Option<Litres>) {
        if let Some(temperature) = visit.temperature {
            self.temperature = Some(Dated { at, value: temperature });
        }
        if let Some(ph) = visit.ph {
            self.did(Check::Readings, at);
            self.ph_read(at, ph);
        }
        if let Some(ec) = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok()) {
            self.did(Check::Readings, at);
            if let (Some(last), Some(volume)) = (self.ec, self.last_volume()) {
                self.ec_before = Some(Dated { at: last.at, value: (last.value, volume.after) });
            }
            self.ec = Some(Dated { at, value: ec });
            if measured.is_none() {
                self.ec_before = None;
            }
        }
    }

    fn volume(&mut self, at: Timestamp, before: Option<Litres>, visit: &Visit, system: &System) {
        let added = visit.top_off.map_or(Litres::ZERO, |top_off| top_off.litres);
        let drained = visit.drained.unwrap_or(Litres::ZERO);
        let standing = before.or(self.last_volume().map(|p| p.after)).unwrap_or(system.reservoir.working);
        let after = Litres::nearest((standing.get() - drained.get() + added.get()).min(system.reservoir.shape.capacity().get()));
        self.topped_off_since_change += added.get();
        self.push(VolumePoint { at, before, after, added, changed: drained > Litres::ZERO });
    }

    fn push(&mut self, point: VolumePoint) {
        self.volumes.push(point);
        if self.volumes.len() > VOLUME_POINTS {
            self.volumes.remove(0);
        }
    }

    fn roots(&mut self, at: Timestamp, roots: &Roots) {
        self.did(Check::Roots, at);
        let stage = roots.answers.stage();
        let ports = roots.ports.as_ref().map_or(0, |p| u16::try_from(p.len()).unwrap_or(u16::MAX));
        self.roots = Some(Dated { at, value: (stage, ports) });
        if stage > RootStage::Sound {
            self.sound_since_case = 0;
            let began = self.root_case.map_or(at, |case| case.at);
            self.root_case = Some(Dated { at: began, value: stage });
        } else if self.root_case.is_some() {
            self.sound_since_case += 1;
            if self.sound_since_case >= 2 {
                self.root_case = None;
                self.sound_since_case = 0;
                self.treated = None;
            }
        }
    }

    fn change(&mut self, at: Timestamp, change: &Change, system: &System) {
        self.did(Check::Change, at);
        self.last_change = Some(at);
        self.topped_off_since_change = 0.0;
        self.push(VolumePoint { at, before: None, after: change.volume_after, added: Litres::ZERO, changed: true });
        self.glass = None;
        self.ec_before = None;
        if let Some(batch) = &change.batch {
            self.batch(batch, system);
        }
        if let Some(parts) = &change.parts {
            for check in parts.did(&system.traits) {
                self.did(check, at);
            }
        }
        // What was read in the old water says nothing of the new.
        self.ph = change.ph.map(|value| Dated { at, value });
        // Without a heel the batch is the tank.
        let whole = change.batch.as_ref().filter(|_| change.heel.is_none_or(|heel| heel == Litres::ZERO)).and_then(|batch| batch.ec);
        self.ec = change.ec.or(whole).and_then(|ec| ec.at_25(change.temperature).ok()).map(|value| Dated { at, value });
        self.ph_since = change.ph.iter().map(|ph| (at, ph.middle())).collect();
        self.ledger.breaks();
        if let Some(ec) = self.ec {
            self.ledger.start(at, Water::new(change.volume_after, ec.value));
        }
        if let Some(ph) = change.ph {
            self.fresh_ph.push(ph.middle());
            if self.fresh_ph.len() > LEARN_FROM {
                self.fresh_ph.remove(0);
            }
        }
        if change.ph.is_some() || self.ec.is_some() {
            self.did(Check::Readings, at);
        }
        self.temperature = change.temperature.map(|value| Dated { at, value }).or(self.temperature);
    }

    fn treatment(&mut self, at: Timestamp, treatment: &Treatment) {
        if matches!(treatment.what, TreatmentKind::PeroxideDose | TreatmentKind::RootBath) {
            self.treated = Some(at);
        }
    }
}
