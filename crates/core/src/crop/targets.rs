//! The bands that readings are held against.

use super::{CropGroup, FILE, Planting, Stage};
use crate::quantity::Conductivity;
use serde::Serialize;

/// The pH band in which nutrients can be taken up.
pub const PH_BAND: (f64, f64) = (5.5, 6.5);
/// What a correction aims at.
pub const PH_AIM: (f64, f64) = (5.8, 6.2);
/// Below the first and above the second, uptake is blocked.
pub const PH_BLOCKED: (f64, f64) = (5.0, 7.0);

/// The strength that suits everything that grows on one water.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct EcTarget {
    /// Lower end of the band.
    pub low: Conductivity,
    /// Upper end of the band.
    pub high: Conductivity,
    /// Which crops and stages made it.
    pub reason: String,
    /// Set when the crops' own bands do not meet.
    pub warning: Option<String>,
}

/// The band of one planting. Before the first true leaf the water stays plain, read as up to
/// 0.4 mS/cm above the source. `None` once it is done.
fn band(planting: &Planting, source: Conductivity) -> Option<(f64, f64)> {
    if planting.stage == Stage::Done {
        return None;
    }
    if planting.stage == Stage::Germinating {
        return Some((0.0, source.get() + 0.4));
    }
    let stages = FILE.targets.get(&planting.group)?;
    let full = |stage: Stage| stages.range(..=stage).next_back().map(|(_, band)| (band[0], band[1]));
    if planting.stage == Stage::Seedling && planting.facts().is_some_and(|crop| crop.fast) {
        return full(Stage::Vegetative).map(|(_, high)| (full(Stage::Seedling).map_or(0.8, |b| b.0), high));
    }
    full(planting.stage)
}

/// The overlap of all bands; where there is none, the band of the crop that wants least, with a
/// warning. `None` when nothing grows.
#[must_use]
pub fn ec_target(plantings: &[Planting], source: Conductivity) -> Option<EcTarget> {
    let bands: Vec<(&Planting, (f64, f64))> = plantings.iter().filter_map(|p| band(p, source).map(|b| (p, b))).collect();
    let lowest = bands.iter().min_by(|a, b| a.1.1.total_cmp(&b.1.1))?;
    let low = bands.iter().map(|b| b.1.0).fold(f64::MIN, f64::max);
    let high = lowest.1.1;
    let make = |low: f64, high: f64| (Conductivity::nearest(low), Conductivity::nearest(high));
    if low < high {
        let ((low, high), reason) = (make(low, high), say_crops(&bands));
        return Some(EcTarget { low, high, reason, warning: None });
    }
    let hungriest = bands.iter().max_by(|a, b| a.1.0.total_cmp(&b.1.0))?;
    let (low, high) = make(lowest.1.0, high);
    Some(EcTarget {
        low,
        high,
        reason: format!("the lower band, for {}", say_one(lowest.0)),
        warning: Some(format!(
            "{} and {} want different water: at one strength the first gets tip burn or the second goes hungry. Move one of them.",
            say_one(lowest.0),
            say_one(hungriest.0)
        )),
    })
}

fn say_one(planting: &Planting) -> String {
    format!("{} ({})", planting.crop.as_str().to_lowercase(), planting.stage.say())
}

fn say_crops(bands: &[(&Planting, (f64, f64))]) -> String {
    let mut names: Vec<String> = bands.iter().map(|(p, _)| say_one(p)).collect();
    names.dedup();
    let more = names.len().saturating_sub(3);
    names.truncate(3);
    let list = names.join(", ");
    if more > 0 { format!("for {list} and {more} more") } else { format!("for {list}") }
}

/// The group's plain name.
impl CropGroup {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> &'static str {
        match self {
            Self::Leafy => "leafy greens",
            Self::Herb => "herbs",
            Self::Fruiting => "fruiting crops",
            Self::Flower => "flowers",
        }
    }
}
