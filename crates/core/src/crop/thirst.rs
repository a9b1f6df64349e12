//! How much a plant drinks, from the day on which it is planted on. Read from `data/thirst.toml`.

use super::{CropGroup, Planting, Stage};
use crate::quantity::{Litres, Quantity};
use jiff::civil::Date;
use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Where in its season a plant is reckoned: the share of the way from cool and dim to warm and bright, 0–1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Season(f64);

impl Season {
    /// Neither.
    pub const USUAL: Self = Self(0.5);
    /// Warm and bright: the most that is usual.
    pub const BRIGHT: Self = Self(1.0);
}

#[derive(Debug, Clone, Copy, Deserialize)]
#[serde(deny_unknown_fields)]
struct Drunk {
    /// From planting on to the first harvest, L.
    whole: [f64; 2],
    /// In full growth, L a day.
    day: [f64; 2],
}

#[derive(Deserialize)]
struct File {
    group: BTreeMap<CropGroup, Drunk>,
    crop: BTreeMap<String, Drunk>,
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/thirst.toml")).expect("data/thirst.toml is well formed")
});

/// The crops that have figures of their own.
pub fn thirsty_crops() -> impl Iterator<Item = &'static str> {
    FILE.crop.keys().map(String::as_str)
}

/// No crop is grown before so large a part of its time to the harvest.
const GROWN_AT_LEAST: f64 = 0.7;
/// Days to the first harvest of a crop that is not listed.
const USUAL_DAYS: f64 = 60.0;

impl Planting {
    /// Days from planting on to its first harvest.
    #[must_use]
    pub fn days_to_harvest(&self) -> f64 {
        self.facts().map_or(USUAL_DAYS, |crop| f64::from(crop.days))
    }

    /// What all of its plants drink on a day.
    ///
    /// A plant begins with nothing and drinks more each day until it is grown, then evenly: the day on which it is grown
    /// follows from what it drinks in all. Nothing before it is planted on, and nothing of what is picked.
    #[must_use]
    pub fn drinks_on(&self, date: Date, season: Season) -> Litres {
        let age = f64::from((date - self.growing_since()).get_days());
        if age < 0.0 || self.stage == Stage::Done {
            return Litres::ZERO;
        }
        let drunk = FILE.crop.iter().find(|(name, _)| name.eq_ignore_ascii_case(self.crop.as_str()));
        let Some(drunk) = drunk.map(|(_, drunk)| drunk).or_else(|| FILE.group.get(&self.group)) else {
            return Litres::ZERO;
        };
        let at = |[low, high]: [f64; 2]| low + (high - low) * season.0;
        let (whole, day, days) = (at(drunk.whole), at(drunk.day), self.days_to_harvest());
        // Grown after r days of even rise: whole = day × (days − r/2).
        let grown = (2.0 * (days - whole / day)).clamp(days * GROWN_AT_LEAST, days);
        Litres::calculated(day * (age / grown).min(1.0) * self.ports.len() as f64)
    }

    /// What one of its plants drinks from planting on to the first harvest.
    #[must_use]
    pub fn drinks_in_all(&self, season: Season) -> Litres {
        let days = self.days_to_harvest().round() as i64;
        let all = (0..days).map(|n| self.drinks_on(crate::calendar::add_days(self.growing_since(), n), season).get());
        Litres::calculated(all.sum::<f64>() / (self.ports.len().max(1)) as f64)
    }
}
