//! The bands that readings are held against.

use super::{FILE, Planting, Stage};
use crate::figures::FIGURES;
use crate::message::{Message, count};
use crate::quantity::{Conductivity, middle};
use crate::say;
use serde::Serialize;

/// The strength that suits everything that grows on one water.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct EcTarget<W = Message> {
    /// Lower end of the band.
    pub low: Conductivity,
    /// Upper end of the band.
    pub high: Conductivity,
    /// Which crops and stages made it.
    pub reason: W,
    /// Set when the crops' own bands do not meet.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub warning: Option<W>,
}

impl<W> EcTarget<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> EcTarget<V> {
        let Self { low, high, reason, warning } = self;
        EcTarget { low, high, reason: say(reason), warning: warning.map(say) }
    }

    /// The middle of the band: what is aimed at.
    #[must_use]
    pub fn aim(&self) -> Conductivity {
        middle(self.low, self.high)
    }
}

type Band = (Conductivity, Conductivity);

/// The band of one planting. Before the first true leaf the water stays plain, read as a little above
/// the source. `None` once it is done.
fn band(planting: &Planting, source: Conductivity) -> Option<Band> {
    if planting.stage == Stage::Done {
        return None;
    }
    if planting.stage == Stage::Germinating {
        let plain = source + Conductivity::constant(FIGURES.strength.plain_over_source);
        return Some((Conductivity::constant(0.0), plain));
    }
    let stages = FILE.targets.get(&planting.group)?;
    let full = |stage: Stage| stages.range(..=stage).next_back().map(|(_, band)| (band[0], band[1]));
    let (low, high) = full(planting.stage)?;
    let fast = planting.stage == Stage::Seedling && planting.facts().is_some_and(|crop| crop.fast);
    let high = if fast { full(Stage::Vegetative).map_or(high, |grown| grown.1) } else { high };
    Some((low, high))
}

/// The overlap of all bands; where there is none, the band of the crop that wants least, with a
/// warning. `None` when nothing grows.
#[must_use]
pub fn ec_target<'a>(plantings: impl IntoIterator<Item = &'a Planting>, source: Conductivity) -> Option<EcTarget> {
    let bands: Vec<(&Planting, Band)> =
        plantings.into_iter().filter_map(|planting| Some((planting, band(planting, source)?))).collect();
    let (modest, lowest) = bands.iter().min_by(|a, b| a.1.1.get().total_cmp(&b.1.1.get()))?;
    let (hungry, hungriest) = bands.iter().max_by(|a, b| a.1.0.get().total_cmp(&b.1.0.get()))?;
    if hungriest.0 < lowest.1 {
        return Some(EcTarget { low: hungriest.0, high: lowest.1, reason: for_crops(&bands), warning: None });
    }
    let (modest, hungry) = (one(modest), one(hungry));
    Some(EcTarget {
        low: lowest.0,
        high: lowest.1,
        reason: say!("crop.lower_band", crop = modest.clone()),
        warning: Some(say!("crop.bands_apart", modest = modest, hungry = hungry)),
    })
}

fn one(planting: &Planting) -> Message {
    say!("crop.at_stage", crop = planting.crop.as_str().to_lowercase(), stage = planting.stage.say())
}

fn for_crops(bands: &[(&Planting, Band)]) -> Message {
    let mut crops: Vec<Message> = bands.iter().map(|(planting, _)| one(planting)).collect();
    crops.dedup();
    let more = crops.len().saturating_sub(3);
    crops.truncate(3);
    if more > 0 { say!("crop.for_more", crops = crops, more = count(more)) } else { say!("crop.for", crops = crops) }
}
