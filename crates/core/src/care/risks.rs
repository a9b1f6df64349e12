//! Standing risks: what makes the next loss likelier here, what lowers it, and by how much. Read from
//! `data/risks.toml`.

use super::routine::interval;
use crate::calendar::days_between;
use crate::crop::Stage;
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, days, member, percent};
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// What is known of a risk.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RiskFacts {
    /// Which risk.
    pub key: String,
    /// How many times likelier a loss is while it lasts.
    pub times: f64,
    /// The share of that which its remedy takes away.
    pub lowers: f64,
    /// Why.
    pub why: String,
}

#[derive(Deserialize)]
struct File {
    risk: Vec<RiskFacts>,
}

static RISKS: LazyLock<Vec<RiskFacts>> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str::<File>(include_str!("../../data/risks.toml")).expect("data/risks.toml is well formed").risk
});

/// The reasons of the risks with their codes, for the table of words.
pub fn risk_sentences() -> impl Iterator<Item = (String, &'static str)> {
    RISKS.iter().map(|risk| (format!("risk.{}.why", risk.key), risk.why.as_str()))
}

/// Every risk, the heaviest first.
#[must_use]
pub fn known_risks() -> &'static [RiskFacts] {
    &RISKS
}

/// A risk that stands at a system.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Risk<W = Message> {
    /// Which risk.
    pub key: &'static str,
    /// What it is here, with its figures.
    pub finding: W,
    /// What lowers it.
    pub doing: W,
    /// How heavy it is, and how much of it that takes away.
    pub how_much: W,
    /// How many times likelier a loss is while it lasts.
    pub times: f64,
}

impl<W> Risk<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Risk<V> {
        Risk {
            key: self.key,
            finding: say(self.finding),
            doing: say(self.doing),
            how_much: say(self.how_much),
            times: self.times,
        }
    }
}

/// The risks that stand, the heaviest first.
#[must_use]
pub fn risks(s: &Situation<'_>) -> Vec<Risk> {
    let standing = |facts: &'static RiskFacts| {
        let finding = finding(&facts.key, s)?;
        let times = Param::Number(facts.times, Unit::Plain);
        Some(Risk {
            key: &facts.key,
            finding,
            doing: Message::of("risk", &facts.key, "doing"),
            how_much: say!(
                "risk.how_much",
                times = times,
                lowers = percent(facts.lowers * 100.0),
                why = Message::of("risk", &facts.key, "why")
            ),
            times: facts.times,
        })
    };
    let mut all: Vec<Risk> = RISKS.iter().filter_map(standing).collect();
    all.sort_by(|a, b| b.times.total_cmp(&a.times));
    all
}

/// What a risk is here; `None` where it does not stand.
fn finding(key: &str, s: &Situation<'_>) -> Option<Message> {
    let (known, traits, figures) = (s.known, &s.system.traits, &FIGURES.diagnosis);
    let age = |at: Timestamp| days_between(at, s.now.timestamp());
    let planted = s.plants() > 0;
    let stands = |so: bool, said: Message| (so && planted).then_some(said);
    match key {
        "warm_water" => {
            let read = known.readings.temperature.filter(|dated| age(dated.at) <= figures.glass_days)?;
            let warm = read.value.get() >= FIGURES.water.warm;
            stands(warm, say!("risk.warm_water.finding", temperature = read.value))
        }
        "rot_before" => {
            let closed = known.cases.all.iter().filter_map(|case| case.closed).max()?;
            let ago = age(closed).floor();
            stands(
                ago <= figures.rot_days && known.cases.root_rot().is_none(),
                say!("risk.rot_before.finding", ago = days(ago)),
            )
        }
        "dead_roots_left" => {
            let done = s.plantings.iter().find(|planting| planting.stage == Stage::Done)?;
            stands(true, say!("risk.dead_roots_left.finding", crop = &done.crop))
        }
        "air_not_seen" => {
            if !traits.aerated && !traits.circulates {
                return None;
            }
            // Who was there has seen whether it runs; a fault that was found is a task of its own.
            let ago = age(known.done.of(Check::LookIn).or(known.done.first_at)?).floor();
            stands(ago > figures.running_days, say!("risk.air_not_seen.finding", ago = days(ago)))
        }
        "light_leak" => stands(!traits.opaque, say!("risk.light_leak.finding")),
        "little_water" if traits.to_waste => None,
        "little_water" => {
            let each = s.system.reservoir.working.get() / f64::from(s.plants().max(1));
            let litres = Param::Number(each, Unit::Litres);
            stands(each < FIGURES.water.litres_a_plant, say!("risk.little_water.finding", each = litres))
        }
        "bands_apart" => stands(s.ec_target()?.warning.is_some(), say!("risk.bands_apart.finding")),
        "source_changed" => s.source_changed().map(|_| say!("risk.source_changed.finding")),
        "meter_old" => {
            let every = interval(Check::Calibrate, s)?;
            let ago = age(s.calibrated?).floor();
            let what = member("subject", "ph");
            stands(ago > f64::from(every), say!("risk.meter_old.finding", ago = days(ago), what = what))
        }
        _ => None,
    }
}
