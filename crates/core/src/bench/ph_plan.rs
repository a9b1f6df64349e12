//! A pH correction as a plan: half first, wait, measure, then the rest.

use super::ask::{Ask, Shelf};
use super::plan::{Expected, Plan, PlanStep, StepKind, step};
use super::steps::{dose as portioned, only, tools};
use crate::band::PhBand;
use crate::dosing::{DosePart, JarTest, PhAsk, PhEstimate, estimate, last_ph};
use crate::fact::{Body, Correction, Dosed, Used, Visit, WaitFor};
use crate::figures::FIGURES;
use crate::message::{minutes, ph, term};
use crate::mixing::alkalinity::{held, ph_holding};
use crate::mixing::shipped_id;
use crate::quantity::{Amount, Litres, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::situation::Situation;
use crate::system::PhMethod;
use crate::{refuse, say};
use jiff::Timestamp;
use uuid::Uuid;

/// What is wished for, as far as it was said.
pub(super) struct Wish {
    pub ph: Option<PhReading>,
    pub aim: Option<Ph>,
    pub jar: Option<JarTest>,
    pub litres: Option<Litres>,
}

/// A pH that a dose is worked out from, and when it was read; just now when absent.
pub(super) type Read = (PhReading, Option<Timestamp>);

/// The pH as it is given, else as it was read last.
///
/// # Errors
/// Where it is not given and was never read, or longer ago than a dose is worked out by.
pub(super) fn known(given: Option<PhReading>, shelf: &Shelf<'_>) -> Result<Read, Refusal> {
    if let Some(given) = given {
        return Ok((given, None));
    }
    let last = shelf.situation.and_then(last_ph).ok_or_else(|| refuse!("ph_not_lately").at("purpose.ph"))?;
    Ok((last.value, Some(last.at)))
}

pub(super) fn correct(wanted: Wish, product: Option<Uuid>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let litres = shelf.standing(wanted.litres)?.value;
    let read = known(wanted.ph, shelf)?;
    let mut plan = Plan::new(say!("bench.ph_title"));
    let dosed = put_in(&mut plan, read, (wanted.aim, wanted.jar, product), litres, ask, shelf)?;
    plan.after = Some(litres);
    plan.carry(jug_of(litres));
    plan.entry = shelf.situation.map(|_| match wanted.ph {
        Some(from) => {
            let Dosed { aim, dosed, litres, whole, .. } = dosed;
            Body::Correction(Correction { from, aim, dosed, litres, whole, note: None })
        }
        // What was read before is not read again.
        None => Body::Visit(Visit { dosed: Some(dosed), ..Visit::default() }),
    });
    Ok(plan)
}

/// Tank water to stir a dose into.
pub(super) fn jug_of(litres: Litres) -> Litres {
    let figures = &FIGURES.ph;
    let (least, most) = (Litres::constant(figures.jug_least), Litres::constant(figures.jug_most));
    (litres * figures.jug_share).max(least).min(most).min(litres)
}

/// Puts a dose for so much water on a plan, with its steps from the jug to the next reading.
///
/// # Errors
/// A refusal of the estimate.
pub(super) fn put_in(
    plan: &mut Plan,
    (reading, read): Read,
    (aim, jar, product): (Option<Ph>, Option<JarTest>, Option<Uuid>),
    litres: Litres,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Dosed, Refusal> {
    let usual = || shelf.situation.map_or_else(|| PhBand::usual().aim(), Situation::ph_aim);
    let up = reading.middle() < aim.map_or_else(usual, Ph::get);
    // What was poured last is at hand; where it has left the shelf, or nothing was poured, the shipped one.
    let last = shelf.situation.and_then(|s| {
        let lessons = &s.known.lessons;
        let last = if up { &lessons.base } else { &lessons.acid };
        last.as_ref().map(|last| last.product).filter(|id| shelf.products.contains_key(id))
    });
    let id = product.or(last).unwrap_or_else(|| shipped_id(if up { "ph_up" } else { "ph_down" }));
    let product = shelf.product(id).at("purpose")?;
    let asked = PhAsk { ph: reading, aim, litres, jar, read };
    let found = estimate(asked, (id, product), shelf.situation).at("purpose")?;
    let (now, jug) = (Amount { value: found.now, unit: product.unit }, jug_of(litres));
    let dose = portioned(
        id,
        product,
        now.with(found.now / litres.get()),
        now,
        &[only("jug of tank water", jug)],
        tools(ask, shelf),
    );
    let measured = dose.portions[0].measured.clone();
    plan.doses.push(dose);
    let part = term(match found.part {
        DosePart::Half => "dose.half_first",
        DosePart::Rest => "dose.rest",
        DosePart::Trial => "dose.trial_first",
    });
    let (wait, name) = (minutes(found.wait_minutes), &product.name);
    // A kit tells no change within the hour.
    let by_kit = shelf.situation.is_some_and(|s| s.system.measuring.ph_by_kit());
    plan.answer = if by_kit {
        say!("bench.ph_answer_kit", amount = now, name = name, part = part)
    } else {
        say!("bench.ph_answer", amount = now, name = name, part = part, minutes = wait.clone())
    };
    let straight = shelf.situation.is_some_and(|s| s.system.methods.ph == PhMethod::Reservoir);
    if !straight {
        plan.steps.push(step(StepKind::Water, say!("bench.ph_jug", jug = jug)).why(say!("bench.ph_jug_why")));
    }
    let handling = if straight { say!("bench.ph_at_pump") } else { say!("bench.ph_into_jug") };
    let pour = say!("bench.ph_dose", amount = now, name = name, measured = measured, handling = handling.clone());
    plan.steps.push(
        step(StepKind::Dose, pour)
            .why(found.sure.clone())
            .caution(say!("bench.acid_and_base_caution"))
            .dosing(plan.doses.len() - 1, handling),
    );
    if !straight {
        let back = if shelf.still() { say!("bench.ph_pour_back_still") } else { say!("bench.ph_pour_back") };
        plan.steps.push(step(StepKind::Pour, back));
    }
    if by_kit {
        plan.steps.push(step(StepKind::Measure, say!("bench.ph_measure_kit")));
    } else {
        plan.steps.push(wait_step(found.wait_minutes.into()).why(say!("bench.ph_wait_why")));
        plan.steps.push(step(StepKind::Measure, say!("bench.ph_measure")));
    }
    if found.capped {
        plan.warnings.push(say!("bench.ph_capped", to = ph(found.to)));
    }
    plan.ph = Some(after(&found));
    plan.sure = found.sure.clone();
    let dosed = Used { product: id, name: product.name.clone(), what: product.what, amount: now, rise: product.rise };
    // Of a trial nothing is known that it would be a part of.
    let whole = (found.part != DosePart::Trial).then_some(found.whole);
    let aim = Ph::new(found.to).at("purpose.aim")?;
    plan.ph_estimate = Some(found);
    Ok(Dosed { from: reading, aim, dosed, litres, whole })
}

/// The wait until what was poured can be measured.
pub(super) fn wait_step(wait: f64) -> PlanStep {
    step(StepKind::Wait, say!("bench.ph_wait", minutes = minutes(wait))).wait(WaitFor::Remeasure, wait)
}

/// The pH that is expected once it has mixed.
fn after(found: &PhEstimate) -> Expected {
    let figures = &FIGURES.ph;
    // Half of the acid moves half of what the water holds, not half of the pH.
    let half = found.part == DosePart::Half;
    let shares = (held(found.from), held(found.to));
    let after = if half { ph_holding(f64::midpoint(shares.0, shares.1)) } else { found.to };
    let (low, high) = (after.min(found.to), after.max(found.from.min(found.to)));
    Expected {
        value: after,
        low: low - figures.after_dose_spread,
        high: high.max(after) + figures.after_dose_spread,
        said: say!("bench.ph_after", after = ph(after), end = ph(found.to)),
        also: vec![],
    }
}
