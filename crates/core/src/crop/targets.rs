//! The bands that readings are held against.

use super::{FILE, Planting, Stage};
use crate::band::EcBand;
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
    /// What is aimed at: the middle of the band, clear of what would count as spent.
    pub aim: Conductivity,
    /// Which crops and stages made it.
    pub reason: W,
    /// Set when the crops' own bands do not meet.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub warning: Option<W>,
}

impl<W> EcTarget<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> EcTarget<V> {
        let Self { low, high, aim, reason, warning } = self;
        EcTarget { low, high, aim, reason: say(reason), warning: warning.map(say) }
    }
}

impl EcTarget {
    fn new((low, high): Band, reason: Message, warning: Option<Message>, source: Conductivity) -> Self {
        let figures = &FIGURES.strength;
        let clear = source + Conductivity::constant(figures.spent_within) + Conductivity::constant(figures.over_spent);
        // Before the first true leaf plain water is what is wanted.
        let feeds = low.get() > 0.0;
        let aim = if feeds { middle(low, high).max(clear.min(high)) } else { middle(low, high) };
        Self { low, high, aim, reason, warning }
    }

    /// Whether an EC is all but that of the source water: what there was of feed is used up, whatever the band.
    #[must_use]
    pub fn at_source(&self, ec: Conductivity, source: Conductivity) -> bool {
        self.feeds() && ec <= source + Conductivity::constant(FIGURES.strength.spent_within)
    }

    /// Whether the source water leaves room for less than half of the feed: a change mends nothing then, softer water or
    /// another band does.
    #[must_use]
    pub fn no_room_over(&self, source: Conductivity) -> bool {
        let (most, figures) = ((self.high - source).get(), &FIGURES.strength);
        most <= figures.spent_within || most < middle(self.low, self.high).get() * figures.room_for_feed
    }

    /// Whether the water is spent, so that a change mends it.
    #[must_use]
    pub fn spent(&self, ec: Conductivity, source: Conductivity) -> bool {
        self.at_source(ec, source) && !self.no_room_over(source)
    }

    /// Whether it asks for feed at all: before the first true leaf it does not.
    #[must_use]
    pub fn feeds(&self) -> bool {
        self.low.get() > 0.0
    }
}

type Band = (Conductivity, Conductivity);

/// The band of one planting: its own, else the crop's, else the group's. Before the first true leaf the
/// water stays plain, read as a little above the source. `None` once it is done.
fn band(planting: &Planting, source: Conductivity) -> Option<Band> {
    if planting.stage == Stage::Done {
        return None;
    }
    if let Some(own) = planting.ec_band {
        return Some((own.low, own.high));
    }
    if planting.stage == Stage::Germinating {
        let plain = source + Conductivity::constant(FIGURES.strength.plain_over_source);
        return Some((Conductivity::constant(0.0), plain));
    }
    let facts = planting.facts();
    let of_crop = |stage: Stage| facts.and_then(|crop| crop.ec.range(..=stage).next_back());
    let stages = FILE.targets.get(&planting.group)?;
    let full = |stage: Stage| {
        let known = of_crop(stage).or_else(|| stages.range(..=stage).next_back());
        known.map(|(_, band)| (band[0], band[1]))
    };
    // The last weeks: down to what growing leaf takes.
    let (low, high) = full(if planting.stage == Stage::Ripening { Stage::Vegetative } else { planting.stage })?;
    let fast = planting.stage == Stage::Seedling && facts.is_some_and(|crop| crop.fast);
    let high = if fast { full(Stage::Vegetative).map_or(high, |grown| grown.1.max(high)) } else { high };
    Some((low, high))
}

/// Plugs and seedlings, which give way to older plants on the same water.
fn young(planting: &Planting) -> bool {
    planting.stage <= Stage::Seedling
}

/// The plantings that rule the water: all that stand there, but plugs and seedlings only where nothing
/// older does.
pub fn ruling<'a>(plantings: impl IntoIterator<Item = &'a Planting>) -> Vec<&'a Planting> {
    let standing: Vec<&Planting> = plantings.into_iter().filter(|planting| planting.stage != Stage::Done).collect();
    if standing.iter().all(|planting| young(planting)) {
        return standing;
    }
    standing.into_iter().filter(|planting| !young(planting)).collect()
}

/// The overlap of all bands; where there is none, the band of the crop that wants least, with a
/// warning. `None` when nothing grows. A band of the system's own goes before all of them.
#[must_use]
pub fn ec_target<'a>(
    plantings: impl IntoIterator<Item = &'a Planting>,
    own: Option<EcBand>,
    source: Conductivity,
) -> Option<EcTarget> {
    let all: Vec<&Planting> = plantings.into_iter().collect();
    if let Some(own) = own {
        return Some(EcTarget::new((own.low, own.high), say!("crop.own_band"), None, source));
    }
    let ruling = ruling(all.iter().copied());
    let bands: Vec<(&Planting, Band)> =
        ruling.iter().filter_map(|planting| Some((*planting, band(planting, source)?))).collect();
    let (modest, lowest) = bands.iter().min_by(|a, b| a.1.1.get().total_cmp(&b.1.1.get()))?;
    let (hungry, hungriest) = bands.iter().max_by(|a, b| a.1.0.get().total_cmp(&b.1.0.get()))?;
    if hungriest.0 < lowest.1 {
        let met = EcTarget::new((hungriest.0, lowest.1), for_crops(&bands), None, source);
        let warning = suffering(&all, &met, source);
        return Some(EcTarget { warning, ..met });
    }
    let (modest, hungry) = (one(modest), one(hungry));
    let reason = say!("crop.lower_band", crop = modest.clone());
    let warning = Some(say!("crop.bands_apart", modest = modest, hungry = hungry));
    Some(EcTarget::new(*lowest, reason, warning, source))
}

/// Which of the young ones cannot live well in what the older ones want.
fn suffering(all: &[&Planting], target: &EcTarget, source: Conductivity) -> Option<Message> {
    let standing = all.iter().filter(|planting| planting.stage != Stage::Done && young(planting));
    let burnt = standing.filter(|planting| band(planting, source).is_some_and(|band| band.1 < target.aim));
    let mut named: Vec<Message> = burnt.map(|planting| one(planting)).collect();
    named.dedup();
    (!named.is_empty()).then(|| say!("crop.young_suffer", young = named))
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
