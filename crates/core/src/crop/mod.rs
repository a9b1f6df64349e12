//! What grows: crops, stages, and the strength of water that each wants.

mod light;
mod planting;
mod roots;
mod targets;
mod thirst;

pub use light::{LightTarget, light_target};
pub use planting::{Origin, Planting, Stage};
pub use targets::{EcTarget, ec_target, ruling};
pub use thirst::{Season, thirsty_crops};

use crate::message::Message;
use crate::quantity::Conductivity;
use crate::say;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Crops that feed alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum CropGroup {
    Leafy,
    Herb,
    Fruiting,
    Flower,
}

/// A crop of the shipped list.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Crop {
    /// Its common name.
    pub name: String,
    /// How it feeds.
    pub group: CropGroup,
    /// Days from planting on to the first harvest.
    pub days: u16,
    /// Its own band where it is known, by stage from the one on that is named, in mS/cm; the group's
    /// holds for the stages before.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = BTreeMap<String, [f64; 2]>)]
    pub ec: BTreeMap<Stage, [Conductivity; 2]>,
    /// Hours of light a day that it wants, by stage, where that is not its group's.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = BTreeMap<String, [f64; 2]>)]
    pub hours: BTreeMap<Stage, [f64; 2]>,
    /// How it is harvested.
    #[serde(default)]
    pub harvest: Harvest,
    /// Takes full strength from the first true leaf on.
    #[serde(default)]
    pub fast: bool,
    /// Wants shaking while it flowers under cover.
    #[serde(default)]
    pub pollinate: bool,
    /// Wants tying up and pruning.
    #[serde(default)]
    pub tie: bool,
    /// What it is given to by nature, or spared.
    #[serde(default, skip_serializing)]
    #[schema(ignore)]
    pub leans: Vec<Lean>,
}

/// That a crop is given to a cause, or spared it: the cause, how strongly (as evidence weighs), and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Lean(
    /// The key of a cause.
    pub String,
    /// How strongly: above 0 it is given to it, below it is spared.
    pub f64,
    /// Why.
    pub String,
);

/// How a crop is harvested.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Harvest {
    /// Leaf by leaf, or the whole plant.
    #[default]
    Leaves,
    /// Fruits, as they ripen.
    Fruits,
    /// Flowers, as they open.
    Flowers,
    /// The whole plant at once.
    Whole,
}

impl Crop {
    /// Its name as a code: "Pak choi" is `pak_choi`.
    #[must_use]
    pub fn code(&self) -> String {
        let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '_' };
        self.name.chars().map(plain).collect()
    }
}

/// What crops are given to, with its codes, for the table of words.
pub fn lean_sentences() -> impl Iterator<Item = (String, &'static str)> {
    let of = |crop: &'static Crop| {
        let code = crop.code();
        crop.leans.iter().map(move |lean| (format!("crop_lean.{code}.{}", lean.0), lean.2.as_str()))
    };
    FILE.crop.iter().flat_map(of)
}

impl Harvest {
    /// What to do, in a sentence.
    #[must_use]
    pub fn doing(self) -> Message {
        match self {
            Self::Leaves => say!("harvest.leaves"),
            Self::Fruits => say!("harvest.fruits"),
            Self::Flowers => say!("harvest.flowers"),
            Self::Whole => say!("harvest.whole"),
        }
    }
}

#[derive(Deserialize)]
struct File {
    crop: Vec<Crop>,
    targets: BTreeMap<CropGroup, BTreeMap<Stage, [Conductivity; 2]>>,
    stage_days: BTreeMap<CropGroup, BTreeMap<Stage, f64>>,
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/crops.toml")).expect("data/crops.toml is well formed")
});

/// Days that a crop of a group usually stays at a stage; `None` where the next one does not come by itself.
#[must_use]
pub fn stage_days(group: CropGroup, stage: Stage) -> Option<f64> {
    FILE.stage_days.get(&group)?.get(&stage).copied()
}

/// The shipped crops.
#[must_use]
pub fn crops() -> &'static [Crop] {
    &FILE.crop
}

/// A shipped crop by its name, whatever the case.
#[must_use]
pub fn crop(name: &str) -> Option<&'static Crop> {
    FILE.crop.iter().find(|crop| crop.name.eq_ignore_ascii_case(name))
}
