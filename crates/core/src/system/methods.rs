//! The ways of caring for the water in which growers differ, as settings with a reasoned default.

use super::Traits;
use crate::message::{Param, member, plain};
use crate::quantity::Ph;
use crate::refusal::Refusal;
use crate::refuse;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What is poured when the level is low.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TopOffMethod {
    /// Plain water. The default: it can never overfeed, and drift shows in the EC.
    #[default]
    Plain,
    /// Feed at half of the target.
    LightFeed,
    /// Feed at the target.
    SameStrength,
    /// The hose first, then a small concentrated batch that brings it to the target.
    Measured,
    /// From a container of feed that was mixed ahead.
    Premixed,
    /// A top-off reservoir on a float valve.
    Reservoir,
}

impl TopOffMethod {
    /// Every method.
    pub const ALL: [Self; 6] =
        [Self::Plain, Self::LightFeed, Self::SameStrength, Self::Measured, Self::Premixed, Self::Reservoir];

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "top_off_method",
            match self {
                Self::Plain => "plain",
                Self::LightFeed => "light_feed",
                Self::SameStrength => "same_strength",
                Self::Measured => "measured",
                Self::Premixed => "premixed",
                Self::Reservoir => "reservoir",
            },
        )
    }
}

/// Where pH is dosed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PhMethod {
    /// Straight into the reservoir in small steps; only where the water circulates.
    Reservoir,
    /// Into a separate jug of water first. The default: no root meets the concentrate.
    #[default]
    SeparateBatch,
    /// With what is mixed for the reservoir behind the float valve, which brings the tank back as it flows in: slowly, and no
    /// concentrate near a root.
    Drum,
    /// Only into the fresh batch of a change.
    AtChange,
    /// Not at all: the recipe carries it.
    RecipeOnly,
}

/// What is done about root rot.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RootRotMethod {
    /// Stages 1 and 2 are treated, stage 3 is taken out. The default: most plants come through a stage 1.
    #[default]
    Treat,
    /// Always everything out, a full reset, and planted anew: for short crops, where a treatment takes as long.
    Restart,
}

impl RootRotMethod {
    fn is_default(&self) -> bool {
        *self == Self::default()
    }
}

/// How the last weeks before a whole harvest are fed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Ripening {
    /// Strength goes down to that of growing leaf. The default: it asks for no other product.
    #[default]
    Taper,
    /// A finisher feed, at that strength.
    Finisher,
    /// Neither: fed to the end as before.
    Neither,
}

impl Ripening {
    fn is_default(&self) -> bool {
        *self == Self::default()
    }
}

/// What kind of lamp hangs over it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Lamp {
    /// Strips and tubes, a hand's width over the leaves. The default: too far costs less than scorched tops.
    #[default]
    Strip,
    /// A strong panel, a forearm over the leaves.
    Panel,
}

impl Lamp {
    fn is_default(&self) -> bool {
        *self == Self::default()
    }
}

/// How long the lamp burns over what flowers.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FlowerLight {
    /// As long as the crop grows well in. The default: most of what fruits under a lamp does not mind the length of the day.
    #[default]
    Long,
    /// Twelve to fourteen hours from the first flower on.
    Short,
}

impl FlowerLight {
    fn is_default(&self) -> bool {
        *self == Self::default()
    }
}

/// When the water is changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ChangeMethod {
    /// After fixed days, sooner where something calls for it. The default: it asks for no measurement.
    #[default]
    Days,
    /// By need: the days stretch to as much as four weeks while EC and pH hold, the roots are sound and no salts gather.
    Need,
}

impl ChangeMethod {
    fn is_default(&self) -> bool {
        *self == Self::default()
    }
}

/// What the tap, the butt or the filter gives.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SourceWater {
    /// As it comes.
    #[default]
    Tap,
    /// With a dechlorinator, put in first.
    Conditioned,
    /// Stood or bubbled for a day.
    Stood,
    /// From a roof.
    Rain,
    /// Through a membrane or a resin.
    Filtered,
}

impl SourceWater {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "source_water",
            match self {
                Self::Tap => "tap",
                Self::Conditioned => "conditioned",
                Self::Stood => "stood",
                Self::Rain => "rain",
                Self::Filtered => "filtered",
            },
        )
    }
}

/// How the water of a system is cared for.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Methods {
    /// How it is topped off.
    #[serde(default)]
    pub top_off: TopOffMethod,
    /// Where pH is dosed.
    #[serde(default)]
    pub ph: PhMethod,
    /// What is done about root rot.
    #[serde(default, skip_serializing_if = "RootRotMethod::is_default")]
    pub root_rot: RootRotMethod,
    /// How the last weeks before a whole harvest are fed.
    #[serde(default, skip_serializing_if = "Ripening::is_default")]
    pub ripening: Ripening,
    /// What kind of lamp hangs over it, where it has one.
    #[serde(default, skip_serializing_if = "Lamp::is_default")]
    pub lamp: Lamp,
    /// How long that burns over what flowers.
    #[serde(default, skip_serializing_if = "FlowerLight::is_default")]
    pub flower_light: FlowerLight,
    /// When its water is changed.
    #[serde(default, skip_serializing_if = "ChangeMethod::is_default")]
    pub change: ChangeMethod,
    /// What it is fed: a recipe, shipped or own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub recipe: Option<Uuid>,
    /// What it is filled from.
    #[serde(default)]
    pub source: SourceWater,
    /// pH of that water.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source_ph: Option<Ph>,
    /// Its alkalinity, in mg/L CaCO₃, 0–1000; from the water report or a test strip.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub alkalinity: Option<f64>,
}

impl Methods {
    /// Checks the methods against what the system has.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self, traits: &Traits) -> Result<(), Refusal> {
        if self.ph == PhMethod::Reservoir && !traits.circulates {
            return Err(refuse!("ph_in_unmoved_water").at("ph"));
        }
        if self.ph == PhMethod::Drum && !traits.top_off_reservoir {
            return Err(refuse!("no_top_off_reservoir").at("ph"));
        }
        if self.top_off == TopOffMethod::Reservoir && !traits.top_off_reservoir {
            return Err(refuse!("no_top_off_reservoir").at("top_off"));
        }
        if traits.to_waste && matches!(self.top_off, TopOffMethod::Plain | TopOffMethod::LightFeed) {
            return Err(refuse!("thins_the_feed").at("top_off"));
        }
        match self.alkalinity {
            Some(found) if !(0.0..=MOST_ALKALINITY).contains(&found) => {
                Err(refuse!("alkalinity", found = plain(found), most = plain(MOST_ALKALINITY)).at("alkalinity"))
            }
            _ => Ok(()),
        }
    }
}

/// No water that plants are grown in holds more, in mg/L CaCO₃.
pub const MOST_ALKALINITY: f64 = 1000.0;
