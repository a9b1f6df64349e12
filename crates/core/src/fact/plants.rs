//! What can be seen on plants: signs, on which part, how many plants, from where it spreads.

use crate::message::{Message, Param, member};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::PortSet;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// Something seen on the plants.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in data/signs.toml")]
pub enum PlantSign {
    WiltsWithWater,
    PlantCollapsed,
    TopplesAtBase,
    ThinLeggy,
    PaleAllOver,
    StandsStill,
    StemShootsUp,
    LowerLeavesYellow,
    YellowBetweenVeinsOld,
    PurpleOldLeaves,
    OldEdgesBrown,
    FirstLeavesFade,
    YellowBetweenVeinsYoung,
    YoungLeavesCurl,
    BleachedTops,
    BrownTips,
    DarkStiffLeaves,
    LeavesCurlIn,
    ScorchedPatches,
    ClustersUnderLeaves,
    FineWebs,
    SilverStreaks,
    WhiteFlies,
    SmallFlies,
    WhitePowder,
    GreyFur,
    BlossomEndBrown,
    GreenOnWalls,
    SaltCrust,
}

impl PlantSign {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::WiltsWithWater => "wilts_with_water",
            Self::PlantCollapsed => "plant_collapsed",
            Self::TopplesAtBase => "topples_at_base",
            Self::ThinLeggy => "thin_leggy",
            Self::PaleAllOver => "pale_all_over",
            Self::StandsStill => "stands_still",
            Self::StemShootsUp => "stem_shoots_up",
            Self::LowerLeavesYellow => "lower_leaves_yellow",
            Self::YellowBetweenVeinsOld => "yellow_between_veins_old",
            Self::PurpleOldLeaves => "purple_old_leaves",
            Self::OldEdgesBrown => "old_edges_brown",
            Self::FirstLeavesFade => "first_leaves_fade",
            Self::YellowBetweenVeinsYoung => "yellow_between_veins_young",
            Self::YoungLeavesCurl => "young_leaves_curl",
            Self::BleachedTops => "bleached_tops",
            Self::BrownTips => "brown_tips",
            Self::DarkStiffLeaves => "dark_stiff_leaves",
            Self::LeavesCurlIn => "leaves_curl_in",
            Self::ScorchedPatches => "scorched_patches",
            Self::ClustersUnderLeaves => "clusters_under_leaves",
            Self::FineWebs => "fine_webs",
            Self::SilverStreaks => "silver_streaks",
            Self::WhiteFlies => "white_flies",
            Self::SmallFlies => "small_flies",
            Self::WhitePowder => "white_powder",
            Self::GreyFur => "grey_fur",
            Self::BlossomEndBrown => "blossom_end_brown",
            Self::GreenOnWalls => "green_on_walls",
            Self::SaltCrust => "salt_crust",
        }
    }

    /// The sign with a code.
    #[must_use]
    pub fn of(code: &str) -> Option<Self> {
        SIGNS.iter().map(|facts| facts.key).find(|sign| sign.code() == code)
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Message {
        Message::of("sign", self.code(), "say")
    }

    /// What is known of this sign.
    #[must_use]
    pub fn facts(self) -> &'static SignFacts {
        SIGNS.iter().find(|facts| facts.key == self).unwrap_or(&SIGNS[0])
    }
}

/// The part that is looked at: it is asked for first, and then what is seen there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Where {
    /// The plant as a whole.
    Whole,
    /// The oldest, lowest leaves.
    OldLeaves,
    /// The youngest leaves and the tops.
    YoungLeaves,
    /// Leaves of any age.
    AnyLeaves,
    /// Insects, webs and their traces.
    SmallThings,
    /// Mould and fruit.
    FurAndFruit,
    /// Walls, plugs and the edge of the water.
    WaterEdge,
}

impl Where {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        let code = match self {
            Self::Whole => "whole",
            Self::OldLeaves => "old_leaves",
            Self::YoungLeaves => "young_leaves",
            Self::AnyLeaves => "any_leaves",
            Self::SmallThings => "small_things",
            Self::FurAndFruit => "fur_and_fruit",
            Self::WaterEdge => "water_edge",
        };
        member("choice.plant_part", code)
    }
}

/// What is known of a sign on the plants.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SignFacts {
    /// Which sign.
    pub key: PlantSign,
    /// Where it is looked for.
    #[serde(rename = "where")]
    pub part: Where,
    /// Whether it cannot wait for another day.
    #[serde(default)]
    pub urgent: bool,
    /// How long the animal is that does it, in mm, where it is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mm: Option<f64>,
}

#[derive(Deserialize)]
struct File {
    sign: Vec<SignFacts>,
}

static SIGNS: LazyLock<Vec<SignFacts>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/signs.toml")).expect("data/signs.toml is well formed").sign
});

/// Every sign with its facts, in the order in which they are offered.
#[must_use]
pub fn signs() -> &'static [SignFacts] {
    &SIGNS
}

/// How many plants show it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Spread {
    /// Just one.
    One,
    /// Some of them.
    Several,
    /// Every plant on this water.
    All,
}

/// How it went over the plant.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Course {
    /// From the lowest leaves up: what can be moved is short.
    BottomUp,
    /// From the top down: what cannot be moved is short, or the light is near.
    TopFirst,
    /// The whole plant at once: roots, water, warmth.
    AtOnce,
}

/// Since when it shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Since {
    /// It came within a day or two.
    Sudden,
    /// It has come on over a week or more.
    Slow,
}

impl Since {
    /// The finding that it is.
    #[must_use]
    pub fn finding(self) -> &'static str {
        match self {
            Self::Sudden => "sudden",
            Self::Slow => "slow",
        }
    }
}

/// The plants, looked at. No sign means that all looked sound.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plants {
    /// What was seen.
    #[serde(default)]
    pub signs: Vec<PlantSign>,
    /// What was looked for and is not there.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub absent: Vec<PlantSign>,
    /// In which ports, where that is known.
    #[serde(default)]
    pub ports: Option<PortSet>,
    /// How many plants show it, where that was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spread: Option<Spread>,
    /// How it went over the plant, where that was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub course: Option<Course>,
    /// Since when, where that was asked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub since: Option<Since>,
}

impl Plants {
    /// Plants that show signs, in ports where they are known.
    #[must_use]
    pub fn showing(signs: &[PlantSign], ports: Option<PortSet>) -> Self {
        Self { signs: signs.to_vec(), ports, ..Self::default() }
    }

    /// Checks that nothing is said to be there and not there, and nothing twice.
    ///
    /// # Errors
    /// A refusal at the field.
    pub fn check(&self) -> Result<(), Refusal> {
        let both = self.absent.iter().find(|sign| self.signs.contains(sign));
        if let Some(sign) = both {
            return Err(refuse!("sign_there_and_not", sign = sign.say())).at("absent");
        }
        for (field, list) in [("signs", &self.signs), ("absent", &self.absent)] {
            if let Some((_, sign)) = list.iter().enumerate().find(|(n, sign)| list[..*n].contains(sign)) {
                return Err(refuse!("sign_twice", sign = sign.say())).at(field);
            }
        }
        Ok(())
    }
}

impl Spread {
    /// The finding that it is.
    #[must_use]
    pub fn finding(self) -> &'static str {
        match self {
            Self::One => "one_plant",
            Self::Several => "several_plants",
            Self::All => "all_plants",
        }
    }
}

impl Course {
    /// The finding that it is.
    #[must_use]
    pub fn finding(self) -> &'static str {
        match self {
            Self::BottomUp => "bottom_up",
            Self::TopFirst => "top_first",
            Self::AtOnce => "at_once",
        }
    }
}
