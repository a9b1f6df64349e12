//! How much acid or base moves the pH, by the best source there is; half of it first.
//!
//! Best first: the system's own history, a jar test, the water's alkalinity, a small trial dose.

use crate::band::PhBand;
use crate::calendar::days_between;
use crate::fact::Dated;
use crate::figures::FIGURES;
use crate::message::{Message, Param, count, days, minutes, ph, plain};
use crate::mixing::alkalinity::{at_once, held, meq_of};
use crate::mixing::{Product, ProductKind};
use crate::projection::PhDose;
use crate::quantity::{Litres, Ph, PhReading};
use crate::refusal::Refusal;
use crate::situation::Situation;
use crate::system::{Check, PhMethod};
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
    /// The alkalinity of fresh water.
    Alkalinity,
    /// What feed of this strength and the air hold in it.
    Balance,
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

/// The pH that was read last, where a dose may still be worked out by it: it is fresh, and nothing was dosed or poured since.
#[must_use]
pub fn last_ph(s: &Situation<'_>) -> Option<Dated<PhReading>> {
    let read = s.known.readings.ph.filter(|read| days_between(read.at, s.now.timestamp()) <= FIGURES.ph.dose_by)?;
    let moved = s.known.water.ph().and_then(|about| about.moved).is_some_and(|moved| moved >= read.at);
    (!moved).then_some(read)
}

/// A reading that was taken so much earlier is of another visit.
const ANOTHER_VISIT_HOURS: f64 = 12.0;

/// Estimates a dose of a product.
///
/// The properties that hold whatever the estimate rests on: with plants in, the doses of one day move the pH by no more
/// than 1.0, but out of where uptake is blocked; never less is poured because the pH is worse; nothing is poured on top
/// of a dose that has not been measured; and no more of an estimate is poured than all of it, but where the first half was
/// measured and did less than was thought.
///
/// # Errors
/// Nothing to correct; the wrong product for the direction; acid and base on one day; a day's cap that is used up; a dose
/// that has not been measured yet, or after which the pH went the other way; a meter that is not calibrated; an estimate
/// that is poured; a system whose method leaves pH alone.
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
        allowed_now((from, ask.read), s, up, &today)?;
    }
    let planted = s.is_some_and(|s| s.plants() > 0);
    let to = if planted { within_a_day(from, wanted, &today)? } else { wanted };
    let (holds, source, sure) = holds(ask, product, s, (from, wanted))?;
    let whole = holds.amount(from, to);
    if whole / ask.litres.get() > figures.most_per_litre {
        let amount = Param::Number(whole, product.1.unit.unit());
        let most = plain(figures.most_per_litre);
        return Err(refuse!("dose_beyond_belief", found = amount, litres = ask.litres, most = most));
    }
    let (whole, now, part) = match (source, begun) {
        (DoseSource::Trial, _) => (whole, whole, DosePart::Trial),
        (_, Some(left)) => {
            // What is left of the estimate follows; where the first half was measured and did less than was thought,
            // half of what it takes by that.
            let left = left.max(0.0) * ask.litres.get();
            let measured = today.last().is_some_and(|dose| dose.to.is_some());
            let whole = whole.min(if measured { left.max(whole * figures.first_share) } else { left });
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
        let aim = ph(figures.aim);
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

/// Where a day ends from a pH on the way to the wished one. Within 5.0–7.0 it is a cap of 1.0 from the day's first dose;
/// from beyond, where uptake is blocked, as far as half a unit into the band: every hour there costs more than the step.
fn day_ends(from: f64, wanted: f64, first: f64, unsure: f64) -> f64 {
    let figures = &FIGURES.ph;
    let most = figures.most_a_day - unsure;
    if from < wanted {
        wanted.min((first + most).max(figures.blocked_below + figures.out_of_blocked))
    } else {
        wanted.max((first - most).min(figures.blocked_above - figures.out_of_blocked))
    }
}

/// Where today ends, counted from the day's first dose. What the first dose did is known by two readings, so a second one
/// leaves room for what they may be off by.
fn within_a_day(from: f64, wanted: f64, today: &[PhDose]) -> Result<f64, Refusal> {
    let unsure = if today.is_empty() { 0.0 } else { FIGURES.ph.meter_error };
    let first = today.first().map_or(from, |dose| dose.from);
    let up = from < wanted;
    let to = day_ends(from, wanted, first, unsure);
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

fn allowed_now(
    (from, read): (f64, Option<Timestamp>),
    s: &Situation<'_>,
    up: bool,
    today: &[PhDose],
) -> Result<(), Refusal> {
    match s.system.methods.ph {
        PhMethod::RecipeOnly => return Err(refuse!("ph_left_to_recipe").at("system")),
        PhMethod::AtChange => return Err(refuse!("ph_at_change_only").at("system")),
        PhMethod::Drum if !blocked(from) => return Err(refuse!("ph_through_drum").at("system")),
        PhMethod::Reservoir | PhMethod::SeparateBatch | PhMethod::Drum => {}
    }
    if today.iter().any(|dose| dose.up != up) {
        let refusal = if up { refuse!("base_after_acid") } else { refuse!("acid_after_base") };
        return Err(refusal.at("product"));
    }
    if let Some(last) = s.known.lessons.ph_doses.last().filter(|dose| went_the_other_way(dose, s)) {
        let (was, is) = (ph(last.from), ph(last.next.map_or(last.from, |read| read.value)));
        return Err(refuse!("ph_went_the_other_way", was = was, is = is, product = direction(last.up)).at("ph"));
    }
    let climbs = |at: Timestamp| days_between(at, s.now.timestamp()) <= FIGURES.ph.climbs_days;
    if up && from >= FIGURES.ph.blocked_below && s.known.lessons.acid_in_fresh.is_some_and(climbs) {
        return Err(refuse!("ph_climbs_by_itself", now = ph(from)).at("ph"));
    }
    uncalibrated(s)?;
    let Some(last) = today.last().filter(|dose| dose.to.is_none()) else { return Ok(()) };
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

/// Whether uptake is blocked at a pH.
pub(crate) fn blocked(ph: f64) -> bool {
    ph >= FIGURES.ph.blocked_above || ph <= FIGURES.ph.blocked_below
}

/// Whether the pH is put right in the tank itself between two changes. Where it is put right through the reservoir behind the
/// float valve, only once uptake is blocked: that reservoir is too slow for it.
#[must_use]
pub fn doses_tank(s: &Situation<'_>) -> bool {
    match s.system.methods.ph {
        PhMethod::Reservoir | PhMethod::SeparateBatch => true,
        PhMethod::Drum => s.known.readings.ph.is_some_and(|read| blocked(read.value.middle())),
        PhMethod::AtChange | PhMethod::RecipeOnly => false,
    }
}

/// All that takes so much planted water from one pH to another, in the product's unit, by what was learnt of it or by what it
/// holds; `None` where nothing is known of it.
pub(crate) fn whole_dose(
    ph: PhReading,
    to: f64,
    litres: Litres,
    product: (Uuid, &Product),
    s: &Situation<'_>,
) -> Option<f64> {
    let (from, ask) = (start(ph, s.ph_band()), PhAsk { ph, aim: None, litres, jar: None, read: None });
    let (holds, source, _) = holds(ask, product, Some(s), (from, to)).ok()?;
    let whole = holds.amount(from, to);
    (source != DoseSource::Trial && whole / litres.get() <= FIGURES.ph.most_per_litre).then_some(whole)
}

/// The product that moves pH that way.
fn direction(up: bool) -> ProductKind {
    if up { ProductKind::PhUp } else { ProductKind::PhDown }
}

/// Whether pH rose after acid, or fell after base, by more than the instrument tells, and nobody has calibrated it since:
/// bottle, probe or label is wrong. Read within hours: by the next day it climbs because gas has left.
fn went_the_other_way(dose: &PhDose, s: &Situation<'_>) -> bool {
    let figures = &FIGURES.ph;
    let tells = if s.system.measuring.ph_by_kit() { figures.kit_step } else { 2.0 * figures.meter_error };
    let at_once = |read: &Dated<f64>| days_between(dose.at, read.at) * 24.0 <= figures.at_once_hours;
    let away = |to: f64| if dose.up { dose.from - to } else { to - dose.from };
    let wrong =
        dose.next.filter(at_once).filter(|_| !dose.stirred).is_some_and(|read| away(read.value) >= tells - LAST_PLACES);
    let lately = days_between(dose.at, s.now.timestamp()) <= figures.doubted_days;
    wrong && lately && s.calibrated.is_none_or(|at| at < dose.at)
}

/// Refuses a dose by a probe that was never calibrated, or is past its date; a drop kit is not calibrated.
///
/// # Errors
/// The refusal, with what to do instead.
pub(crate) fn uncalibrated(s: &Situation<'_>) -> Result<(), Refusal> {
    let Some(every) = s.system.interval(Check::Calibrate).filter(|_| !s.system.measuring.ph_by_kit()) else {
        return Ok(());
    };
    let ago = s.calibrated.map(|at| days_between(at, s.now.timestamp()));
    match ago {
        None => Err(refuse!("never_calibrated").at("ph")),
        Some(ago) if ago > f64::from(every) + 1.0 => {
            Err(refuse!("calibration_past", ago = days(ago), every = days(f64::from(every))).at("ph"))
        }
        Some(_) => Ok(()),
    }
}

/// What sums are off by in their last places.
const LAST_PLACES: f64 = 1e-9;

/// What the water holds against a product.
#[derive(Debug, Clone, Copy)]
enum Holds {
    /// mL or g in all of the water for each unit of what open water holds.
    Open(f64),
    /// mL or g against all of the alkalinity of fresh, closed water.
    Fresh(f64),
    /// Nothing is known: so much, whatever the step.
    Trial(f64),
}

impl Holds {
    /// What moves the water from one pH to another.
    fn amount(self, from: f64, to: f64) -> f64 {
        match self {
            Self::Open(unit) => unit * (held(from) - held(to)).abs(),
            Self::Fresh(unit) => unit * at_once(1.0, from, to),
            Self::Trial(amount) => amount,
        }
    }
}

/// What this water holds against this product, by the best source there is.
fn holds(
    ask: PhAsk,
    (id, product): (Uuid, &Product),
    s: Option<&Situation<'_>>,
    (from, wanted): (f64, f64),
) -> Result<(Holds, DoseSource, Message), Refusal> {
    let (figures, litres) = (&FIGURES.ph, ask.litres.get());
    let doses = s.map_or(&[] as &[PhDose], |s| &s.known.lessons.ph_doses);
    let now = s.map_or(Timestamp::MIN, |s| s.now.timestamp());
    let of_product = || doses.iter().filter(|dose| dose.product == id);
    // What a dose of today did tells most of the water as it is today.
    let lately = of_product().rev().find(|dose| days_between(dose.at, now) <= figures.dose_shows);
    let times = of_product().filter(|dose| dose.buffer().is_some()).count();
    let usual = || s.and_then(|s| s.known.lessons.buffer(id));
    // What water in the air holds of feed this strong. A dose that was learnt of fresh water, while it was still full of
    // gas, moved less than the next one does: it is believed only so far above that.
    let model = s.filter(|s| s.plants() > 0).zip(product.meq).map(|(s, meq)| phosphate_in(s) / meq);
    let believed =
        |buffer: f64, most: f64| model.map_or(buffer, |model| buffer.clamp(model * figures.least_learnt, model * most));
    let learnt = lately.and_then(PhDose::buffer).map(|buffer| believed(buffer, figures.most_today));
    if let Some(buffer) = learnt.or_else(|| Some(believed(usual()?, figures.most_learnt))) {
        let sure = say!("dose.from_history", times = count(times));
        return Ok((Holds::Open(buffer * litres), DoseSource::History, sure));
    }
    if let Some(jar) = ask.jar {
        if !(jar.amount > 0.0 && jar.amount <= MOST_IN_JAR) || jar.litres <= Litres::ZERO {
            return Err(refuse!("jar_test", amount = plain(jar.amount), litres = jar.litres).at("jar"));
        }
        // The jar went all the way to the wish.
        let moved = (held(from) - held(wanted)).abs().max(f64::EPSILON);
        let whole = jar.amount / jar.litres.get() * litres / moved;
        return Ok((Holds::Open(whole), DoseSource::JarTest, say!("dose.from_jar")));
    }
    if let Some(model) = model {
        return Ok((Holds::Open(model * litres), DoseSource::Balance, say!("dose.from_balance")));
    }
    let alkalinity = s.and_then(|s| s.system.methods.alkalinity).filter(|alkalinity| *alkalinity >= LEAST_ALKALINITY);
    if let (Some(alkalinity), Some(meq), true) = (alkalinity, product.meq, from > wanted) {
        let all = meq_of(alkalinity) * litres / meq;
        return Ok((Holds::Fresh(all), DoseSource::Alkalinity, say!("dose.from_alkalinity")));
    }
    // A bottle of another strength gives the same trial in more or less of it.
    let scale = product.meq.map_or(1.0, |meq| figures.usual_meq / meq);
    let first = figures.trial_dose * scale;
    let trial = of_product().next_back().and_then(|dose| again(dose, s)).map_or(first, |next| next.max(first));
    Ok((Holds::Trial(trial * litres), DoseSource::Trial, say!("dose.trial")))
}

/// Phosphate that stands in the water, in mmol/L, by what feed holds of it at that strength.
fn phosphate_in(s: &Situation<'_>) -> f64 {
    let figures = &FIGURES.ph;
    let aim = || s.ec_target().map(|target| target.aim);
    let ec = s.water().ec().map(|ec| ec.value).or_else(aim);
    let fed = ec.map_or(1.0, |ec| (ec - s.system.source_ec).get());
    (fed * figures.phosphate_of_ec).clamp(figures.phosphate_least, figures.phosphate_most)
}

/// How much in a litre the next trial takes: twice as much where the pH that was read next, on whichever day, had not moved
/// by what the instrument tells; else as much again.
fn again(dose: &PhDose, s: Option<&Situation<'_>>) -> Option<f64> {
    let figures = &FIGURES.ph;
    let next = dose.next.filter(|_| dose.buffer().is_none() && dose.whole.is_none())?.value;
    let kit = s.is_some_and(|s| s.system.measuring.ph_by_kit());
    let tells = if kit { figures.kit_step } else { figures.meter_error };
    let moved = if dose.up { next - dose.from } else { dose.from - next };
    Some(dose.per_litre * if moved < tells - LAST_PLACES { figures.again } else { 1.0 })
}

/// With less the water holds nothing against acid, and the formula says nothing, in mg/L CaCO₃.
const LEAST_ALKALINITY: f64 = 5.0;
/// More than this went into no jar, in mL or g.
const MOST_IN_JAR: f64 = 1000.0;
