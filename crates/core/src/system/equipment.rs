//! What stands at a system beside the vessel: pumps, stones, lamps, probes. Since when, whether a spare is at hand, when it is
//! serviced and replaced, and what its failing takes from the roots. Kinds are data, in `data/equipment.toml`.

use crate::message::{Message, count};
use crate::quantity::Name;
use crate::refusal::Refusal;
use crate::refuse;
use crate::say;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;
use uuid::Uuid;

/// Which kind of equipment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum EquipmentKind {
    WaterPump,
    AirPump,
    AirStone,
    Timer,
    Lamp,
    Heater,
    Chiller,
    FloatValve,
    PhProbe,
    EcProbe,
}

/// What a failing takes from the roots.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Stops {
    /// Moving water: in channels, towers and mists roots dry.
    Water,
    /// Air: in still water roots drown.
    Air,
}

/// What is known of a kind of equipment.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct EquipmentFacts {
    /// Which kind.
    pub key: EquipmentKind,
    /// Days between two services.
    pub service_days: u16,
    /// Days after which it is replaced before it fails.
    pub lasts_days: u16,
    /// What its failing takes from the roots; absent where they do not mind for days.
    #[serde(default)]
    pub stops: Option<Stops>,
    /// Whether it hangs on mains current, and is no child's.
    #[serde(default)]
    pub adult: bool,
}

#[derive(Deserialize)]
struct File {
    equipment: Vec<EquipmentFacts>,
}

static FACTS: LazyLock<Vec<EquipmentFacts>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    let file: File =
        toml::from_str(include_str!("../../data/equipment.toml")).expect("data/equipment.toml is well formed");
    file.equipment
});

/// Every kind of equipment with its facts, in the order of the file.
#[must_use]
pub fn equipment() -> &'static [EquipmentFacts] {
    &FACTS
}

impl EquipmentKind {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::WaterPump => "water_pump",
            Self::AirPump => "air_pump",
            Self::AirStone => "air_stone",
            Self::Timer => "timer",
            Self::Lamp => "lamp",
            Self::Heater => "heater",
            Self::Chiller => "chiller",
            Self::FloatValve => "float_valve",
            Self::PhProbe => "ph_probe",
            Self::EcProbe => "ec_probe",
        }
    }

    /// What is known of it.
    #[must_use]
    pub fn facts(self) -> &'static EquipmentFacts {
        #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
        equipment().iter().find(|facts| facts.key == self).expect("every kind of equipment has its facts")
    }

    /// What it is called.
    #[must_use]
    pub fn name(self) -> Message {
        Message::of("equipment", self.code(), "name")
    }

    /// How it is serviced.
    #[must_use]
    pub fn service(self) -> Message {
        Message::of("equipment", self.code(), "service")
    }
}

/// A piece of equipment of a system.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Equipment {
    /// Made by the client; what was done to it is told by it.
    pub id: Uuid,
    /// What it is.
    pub what: EquipmentKind,
    /// A name of its own, where there are several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<Name>,
    /// In use since; since the system was set up when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub since: Option<Date>,
    /// Whether a spare is at hand; absent where nobody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spare: Option<bool>,
    /// Days between two services, 1–730, over the usual.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 730)]
    pub service_days: Option<u16>,
}

impl Equipment {
    /// The days between two services that hold.
    #[must_use]
    pub fn every(&self) -> u16 {
        self.service_days.unwrap_or(self.what.facts().service_days)
    }

    /// What it is called.
    #[must_use]
    pub fn say(&self) -> Message {
        match &self.name {
            Some(name) => say!("equipment.named", what = self.what.name(), name = name),
            None => self.what.name(),
        }
    }

    /// Checks the equipment of a system.
    ///
    /// # Errors
    /// A refusal at the piece: too many, days out of range, one id twice.
    pub fn check_all(all: &[Self]) -> Result<(), Refusal> {
        if all.len() > MOST {
            return Err(refuse!("too_much_equipment", found = count(all.len()), most = count(MOST)).at("equipment"));
        }
        for (n, one) in all.iter().enumerate() {
            if let Some(found) = one.service_days.filter(|days| !(1..=MOST_DAYS).contains(days)) {
                let refusal = refuse!("service_days", found = count(found), most = count(MOST_DAYS));
                return Err(refusal.at(&format!("equipment.{n}.service_days")));
            }
            if all[..n].iter().any(|other| other.id == one.id) {
                return Err(refuse!("equipment_twice", name = one.say()).at(&format!("equipment.{n}.id")));
            }
        }
        Ok(())
    }
}

/// What was done to a piece of equipment.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Serviced {
    /// Which piece.
    pub equipment: Uuid,
    /// What it was.
    pub what: EquipmentKind,
    /// Whether a new one was put in; else it was cleaned and tried.
    #[serde(default)]
    pub replaced: bool,
}

impl Serviced {
    /// Checks what was done on one visit against the equipment of its system.
    ///
    /// # Errors
    /// A refusal at the piece: one that is not there, one twice, a plug in a child's hands.
    pub fn check_all(all: &[Self], there: &[Equipment], child: bool) -> Result<(), Refusal> {
        for (n, done) in all.iter().enumerate() {
            let (at, name) = (format!("serviced.{n}.equipment"), done.what.name());
            if !there.iter().any(|one| one.id == done.equipment) {
                return Err(refuse!("equipment_not_here", name = name).at(&at));
            }
            if all[..n].iter().any(|other| other.equipment == done.equipment) {
                return Err(refuse!("equipment_twice", name = name).at(&at));
            }
            if child && done.what.facts().adult {
                return Err(refuse!("child_services", name = name).at(&at));
            }
        }
        Ok(())
    }

    /// As it is said.
    #[must_use]
    pub fn say(&self) -> Message {
        if self.replaced {
            say!("entry.replaced", what = self.what.name())
        } else {
            say!("entry.serviced", what = self.what.name())
        }
    }
}

/// A system has no more of it.
const MOST: usize = 40;
/// The longest time between two services, in days.
const MOST_DAYS: u16 = 730;
