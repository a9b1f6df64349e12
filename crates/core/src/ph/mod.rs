//! How much acid or base moves the pH, by the best source there is; half of it first.
//!
//! Best first: the system's own history, a jar test, the water's alkalinity, a small trial dose.

use crate::Refusal;
use crate::calendar::{days_between, local_date};
use crate::care::Situation;
use crate::crop::{PH_AIM, PH_BAND, PH_BLOCKED};
use crate::log::PhDose;
use crate::mixing::{Product, ProductKind, acid_for};
use crate::quantity::{Litres, Ph, PhReading};
use crate::refusal::AtField;
use crate::robust::median;
use crate::system::{Measuring, PhMethod, Traits};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// The most that pH is moved in a day with plants in.
pub const MOST_A_DAY: f64 = 1.0;
/// A trial dose, for one litre, where nothing at all is known.
const TRIAL_PER_LITRE: f64 = 0.02;
/// More than this in a litre is believed of no estimate.
const MOST_PER_LITRE: f64 = 5.0;
/// A step smaller than the meter's precision teaches nothing.
const LEAST_STEP: f64 = 0.1;

/// Minutes until a dose has mixed and can be measured: 20 where the water is pumped round, 45 where
/// only air moves it, or nothing.
#[must_use]
pub fn wait_minutes(traits: &Traits) -> u32 {
    if traits.circulates { 20 } else { 45 }
}

/// A jar test: so much moved so many litres by so much.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JarTest {
    /// mL or g that went in, more than 0.
    pub amount: f64,
    /// Into how much of the tank's water.
    pub litres: Litres,
}

/// What an estimate rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DoseSource {
    /// Past corrections of this system with this product.
    History,
    /// A jar test of this water.
    JarTest,
    /// The water's alkalinity.
    Alkalinity,
    /// Nothing: a small fixed dose, to learn from.
    Trial,
}

/// Which part of the whole is poured now.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DosePart {
    /// Half of the estimate.
    Half,
    /// The rest, after a dose of today has been measured.
    Rest,
    /// A trial.
    Trial,
}

/// What is to be corrected.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PhAsk {
    /// pH now.
    pub ph: PhReading,
    /// pH wanted; 6.0 when absent.
    pub aim: Option<Ph>,
    /// How much water.
    pub litres: Litres,
    /// A jar test that fixed the pH.
    pub jar: Option<JarTest>,
}

/// An estimate.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PhEstimate {
    /// The whole of it, in mL or g.
    pub whole: f64,
    /// What is poured now.
    pub now: f64,
    /// Which part that is.
    pub part: DosePart,
    /// From this pH.
    pub from: f64,
    /// To this one, today.
    pub to: f64,
    /// Whether the day's cap of 1.0 shortened the way.
    pub capped: bool,
    /// What it rests on.
    pub source: DoseSource,
    /// How sure that is, in a sentence.
    pub sure: String,
    /// Minutes until it can be measured.
    pub wait_minutes: u32,
}

/// The pH that a reading is corrected from: a meter's value; of a kit's band the end nearest to the
/// wanted one, so that the dose is never too large.
fn start(ph: PhReading) -> f64 {
    match ph {
        PhReading::Meter(value) => value.get(),
        PhReading::Kit { low, high } => {
            if low.get() > PH_BAND.1 {
                low.get()
            } else if high.get() < PH_BAND.0 {
                high.get()
            } else {
                ph.middle()
            }
        }
    }
}

/// Estimates a dose of a product.
///
/// # Errors
/// Nothing to correct; the wrong product for the direction; acid and base on one day; a day's cap
/// that is used up; a dose that has not mixed yet; a system whose method leaves pH alone.
pub fn estimate(ask: PhAsk, product: (Uuid, &Product), s: Option<&Situation<'_>>) -> Result<PhEstimate, Refusal> {
    let from = start(ask.ph);
    let wanted = ask.aim.map_or(f64::midpoint(PH_AIM.0, PH_AIM.1), Ph::get);
    if !(3.0..=10.0).contains(&from) {
        return Err(Refusal::new(
            format!("found pH {}", ask.ph.say()),
            "allowed is 3 to 10, beyond which no plant water stands",
            "Rinse the probe, check it in a buffer, and read again.",
        )
        .at("ph"));
    }
    if !(PH_BLOCKED.0..=PH_BLOCKED.1).contains(&wanted) {
        return Err(Refusal::new(
            format!("found a wish for pH {wanted}"),
            format!("allowed is {:.1} to {:.1}", PH_BLOCKED.0, PH_BLOCKED.1),
            format!("Aim at {:.1} to {:.1}: beyond the ends uptake is blocked.", PH_AIM.0, PH_AIM.1),
        )
        .at("aim"));
    }
    let (low, high) = ask.ph.range();
    let exact = matches!(ask.ph, PhReading::Meter(_));
    let inside = if exact { (PH_BAND.0..=PH_BAND.1).contains(&from) } else { high >= PH_BAND.0 && low <= PH_BAND.1 };
    if inside && (ask.aim.is_none() || (from - wanted).abs() < LEAST_STEP) {
        return Err(Refusal::new(
            format!("found pH {}, inside {:.1}–{:.1} as far as this can tell", ask.ph.say(), PH_BAND.0, PH_BAND.1),
            "allowed is a correction of water outside the band",
            "Leave it, and measure again at the next visit.",
        )
        .at("ph"));
    }
    if ask.litres <= Litres::ZERO {
        return Err(Refusal::new("found 0 L", "allowed is more than 0 L", "Read the level, or say how much water it is.").at("litres"));
    }
    let up = from < wanted;
    right_product(product.1, up)?;
    let today = s.map_or_else(Vec::new, |s| doses_today(s));
    if let Some(s) = s {
        allowed_now(s, up, &today)?;
    }
    let mut to = wanted;
    if s.is_some_and(|s| s.plants() > 0) || s.is_none() {
        let first = today.first().map_or(from, |dose| dose.from);
        to = if up { wanted.min(first + MOST_A_DAY) } else { wanted.max(first - MOST_A_DAY) };
        if (if up { to - from } else { from - to }) < LEAST_STEP {
            return Err(Refusal::new(
                format!("found pH moved from {first:.1} to {from:.1} today"),
                format!("allowed is {MOST_A_DAY:.1} a day with plants in"),
                "Go on tomorrow: roots take a slow move better than a quick one.",
            )
            .at("ph"));
        }
    }
    let step = (from - to).abs();
    let (whole, source, sure) = whole(ask, product, s, from, to, step)?;
    if whole / ask.litres.get() > MOST_PER_LITRE {
        return Err(Refusal::new(
            format!("found {whole:.1} for {:.1} L, more than can be right", ask.litres.get()),
            format!("allowed is up to {MOST_PER_LITRE} in a litre"),
            "Check the jar test, the alkalinity and the product's strength; do the jar test again with fresh tank water.",
        ));
    }
    let (now, part) = match source {
        DoseSource::Trial => (whole, DosePart::Trial),
        _ if !today.is_empty() => (whole, DosePart::Rest),
        _ => (whole / 2.0, DosePart::Half),
    };
    let minutes = s.map_or(45, |s| wait_minutes(&s.system.traits));
    Ok(PhEstimate { whole, now, part, from, to, capped: (to - wanted).abs() > 1e-9, source, sure, wait_minutes: minutes })
}

fn right_product(product: &Product, up: bool) -> Result<(), Refusal> {
    let wanted = if up { ProductKind::PhUp } else { ProductKind::PhDown };
    if product.what == wanted {
        return Ok(());
    }
    Err(Refusal::new(
        format!("found “{}”, {}", product.name.as_str(), product.what.say()),
        format!("allowed here is {}", wanted.say()),
        format!("The water has to go {}: take {}.", if up { "up" } else { "down" }, wanted.say()),
    )
    .at("product"))
}

/// The doses of the place's own day.
fn doses_today(s: &Situation<'_>) -> Vec<PhDose> {
    s.state.ph_doses.iter().filter(|dose| local_date(dose.at, s.now) == s.now.date()).copied().collect()
}

fn allowed_now(s: &Situation<'_>, up: bool, today: &[PhDose]) -> Result<(), Refusal> {
    match s.system.methods.ph {
        PhMethod::RecipeOnly => {
            return Err(Refusal::new(
                "found a system whose pH is left to the recipe",
                "allowed there is no correction",
                "Change the water if the pH has gone; or choose another pH method under Set-up.",
            )
            .at("system"));
        }
        PhMethod::AtChange => {
            return Err(Refusal::new(
                "found a system whose pH is dosed at the change only",
                "allowed there is a correction of the fresh batch",
                "Correct it in the cans at the next change; or choose another pH method under Set-up.",
            )
            .at("system"));
        }
        PhMethod::Reservoir | PhMethod::SeparateBatch => {}
    }
    if today.iter().any(|dose| dose.up != up) {
        let (had, wants) = if up { ("acid", "base") } else { ("base", "acid") };
        return Err(Refusal::new(
            format!("found {had} poured today, and a wish for {wants}"),
            "allowed is one of them on a visit",
            "Leave it until tomorrow, measure again, and correct from there: chasing it back and forth only gathers salts.",
        )
        .at("product"));
    }
    let Some(last) = today.last().filter(|dose| dose.to.is_none()) else { return Ok(()) };
    let minutes = days_between(last.at, s.now.timestamp()) * 1440.0;
    let wait = f64::from(wait_minutes(&s.system.traits));
    if s.system.measuring == Measuring::DropKit {
        return Err(Refusal::new(
            "found a dose poured today, measured by drop kit",
            "allowed is the next one at the next visit",
            "A drop kit cannot tell half a dose: look again at the next visit.",
        )
        .at("ph"));
    }
    if minutes < wait {
        return Err(Refusal::new(
            format!("found a dose poured {minutes:.0} minutes ago"),
            format!("allowed is the next one after {wait:.0} minutes"),
            format!("Wait {:.0} minutes more, then measure.", (wait - minutes).ceil()),
        )
        .at("ph"));
    }
    Ok(())
}

type Whole = (f64, DoseSource, String);

fn whole(ask: PhAsk, (id, product): (Uuid, &Product), s: Option<&Situation<'_>>, from: f64, to: f64, step: f64) -> Result<Whole, Refusal> {
    let litres = ask.litres.get();
    let learnt: Vec<f64> = s.map_or(&[] as &[PhDose], |s| &s.state.ph_doses).iter().filter(|dose| dose.product == id).filter_map(|dose| per_litre_and_unit(*dose)).collect();
    if let Some(usual) = median(&learnt) {
        let times = if learnt.len() == 1 { "1 correction".to_owned() } else { format!("{} corrections", learnt.len()) };
        return Ok((usual * litres * step, DoseSource::History, format!("Learnt from {times} of this water with this product.")));
    }
    if let Some(jar) = ask.jar {
        if !(jar.amount > 0.0 && jar.amount <= 1000.0) || jar.litres <= Litres::ZERO {
            return Err(Refusal::new(
                format!("found a jar test of {} in {} L", jar.amount, jar.litres.get()),
                "allowed is more than 0 in more than 0 L",
                "Count what fixed one litre, drop by drop.",
            )
            .at("jar"));
        }
        return Ok((jar.amount / jar.litres.get() * litres, DoseSource::JarTest, "By the jar test: the same water, so right to about a tenth.".to_owned()));
    }
    if let (Some(alkalinity), Some(meq), false) = (s.and_then(|s| s.system.methods.alkalinity), product.meq, from < to) {
        let acid = acid_for(alkalinity, Ph::new(from)?, Ph::new(to)?).at("ph")?;
        return Ok((acid * litres / meq, DoseSource::Alkalinity, "By the source water's alkalinity; feed and roots shift it, so it may be a third off.".to_owned()));
    }
    Ok((TRIAL_PER_LITRE * litres, DoseSource::Trial, "Nothing is known yet of this water and product: a small trial, from which the next dose is learnt.".to_owned()))
}

/// What a past dose says: mL or g in a litre for one unit of pH. `None` where it has not been
/// measured, moved nothing, or went the other way.
fn per_litre_and_unit(dose: PhDose) -> Option<f64> {
    let moved = dose.to? - dose.from;
    let moved = if dose.up { moved } else { -moved };
    (moved >= LEAST_STEP).then(|| dose.per_litre / moved)
}
