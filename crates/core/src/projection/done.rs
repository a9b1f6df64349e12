//! When each check was last done, and how far the log reaches.

use super::Projection;
use crate::fact::{Body, Entry, Visit};
use crate::system::{Check, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// When each check was last done.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Done {
    /// Entries that count.
    pub entries: u32,
    /// Time of the oldest of them.
    pub first_at: Option<Timestamp>,
    /// Time of the newest of them.
    pub last_at: Option<Timestamp>,
    /// The last time of each check.
    pub last: BTreeMap<Check, Timestamp>,
    /// Top-offs so far.
    #[serde(default)]
    pub top_offs: u32,
    /// The last time of each rule of one's own, and the top-offs by then.
    #[serde(default)]
    pub own: BTreeMap<Uuid, (Timestamp, u32)>,
}

impl Done {
    /// When a check was last done.
    #[must_use]
    pub fn of(&self, check: Check) -> Option<Timestamp> {
        self.last.get(&check).copied()
    }

    fn did(&mut self, check: Check, at: Timestamp) {
        self.last.insert(check, at);
    }

    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        self.top_offs += u32::from(visit.top_off.is_some());
        for done in &visit.rules {
            self.own.insert(done.rule, (at, self.top_offs));
        }
        let ec = visit.ec.is_some_and(|ec| ec.at_25(visit.temperature).is_ok());
        let looked = visit.all_fine || visit.running.is_some() || visit.plants.is_some();
        let seen = [
            // Who reads the level or measures stands before it and sees whether it runs.
            (Check::LookIn, looked || visit.reads().is_some()),
            (Check::Plants, visit.plants.is_some()),
            (Check::Level, visit.measured(system).is_some()),
            (Check::Readings, visit.ph.is_some() || ec),
            (Check::WaterGlass, visit.glass.is_some()),
            (Check::Roots, visit.roots.is_some()),
            (Check::Light, visit.lamp.is_some_and(|lamp| lamp.hours.is_some() || lamp.gap.is_some())),
            (Check::Harvest, !visit.harvests.is_empty()),
        ];
        let seen = seen.into_iter().filter(|(_, seen)| *seen).map(|(check, _)| check);
        for check in seen.chain(visit.done.iter().copied()) {
            self.did(check, at);
        }
    }
}

impl Projection for Done {
    fn apply(&mut self, entry: &Entry, system: &System) {
        let at = entry.at;
        self.entries += 1;
        self.first_at = self.first_at.or(Some(at));
        self.last_at = Some(at);
        match &entry.body {
            Body::Visit(visit) => self.visit(at, visit, system),
            Body::Change(change) => {
                if change.renews() {
                    self.did(Check::Change, at);
                    self.did(Check::LookIn, at);
                    self.did(Check::Level, at);
                }
                for check in change.parts.iter().flat_map(|parts| parts.did(&system.traits)) {
                    self.did(check, at);
                }
                if change.parts.as_ref().is_some_and(|parts| parts.roots.is_some()) {
                    self.did(Check::Roots, at);
                }
                if change.ph.is_some() || change.ec_after().is_some() {
                    self.did(Check::Readings, at);
                }
            }
            Body::Correction(_) => self.did(Check::Readings, at),
            Body::Treatment(_) | Body::Premix(_) | Body::Withdrawn {} | Body::FromNewer => {}
        }
    }
}
