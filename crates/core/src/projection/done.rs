//! When each check was last done, and how far the log reaches.

use super::{Projection, keep_last};
use crate::fact::{Body, Chore, Entry, Instead, Meshes, PutOff, Sensed, Visit};
use crate::figures::FIGURES;
use crate::statistics::median;
use crate::system::{Check, Every, System};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, VecDeque};
use uuid::Uuid;

/// Something that was moved to another day, and is not done yet.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Moved {
    /// The day on which it was due.
    pub from: Date,
    /// The day on which it is done.
    pub to: Date,
}

/// One time at which something was done, skipped or moved.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Occasion {
    /// When.
    pub at: Timestamp,
    /// What became of it; absent where it was done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub instead: Option<Instead>,
}

/// Occasions that are kept of each check and rule.
const KEPT_OCCASIONS: usize = 40;

/// Rinses from which the days between two are learnt.
const KEPT_MESHES: usize = 12;

/// Visits from which the pace is learnt.
const KEPT_PACES: usize = 9;

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
    /// The last top-offs, as many as any rule counts.
    #[serde(default)]
    pub top_offs: VecDeque<Timestamp>,
    /// The last time of each rule of one's own.
    #[serde(default)]
    pub own: BTreeMap<Uuid, Timestamp>,
    /// When each piece of equipment was last serviced, and last replaced.
    #[serde(default)]
    pub equipment: BTreeMap<Uuid, Upkeep>,
    /// What the last visits took, over what such visits usually take, oldest first.
    #[serde(default)]
    pub paces: Vec<f64>,
    /// What the last rinses of the mesh filters found, oldest first.
    #[serde(default)]
    pub meshes: Vec<(Timestamp, Meshes)>,
    /// What was moved to another day, by the code of its task.
    #[serde(default)]
    pub moved: BTreeMap<String, Moved>,
    /// When something was skipped since it was last done, by the code of its task.
    #[serde(default)]
    pub skipped: BTreeMap<String, Timestamp>,
    /// What became of each check and rule, the last times, oldest first, by the code of its task.
    #[serde(default)]
    pub occasions: BTreeMap<String, VecDeque<Occasion>>,
}

impl Done {
    /// When a check was last done.
    #[must_use]
    pub fn of(&self, check: Check) -> Option<Timestamp> {
        self.last.get(&check).copied()
    }

    /// What a job takes here, over what it usually takes: the middle of the last visits whose length is known, once there
    /// are three, and never less than half or more than three times the usual.
    #[must_use]
    pub fn pace(&self) -> f64 {
        let known = self.paces.len() as f64 >= FIGURES.ahead.pace_from;
        let pace = if known { median(&self.paces) } else { None };
        pace.map_or(1.0, |pace| pace.clamp(FIGURES.ahead.pace_least, FIGURES.ahead.pace_most))
    }

    /// When something was skipped since it was last done, by the code of its task.
    #[must_use]
    pub fn skipped_at(&self, code: &str) -> Option<Timestamp> {
        self.skipped.get(code).copied()
    }

    fn did(&mut self, check: Check, at: Timestamp) {
        self.last.insert(check, at);
        self.over(check.code(), at);
    }

    /// It was done: what was moved or skipped of it is past.
    fn over(&mut self, code: &str, at: Timestamp) {
        self.moved.remove(code);
        self.skipped.remove(code);
        self.remember(code, Occasion { at, instead: None });
    }

    fn remember(&mut self, code: &str, occasion: Occasion) {
        let all = self.occasions.entry(code.to_owned()).or_default();
        // One visit is one occasion.
        if all.back() != Some(&occasion) {
            all.push_back(occasion);
        }
        if all.len() > KEPT_OCCASIONS {
            all.pop_front();
        }
    }

    fn put_off(&mut self, at: Timestamp, put_off: &PutOff) {
        let code = put_off.chore.code();
        match put_off.instead {
            Instead::Skipped {} => {
                self.moved.remove(code.as_ref());
                self.skipped.insert(code.clone().into_owned(), at);
            }
            Instead::Moved { from, to } => {
                // Moved again, it was still due on its first day.
                let first = self.moved.get(code.as_ref()).filter(|before| before.to == from).map_or(from, |b| b.from);
                self.moved.insert(code.clone().into_owned(), Moved { from: first, to });
            }
        }
        self.remember(&code, Occasion { at, instead: Some(put_off.instead) });
    }

    /// A logger measures, and looks at nothing: it is no visit, and no one's pace.
    fn sensed(&mut self, at: Timestamp, sensed: &Sensed) {
        self.last_at = Some(at);
        if sensed.ph.is_some() || sensed.ec.is_some() {
            self.did(Check::Readings, at);
        }
        if sensed.litres.is_some() {
            self.did(Check::Level, at);
        }
    }

    fn visit(&mut self, at: Timestamp, visit: &Visit, system: &System) {
        if visit.top_off.is_some() {
            self.top_offs.push_back(at);
            if self.top_offs.len() > usize::from(Every::MOST_TOP_OFFS) {
                self.top_offs.pop_front();
            }
        }
        for done in &visit.rules {
            self.own.insert(done.rule, at);
            self.over(&Chore::Rule { rule: done.rule, name: done.name.clone() }.code(), at);
        }
        for done in &visit.serviced {
            let upkeep = self.equipment.entry(done.equipment).or_default();
            upkeep.serviced = Some(at);
            if done.replaced {
                upkeep.replaced = Some(at);
            }
        }
        let usual = usual_minutes(visit, system);
        for check in visit.checks(system) {
            self.did(check, at);
        }
        if let Some(found) = visit.meshes {
            keep_last(&mut self.meshes, (at, found), KEPT_MESHES);
        }
        if let Some(minutes) = visit.minutes.filter(|_| usual > 0.0) {
            keep_last(&mut self.paces, f64::from(minutes) / usual, KEPT_PACES);
        }
        visit.put_off.iter().for_each(|put_off| self.put_off(at, put_off));
    }
}

/// What was last done to a piece of equipment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct Upkeep {
    /// When it was cleaned and tried, or replaced.
    pub serviced: Option<Timestamp>,
    /// When a new one was put in.
    pub replaced: Option<Timestamp>,
}

/// What a visit like this usually takes, in minutes.
#[must_use]
pub fn usual_minutes(visit: &Visit, system: &System) -> f64 {
    let checks: f64 = visit.checks(system).iter().map(|check| f64::from(check.facts().minutes)).sum();
    checks + if visit.top_off.is_some() { FIGURES.ahead.pour_minutes } else { 0.0 }
}

impl Projection for Done {
    fn apply(&mut self, entry: &Entry, system: &System) {
        let at = entry.at;
        if let Body::Sensed(sensed) = &entry.body {
            return self.sensed(at, sensed);
        }
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
                if change
                    .parts
                    .as_ref()
                    .is_some_and(|parts| parts.roots.as_ref().is_some_and(|roots| roots.stage().is_some()))
                {
                    self.did(Check::Roots, at);
                }
                if change.ph.is_some() || change.ec_after().is_some() {
                    self.did(Check::Readings, at);
                }
            }
            Body::Correction(_) => self.did(Check::Readings, at),
            Body::Treatment(_)
            | Body::Premix(_)
            | Body::Withdrawn {}
            | Body::FromNewer
            | Body::Unreadable
            | Body::Sensed(_) => {}
        }
    }
}
