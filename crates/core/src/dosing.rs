//! How much acid or base moves the pH, by the best source there is; half of it first.
//!
//! Best first: the system's own history, a jar test, the water's alkalinity, a small trial dose.

use crate::band::PhBand;
use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::message::{Message, Param, count, minutes, ph, plain};
use crate::mixing::{Product, ProductKind, acid_for, bicarbonate};
use crate::projection::PhDose;
use crate::quantity::{Litres, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::situation::Situation;
use crate::system::PhMethod;
use crate::{refuse, say};
use jiff::Timestamp;
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
    /// When that pH was read; just now when absent.
    pub read: Option<Timestamp>,
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
fn start(ph: PhReading, band: PhBand) -> f64 {
    match ph {
        PhReading::Meter(value) => value.get(),
        PhReading::Kit { low, .. } if low >= band.high => low.get(),
        PhReading::Kit { high, .. } if high <= band.low => high.get(),
        PhReading::Kit { .. } => ph.middle(),
    }
}

/// Whether a reading lies in the band as far as it can tell: a meter's value does, or a kit's band
/// reaches into it. A kit's band that only touches the end lies outside: of all that it may stand for,
/// one point is inside.
#[must_use]
pub fn reaches_band(reading: PhReading, band: PhBand) -> bool {
    match reading {
        PhReading::Meter(value) => (band.low..=band.high).contains(&value),
        PhReading::Kit { low, high } => high > band.low && low < band.high,
    }
}

/// Whether the water is shown just outside the band a second time running: one such reading lies within
/// what a meter or a kit can tell, two on the same side do not. Of one visit there is one reading.
#[must_use]
pub fn beyond_twice(reading: PhReading, read: Option<Timestamp>, s: &Situation<'_>) -> bool {
    let band = s.ph_band();
    let side = |ph: f64| i8::from(ph > band.high.get()) - i8::from(ph < band.low.get());
    let at = read.unwrap_or(s.now.timestamp());
    let before = |then: Timestamp| days_between(then, at) * 24.0 >= ANOTHER_VISIT_HOURS;
    let earlier = s.known.readings.ph_since.iter().rev().find(|(then, _)| before(*then));
    // A dose was worked out from a reading, and ends the row of those that tell of drift.
    let dosed = s.known.lessons.ph_doses.last().filter(|dose| before(dose.at)).map(|dose| dose.from);
    let now = side(reading.middle());
    now != 0 && earlier.map(|(_, ph)| *ph).or(dosed).is_some_and(|ph| side(ph) == now)
}

/// A reading that was taken so much earlier is of another visit.
const ANOTHER_VISIT_HOURS: f64 = 12.0;

/// Estimates a dose of a product.
///
/// The properties that hold whatever the estimate rests on: with plants in, the doses of one day move
/// the pH by no more than 1.0 by the carbonate balance; nothing is poured on top of a dose that has not
/// been measured; and no more of an estimate is poured than all of it.
///
/// # Errors
/// Nothing to correct; the wrong product for the direction; acid and base on one day; a day's cap
/// that is used up; a dose that has not been measured yet; an estimate that is poured; a system whose
/// method leaves pH alone.
pub fn estimate(ask: PhAsk, product: (Uuid, &Product), s: Option<&Situation<'_>>) -> Result<PhEstimate, Refusal> {
    let figures = &FIGURES.ph;
    let band = s.map_or_else(PhBand::usual, Situation::ph_band);
    let from = start(ask.ph, band);
    let usual = || s.map_or_else(|| band.aim(), Situation::ph_aim);
    let wanted = ask.aim.map_or_else(usual, Ph::get);
    let today = s.map_or_else(Vec::new, doses_today);
    let begun = today.iter().rev().find_map(|dose| Some(dose.whole? - dose.per_litre));
    // The rest of what was begun leads on to the aim, from inside the band too.
    let leads_on = begun.is_some() && (from - wanted).abs() >= 2.0 * figures.meter_error;
    let leads_on = leads_on || s.is_some_and(|s| beyond_twice(ask.ph, ask.read, s));
    worth_correcting(ask, band, (from, wanted), leads_on)?;
    let up = from < wanted;
    right_product(product.1, up)?;
    if let Some(s) = s {
        allowed_now(ask.read, s, up, &today)?;
    }
    let to = if s.is_none_or(|s| s.plants() > 0) { within_a_day(from, wanted, &today)? } else { wanted };
    let (whole, source, sure) = whole(ask, product, s, (from, to, wanted))?;
    let whole = if s.is_none_or(|s| s.plants() > 0) { whole * within_a_kit(ask.ph, from, to) } else { whole };
    if whole / ask.litres.get() > figures.most_per_litre {
        let amount = Param::Number(whole, product.1.unit.unit());
        let most = plain(figures.most_per_litre);
        return Err(refuse!("dose_beyond_belief", found = amount, litres = ask.litres, most = most));
    }
    let (whole, now, part) = match (source, begun) {
        (DoseSource::Trial, _) => (whole, whole, DosePart::Trial),
        (_, Some(left)) => {
            // What is left of the estimate is all that may follow, whatever the first half did.
            let whole = whole.min(left.max(0.0) * ask.litres.get());
            if whole / ask.litres.get() < figures.trial_dose * NEXT_TO_NOTHING {
                return Err(refuse!("estimate_poured", now = ph(from)).at("ph"));
            }
            (whole, whole, DosePart::Rest)
        }
        (_, None) => (whole, whole * figures.first_share, DosePart::Half),
    };
    let wait_minutes = s.map_or(figures.mix_unpumped, Situation::mixes_in).round() as u32;
    let capped = (to - wanted).abs() > 1e-9;
    Ok(PhEstimate { whole, now, part, from, to, capped, source, sure, wait_minutes })
}

/// Less than this share of a trial dose is nothing that is worth pouring.
const NEXT_TO_NOTHING: f64 = 0.1;

/// Refuses what is no pH, no wish, no water, or nothing to correct.
fn worth_correcting(ask: PhAsk, band: PhBand, (from, wanted): (f64, f64), leads_on: bool) -> Result<(), Refusal> {
    let figures = &FIGURES.ph;
    if !(figures.read_least..=figures.read_most).contains(&from) {
        let (low, high) = (ph(figures.read_least), ph(figures.read_most));
        return Err(refuse!("ph_unbelievable", found = ask.ph, low = low, high = high).at("ph"));
    }
    if !(figures.blocked_below..=figures.blocked_above).contains(&wanted) {
        let (low, high) = (ph(figures.blocked_below), ph(figures.blocked_above));
        let aim = Param::Band(figures.aim_low, figures.aim_high, crate::message::Unit::Ph);
        return Err(refuse!("ph_wish", found = ph(wanted), low = low, high = high, aim = aim).at("aim"));
    }
    if !leads_on && reaches_band(ask.ph, band) && (ask.aim.is_none() || (from - wanted).abs() < figures.least_step) {
        return Err(refuse!("ph_inside", found = ask.ph, band = crate::quantity::band(band.low, band.high)).at("ph"));
    }
    if ask.litres <= Litres::ZERO {
        return Err(refuse!("no_water_to_correct").at("litres"));
    }
    Ok(())
}

/// Of a dose from the near end of a kit's band, as much as moves the pH by a day's cap and no more from
/// wherever in that band it really stands: where water is buffered least, the same acid moves it most.
fn within_a_kit(reading: PhReading, from: f64, to: f64) -> f64 {
    let PhReading::Kit { low, high } = reading else { return 1.0 };
    let step = FIGURES.ph.most_a_day * (to - from).signum();
    let share = |ph: f64, to: f64| (bicarbonate(to) - bicarbonate(ph)).abs();
    let most = [low.get(), high.get()].into_iter().map(|ph| share(ph, ph + step)).fold(f64::INFINITY, f64::min);
    (most / share(from, to).max(f64::EPSILON)).min(1.0)
}

/// Where today ends: at the wish, or where the day's cap lies, counted from the day's first dose. What the
/// first dose did is known by two readings, so a second one leaves room for what they may be off by.
fn within_a_day(from: f64, wanted: f64, today: &[PhDose]) -> Result<f64, Refusal> {
    let unsure = if today.is_empty() { 0.0 } else { FIGURES.ph.meter_error };
    let most = FIGURES.ph.most_a_day - unsure;
    let first = today.first().map_or(from, |dose| dose.from);
    let up = from < wanted;
    let to = if up { wanted.min(first + most) } else { wanted.max(first - most) };
    let left = if up { to - from } else { from - to };
    if left < FIGURES.ph.least_step {
        return Err(
            refuse!("ph_moved_enough", first = ph(first), now = ph(from), most = ph(FIGURES.ph.most_a_day)).at("ph")
        );
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

/// The doses of the place's own day, and those of the last hours before midnight: roots know no calendar.
fn doses_today(s: &Situation<'_>) -> Vec<PhDose> {
    let now = s.now.timestamp();
    let close = |dose: &PhDose| days_between(dose.at, now) * 24.0 < FIGURES.ph.day_hours;
    let doses = s.known.lessons.ph_doses.iter();
    doses.filter(|dose| s.date(dose.at) == s.today() || close(dose)).copied().collect()
}

fn allowed_now(read: Option<Timestamp>, s: &Situation<'_>, up: bool, today: &[PhDose]) -> Result<(), Refusal> {
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
    if s.system.measuring.ph_by_kit() {
        return Err(refuse!("kit_cannot_tell_half").at("ph"));
    }
    let minutes_since = |then: Timestamp| days_between(last.at, then) * 1440.0;
    let (ago, wait) = (minutes_since(s.now.timestamp()), s.mixes_in());
    if ago < wait {
        let more = minutes((wait - ago).ceil());
        return Err(refuse!("dose_not_mixed", ago = minutes(ago), wait = minutes(wait), more = more).at("ph"));
    }
    if read.is_some_and(|read| minutes_since(read) < wait) {
        return Err(refuse!("dose_not_measured", ago = minutes(ago)).at("ph"));
    }
    Ok(())
}

type Whole = (f64, DoseSource, Message);

/// The whole dose from one pH to another: so much for each change of the share of bicarbonate, which is
/// what acid moves in proportion.
fn whole(
    ask: PhAsk,
    (id, product): (Uuid, &Product),
    s: Option<&Situation<'_>>,
    (from, to, wanted): (f64, f64, f64),
) -> Result<Whole, Refusal> {
    let litres = ask.litres.get();
    let share = |a: f64, b: f64| (bicarbonate(a) - bicarbonate(b)).abs();
    let doses = s.map_or(&[] as &[PhDose], |s| &s.known.lessons.ph_doses);
    let now = s.map_or(Timestamp::MIN, |s| s.now.timestamp());
    let of_product = || doses.iter().filter(|dose| dose.product == id);
    // What a dose of today did tells most of the water as it is today.
    let lately = of_product().rev().find(|dose| days_between(dose.at, now) <= FIGURES.ph.dose_shows);
    let times = of_product().filter(|dose| dose.buffer().is_some()).count();
    let usual = || s.and_then(|s| s.known.lessons.buffer(id));
    if let Some(buffer) = lately.and_then(PhDose::buffer).or_else(usual) {
        let amount = buffer * litres * share(from, to);
        return Ok((amount, DoseSource::History, say!("dose.from_history", times = count(times))));
    }
    if let Some(jar) = ask.jar {
        if !(jar.amount > 0.0 && jar.amount <= MOST_IN_JAR) || jar.litres <= Litres::ZERO {
            return Err(refuse!("jar_test", amount = plain(jar.amount), litres = jar.litres).at("jar"));
        }
        // The jar went all the way to the wish; today goes a part of it.
        let part = share(from, to) / share(from, wanted).max(f64::EPSILON);
        return Ok((
            jar.amount / jar.litres.get() * litres * part.min(1.0),
            DoseSource::JarTest,
            say!("dose.from_jar"),
        ));
    }
    let alkalinity = s.and_then(|s| s.system.methods.alkalinity).filter(|alkalinity| *alkalinity >= LEAST_ALKALINITY);
    if let (Some(alkalinity), Some(meq), true) = (alkalinity, product.meq, from > to) {
        let acid = acid_for(alkalinity, Ph::new(from)?, Ph::new(to)?).at("ph")?;
        return Ok((acid * litres / meq, DoseSource::Alkalinity, say!("dose.from_alkalinity")));
    }
    // A bottle of another strength gives the same trial in more or less of it.
    let scale = product.meq.map_or(1.0, |meq| FIGURES.ph.usual_meq / meq);
    let first = FIGURES.ph.trial_dose * scale;
    let trial = of_product().next_back().and_then(|dose| again(dose, s)).map_or(first, |next| next.max(first));
    Ok((trial * litres, DoseSource::Trial, say!("dose.trial")))
}

/// How much in a litre the next trial takes where the last one was measured and moved nothing that can
/// be told: more, by as much as that allows.
fn again(dose: &PhDose, s: Option<&Situation<'_>>) -> Option<f64> {
    let unseen = dose.to.is_some() && dose.buffer().is_none() && dose.whole.is_none();
    let kit = s.is_some_and(|s| s.system.measuring.ph_by_kit());
    let times = if kit { FIGURES.ph.again_kit } else { FIGURES.ph.again_meter };
    unseen.then_some(dose.per_litre * times)
}

/// With less the water holds nothing against acid, and the formula says nothing, in mg/L CaCO₃.
const LEAST_ALKALINITY: f64 = 5.0;
/// More than this went into no jar, in mL or g.
const MOST_IN_JAR: f64 = 1000.0;
