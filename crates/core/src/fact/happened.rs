//! What else happened on a visit: what the lamp gives, what was picked, what was sprayed, what moved from one system
//! to another.

use super::Transplant;
use crate::message::{Message, Param, Unit, count, member, plain};
use crate::quantity::{Grams, Millimetres, Name};
use crate::refusal::Refusal;
use crate::refuse;
use crate::system::{PortSet, Traits};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// The lamp, as it was found or set.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LampSeen {
    /// Hours of light a day by its timer, 0–24.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 24)]
    pub hours: Option<f64>,
    /// From the lamp to the tallest leaf.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap: Option<Millimetres>,
}

impl LampSeen {
    /// Checks that there is a lamp, and that a day has no more than 24 hours.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(self, traits: &Traits) -> Result<(), Refusal> {
        if !traits.light {
            return Err(refuse!("no_lamp_here"));
        }
        match self.hours.filter(|hours| !(0.0..=24.0).contains(hours)) {
            Some(found) => Err(refuse!("lamp_hours", found = plain(found)).at("hours")),
            None => Ok(()),
        }
    }

    /// As it is said, a line for each that was seen.
    pub fn say(self) -> impl Iterator<Item = Message> {
        let hours = self.hours.map(|hours| crate::say!("entry.lamp_hours", hours = Param::Number(hours, Unit::Hours)));
        let gap = self.gap.map(|gap| crate::say!("entry.lamp_gap", gap = gap));
        hours.into_iter().chain(gap)
    }
}

/// What was picked of one planting.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Harvested {
    /// Of which planting.
    pub planting: Uuid,
    /// What it was called then.
    pub crop: Name,
    /// Whether it was all of it: its ports are free.
    #[serde(default)]
    pub whole: bool,
    /// How much it weighed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub grams: Option<Grams>,
    /// How many heads, bunches, fruits or flowers, 1–10 000.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub pieces: Option<u16>,
}

impl Harvested {
    /// Checks what was picked on one visit: each planting once, and no count of nothing.
    ///
    /// # Errors
    /// A refusal at the harvest.
    pub fn check_all(all: &[Self]) -> Result<(), Refusal> {
        if all.len() > MOST_AT_ONCE {
            return Err(
                refuse!("too_many_at_once", found = count(all.len()), most = count(MOST_AT_ONCE)).at("harvests")
            );
        }
        for (n, one) in all.iter().enumerate() {
            if all[..n].iter().any(|other| other.planting == one.planting) {
                return Err(refuse!("harvest_twice", crop = &one.crop).at(&format!("harvests.{n}.planting")));
            }
            if let Some(found) = one.pieces.filter(|pieces| !(1..=MOST_PIECES).contains(pieces)) {
                let refusal = refuse!("harvest_pieces", found = count(found), most = count(MOST_PIECES));
                return Err(refusal.at(&format!("harvests.{n}.pieces")));
            }
        }
        Ok(())
    }

    /// As it is said: "Basil, all of it: 240 g, 3 pieces".
    #[must_use]
    pub fn say(&self) -> Message {
        let mut of: Vec<Message> = Vec::new();
        of.extend(self.grams.map(|grams| crate::say!("entry.harvest_grams", grams = grams)));
        of.extend(self.pieces.map(|pieces| crate::say!("entry.harvest_pieces", pieces = count(pieces))));
        let crop = &self.crop;
        match (self.whole, of.is_empty()) {
            (true, true) => crate::say!("entry.harvest_whole", crop = crop),
            (true, false) => crate::say!("entry.harvest_whole_of", crop = crop, of = of),
            (false, true) => crate::say!("entry.harvest_some", crop = crop),
            (false, false) => crate::say!("entry.harvest_some_of", crop = crop, of = of),
        }
    }
}

/// No visit holds more harvests, or more events.
const MOST_AT_ONCE: usize = 40;
/// More at one visit are a mistake of the hand.
const MOST_PIECES: u16 = 10_000;

/// What was sprayed on the plants.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Spray {
    Soap,
    Oil,
    Pepper,
    Other,
}

impl Spray {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "spray",
            match self {
                Self::Soap => "soap",
                Self::Oil => "oil",
                Self::Pepper => "pepper",
                Self::Other => "other",
            },
        )
    }
}

/// What can be carried from one system to another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Carried {
    /// Plants or cuttings.
    Plants,
    /// Its water.
    Water,
    /// Scissors, cups, hands, a probe that was not rinsed.
    Tools,
}

impl Carried {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "carried",
            match self {
                Self::Plants => "plants",
                Self::Water => "water",
                Self::Tools => "tools",
            },
        )
    }
}

/// Something that happened, besides what was read and seen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "what", rename_all = "snake_case", deny_unknown_fields)]
pub enum Happened {
    /// Something was sprayed on the plants.
    Sprayed {
        /// What.
        with: Spray,
    },
    /// The plants stand elsewhere, or under another light, than before.
    Moved {},
    /// Something came here from another system.
    CameFrom {
        /// What.
        carried: Carried,
        /// From which.
        system: Uuid,
        /// What that was called then.
        name: Name,
    },
    /// Nothing goes out of here until it is sound: no plants, no water, no tools.
    ClosedOff {},
    /// It is open again.
    Opened {},
    /// The power was cut, and has come back or not.
    PowerCut {},
    /// Pump, air or supply was switched off by hand for a moment.
    SwitchedOff {},
    /// Young plants whose roots do not reach the water yet got a drink from above.
    Watered {},
    /// The roots of the young plants were seen in the water.
    RootsReach {},
    /// Plants were moved here, or grown from cuttings.
    Transplanted(Transplant),
    /// Plants died, or were thrown away.
    Lost {
        /// Of which planting.
        planting: Uuid,
        /// What that was called then.
        crop: Name,
        /// In which ports.
        ports: PortSet,
    },
}

impl Happened {
    /// Checks what happened on one visit to a system.
    ///
    /// # Errors
    /// A refusal: the same twice, a child that sprays, switches off or closes off, closed off and open at once, a stop of what
    /// has no plug.
    pub fn check_all(all: &[Self], traits: &Traits, ports: u16, child: bool) -> Result<(), Refusal> {
        if all.len() > MOST_AT_ONCE {
            return Err(refuse!("too_many_at_once", found = count(all.len()), most = count(MOST_AT_ONCE)).at("events"));
        }
        for (n, one) in all.iter().enumerate() {
            let at = || format!("events.{n}");
            if all[..n].contains(one) {
                return Err(refuse!("event_twice").at(&at()));
            }
            if child && matches!(one, Self::Sprayed { .. }) {
                return Err(refuse!("child_sprays").at(&at()));
            }
            if child && matches!(one, Self::SwitchedOff {}) {
                return Err(refuse!("child_switches_off").at(&at()));
            }
            if matches!(one, Self::PowerCut {} | Self::SwitchedOff {}) && !traits.mains() {
                return Err(refuse!("nothing_runs_here").at(&at()));
            }
            if child && matches!(one, Self::Transplanted(_) | Self::Lost { .. }) {
                return Err(refuse!("child_moves_plants").at(&at()));
            }
            if let Self::Transplanted(transplant) = one {
                transplant.check(ports).map_err(|refusal| refusal.at(&at()))?;
            }
            if child && matches!(one, Self::ClosedOff {} | Self::Opened {}) {
                return Err(refuse!("child_closes_off").at(&at()));
            }
        }
        if all.contains(&Self::ClosedOff {}) && all.contains(&Self::Opened {}) {
            return Err(refuse!("closed_and_open").at("events"));
        }
        Ok(())
    }

    /// The system that something came from.
    #[must_use]
    pub fn came_from(&self) -> Option<Uuid> {
        match self {
            Self::CameFrom { system, .. } => Some(*system),
            Self::Transplanted(transplant) => Some(transplant.system),
            _ => None,
        }
    }

    /// As it is said.
    #[must_use]
    pub fn say(&self) -> Message {
        match self {
            Self::Sprayed { with } => crate::say!("entry.sprayed", with = with.say()),
            Self::Moved {} => crate::say!("entry.moved"),
            Self::CameFrom { carried, name, .. } => {
                crate::say!("entry.came_from", carried = carried.say(), name = name)
            }
            Self::Transplanted(transplant) => transplant.say(),
            Self::Lost { crop, ports, .. } => crate::say!("entry.lost", crop = crop, ports = ports.say()),
            Self::ClosedOff {} => crate::say!("entry.closed_off"),
            Self::Opened {} => crate::say!("entry.opened"),
            Self::PowerCut {} => crate::say!("entry.power_cut"),
            Self::Watered {} => crate::say!("entry.watered"),
            Self::RootsReach {} => crate::say!("entry.roots_reach"),
            Self::SwitchedOff {} => crate::say!("entry.switched_off"),
        }
    }
}
