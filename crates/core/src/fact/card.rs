//! Cards: what is set up rather than logged. A place, its people and meters, its systems, and what
//! grows in them. Each is checked on its own here; the store keeps every version.

use crate::calendar::{Calendar, Closure, Weekday};
use crate::crop::Planting;
use crate::figures::FIGURES;
use crate::message::{Param, Unit, count, member, plain, typed};
use crate::mixing::{Container, Product, Recipe, Tool};
use crate::quantity::{EcScale, Litres, Name, UnitSystem};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use strum::VariantArray;
use uuid::Uuid;

/// A home, a classroom, a library, a polytunnel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Place {
    /// What it is called.
    pub name: Name,
    /// Its time zone, by its name in the time zone database.
    #[schema(example = "Europe/London")]
    pub zone: String,
    /// The days on which someone can come.
    pub open_days: Vec<Weekday>,
    /// Days on which nobody comes besides: holidays, term breaks, single days; at most 200.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub closures: Vec<Closure>,
    /// The units that its people read.
    #[serde(default)]
    pub units: UnitSystem,
    /// Cans and buckets to mix and carry in, at most 20.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub containers: Vec<Container>,
    /// Syringes, cylinders, spoons and scales, at most 20.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tools: Vec<Tool>,
}

impl Place {
    /// Checks the zone, the days and what stands on its bench.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        self.time_zone()?;
        self.calendar()?;
        for (field, found) in [("containers", self.containers.len()), ("tools", self.tools.len())] {
            if found > MOST_GEAR {
                return Err(refuse!("too_much_gear", found = count(found), most = count(MOST_GEAR)).at(field));
            }
        }
        let least = Litres::constant(FIGURES.bench.least_top_off);
        let small = |(_, container): &(usize, &Container)| container.holds < least;
        if let Some((i, container)) = self.containers.iter().enumerate().find(small) {
            let (name, found) = (&container.name, container.holds);
            let refusal = refuse!("container_too_small", name = name, found = found, least = least);
            return Err(refusal.at(&format!("containers.{i}.holds")));
        }
        self.tools.iter().enumerate().try_for_each(|(i, tool)| tool.check().at(&format!("tools.{i}")))
    }

    /// Its time zone.
    ///
    /// # Errors
    /// A refusal when the name is not in the time zone database.
    pub fn time_zone(&self) -> Result<TimeZone, Refusal> {
        TimeZone::get(&self.zone).map_err(|_| refuse!("zone_unknown", found = typed(&self.zone)).at("zone"))
    }

    /// Its open days.
    ///
    /// # Errors
    /// A refusal when no day is open.
    pub fn calendar(&self) -> Result<Calendar, Refusal> {
        Closure::check_all(&self.closures)?;
        Ok(Calendar::weekly(&self.open_days).at("open_days")?.without(&self.closures))
    }
}

/// Containers, and tools, of one place.
const MOST_GEAR: usize = 20;

/// What someone may do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, VariantArray, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Looks after everything.
    #[default]
    Caretaker,
    /// An adult who lends a hand.
    Helper,
    /// A child: initials only, and no step with concentrates, mains or sanitisers.
    Child,
    /// Sees, and records nothing.
    Reader,
    /// Comes for the systems and their devices, and has nothing to do with people.
    Service,
}

/// Someone who records at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Person {
    /// Name; for a child, initials.
    pub name: Name,
    /// What they may do.
    pub role: Role,
    /// The units they read, where those are not the place's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub units: Option<UnitSystem>,
    /// The EC scale they read, where that is not the meter's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ec_scale: Option<EcScale>,
    /// What they carry without harm, in kg, 1–40; 20 where nothing is said. No can is filled beyond it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 40)]
    pub lifts_kg: Option<f64>,
    /// The secret in the address of their calendar; without it they have none, and another one ends the address.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feed: Option<Uuid>,
    /// When they are absent: the rota gives their jobs to others.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub away: Vec<Closure>,
}

impl Person {
    /// What they carry without harm, in kg.
    #[must_use]
    pub fn lifts(&self) -> f64 {
        self.lifts_kg.unwrap_or(FIGURES.bench.lift)
    }

    /// Checks that a child stands here by initials only, and that nobody lifts too much.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        if let Some(found) = self.lifts_kg.filter(|kg| !(1.0..=MOST_LIFTED).contains(kg)) {
            let most = Param::Number(MOST_LIFTED, Unit::Kilograms);
            return Err(refuse!("lifts_too_much", found = plain(found), most = most).at("lifts_kg"));
        }
        Closure::check_all(&self.away)
            .map_err(|refusal| Refusal { field: refusal.field.replacen("closures", "away", 1), ..refusal })?;
        let letters = self.name.as_str().chars().filter(|c| !matches!(c, '.' | ' ')).count();
        if self.role == Role::Child && letters > MOST_INITIALS {
            return Err(refuse!("child_by_name", found = count(letters), most = count(MOST_INITIALS)).at("name"));
        }
        Ok(())
    }
}

/// Nobody is to carry more, in kg.
const MOST_LIFTED: f64 = 40.0;
/// Letters of a child's initials.
const MOST_INITIALS: usize = 3;

/// A hand meter.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Meter {
    /// What it is called.
    pub name: Name,
    /// What its EC figures stand for. Asked once, never guessed.
    pub scale: EcScale,
    /// Whether it corrects EC to 25 °C by itself.
    pub compensated: bool,
}

/// Any card.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "card", rename_all = "snake_case")]
#[allow(clippy::large_enum_variant, reason = "cards are few and never moved in bulk")]
pub enum Card {
    /// A place; has no parent.
    Place(Place),
    /// A person of a place.
    Person(Person),
    /// A meter of a place.
    Meter(Meter),
    /// A system at a place.
    System(System),
    /// A planting in a system.
    Planting(Planting),
    /// A product on the shelf; has no parent: bottles travel.
    Product(Product),
    /// A recipe; has no parent.
    Recipe(Recipe),
}

impl Card {
    /// The system that it describes, if it is one's card.
    #[must_use]
    pub fn system(&self) -> Option<&System> {
        if let Self::System(system) = self { Some(system) } else { None }
    }

    /// The planting that it describes, if it is one's card.
    #[must_use]
    pub fn planting(&self) -> Option<&Planting> {
        if let Self::Planting(planting) = self { Some(planting) } else { None }
    }

    /// The kind's code, as it is kept.
    #[must_use]
    pub fn code(&self) -> &'static str {
        match self {
            Self::Place(_) => "place",
            Self::Person(_) => "person",
            Self::Meter(_) => "meter",
            Self::System(_) => "system",
            Self::Planting(_) => "planting",
            Self::Product(_) => "product",
            Self::Recipe(_) => "recipe",
        }
    }

    /// The code of the card that it hangs on; `None` for what stands by itself.
    #[must_use]
    pub fn parent_code(&self) -> Option<&'static str> {
        match self {
            Self::Place(_) | Self::Product(_) | Self::Recipe(_) => None,
            Self::Person(_) | Self::Meter(_) | Self::System(_) => Some("place"),
            Self::Planting(_) => Some("system"),
        }
    }

    /// What it is called.
    #[must_use]
    pub fn name(&self) -> &str {
        match self {
            Self::Place(place) => place.name.as_str(),
            Self::Person(person) => person.name.as_str(),
            Self::Meter(meter) => meter.name.as_str(),
            Self::System(system) => system.name.as_str(),
            Self::Planting(planting) => planting.crop.as_str(),
            Self::Product(product) => product.name.as_str(),
            Self::Recipe(recipe) => recipe.name.as_str(),
        }
    }

    /// Its kind, as it is said.
    #[must_use]
    pub fn kind(&self) -> Param {
        member("card", self.code())
    }

    /// Checks what can be checked on the card itself, given the system that a planting stands in.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, in_system: Option<&System>) -> Result<(), Refusal> {
        match self {
            Self::Place(place) => place.check(),
            Self::Person(person) => person.check(),
            Self::Meter(_) => Ok(()),
            Self::System(system) => system.check(),
            Self::Planting(planting) => planting.check(in_system.map_or(u16::MAX, |system| system.ports)),
            Self::Product(product) => product.check(),
            Self::Recipe(recipe) => recipe.check(),
        }
    }
}
