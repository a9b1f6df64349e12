//! The water that stands in the tank: its volumes, its strength, and what was added since the last
//! change.

use super::{Line, Projection, keep_last, uptake};
use crate::fact::{Apart, Body, Change, Dated, Entry, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::quantity::{Conductivity, Litres, PhReading};
use crate::system::{Feeding, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// The water at one visit or change: what stood there, and what stands there after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct VolumePoint {
    /// When the level was read or water was poured.
    pub at: Timestamp,
    /// Measured before anything was added; `None` when nobody measured.
    pub before: Option<Litres>,
    /// After top-off or change; `None` where nobody read what stood there: what it comes to then is the estimate's to say.
    pub after: Option<Litres>,
    /// Litres added without draining.
    pub added: Litres,
    /// Whether the water was changed here: no uptake is read across it.
    pub changed: bool,
    /// What the timer was set to feed a day until then, where what runs out is gone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fed_a_day: Option<Litres>,
}

/// Enough for eight intervals of uptake and the last refills.
const VOLUME_POINTS: usize = 9;

/// Run-off as it was read, and what it is held against.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct SeenRunOff {
    /// Its EC, at 25 °C.
    pub ec: Option<Conductivity>,
    /// EC of the feed that went in: read on the same visit, else as it was read last.
    pub feed: Option<Conductivity>,
    /// Its pH.
    pub ph: Option<PhReading>,
    /// How much of what was given ran through, 0–1.
    pub share: Option<f64>,
    /// Litres of one feed, as the timer was set then.
    pub set: Option<Litres>,
}

/// The water that stands in the tank.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Tank {
    /// The latest volumes, oldest first.
    pub volumes: Vec<VolumePoint>,
    /// The last EC, at 25 °C.
    pub ec: Option<Dated<Conductivity>>,
    /// EC and volume as they were last read together, before anything was poured.
    pub full_reading: Option<Dated<(Conductivity, Litres)>>,
    /// The same at the reading before that, where nothing but plain water came in between: salts
    /// gather where EC is higher now and the level no higher.
    pub ec_before: Option<Dated<(Conductivity, Litres)>>,
    /// Whether feed went in since the last full reading.
    pub fed: bool,
    /// Topped off since the last change.
    pub topped_off_since_change: Option<Litres>,
    /// When the water was last changed.
    pub last_change: Option<Timestamp>,
    /// The line that roots are used to.
    pub line: Line,
    /// Run-off as it was last read, where a timer feeds and nothing comes back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub run_off: Option<Dated<SeenRunOff>>,
    /// Vessels of one loop that did not stand level when each was last read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub apart: Option<Dated<Apart>>,
}

/// Whether salts gather between two readings of EC and volume, with nothing but plain water in between: EC is up while the
/// level is not, and the salt itself, EC times volume, has not fallen. Where it fell plants ate, and only drank more: that
/// is no reason for anything. Both readings are from before anything was poured.
#[must_use]
pub fn salts_gather((ec, litres): (Conductivity, Litres), (was, stood): (Conductivity, Litres)) -> bool {
    let (salt, before) = (ec.get() * litres.get(), was.get() * stood.get());
    (ec - was).get() >= FIGURES.strength.rise && litres <= stood * (1.0 + FIGURES.level.limit_over) && salt >= before
}

impl Tank {
    /// The last event that touched the volume.
    #[must_use]
    pub fn last_volume(&self) -> Option<VolumePoint> {
        self.volumes.last().copied()
    }

    /// What may be drunk on a thirsty day, as far as it is known.
    #[must_use]
    pub fn thirst(&self) -> Option<Litres> {
        uptake(self).map(|uptake| uptake.spread().1)
    }

    /// When water was last added without draining.
    #[must_use]
    pub fn last_refill(&self) -> Option<Timestamp> {
        self.volumes.iter().rev().find(|p| p.added > Litres::ZERO).map(|p| p.at)
    }

    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        let measured = visit.measured(system);
        if let Some(ec) = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok()) {
            self.ec = Some(Dated { at, value: ec });
            if let Some(litres) = measured {
                self.ec_before = self.full_reading.filter(|_| !self.fed);
                self.full_reading = Some(Dated { at, value: (ec, litres) });
                self.fed = false;
            }
        }
        self.fed |= fed(visit);
        let seen = SeenRunOff::of(visit, self.ec.map(|ec| ec.value), system);
        if let Some(each) = &visit.vessels {
            self.apart = each.apart().map(|value| Dated { at, value });
        }
        self.run_off = seen.map(|value| Dated { at, value }).or(self.run_off);
        if measured.is_none() && visit.top_off.is_none() && visit.drained.is_none() {
            return;
        }
        let added = visit.top_off.map_or(Litres::ZERO, |top_off| top_off.litres);
        let drained = visit.drained.unwrap_or(Litres::ZERO);
        // More than stood there by the reading cannot have been drained: then it was emptied.
        let rim = system.reservoir.shape.capacity();
        let after = measured.map(|standing| ((standing - drained).or_nothing() + added).min(rim));
        self.topped_off_since_change = Some(self.topped_off_since_change.unwrap_or(Litres::ZERO) + added);
        let fed_a_day = system.feeding.map(Feeding::a_day);
        self.push(VolumePoint { at, before: measured, after, added, changed: drained > Litres::ZERO, fed_a_day });
    }

    fn change(&mut self, at: Timestamp, change: &Change) {
        if change.renews() {
            self.last_change = Some(at);
            self.topped_off_since_change = None;
        }
        self.push(VolumePoint {
            at,
            before: None,
            after: Some(change.volume_after),
            added: Litres::ZERO,
            changed: true,
            fed_a_day: None,
        });
        (self.ec_before, self.full_reading, self.fed) = (None, None, false);
        self.ec = change.ec_after().map(|value| Dated { at, value });
    }

    fn push(&mut self, point: VolumePoint) {
        let thirst = self.thirst();
        self.line.note(point.at, (point.before, point.after), point.added, thirst);
        keep_last(&mut self.volumes, point, VOLUME_POINTS);
    }
}

impl SeenRunOff {
    /// What a visit read of it; `last` is the EC of the feed as it was read last.
    #[must_use]
    pub fn of(visit: &Visit, last: Option<Conductivity>, system: &System) -> Option<Self> {
        let run_off = visit.run_off?;
        let read = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok());
        Some(Self {
            ec: run_off.strength(visit.temperature),
            feed: read.or(last),
            ph: run_off.ph,
            share: run_off.share(),
            set: system.feeding.map(|feeding| feeding.litres),
        })
    }
}

/// Whether a visit poured or stirred in anything but plain water.
fn fed(visit: &Visit) -> bool {
    let poured = visit.top_off.is_some_and(|top_off| top_off.water != TopOffWater::Plain);
    poured || visit.batch.as_ref().is_some_and(|batch| batch.used.iter().any(|used| used.what.feeds()))
}

impl Projection for Tank {
    fn apply(&mut self, entry: &Entry, system: &System) {
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit, system),
            Body::Sensed(sensed) => self.visit(entry.at, &sensed.as_visit(), system),
            Body::Change(change) => self.change(entry.at, change),
            Body::Treatment(_)
            | Body::Correction(_)
            | Body::Premix(_)
            | Body::Withdrawn {}
            | Body::FromNewer
            | Body::Unreadable => {}
        }
    }
}
