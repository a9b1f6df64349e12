//! The routine checks, read from `data/checks.toml`, and which systems have them.

use super::{Measuring, Traits};
use crate::message::Message;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// A routine check.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in data/checks.toml")]
pub enum Check {
    LookIn,
    Level,
    Readings,
    RunOff,
    WaterGlass,
    Roots,
    Plants,
    Pests,
    Stone,
    Filters,
    Sprayers,
    WipeDown,
    Light,
    Calibrate,
    Pollinate,
    TieUp,
    Stage,
    Harvest,
    Change,
}

/// What is known of a check. What it is called is in the words.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CheckFacts {
    /// Which check.
    pub key: Check,
    /// Usual days between two.
    pub days: u16,
    /// Days of lateness that cost nothing.
    pub slack: f64,
    /// Whether warm or scarce water halves the slack.
    #[serde(default)]
    pub sensitive: bool,
    /// Minutes that it usually takes at one system.
    pub minutes: u16,
    /// Whether it can be ticked off without a measurement.
    #[serde(default)]
    pub one_tap: bool,
    /// Whether it is done along with others of the week.
    #[serde(default)]
    pub gathers: bool,
    /// Whether it means mains or concentrates.
    #[serde(default)]
    pub adult: bool,
    /// What a system must have to have this check; absent where every system has it.
    #[serde(default)]
    pub needs: Option<Need>,
}

/// A part that only some systems have.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "named as the traits are")]
pub enum Need {
    Aerated,
    MeshFilters,
    Sprayers,
    Light,
    Circulates,
    Channels,
    Controller,
    TopOffReservoir,
    ToWaste,
    /// A pump or an air pump.
    Powered,
    /// Light reaches the water.
    LetsLightIn,
}

impl Need {
    /// Whether a system has it.
    #[must_use]
    pub fn is_met(self, traits: &Traits) -> bool {
        match self {
            Self::Aerated => traits.aerated,
            Self::MeshFilters => traits.mesh_filters,
            Self::Sprayers => traits.sprayers,
            Self::Light => traits.light,
            Self::Circulates => traits.circulates,
            Self::Channels => traits.channels,
            Self::Controller => traits.controller,
            Self::TopOffReservoir => traits.top_off_reservoir,
            Self::ToWaste => traits.to_waste,
            Self::Powered => traits.powered(),
            Self::LetsLightIn => !traits.opaque,
        }
    }
}

#[derive(Deserialize)]
struct File {
    check: Vec<CheckFacts>,
}

static CHECKS: LazyLock<Vec<CheckFacts>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/checks.toml")).expect("data/checks.toml is well formed").check
});

/// Every check with its facts, in the order in which a visit meets them.
#[must_use]
pub fn checks() -> &'static [CheckFacts] {
    &CHECKS
}

impl Check {
    /// The facts of this check.
    #[must_use]
    pub fn facts(self) -> &'static CheckFacts {
        CHECKS.iter().find(|facts| facts.key == self).unwrap_or(&CHECKS[0])
    }

    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::LookIn => "look_in",
            Self::Level => "level",
            Self::Readings => "readings",
            Self::RunOff => "run_off",
            Self::WaterGlass => "water_glass",
            Self::Roots => "roots",
            Self::Plants => "plants",
            Self::Pests => "pests",
            Self::Stone => "stone",
            Self::Filters => "filters",
            Self::Sprayers => "sprayers",
            Self::WipeDown => "wipe_down",
            Self::Light => "light",
            Self::Calibrate => "calibrate",
            Self::Pollinate => "pollinate",
            Self::TieUp => "tie_up",
            Self::Stage => "stage",
            Self::Harvest => "harvest",
            Self::Change => "change",
        }
    }

    /// What to do, in two to five words.
    #[must_use]
    pub fn name(self) -> Message {
        Message::of("check", self.code(), "name")
    }

    /// What to do, in a sentence.
    #[must_use]
    pub fn doing(self) -> Message {
        Message::of("check", self.code(), "doing")
    }

    /// Whether a system with these traits has this check at all.
    #[must_use]
    pub fn applies(self, traits: &Traits) -> bool {
        self.facts().needs.is_none_or(|need| need.is_met(traits))
    }

    /// The usual interval, in days, by how the system is built and measured; `None` where the check
    /// is not part of that way of caring.
    ///
    /// Film channels clog first at their meshes, so those are rinsed daily. A meter is read every
    /// 3 days, a drop kit every 7, and care by recipe reads nothing.
    #[must_use]
    pub fn usual_days(self, traits: &Traits, measuring: Measuring) -> Option<u16> {
        match (self, measuring) {
            (Self::Readings | Self::Calibrate, Measuring::RecipeOnly) | (Self::Calibrate, Measuring::DropKit) => None,
            (Self::Readings, Measuring::DropKit) => Some(7),
            (Self::Filters, _) if traits.channels && traits.mesh_filters => Some(1),
            _ => self.applies(traits).then_some(self.facts().days),
        }
    }
}
