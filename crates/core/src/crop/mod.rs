//! What grows: crops, stages, and the strength of water that each wants.

mod planting;
mod targets;

pub use planting::{Planting, Stage};
pub use targets::{EcTarget, ec_target};

use crate::quantity::Conductivity;
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
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Crop {
    /// Its common name.
    pub name: String,
    /// How it feeds.
    pub group: CropGroup,
    /// Days from planting on to the first harvest.
    pub days: u16,
    /// Takes full strength from the first true leaf on.
    #[serde(default)]
    pub fast: bool,
    /// Wants shaking while it flowers under cover.
    #[serde(default)]
    pub pollinate: bool,
    /// Wants tying up and pruning.
    #[serde(default)]
    pub tie: bool,
}

#[derive(Deserialize)]
struct File {
    crop: Vec<Crop>,
    targets: BTreeMap<CropGroup, BTreeMap<Stage, [Conductivity; 2]>>,
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/crops.toml")).expect("data/crops.toml is well formed")
});

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
