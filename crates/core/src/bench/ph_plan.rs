//! A pH correction as a plan: half first, wait, measure, then the rest.

use super::ask::{Ask, Shelf};
use super::plan::{Expected, Plan, WaitFor};
use super::steps::{carry, dose as portioned, only, step, tools};
use crate::log::{Body, Correction, Used};
use crate::mixing::{Amount, shipped_id};
use crate::ph::{DosePart, JarTest, PhAsk, estimate};
use crate::quantity::{Litres, Name, Ph, PhReading};
use crate::refusal::{AtField, Refusal};
use crate::system::PhMethod;
use uuid::Uuid;

/// The dose goes into at least this share of the tank, in a jug of its own.
const JUG_SHARE: f64 = 0.03;

/// What is wished for, as far as it was said.
pub(super) struct Wish {
    pub ph: PhReading,
    pub aim: Option<Ph>,
    pub jar: Option<JarTest>,
    pub litres: Option<Litres>,
}

pub(super) fn correct(wanted: Wish, product: Option<Uuid>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let litres = shelf.standing(wanted.litres)?;
    let up = wanted.ph.middle() < wanted.aim.map_or(6.0, Ph::get);
    let id = product.unwrap_or_else(|| shipped_id(if up { "ph_up" } else { "ph_down" }));
    let product = shelf.product(id).at("purpose")?;
    let found = estimate(PhAsk { ph: wanted.ph, aim: wanted.aim, litres, jar: wanted.jar }, (id, product), shelf.situation).at("purpose")?;
    let now = Amount { value: found.now, unit: product.unit };
    let jug = Litres::nearest((litres.get() * JUG_SHARE).clamp(0.5, 5.0).min(litres.get()));
    let mut plan = Plan::new("pH correction");
    let share = only("jug of tank water", jug, w);
    plan.doses.push(portioned(id, product, now.with(found.now / litres.get()), now, &[share], tools(ask, shelf), w));
    let part = match found.part {
        DosePart::Half => "half of the estimate first",
        DosePart::Rest => "the rest",
        DosePart::Trial => "a small trial first",
    };
    plan.answer = format!("{} of {}, {part}; then wait {} minutes and measure.", plan.doses[0].said, product.name.as_str(), found.wait_minutes);
    let measured = plan.doses[0].portions[0].measured.clone();
    let straight = shelf.situation.is_some_and(|s| s.system.methods.ph == PhMethod::Reservoir);
    if !straight {
        plan.steps.push(step("water", format!("Take {} of the tank's water in a jug.", w.volume(jug))).why("No root meets the concentrate."));
    }
    let into = if straight { "Into the stream at the pump, drop by drop" } else { "Into the jug, stir" };
    let pour = step("dose_0", format!("{} {}: {measured}. {into}.", plan.doses[0].said, product.name.as_str()))
        .why(found.sure.clone())
        .caution("Gloves and goggles. Into water, never water into it. Never acid and base on one visit.")
        .dosing(0, &format!("{into}."));
    plan.steps.push(pour);
    if !straight {
        plan.steps.push(step("pour", "Pour the jug back slowly, pump or air on."));
    }
    plan.steps.push(
        step("wait", format!("Wait {} minutes.", found.wait_minutes)).why("A reading before it has mixed leads to a dose too many.").wait(WaitFor::Remeasure, found.wait_minutes),
    );
    plan.steps.push(step("measure", "Measure: air off for a moment, swirl, read before particles settle. Then ask again: the rest is worked out from what this dose did."));
    if found.capped {
        plan.warnings.push(format!("Today to {:.1} at most: pH is moved by 1.0 a day and no more while plants are in.", found.to));
    }
    let half_way = if found.part == DosePart::Half { f64::midpoint(found.from, found.to) } else { found.to };
    let (low, high) = (half_way.min(found.to), half_way.max(found.from.min(found.to)));
    plan.ph = Some(Expected {
        value: half_way,
        low: low - 0.15,
        high: high.max(half_way) + 0.15,
        said: format!("about {half_way:.1} after this dose, {:.1} in the end", found.to),
        also: vec![],
    });
    plan.after = Some(litres);
    plan.sure.clone_from(&found.sure);
    carry(&mut plan, jug.get(), w);
    plan.entry = match shelf.situation {
        None => None,
        Some(_) => Some(Body::Correction(Correction {
            from: wanted.ph,
            aim: Ph::new(found.to).at("purpose.aim")?,
            dosed: Used { product: id, name: Name::new(product.name.as_str())?, what: product.what, amount: now },
            litres,
            note: None,
        })),
    };
    plan.ph_estimate = Some(found);
    Ok(plan)
}
