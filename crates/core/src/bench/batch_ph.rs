//! The pH of a batch, put right where it is mixed: before roots meet it there is no daily limit.
//!
//! It is measured first. Of what it takes a part goes in, it is stirred and measured, and the rest follows to the aim. What
//! the water holds comes from its alkalinity and the phosphate of the feed; where a batch of the same water took acid
//! before, the next begins with that.

use super::ask::{Ask, Shelf};
use super::feed::Mixed;
use super::plan::{Dose, Expected, Plan, StepKind, step};
use super::steps::{dose as portioned, fresh_ph, only, ph_step, tools};
use crate::dosing::{last_ph, uncalibrated, whole_dose};
use crate::fact::PremixIn;
use crate::figures::FIGURES;
use crate::message::{Message, Param, minutes, ph};
use crate::mixing::alkalinity::{Batch, at_once, meq_of};
use crate::mixing::{Product, shipped_id};
use crate::projection::BatchAcid;
use crate::quantity::{Amount, Conductivity, Litres, Ph, PhReading};
use crate::say;
use crate::situation::Situation;
use crate::system::{Measuring, PhMethod, SourceWater};
use uuid::Uuid;

/// Where a batch goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Goes {
    /// Into an emptied vessel.
    Fresh,
    /// Into a jug, for later.
    Ahead,
    /// Behind the float valve, from where it flows into the tank.
    Behind,
    /// Onto the water that is in the tank.
    Onto,
}

/// Puts the pH of a batch on the plan: it is measured, and where it is high acid is put in. `rise` is what feed raises it
/// by, in mS/cm.
pub(super) fn put_right(plan: &mut Plan, litres: Litres, rise: f64, goes: Goes, ask: &Ask, shelf: &Shelf<'_>) {
    let by_itself = by_itself(rise, shelf);
    plan.steps.push(ph_step(&by_itself));
    let acid = acid(litres, rise, &by_itself, goes, shelf);
    plan.warnings.extend(read_tank_first(goes, shelf));
    plan.batch_ph = Some(by_itself);
    if let Some(acid) = acid {
        put_in(plan, &acid, litres, ask, shelf);
    }
}

/// Where the tank is put right through this filling, its pH is read before it: else it waits for the next one.
fn read_tank_first(goes: Goes, shelf: &Shelf<'_>) -> Option<Message> {
    let s = shelf.situation.filter(|s| measures(s, goes, shelf) && s.system.methods.ph == PhMethod::Drum)?;
    (goes == Goes::Behind && read_since_filled(s).is_none()).then(|| say!("bench.tank_ph_first"))
}

/// The same for plain water, which is only put right where it is known to lift the pH of the tank with each top-off: it is
/// hard, or a batch of it took acid before.
pub(super) fn put_plain_right(plan: &mut Plan, litres: Litres, ask: &Ask, shelf: &Shelf<'_>) {
    if wants_acid(shelf)
        && let Some(acid) = acid(litres, 0.0, &by_itself(0.0, shelf), Goes::Onto, shelf)
    {
        put_in(plan, &acid, litres, ask, shelf);
    }
}

/// The same for plain water behind the float valve, where the tank is put right through it; whether any went in.
pub(super) fn put_plain_behind(plan: &mut Plan, ask: &Ask, shelf: &Shelf<'_>) -> bool {
    let through = shelf.situation.is_some_and(|s| s.system.methods.ph == PhMethod::Drum);
    let litres = plan.plain;
    plan.warnings.extend(read_tank_first(Goes::Behind, shelf));
    let acid = through.then(|| acid(litres, 0.0, &by_itself(0.0, shelf), Goes::Behind, shelf)).flatten();
    if let Some(acid) = &acid {
        put_in(plan, acid, litres, ask, shelf);
    }
    acid.is_some()
}

/// Whether water is put right before it is poured onto the tank.
pub(super) fn wants_acid(shelf: &Shelf<'_>) -> bool {
    let Some(s) = shelf.situation.filter(|s| measures(s, Goes::Onto, shelf)) else { return false };
    let hard = s.system.methods.alkalinity.is_some_and(|alkalinity| alkalinity >= FIGURES.ph.hard);
    hard || taken_before(s).is_some()
}

/// What a batch takes.
struct Acid<'a> {
    id: Uuid,
    product: &'a Product,
    /// mL or g in a litre.
    per_litre: f64,
    /// Share that goes in before it is measured.
    first: f64,
    aim: f64,
    /// What the batch climbs to as gas escapes: without acid, and with it.
    climbs: [f64; 2],
    /// What of it is for the tank.
    tank: Option<ForTank>,
}

/// Acid that goes to the tank by way of the reservoir behind the float valve.
#[derive(Clone, Copy)]
struct ForTank {
    /// pH of the tank, as it was read.
    ph: PhReading,
    /// What takes all of it to its aim, in mL or g.
    whole: f64,
    /// What goes in with this batch.
    goes: f64,
}

/// The pH of a tank that stands above its aim, where it was read since the reservoir behind the valve was last filled: what
/// went in then is still on its way, and is not sent twice.
fn tank_high(s: &Situation<'_>) -> Option<PhReading> {
    read_since_filled(s).filter(|read| read.middle() > s.ph_aim() + 2.0 * FIGURES.ph.meter_error)
}

/// The pH of the tank, where it was read lately and since the reservoir behind the valve was last filled.
fn read_since_filled(s: &Situation<'_>) -> Option<PhReading> {
    let filled = s.known.lessons.premixed.filter(|ready| ready.value.into == PremixIn::TopOffReservoir);
    last_ph(s).filter(|read| filled.is_none_or(|filled| filled.at < read.at)).map(|read| read.value)
}

fn tank_litres(s: &Situation<'_>) -> Option<Litres> {
    s.water().litres().map(|about| about.value).filter(|litres| *litres > Litres::ZERO)
}

/// The pH of a batch that stands at one, once so much more acid is in it, in meq a litre.
fn ph_with(batch: Batch, at: f64, more: f64) -> f64 {
    let acid = batch.acid_to(at) + more;
    let tenths = (0..TENTHS).map(|n| at - f64::from(n) * FIGURES.ph.meter_error);
    tenths.take_while(|ph| batch.acid_to(*ph) <= acid + 1e-9).last().unwrap_or(at)
}

/// Tenths of pH down to where nothing is mixed any more.
const TENTHS: u8 = 40;

fn acid<'a>(litres: Litres, rise: f64, by_itself: &Expected, goes: Goes, shelf: &'a Shelf<'_>) -> Option<Acid<'a>> {
    let s = shelf.situation.filter(|s| measures(s, goes, shelf) && litres > Litres::ZERO)?;
    let figures = &FIGURES.ph;
    // A tank that is low gets the water as it comes.
    let low = || s.water().ph().is_some_and(|about| about.value.get() < s.ph_aim() - figures.meter_error);
    let for_tank = goes == Goes::Behind && s.system.methods.ph == PhMethod::Drum;
    let high = if for_tank { tank_high(s) } else { None };
    let comes_right = by_itself.value <= s.ph_band().high.get() - 2.0 * figures.meter_error;
    if (comes_right && high.is_none()) || ((goes == Goes::Onto || for_tank) && low()) {
        return None;
    }
    let last = taken_before(s);
    let used = last.map(|last| last.product).or(s.known.lessons.acid.as_ref().map(|acid| acid.product));
    let id = used.filter(|id| shelf.products.contains_key(id)).unwrap_or_else(|| shipped_id("ph_down"));
    let product = shelf.products.get(&id)?;
    let (batch, sure) = batch_of(rise, s, shelf);
    let aim = batch_aim(batch, s);
    let before = last.filter(|last| last.product == id).map(|last| last.per_litre);
    let own = before.or_else(|| Some(batch.acid_to(aim) / product.meq?))?;
    let own = if comes_right { 0.0 } else { own };
    let aim = if comes_right { by_itself.value.min(aim) } else { aim };
    let tank = high.and_then(|ph| Some((ph, whole_dose(ph, s.ph_aim(), tank_litres(s)?, (id, product), s)?)));
    let room = product.meq.map_or(0.0, |meq| ((batch.acid_to(figures.drum_least) - batch.acid_to(aim)) / meq).max(0.0));
    let tank = tank.map(|(ph, whole)| ForTank { ph, whole, goes: whole.min(room * litres.get()) });
    let more = tank.map_or(0.0, |tank| tank.goes / litres.get());
    let per_litre = own + more;
    if per_litre <= 0.0 {
        return None;
    }
    let aim = if more > 0.0 { ph_with(batch, aim, more * product.meq.unwrap_or(0.0)) } else { aim };
    let first = if sure { figures.first_share } else { figures.first_guess };
    let climbs = [0.0, batch.acid_to(aim)].map(|acid| batch.climbs_to(acid));
    Some(Acid { id, product, per_litre, first, aim, climbs, tank })
}

fn put_in(plan: &mut Plan, acid: &Acid<'_>, litres: Litres, ask: &Ask, shelf: &Shelf<'_>) {
    if let Some(Err(doubt)) = shelf.situation.map(uncalibrated) {
        plan.warnings.push(doubt.mending());
    }
    let whole = Amount { value: acid.per_litre * litres.get(), unit: acid.product.unit };
    let first = whole.with(whole.value * acid.first);
    let cans = if plan.shares.is_empty() { vec![only("vessel", litres)] } else { plan.shares.clone() };
    // What is measured and shown is the first part; all of it is what the batch may take.
    let part = portioned(acid.id, acid.product, whole.with(acid.per_litre), first, &cans, tools(ask, shelf));
    let said = say!("bench.first_of", first = first, whole = whole);
    plan.doses.push(Dose { amount: whole, said, first: Some(acid.first), ..part });
    // A can is stirred by hand; in the vessel the pump carries it round.
    let mixes = shelf.situation.filter(|_| plan.in_vessel).map_or(FIGURES.ph.stirred, Situation::mixes_in);
    let handling = say!("bench.batch_acid_handling", first = first, minutes = minutes(mixes), ph = ph(acid.aim));
    let name = &acid.product.name;
    let put_in = say!("bench.batch_acid", amount = whole, name = name, handling = handling.clone());
    let [alone, with] = acid.climbs.map(ph);
    let why = say!("bench.batch_acid_why", alone = alone, climbs = with);
    let why = match acid.tank.filter(|tank| tank.goes > 0.0) {
        Some(tank) => say!("sentences", all = Param::Sentences(vec![for_tank(&tank, whole), why])),
        None => why,
    };
    plan.steps.push(
        step(StepKind::Dose, put_in)
            .why(why)
            .caution(say!("bench.acid_and_base_caution"))
            .dosing(plan.doses.len() - 1, handling),
    );
    plan.batch_ph = Some(expected(acid.aim, say!("bench.ph_put_right", ph = ph(acid.aim))));
}

/// That a part of the acid is for the tank, and whether it is all that the tank takes.
fn for_tank(tank: &ForTank, all: Amount) -> Message {
    let goes = all.with(tank.goes);
    if tank.goes < tank.whole * NEARLY {
        say!("bench.acid_for_tank_part", amount = goes, ph = tank.ph)
    } else {
        say!("bench.acid_for_tank", amount = goes, ph = tank.ph)
    }
}

/// As good as all of it.
const NEARLY: f64 = 0.99;

/// What a batch is without acid: as the last fillings measured where no acid ever went in, else as the water and the feed
/// make it; `bench.ph_as_usual` without a system.
fn by_itself(rise: f64, shelf: &Shelf<'_>) -> Expected {
    let Some(s) = shelf.situation else { return fresh_ph(shelf) };
    if rise > 0.0 && taken_before(s).is_none() && !s.known.lessons.fresh_ph.is_empty() {
        return fresh_ph(shelf);
    }
    let value = batch_of(rise, s, shelf).0.ph();
    expected(value, say!("bench.ph_of_batch", ph = ph(value)))
}

/// What the last batch took, where it was of the water that the system is filled from now.
fn taken_before(s: &Situation<'_>) -> Option<BatchAcid> {
    s.known.lessons.batch_acid.filter(|last| last.of_same_water(s.system))
}

/// What a batch is brought to: the usual aim, and of hard water lower, so that it is still inside the band once the gas
/// has left; never so low that roots would mind it on the first day.
fn batch_aim(batch: Batch, s: &Situation<'_>) -> f64 {
    let (figures, band, aim) = (&FIGURES.ph, s.ph_band(), s.ph_aim());
    let stays = |ph: f64| batch.climbs_to(batch.acid_to(ph)) <= band.high.get() - 2.0 * figures.meter_error;
    let steps = (0..STEPS).map(|n| aim - f64::from(n) * figures.meter_error);
    let least = figures.batch_least.max(band.low.get()).min(aim);
    let low = steps.take_while(|ph| *ph >= least).find(|ph| stays(*ph));
    low.unwrap_or(least)
}

/// Tenths of pH from one end of a band to the other.
const STEPS: u8 = 20;

/// Whether somebody measures pH here and puts it right in such a batch. Children are given no acid.
fn measures(s: &Situation<'_>, goes: Goes, shelf: &Shelf<'_>) -> bool {
    let method = match s.system.methods.ph {
        PhMethod::RecipeOnly => false,
        PhMethod::AtChange => goes == Goes::Fresh,
        PhMethod::Reservoir | PhMethod::SeparateBatch | PhMethod::Drum => true,
    };
    method && s.system.measuring != Measuring::RecipeOnly && !shelf.actor.is_child()
}

fn expected(value: f64, said: Message) -> Expected {
    let spread = FIGURES.ph.fresh_spread;
    Expected { value, low: value - spread, high: value + spread, said, also: vec![] }
}

/// The batch by what is known of its water, where feed raises it by so many mS/cm; and whether its alkalinity is more than
/// a guess. Where nobody has measured it, what the last batch took tells it; else a middling tap's is taken, and no more
/// than its salts can hold.
fn batch_of(rise: f64, s: &Situation<'_>, shelf: &Shelf<'_>) -> (Batch, bool) {
    let (figures, methods) = (&FIGURES.ph, &s.system.methods);
    let source_ph = methods.source_ph.map_or(figures.tap, Ph::get);
    let taken = || {
        let last = taken_before(s)?;
        let acid = last.per_litre * shelf.products.get(&last.product)?.meq?;
        Some(acid / at_once(1.0, source_ph, figures.batch_least))
    };
    let known = methods.alkalinity.map(meq_of).or_else(taken);
    let guess = || {
        let usual = match methods.source {
            SourceWater::Rain | SourceWater::Filtered => figures.soft_alkalinity,
            SourceWater::Tap | SourceWater::Conditioned | SourceWater::Stood => FIGURES.cover.usual_alkalinity,
        };
        meq_of(usual.min(s.system.source_ec.get() * figures.alkalinity_of_ec))
    };
    let phosphate = (rise * figures.phosphate_of_ec).min(figures.phosphate_most);
    (Batch::new(known.unwrap_or_else(guess), source_ph, phosphate), known.is_some())
}

/// By how much a mix raises its water, in mS/cm.
pub(super) fn rise_of(mixed: &Mixed, source: Conductivity) -> f64 {
    mixed.ec.map_or(0.0, |(ec, _)| (ec - source).or_nothing().get())
}
