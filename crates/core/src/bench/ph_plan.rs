//! A pH correction as a plan: half first, wait, measure, then the rest.

use super::ask::{Ask, Shelf};
use super::plan::{Expected, Plan, StepKind, step};
use super::steps::{dose as portioned, only, tools};
use crate::band::PhBand;
use crate::dosing::{DosePart, JarTest, PhAsk, estimate};
use crate::fact::{Body, Correction, Used, WaitFor};
use crate::figures::FIGURES;
use crate::message::{minutes, ph, term};
use crate::mixing::alkalinity::{held, ph_holding};
use crate::mixing::shipped_id;
use crate::quantity::{Amount, Litres, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::say;
use crate::situation::Situation;
use crate::system::PhMethod;
use uuid::Uuid;

/// What is wished for, as far as it was said.
pub(super) struct Wish {
    pub ph: PhReading,
    pub aim: Option<Ph>,
    pub jar: Option<JarTest>,
    pub litres: Option<Litres>,
}

pub(super) fn correct(wanted: Wish, product: Option<Uuid>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let figures = &FIGURES.ph;
    let litres = shelf.standing(wanted.litres)?.value;
    let usual = || shelf.situation.map_or_else(|| PhBand::usual().aim(), Situation::ph_aim);
    let aim = wanted.aim.map_or_else(usual, Ph::get);
    let up = wanted.ph.middle() < aim;
    // What was poured last is at hand; where it has left the shelf, or nothing was poured, the shipped one.
    let last = shelf.situation.and_then(|s| {
        let lessons = &s.known.lessons;
        let last = if up { &lessons.base } else { &lessons.acid };
        last.as_ref().map(|last| last.product).filter(|id| shelf.products.contains_key(id))
    });
    let id = product.or(last).unwrap_or_else(|| shipped_id(if up { "ph_up" } else { "ph_down" }));
    let product = shelf.product(id).at("purpose")?;
    let asked = PhAsk { ph: wanted.ph, aim: wanted.aim, litres, jar: wanted.jar, read: None };
    let found = estimate(asked, (id, product), shelf.situation).at("purpose")?;
    let now = Amount { value: found.now, unit: product.unit };
    let (least, most) = (Litres::constant(figures.jug_least), Litres::constant(figures.jug_most));
    let jug = (litres * figures.jug_share).max(least).min(most).min(litres);
    let mut plan = Plan::new(say!("bench.ph_title"));
    let per_litre = now.with(found.now / litres.get());
    plan.doses.push(portioned(id, product, per_litre, now, &[only("jug of tank water", jug)], tools(ask, shelf)));
    let measured = plan.doses[0].portions[0].measured.clone();
    let part = term(match found.part {
        DosePart::Half => "dose.half_first",
        DosePart::Rest => "dose.rest",
        DosePart::Trial => "dose.trial_first",
    });
    let wait = minutes(found.wait_minutes);
    let name = &product.name;
    plan.answer = say!("bench.ph_answer", amount = now, name = name, part = part, minutes = wait.clone());
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
            .dosing(0, handling),
    );
    if !straight {
        let back = if shelf.still() { say!("bench.ph_pour_back_still") } else { say!("bench.ph_pour_back") };
        plan.steps.push(step(StepKind::Pour, back));
    }
    plan.steps.push(
        step(StepKind::Wait, say!("bench.ph_wait", minutes = wait))
            .why(say!("bench.ph_wait_why"))
            .wait(WaitFor::Remeasure, found.wait_minutes.into()),
    );
    plan.steps.push(step(StepKind::Measure, say!("bench.ph_measure")));
    if found.capped {
        plan.warnings.push(say!("bench.ph_capped", to = ph(found.to)));
    }
    // Half of the acid moves half of what the water holds, not half of the pH.
    let half = found.part == DosePart::Half;
    let shares = (held(found.from), held(found.to));
    let after = if half { ph_holding(f64::midpoint(shares.0, shares.1)) } else { found.to };
    let (low, high) = (after.min(found.to), after.max(found.from.min(found.to)));
    plan.ph = Some(Expected {
        value: after,
        low: low - figures.after_dose_spread,
        high: high.max(after) + figures.after_dose_spread,
        said: say!("bench.ph_after", after = ph(after), end = ph(found.to)),
        also: vec![],
    });
    plan.after = Some(litres);
    plan.sure = found.sure.clone();
    plan.carry(jug);
    if shelf.situation.is_some() {
        let dosed =
            Used { product: id, name: product.name.clone(), what: product.what, amount: now, rise: product.rise };
        let aim = Ph::new(found.to).at("purpose.aim")?;
        // Of a trial nothing is known that it would be a part of.
        let whole = (found.part != DosePart::Trial).then_some(found.whole);
        plan.entry = Some(Body::Correction(Correction { from: wanted.ph, aim, dosed, litres, whole, note: None }));
    }
    plan.ph_estimate = Some(found);
    Ok(plan)
}
