//! A growing system as it is set up: its kind, its traits and how it is cared for.

mod check;
mod equipment;
mod feeding;
mod hands;
mod kind;
mod methods;
mod own_rule;
mod port_set;

pub use check::{Check, CheckFacts, Need, checks};
pub use equipment::{Equipment, EquipmentFacts, EquipmentKind, Serviced, Stops, equipment};
pub use feeding::Feeding;
pub use hands::{HandStep, hand_steps};
pub use kind::{Kind, KindFacts, kinds};
pub use methods::{
    ChangeMethod, FlowerLight, Lamp, MOST_ALKALINITY, Methods, PhMethod, Ripening, RootRotMethod, SourceWater,
    TopOffMethod,
};
use own_rule::MOST_SLACK;
pub use own_rule::{Every, OwnRule, RuleDone};
pub use port_set::PortSet;

use crate::band::{EcBand, PhBand};
use crate::figures::FIGURES;
use crate::message::{percent, plain};
use crate::quantity::{Conductivity, Litres, Name, Note};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::reservoir::{A_HAIR, RefillMethod, Reservoir, Shape};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::BTreeMap;
use uuid::Uuid;

/// What a system has. The traits, not the kind, decide which checks and rules apply.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Traits {
    /// A pump moves the water.
    #[serde(default)]
    pub circulates: bool,
    /// An air pump and a stone.
    #[serde(default)]
    pub aerated: bool,
    /// The water runs in a film through channels: meshes clog within a day, salts settle in the bends.
    #[serde(default)]
    pub channels: bool,
    /// Sprayers, drippers or emitters.
    #[serde(default)]
    pub sprayers: bool,
    /// Mesh filters that clog.
    #[serde(default)]
    pub mesh_filters: bool,
    /// A float valve fed from a top-off reservoir.
    #[serde(default)]
    pub top_off_reservoir: bool,
    /// A timer feeds the pots, and what runs out of them is gone: no root hangs in the reservoir, and nothing comes back.
    #[serde(default)]
    pub to_waste: bool,
    /// A controller with fixed probes.
    #[serde(default)]
    pub controller: bool,
    /// A grow light on a timer.
    #[serde(default)]
    pub light: bool,
    /// No light reaches the water.
    #[serde(default)]
    pub opaque: bool,
    /// What runs home when the pump stops, in litres.
    #[serde(default = "none")]
    pub drain_back: Litres,
    /// What cannot be drained, in litres.
    #[serde(default = "none")]
    pub heel: Litres,
}

fn none() -> Litres {
    Litres::ZERO
}

impl Default for Traits {
    fn default() -> Self {
        Self {
            circulates: false,
            aerated: false,
            channels: false,
            sprayers: false,
            mesh_filters: false,
            top_off_reservoir: false,
            to_waste: false,
            controller: false,
            light: false,
            opaque: false,
            drain_back: Litres::ZERO,
            heel: Litres::ZERO,
        }
    }
}

impl Traits {
    /// Water that is neither moved nor aerated, with roots in it.
    #[must_use]
    pub fn still(&self) -> bool {
        !self.circulates && !self.aerated && !self.to_waste
    }

    /// Whether a pump brings the water to the plants, all the time or by a timer.
    #[must_use]
    pub fn pumped(&self) -> bool {
        self.circulates || self.to_waste
    }

    /// Whether anything hangs on a plug: a pump, air, sprayers.
    #[must_use]
    pub fn powered(&self) -> bool {
        self.pumped() || self.aerated || self.sprayers
    }

    /// Whether something fills or doses the vessel by itself: a float valve, a controller.
    #[must_use]
    pub fn supplied(&self) -> bool {
        self.top_off_reservoir || self.controller
    }

    /// Whether there is a plug by the water: of what is powered, or of a lamp.
    #[must_use]
    pub fn mains(&self) -> bool {
        self.powered() || self.light
    }
}

/// What the water is measured with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Measuring {
    /// A meter for pH and EC: every 3 days.
    Meter,
    /// A drop kit for pH: every 7 days.
    DropKit,
    /// A drop kit for pH and a meter for EC: every 3 days.
    KitAndMeter,
    /// Nothing is measured: the recipe and the calendar carry it. A full method.
    RecipeOnly,
}

impl Measuring {
    /// Whether EC is read here.
    #[must_use]
    pub fn ec(self) -> bool {
        matches!(self, Self::Meter | Self::KitAndMeter)
    }

    /// Whether pH is told between two colours: half of a dose cannot be seen there.
    #[must_use]
    pub fn ph_by_kit(self) -> bool {
        matches!(self, Self::DropKit | Self::KitAndMeter)
    }
}

/// A system, as its card says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct System {
    /// What it is called.
    pub name: Name,
    /// Its kind.
    pub kind: Kind,
    /// Its traits.
    pub traits: Traits,
    /// Its water.
    pub reservoir: Reservoir,
    /// Planting holes, 1–400.
    pub ports: u16,
    /// How its water is measured.
    pub measuring: Measuring,
    /// The meter of the place that is used here.
    #[serde(default)]
    pub meter: Option<Uuid>,
    /// How a refill is limited.
    #[serde(default)]
    pub refill: RefillMethod,
    /// Days between reservoir changes, 1–120.
    pub change_days: u16,
    /// EC of the water it is filled from.
    #[serde(default = "tap")]
    pub source_ec: Conductivity,
    /// How it is topped off, where pH is dosed, what it is fed and filled from.
    #[serde(default)]
    pub methods: Methods,
    /// The strength that is wanted here, over what the crops say.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec_band: Option<EcBand>,
    /// The pH that is wanted here, over the usual 5.5–6.5.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph_band: Option<PhBand>,
    /// Own intervals in days, 1–365, over the defaults; 0 turns a check off.
    #[serde(default)]
    pub intervals: BTreeMap<Check, u16>,
    /// Own slacks in days, 0–60, over the defaults: how late a check may be before it costs plants.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub slacks: BTreeMap<Check, f64>,
    /// Rules of one's own, at most 30.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub rules: Vec<OwnRule>,
    /// What stands at it beside the vessel, at most 40 pieces.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub equipment: Vec<Equipment>,
    /// The vessel behind the float valve, where its size is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drum: Option<Shape>,
    /// The system whose top-off reservoir fills this one too: what stands in it is read and filled there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drum_of: Option<Uuid>,
    /// The share of what a top-off reservoir gives that flows in here, where it fills several systems, 0.01–0.99.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.01, maximum = 0.99)]
    pub drum_share: Option<f64>,
    /// How the timer feeds, where what runs out is gone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feeding: Option<Feeding>,
    /// Its turn on a round of its place, 1–999, where the way through the room sets one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 999)]
    pub turn: Option<u16>,
    /// When it was set up; nothing is recorded before.
    #[serde(deserialize_with = "crate::quantity::day")]
    #[schema(value_type = String, format = Date, example = "2027-01-04")]
    pub since: Date,
    /// Anything to remember.
    #[serde(default)]
    pub note: Option<Note>,
}

/// EC of a middling tap water.
fn tap() -> Conductivity {
    Conductivity::constant(FIGURES.strength.tap)
}

impl System {
    /// The interval of a check in days that holds here: the system's own, else the usual one. `None` when the check is
    /// turned off or not part of this system.
    #[must_use]
    pub fn interval(&self, check: Check) -> Option<u16> {
        if !check.applies(&self.traits) {
            return None;
        }
        let days = match self.intervals.get(&check) {
            Some(own) => *own,
            None => check.usual_days(&self.traits, self.measuring)?,
        };
        (days > 0).then_some(days)
    }

    /// The part of its top-off reservoir that flows in here: all of it, where no other system is filled from it.
    #[must_use]
    pub fn drum_part(&self) -> f64 {
        self.drum_share.unwrap_or(1.0)
    }

    /// Whether a top-off reservoir of its own stands behind its float valve.
    #[must_use]
    pub fn own_drum(&self) -> bool {
        self.traits.top_off_reservoir && self.drum_of.is_none()
    }

    /// The highest volume with the pump running: the maximum, and no more than leaves room below the
    /// rim for what runs home when the pump stops.
    #[must_use]
    pub fn highest(&self) -> Litres {
        let room = (self.reservoir.shape.capacity() - self.traits.drain_back).or_nothing();
        self.reservoir.maximum.min(room)
    }

    /// The volume that it is filled to with the pump running: the working line, within the highest.
    #[must_use]
    pub fn full(&self) -> Litres {
        self.reservoir.working.min(self.highest())
    }

    /// What stands in the vessel when it is filled with the pump off, so that the working volume stands
    /// there once it runs: the drain-back on top.
    #[must_use]
    pub fn at_rest(&self, running: Litres) -> Litres {
        running + self.traits.drain_back
    }

    /// The vessel with the lines that hold with what runs home.
    #[must_use]
    pub fn vessel(&self) -> Cow<'_, Reservoir> {
        if self.highest() == self.reservoir.maximum && self.full() == self.reservoir.working {
            return Cow::Borrowed(&self.reservoir);
        }
        Cow::Owned(Reservoir { working: self.full(), maximum: self.highest(), ..self.reservoir.clone() })
    }

    /// Checks what no single field can: volumes in order, ports, days, a meter where one is used.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        self.reservoir.check().at("reservoir")?;
        self.ec_band.map_or(Ok(()), |band| band.check()).at("ec_band")?;
        self.ph_band.map_or(Ok(()), |band| band.check()).at("ph_band")?;
        if !(1..=PortSet::HIGHEST).contains(&self.ports) {
            let (found, most) = (plain(self.ports.into()), plain(PortSet::HIGHEST.into()));
            return Err(refuse!("ports_count", found = found, most = most).at("ports"));
        }
        if !(1..=MOST_CHANGE_DAYS).contains(&self.change_days) {
            let (found, most) = (plain(self.change_days.into()), plain(MOST_CHANGE_DAYS.into()));
            return Err(refuse!("change_days", found = found, most = most).at("change_days"));
        }
        if let Some((check, days)) = self.intervals.iter().find(|(_, days)| **days > MOST_INTERVAL) {
            let (found, most) = (plain((*days).into()), plain(MOST_INTERVAL.into()));
            return Err(refuse!("interval_days", found = found, most = most).at(&format!("intervals.{}", check.code())));
        }
        if let Some((check, days)) = self.slacks.iter().find(|(_, days)| !(0.0..=MOST_SLACK).contains(*days)) {
            let (found, most) = (plain(*days), plain(MOST_SLACK));
            return Err(refuse!("rule_slack", found = found, most = most).at(&format!("slacks.{}", check.code())));
        }
        if let Some(found) = self.turn.filter(|turn| !(1..=MOST_TURN).contains(turn)) {
            return Err(
                refuse!("turn_on_round", found = plain(found.into()), most = plain(MOST_TURN.into())).at("turn")
            );
        }
        OwnRule::check_all(&self.rules)?;
        Equipment::check_all(&self.equipment)?;
        if let Some(drum) = &self.drum {
            if !self.traits.top_off_reservoir {
                return Err(refuse!("no_top_off_reservoir").at("drum"));
            }
            drum.check().at("drum")?;
        }
        self.check_shared_drum()?;
        if self.traits.to_waste && self.traits.circulates {
            return Err(refuse!("to_waste_comes_back").at("traits.to_waste"));
        }
        if let Some(feeding) = self.feeding {
            if !self.traits.to_waste {
                return Err(refuse!("feeding_comes_back").at("feeding"));
            }
            feeding.check(self.highest()).at("feeding")?;
        }
        self.methods.check(&self.traits).at("methods")?;
        let most = self.reservoir.maximum;
        for (field, amount) in [("traits.drain_back", self.traits.drain_back), ("traits.heel", self.traits.heel)] {
            if amount >= most {
                return Err(refuse!("part_fills_vessel", found = amount, most = most).at(field));
            }
        }
        let rim = self.reservoir.shape.capacity();
        if (self.reservoir.maximum + self.traits.drain_back).get() > rim.get() * A_HAIR {
            let (found, drain_back) = (self.reservoir.maximum, self.traits.drain_back);
            let most = (rim - drain_back).or_nothing();
            let refusal = refuse!("maximum_floods", found = found, drain_back = drain_back, rim = rim, most = most);
            return Err(refusal.at("reservoir.maximum"));
        }
        if self.traits.to_waste && self.refill != RefillMethod::NoLimit {
            return Err(refuse!("limit_without_roots").at("refill"));
        }
        if self.traits.still() && self.refill == RefillMethod::NoLimit {
            return Err(refuse!("still_without_limit").at("refill"));
        }
        Ok(())
    }
}

/// The least and the most that flows into one of several systems.
const SHARES: std::ops::RangeInclusive<f64> = 0.01..=0.99;

impl System {
    /// Checks what is said of a top-off reservoir that fills several systems.
    fn check_shared_drum(&self) -> Result<(), Refusal> {
        if (self.drum_of.is_some() || self.drum_share.is_some()) && !self.traits.top_off_reservoir {
            let field = if self.drum_of.is_some() { "drum_of" } else { "drum_share" };
            return Err(refuse!("no_top_off_reservoir").at(field));
        }
        if self.drum_of.is_some() && self.drum.is_some() {
            return Err(refuse!("drum_size_elsewhere").at("drum"));
        }
        if self.drum_of.is_some() && self.drum_share.is_none() {
            return Err(refuse!("drum_without_share").at("drum_share"));
        }
        if let Some(found) = self.drum_share.filter(|share| !SHARES.contains(share)) {
            return Err(refuse!("drum_share", found = percent((found * 100.0).round())).at("drum_share"));
        }
        if self.drum_share.is_some() && self.methods.ph == PhMethod::Drum {
            return Err(refuse!("ph_through_shared_drum").at("methods.ph"));
        }
        Ok(())
    }
}

/// The longest time between two changes of a few plants in much water.
const MOST_CHANGE_DAYS: u16 = 120;
/// The last turn on a round.
const MOST_TURN: u16 = 999;
/// The longest time between two checks.
const MOST_INTERVAL: u16 = 365;
