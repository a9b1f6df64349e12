//! What happened besides what was read and seen: what came from other systems, what was sprayed, moved and picked,
//! when it was last reset, and whether it is closed off.

use super::{Projection, keep_last};
use crate::fact::{Body, Carried, Dated, Entry, Happened, Harvested, RootStage, Spray, Visit};
use crate::quantity::Name;
use crate::system::{PortSet, System};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Something that came here from another system.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Contact {
    /// When.
    pub at: Timestamp,
    /// What.
    pub carried: Carried,
    /// From which system.
    pub system: Uuid,
    /// What that was called then.
    pub name: Name,
}

/// What was picked of one planting so far.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Picked {
    /// The first time.
    pub first: Timestamp,
    /// The last time.
    pub last: Timestamp,
    /// How often.
    pub times: u32,
    /// In grams, of the times at which it was weighed; 0 where it never was.
    pub grams: f64,
    /// Pieces, of the times at which they were counted.
    pub pieces: u32,
    /// When all of it was picked.
    pub whole: Option<Timestamp>,
}

/// What happened besides.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Happenings {
    /// What came from other systems, oldest first.
    pub contacts: Vec<Contact>,
    /// What was last sprayed, oldest first: a second spray does not end the days to harvest of the first.
    pub sprayed: Vec<Dated<Spray>>,
    /// When the plants were last moved.
    pub moved: Option<Timestamp>,
    /// When young plants last got a drink from above.
    #[serde(default)]
    pub watered: Option<Timestamp>,
    /// When the roots of the young plants were last seen in the water.
    #[serde(default)]
    pub roots_reach: Option<Timestamp>,
    /// Since when it is closed off.
    pub closed_off: Option<Timestamp>,
    /// When everything was last taken out and cleaned.
    pub reset: Option<Timestamp>,
    /// What was picked, by planting.
    pub picked: BTreeMap<Uuid, Picked>,
    /// What was lost, by planting.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub lost: BTreeMap<Uuid, Vec<(Timestamp, PortSet)>>,
    /// The last sound looks at the roots, oldest first.
    pub sound_roots: Vec<Timestamp>,
    /// The last sound looks at the plants, oldest first.
    pub sound_plants: Vec<Timestamp>,
}

/// Contacts that are kept.
const KEPT_CONTACTS: usize = 24;
/// Sprays that are kept.
const KEPT_SPRAYS: usize = 12;
/// Sound looks that are kept.
const KEPT_LOOKS: usize = 6;

impl Happenings {
    fn visit(&mut self, at: Timestamp, visit: &Visit) {
        for event in &visit.events {
            match event {
                Happened::Sprayed { with } => keep_last(&mut self.sprayed, Dated { at, value: *with }, KEPT_SPRAYS),
                Happened::Moved {} => self.moved = Some(at),
                Happened::CameFrom { carried, system, name } => {
                    let contact = Contact { at, carried: *carried, system: *system, name: name.clone() };
                    keep_last(&mut self.contacts, contact, KEPT_CONTACTS);
                }
                Happened::Transplanted(one) => {
                    let contact = Contact { at, carried: Carried::Plants, system: one.system, name: one.name.clone() };
                    keep_last(&mut self.contacts, contact, KEPT_CONTACTS);
                }
                Happened::Lost { planting, ports, .. } => {
                    self.lost.entry(*planting).or_default().push((at, ports.clone()));
                }
                Happened::ClosedOff {} => self.closed_off = self.closed_off.or(Some(at)),
                Happened::Opened {} => self.closed_off = None,
                Happened::Watered {} => self.watered = Some(at),
                Happened::RootsReach {} => self.roots_reach = Some(at),
                Happened::PowerCut {} | Happened::SwitchedOff {} => {}
            }
        }
        visit.harvests.iter().for_each(|harvest| self.pick(at, harvest));
        if visit.roots.as_ref().is_some_and(|roots| roots.stage() == Some(RootStage::Sound)) {
            keep_last(&mut self.sound_roots, at, KEPT_LOOKS);
        }
        if visit.plants.as_ref().is_some_and(|plants| plants.signs.is_empty()) || visit.all_fine {
            keep_last(&mut self.sound_plants, at, KEPT_LOOKS);
        }
    }

    fn pick(&mut self, at: Timestamp, harvest: &Harvested) {
        let nothing = || Picked { first: at, last: at, times: 0, grams: 0.0, pieces: 0, whole: None };
        let picked = self.picked.entry(harvest.planting).or_insert_with(nothing);
        picked.last = at;
        picked.times += 1;
        picked.grams += harvest.grams.map_or(0.0, crate::quantity::Grams::get);
        picked.pieces += harvest.pieces.map_or(0, u32::from);
        picked.whole = picked.whole.or(harvest.whole.then_some(at));
    }
}

impl Projection for Happenings {
    fn apply(&mut self, entry: &Entry, _: &System) {
        match &entry.body {
            Body::Visit(visit) => self.visit(entry.at, visit),
            Body::Change(change) => {
                let Some(parts) = &change.parts else { return };
                if parts.reset && change.renews() {
                    self.reset = Some(entry.at);
                }
                if parts.roots.as_ref().is_some_and(|roots| roots.stage() == Some(RootStage::Sound)) {
                    keep_last(&mut self.sound_roots, entry.at, KEPT_LOOKS);
                }
            }
            Body::Treatment(_)
            | Body::Correction(_)
            | Body::Premix(_)
            | Body::Withdrawn {}
            | Body::Sensed(_)
            | Body::FromNewer
            | Body::Unreadable => {}
        }
    }
}
