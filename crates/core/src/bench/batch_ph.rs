//! The pH of a batch, put right where it is mixed: before roots meet it there is no daily limit.
//!
//! Half of the acid, stir, measure, the rest to the aim. What the water holds comes from its alkalinity and the phosphate
//! of the feed; where a batch of this water took acid before, the next begins with that.

use super::ask::{Ask, Shelf};
use super::feed::Mixed;
use super::plan::{Dose, Expected, Plan, StepKind, step};
use super::steps::{dose as portioned, fresh_ph, only, ph_step, tools};
use crate::band::PhBand;
use crate::dosing::uncalibrated;
use crate::figures::FIGURES;
use crate::message::{Message, minutes, ph};
use crate::mixing::alkalinity::{Batch, at_once, meq_of};
use crate::mixing::shipped_id;
use crate::quantity::{Amount, Conductivity, Litres, Ph};
use crate::say;
use crate::situation::Situation;
use crate::system::{Measuring, PhMethod, SourceWater};

/// Puts the pH of a batch on the plan: what to expect, what acid to put in, and what it climbs to afterwards. `rise` is
/// what feed raises it by, in mS/cm.
pub(super) fn put_right(plan: &mut Plan, litres: Litres, rise: f64, ask: &Ask, shelf: &Shelf<'_>) {
    put_right_onto(plan, litres, rise, None, ask, shelf);
}

/// The same for a batch that is poured onto water of a pH, where that is known.
pub(super) fn put_right_onto(
    plan: &mut Plan,
    litres: Litres,
    rise: f64,
    onto: Option<f64>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) {
    let expected = acid_in(plan, litres, (rise, onto), ask, shelf);
    let put_right = plan.batch_acid_first.is_some();
    let measured = ph_step(&expected);
    plan.steps.push(if put_right { measured.why(say!("bench.ph_put_right_why")) } else { measured });
    plan.batch_ph = Some(expected);
}

fn acid_in(
    plan: &mut Plan,
    litres: Litres,
    (rise, onto): (f64, Option<f64>),
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Expected {
    let figures = &FIGURES.ph;
    let last = shelf.situation.and_then(|s| s.known.lessons.batch_acid);
    let known = last.map(|last| last.product);
    let known = known.or(shelf.situation.and_then(|s| s.known.lessons.acid.as_ref().map(|acid| acid.product)));
    let id = known.filter(|id| shelf.products.contains_key(id)).unwrap_or_else(|| shipped_id("ph_down"));
    let product = shelf.products.get(&id);
    let meq = product.and_then(|product| product.meq);
    let before = last.filter(|last| last.product == id).map(|last| last.per_litre);
    let taken = before.and_then(|per_litre| Some(per_litre * meq?));
    let Some((batch, sure)) = batch_of(rise, taken, shelf) else { return fresh_ph(shelf) };
    let aim = batch_aim(batch, shelf);
    let by_itself = batch.ph();
    let measured = shelf.situation.is_none_or(measures);
    // What is topped off leans against what stands there: a tank that stands low gets the water as it comes.
    let low = onto.is_some_and(|standing| standing < aim_of(shelf) - figures.meter_error);
    let band = shelf.situation.map_or_else(PhBand::usual, Situation::ph_band);
    let high = by_itself > band.high.get() - 2.0 * figures.meter_error && !low;
    let per_litre = before.or_else(|| Some(batch.acid_to(aim) / meq?));
    let (Some(product), Some(per_litre), true) = (product, per_litre, measured && high) else {
        return expected(by_itself, say!("bench.ph_of_batch", ph = ph(by_itself)));
    };
    if let Some(Err(doubt)) = shelf.situation.map(uncalibrated) {
        plan.warnings.push(doubt.mending());
    }
    let whole = Amount { value: per_litre * litres.get(), unit: product.unit };
    let cans = if plan.shares.is_empty() { vec![only("vessel", litres)] } else { plan.shares.clone() };
    let first = if sure { figures.first_share } else { figures.first_guess };
    plan.batch_acid_first = Some(first);
    let half = whole.with(whole.value * first);
    // What is measured and told is the first part; all of it is what the batch may take, and what is logged.
    let per_litre = whole.with(per_litre);
    let part = portioned(id, product, per_litre, half, &cans, tools(ask, shelf));
    let said = say!("bench.first_of", first = half, whole = whole);
    plan.doses.push(Dose { amount: whole, said, ..part });
    let handling = say!("bench.batch_acid_handling", half = half, ph = ph(aim), minutes = minutes(figures.stirred));
    let put_in = say!("bench.batch_acid", amount = whole, name = &product.name, handling = handling.clone());
    let climbs =
        batch.climbs_to(meq.map_or_else(|| batch.acid_to(aim), |meq| per_litre.value * meq).min(batch.acid_to(aim)));
    let why = say!("bench.batch_acid_why", ph = ph(by_itself), climbs = ph(climbs));
    let index = plan.doses.len() - 1;
    plan.steps.push(
        step(StepKind::Dose, put_in).why(why).caution(say!("bench.acid_and_base_caution")).dosing(index, handling),
    );
    expected(aim, say!("bench.ph_put_right", ph = ph(aim)))
}

/// What a batch is brought to: the usual aim, and of hard water lower, so that it is still inside the band once the gas
/// has left; never so low that roots would mind it on the first day.
fn batch_aim(batch: Batch, shelf: &Shelf<'_>) -> f64 {
    let figures = &FIGURES.ph;
    let band = shelf.situation.map_or_else(PhBand::usual, Situation::ph_band);
    let aim = aim_of(shelf);
    let stays = |ph: f64| batch.climbs_to(batch.acid_to(ph)) <= band.high.get() - 2.0 * figures.meter_error;
    let steps = (0..STEPS).map(|n| aim - f64::from(n) * figures.meter_error);
    let least = figures.batch_least.max(band.low.get()).min(aim);
    let low = steps.take_while(|ph| *ph >= least).find(|ph| stays(*ph));
    low.unwrap_or(least)
}

/// The pH that is aimed at.
fn aim_of(shelf: &Shelf<'_>) -> f64 {
    shelf.situation.map_or_else(|| PhBand::usual().aim(), Situation::ph_aim)
}

/// Tenths of pH from one end of a band to the other.
const STEPS: u8 = 20;

/// Whether somebody measures pH here and puts it right.
fn measures(s: &Situation<'_>) -> bool {
    s.system.methods.ph != PhMethod::RecipeOnly && s.system.measuring != Measuring::RecipeOnly
}

/// Whether plain water is put right too: it is known to be hard, or a batch of it took acid before.
pub(super) fn wants_acid(shelf: &Shelf<'_>) -> bool {
    let Some(s) = shelf.situation.filter(|s| measures(s)) else { return false };
    let hard = s.system.methods.alkalinity.is_some_and(|alkalinity| alkalinity >= FIGURES.ph.hard);
    hard || s.known.lessons.batch_acid.is_some()
}

fn expected(value: f64, said: Message) -> Expected {
    let spread = FIGURES.ph.fresh_spread;
    Expected { value, low: value - spread, high: value + spread, said, also: vec![] }
}

/// The batch by what is known of its water, where feed raises it by so many mS/cm; and whether its alkalinity is more than
/// a guess. Nobody has measured it: then what the last batch took tells it, else a middling tap's is taken, and no more
/// than its salts can hold. `None` without a system.
fn batch_of(rise: f64, taken: Option<f64>, shelf: &Shelf<'_>) -> Option<(Batch, bool)> {
    let figures = &FIGURES.ph;
    let system = shelf.situation?.system;
    let methods = &system.methods;
    let source_ph = methods.source_ph.map_or(figures.tap, Ph::get);
    let known =
        methods.alkalinity.map(meq_of).or(taken.map(|acid| acid / at_once(1.0, source_ph, figures.batch_least)));
    let guess = || {
        let usual = match methods.source {
            SourceWater::Rain | SourceWater::Filtered => figures.soft_alkalinity,
            SourceWater::Tap | SourceWater::Conditioned | SourceWater::Stood => FIGURES.cover.usual_alkalinity,
        };
        meq_of(usual.min(system.source_ec.get() * figures.alkalinity_of_ec))
    };
    let phosphate = (rise * figures.phosphate_of_ec).min(figures.phosphate_most);
    Some((Batch::new(known.unwrap_or_else(guess), source_ph, phosphate), known.is_some()))
}

/// By how much a mix raises its water, in mS/cm.
pub(super) fn rise_of(mixed: &Mixed, source: Conductivity) -> f64 {
    mixed.ec.map_or(0.0, |(ec, _)| (ec - source).or_nothing().get())
}
