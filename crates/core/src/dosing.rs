//! How much acid or base moves the pH, by the best source there is; half of it first.
//!
//! Best first: the system's own history, a jar test, the water's alkalinity, a small trial dose.

use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::message::{Message, Param, count, minutes, ph, plain};
use crate::mixing::{Product, ProductKind, acid_for};
use crate::projection::PhDose;
use crate::quantity::{Litres, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::situation::Situation;
use crate::statistics::median;
use crate::system::{Measuring, PhMethod};
use crate::{refuse, say};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

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
pub struct PhEstimate<W = Message> {
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
    pub sure: W,
    /// Minutes until it can be measured.
    pub wait_minutes: u32,
}

impl<W> PhEstimate<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> PhEstimate<V> {
        let Self { whole, now, part, from, to, capped, source, sure, wait_minutes } = self;
        PhEstimate { whole, now, part, from, to, capped, source, sure: say(sure), wait_minutes }
    }
}

/// The pH that a reading is corrected from: a meter's value; of a kit's band the end nearest to the
/// wanted one, so that the dose is never too large.
fn start(ph: PhReading) -> f64 {
    match ph {
        PhReading::Meter(value) => value.get(),
        PhReading::Kit { low, .. } if low.get() > FIGURES.ph.band_high => low.get(),
        PhReading::Kit { high, .. } if high.get() < FIGURES.ph.band_low => high.get(),
        PhReading::Kit { .. } => ph.middle(),
    }
}

/// Whether a reading lies in the band as far as it can tell: a meter's value does, or a kit's band
/// reaches into it.
#[must_use]
pub fn reaches_band(reading: PhReading) -> bool {
    let band = FIGURES.ph.band_low..=FIGURES.ph.band_high;
    match reading {
        PhReading::Meter(value) => band.contains(&value.get()),
        PhReading::Kit { low, high } => high.get() >= *band.start() && low.get() <= *band.end(),
    }
}

/// The band that is wanted, for a sentence.
#[must_use]
pub fn ph_band() -> Param {
    Param::Band(FIGURES.ph.band_low, FIGURES.ph.band_high, crate::message::Unit::Ph)
}

/// Estimates a dose of a product.
///
/// # Errors
/// Nothing to correct; the wrong product for the direction; acid and base on one day; a day's cap
/// that is used up; a dose that has not mixed yet; a system whose method leaves pH alone.
pub fn estimate(ask: PhAsk, product: (Uuid, &Product), s: Option<&Situation<'_>>) -> Result<PhEstimate, Refusal> {
    let figures = &FIGURES.ph;
    let from = start(ask.ph);
    let wanted = ask.aim.map_or(f64::midpoint(figures.aim_low, figures.aim_high), Ph::get);
    worth_correcting(ask, from, wanted)?;
    let up = from < wanted;
    right_product(product.1, up)?;
    let today = s.map_or_else(Vec::new, doses_today);
    if let Some(s) = s {
        allowed_now(s, up, &today)?;
    }
    let to = if s.is_none_or(|s| s.plants() > 0) { within_a_day(from, wanted, &today)? } else { wanted };
    let (whole, source, sure) = whole(ask, product, s, from, to)?;
    if whole / ask.litres.get() > figures.most_per_litre {
        let amount = Param::Number(whole, product.1.unit.unit());
        let most = plain(figures.most_per_litre);
        return Err(refuse!("dose_beyond_belief", found = amount, litres = ask.litres, most = most));
    }
    let (now, part) = match source {
        DoseSource::Trial => (whole, DosePart::Trial),
        _ if !today.is_empty() => (whole, DosePart::Rest),
        _ => (whole * figures.first_share, DosePart::Half),
    };
    let wait_minutes = s.map_or(figures.mix_unpumped, Situation::mixes_in).round() as u32;
    let capped = (to - wanted).abs() > 1e-9;
    Ok(PhEstimate { whole, now, part, from, to, capped, source, sure, wait_minutes })
}

/// Refuses what is no pH, no wish, no water, or nothing to correct.
fn worth_correcting(ask: PhAsk, from: f64, wanted: f64) -> Result<(), Refusal> {
    let figures = &FIGURES.ph;
    if !(figures.read_least..=figures.read_most).contains(&from) {
        return Err(refuse!("ph_unbelievable", found = ask.ph).at("ph"));
    }
    if !(figures.blocked_below..=figures.blocked_above).contains(&wanted) {
        let (low, high) = (ph(figures.blocked_below), ph(figures.blocked_above));
        let aim = Param::Band(figures.aim_low, figures.aim_high, crate::message::Unit::Ph);
        return Err(refuse!("ph_wish", found = ph(wanted), low = low, high = high, aim = aim).at("aim"));
    }
    if reaches_band(ask.ph) && (ask.aim.is_none() || (from - wanted).abs() < figures.least_step) {
        return Err(refuse!("ph_inside", found = ask.ph, band = ph_band()).at("ph"));
    }
    if ask.litres <= Litres::ZERO {
        return Err(refuse!("no_water_to_correct").at("litres"));
    }
    Ok(())
}

/// Where today ends: at the wish, or where the day's cap lies, counted from the day's first dose.
fn within_a_day(from: f64, wanted: f64, today: &[PhDose]) -> Result<f64, Refusal> {
    let most = FIGURES.ph.most_a_day;
    let first = today.first().map_or(from, |dose| dose.from);
    let up = from < wanted;
    let to = if up { wanted.min(first + most) } else { wanted.max(first - most) };
    let left = if up { to - from } else { from - to };
    if left < FIGURES.ph.least_step {
        return Err(refuse!("ph_moved_enough", first = ph(first), now = ph(from), most = ph(most)).at("ph"));
    }
    Ok(to)
}

fn right_product(product: &Product, up: bool) -> Result<(), Refusal> {
    let wanted = if up { ProductKind::PhUp } else { ProductKind::PhDown };
    if product.what == wanted {
        return Ok(());
    }
    Err(refuse!("product_moves_the_other_way", name = &product.name, found = product.what, wanted = wanted)
        .at("product"))
}

/// The doses of the place's own day.
fn doses_today(s: &Situation<'_>) -> Vec<PhDose> {
    s.known.lessons.ph_doses.iter().filter(|dose| s.date(dose.at) == s.today()).copied().collect()
}

fn allowed_now(s: &Situation<'_>, up: bool, today: &[PhDose]) -> Result<(), Refusal> {
    match s.system.methods.ph {
        PhMethod::RecipeOnly => return Err(refuse!("ph_left_to_recipe").at("system")),
        PhMethod::AtChange => return Err(refuse!("ph_at_change_only").at("system")),
        PhMethod::Reservoir | PhMethod::SeparateBatch => {}
    }
    if today.iter().any(|dose| dose.up != up) {
        let refusal = if up { refuse!("base_after_acid") } else { refuse!("acid_after_base") };
        return Err(refusal.at("product"));
    }
    let Some(last) = today.last().filter(|dose| dose.to.is_none()) else { return Ok(()) };
    if s.system.measuring == Measuring::DropKit {
        return Err(refuse!("kit_cannot_tell_half").at("ph"));
    }
    let ago = days_between(last.at, s.now.timestamp()) * 1440.0;
    let wait = s.mixes_in();
    if ago < wait {
        let more = minutes((wait - ago).ceil());
        return Err(refuse!("dose_not_mixed", ago = minutes(ago), wait = minutes(wait), more = more).at("ph"));
    }
    Ok(())
}

type Whole = (f64, DoseSource, Message);

fn whole(
    ask: PhAsk,
    (id, product): (Uuid, &Product),
    s: Option<&Situation<'_>>,
    from: f64,
    to: f64,
) -> Result<Whole, Refusal> {
    let litres = ask.litres.get();
    let doses = s.map_or(&[] as &[PhDose], |s| &s.known.lessons.ph_doses);
    let learnt: Vec<f64> = doses.iter().filter(|dose| dose.product == id).filter_map(per_litre_and_unit).collect();
    if let Some(usual) = median(&learnt) {
        let amount = usual * litres * (from - to).abs();
        return Ok((amount, DoseSource::History, say!("dose.from_history", times = count(learnt.len()))));
    }
    if let Some(jar) = ask.jar {
        if !(jar.amount > 0.0 && jar.amount <= MOST_IN_JAR) || jar.litres <= Litres::ZERO {
            return Err(refuse!("jar_test", amount = plain(jar.amount), litres = jar.litres).at("jar"));
        }
        return Ok((jar.amount / jar.litres.get() * litres, DoseSource::JarTest, say!("dose.from_jar")));
    }
    let alkalinity = s.and_then(|s| s.system.methods.alkalinity);
    if let (Some(alkalinity), Some(meq), true) = (alkalinity, product.meq, from > to) {
        let acid = acid_for(alkalinity, Ph::new(from)?, Ph::new(to)?).at("ph")?;
        return Ok((acid * litres / meq, DoseSource::Alkalinity, say!("dose.from_alkalinity")));
    }
    Ok((FIGURES.ph.trial_dose * litres, DoseSource::Trial, say!("dose.trial")))
}

/// More than this went into no jar, in mL or g.
const MOST_IN_JAR: f64 = 1000.0;

/// What a past dose says: mL or g in a litre for one unit of pH. `None` where it has not been
/// measured, moved nothing, or went the other way.
fn per_litre_and_unit(dose: &PhDose) -> Option<f64> {
    let moved = dose.to? - dose.from;
    let moved = if dose.up { moved } else { -moved };
    (moved >= FIGURES.ph.least_step).then(|| dose.per_litre / moved)
}
