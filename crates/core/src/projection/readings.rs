//! What was last read and seen.

use super::{Projection, keep_last};
use crate::calendar::days_between;
use crate::fact::{
    Body, Change, Correction, Dated, Entry, Happened, Plants, RootStage, Roots, Running, Subject, Visit, WaterGlass,
};
use crate::figures::FIGURES;
use crate::quantity::{Celsius, Millimetres, PhReading};
use crate::statistics::slope;
use crate::system::{Check, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// How many pH readings are kept for its drift.
const PH_POINTS: usize = 8;

/// What was last read and seen.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Readings {
    /// The last pH.
    pub ph: Option<Dated<PhReading>>,
    /// pH since the last change or correction, oldest first, for its drift.
    pub ph_since: Vec<(Timestamp, f64)>,
    /// How it drifted a day before that, where it was read long enough.
    #[serde(default)]
    pub ph_drifted: Option<f64>,
    /// The last temperature.
    pub temperature: Option<Dated<Celsius>>,
    /// The last water glass.
    pub glass: Option<Dated<WaterGlass>>,
    /// The last root check: the stage, and in how many ports.
    pub roots: Option<Dated<(RootStage, u16)>>,
    /// The last look at what runs; each part as it was last seen.
    pub running: Option<Dated<Running>>,
    /// The last look at the plants.
    pub plants: Option<Dated<Plants>>,
    /// The hours of light a day, as last seen on the timer.
    #[serde(default)]
    pub lamp_hours: Option<Dated<f64>>,
    /// The gap from the lamp to the tallest leaf, as last measured.
    #[serde(default)]
    pub lamp_gap: Option<Dated<Millimetres>>,
    /// When it was last stopped, by a power cut or by hand, and what was seen to run since.
    #[serde(default)]
    pub stopped: Option<Dated<Stopped>>,
    /// When the advice on a subject was last set aside: what was found up to then asks for nothing more.
    pub set_aside: BTreeMap<Subject, Timestamp>,
}

/// A stop that somebody told of, until all that it stopped was seen to run again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct Stopped {
    /// By a power cut, which timers lose their hour in; else by hand.
    pub by_cut: bool,
    /// What was looked at since.
    pub seen: Running,
}

impl Readings {
    fn ph_read(&mut self, at: Timestamp, ph: PhReading) {
        self.ph = Some(Dated { at, value: ph });
        keep_last(&mut self.ph_since, (at, ph.middle()), PH_POINTS);
    }

    fn visit(&mut self, at: Timestamp, visit: &Visit) {
        if let Some(plants) = &visit.plants {
            self.plants = Some(Dated { at, value: plants.clone() });
        }
        if visit.all_fine {
            // A fault stays one until somebody says that the part itself is right again.
            let open = self.running.filter(|running| running.value.any_fault());
            self.running = open.or(Some(Dated { at, value: Running::default() }));
            if visit.plants.is_none() && self.plants.as_ref().is_none_or(|p| p.value.signs.is_empty()) {
                self.plants = Some(Dated { at, value: Plants::default() });
            }
        }
        let stop = |by_cut| Some(Dated { at, value: Stopped { by_cut, seen: Running::default() } });
        for event in &visit.events {
            match event {
                Happened::PowerCut {} => self.stopped = stop(true),
                // A cut that is not seen to yet asks for more than a hand that switches off.
                Happened::SwitchedOff {} if !self.stopped.is_some_and(|stopped| stopped.value.by_cut) => {
                    self.stopped = stop(false);
                }
                _ => {}
            }
        }
        if let (Some(running), Some(stopped)) = (visit.running, &mut self.stopped) {
            stopped.value.seen = running.and(stopped.value.seen);
        }
        if let Some(running) = visit.running {
            let earlier = self.running.map(|running| running.value).unwrap_or_default();
            self.running = Some(Dated { at, value: running.over(earlier) });
        }
        if let Some(value) = visit.temperature {
            self.temperature = Some(Dated { at, value });
        }
        if let Some(ph) = visit.ph {
            self.ph_read(at, ph);
        }
        if visit.dosed.is_some() {
            self.dosed();
        }
        if let Some(value) = visit.glass {
            self.glass = Some(Dated { at, value });
        }
        if let Some(roots) = &visit.roots {
            self.roots(at, roots);
        }
        // Ticked off without a number: set as it is wanted.
        if visit.done.contains(&Check::Light) && visit.lamp.is_none() {
            (self.lamp_hours, self.lamp_gap) = (None, None);
        }
        if let Some(lamp) = visit.lamp {
            self.lamp_hours = lamp.hours.map(|value| Dated { at, value }).or(self.lamp_hours);
            self.lamp_gap = lamp.gap.map(|value| Dated { at, value }).or(self.lamp_gap);
        }
        self.set_aside.extend(visit.overruled.keys().map(|subject| (*subject, at)));
    }

    fn roots(&mut self, at: Timestamp, roots: &Roots) {
        let ports = roots.ports.as_ref().map_or(0, |ports| u16::try_from(ports.len()).unwrap_or(u16::MAX));
        self.roots = roots.stage().map(|stage| Dated { at, value: (stage, ports) }).or(self.roots);
    }

    /// What was read in the old water says nothing of the new.
    fn change(&mut self, at: Timestamp, change: &Change) {
        if change.renews() {
            self.glass = None;
        }
        if let Some(roots) = change.parts.as_ref().and_then(|parts| parts.roots.as_ref()) {
            self.roots(at, roots);
        }
        self.ph = change.ph.map(|value| Dated { at, value });
        self.drifted();
        self.ph_since = change.ph.iter().map(|ph| (at, ph.middle())).collect();
        self.temperature = change.temperature.map(|value| Dated { at, value }).or(self.temperature);
    }

    fn correction(&mut self, at: Timestamp, correction: &Correction) {
        self.ph_read(at, correction.from);
        self.dosed();
    }

    /// A dose ends the row of readings that tell how the pH drifts by itself.
    fn dosed(&mut self) {
        self.drifted();
        self.ph_since.clear();
    }

    /// Keeps the drift of the readings that a change or a correction ends.
    fn drifted(&mut self) {
        self.ph_drifted = self.ph_a_day().or(self.ph_drifted);
    }

    /// How pH drifts a day, by its robust slope since the last change or correction; nothing where the readings are too
    /// close together to tell.
    #[must_use]
    pub fn ph_a_day(&self) -> Option<f64> {
        let from = self.ph_since.first()?.0;
        let points: Vec<(f64, f64)> = self.ph_since.iter().map(|(at, ph)| (days_between(from, *at), *ph)).collect();
        let long_enough = points.last().is_some_and(|(days, _)| *days >= FIGURES.ph.drift_from);
        slope(&points).filter(|_| long_enough)
    }
}

impl Projection for Readings {
    fn apply(&mut self, entry: &Entry, _: &System) {
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit),
            Body::Sensed(sensed) => self.visit(entry.at, &sensed.as_visit()),
            Body::Change(change) => self.change(entry.at, change),
            Body::Correction(correction) => self.correction(entry.at, correction),
            Body::Treatment(_) | Body::Premix(_) | Body::Withdrawn {} | Body::FromNewer | Body::Unreadable => {}
        }
    }
}
