//! The light that each crop wants: hours a day, and how far the lamp hangs over the tallest leaf. Read from
//! `data/light.toml`.

use super::{CropGroup, Planting, Stage};
use crate::quantity::Millimetres;
use crate::system::{FlowerLight, Lamp, Methods};
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

type Bands<T> = BTreeMap<Stage, [T; 2]>;

#[derive(Deserialize)]
struct File {
    hours: BTreeMap<CropGroup, Bands<f64>>,
    short: BTreeMap<CropGroup, Bands<f64>>,
    gap: BTreeMap<Lamp, Bands<Millimetres>>,
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/light.toml")).expect("data/light.toml is well formed")
});

/// What light suits what grows under one lamp.
#[derive(Debug, Clone, PartialEq)]
pub struct LightTarget {
    /// Hours a day.
    pub hours: [f64; 2],
    /// From the lamp to the tallest leaf.
    pub gap: [Millimetres; 2],
    /// The planting that decides: the one in the most ports.
    pub of: Planting,
}

fn at<T: Copy>(bands: &Bands<T>, stage: Stage) -> Option<[T; 2]> {
    bands.range(..=stage).next_back().or(bands.iter().next()).map(|(_, band)| *band)
}

/// The light for the planting that stands in the most ports; of two alike, the one that is further on. `None` where
/// nothing grows.
#[must_use]
pub fn light_target(plantings: &[Planting], methods: &Methods) -> Option<LightTarget> {
    let standing = plantings.iter().filter(|planting| planting.stage != Stage::Done);
    let of = standing.max_by_key(|planting| (planting.ports.len(), planting.stage))?;
    let own = of.facts().map(|crop| &crop.hours).filter(|hours| !hours.is_empty());
    let hours = match methods.flower_light {
        FlowerLight::Short if of.stage >= Stage::Flowering => FILE.short.get(&of.group)?,
        FlowerLight::Long | FlowerLight::Short => own.or(FILE.hours.get(&of.group))?,
    };
    let hours = at(hours, of.stage)?;
    let gap = at(FILE.gap.get(&methods.lamp)?, of.stage)?;
    Some(LightTarget { hours, gap, of: of.clone() })
}
