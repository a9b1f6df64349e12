//! Peroxide: the dose for the reservoir, the bath for roots, and weakening a stronger one.
//! C₁V₁ = C₂V₂ throughout.

use super::ask::{Ask, Shelf};
use super::plan::{Plan, WaitFor};
use super::steps::{carry, dose as portioned, only, shares, step, tools};
use crate::log::{Body, RootStage, Treatment, TreatmentKind};
use crate::mixing::{Amount, Product, ProductKind, STRONGEST_PEROXIDE, dilute, shipped_id};
use crate::quantity::{Litres, Millilitres};
use crate::refusal::{AtField, Refusal};
use uuid::Uuid;

/// mL of 3 % in a litre of the reservoir.
const DOSE_ML_PER_LITRE: f64 = 4.0;
const DOSE_PERCENT: f64 = 3.0;
/// One part of 3 % to two of water.
const BATH_PERCENT: f64 = 1.0;
/// It decays to water, and is given again after so many days.
const AGAIN_DAYS: &str = "4–6 days";
const CAUTION: &str = "Over 3 % it burns skin and eyes: gloves, goggles, an adult. Never with bleach or vinegar. Not where living inoculants are in use.";

fn peroxide<'a>(id: Option<Uuid>, shelf: &'a Shelf<'_>) -> Result<(Uuid, &'a Product, f64), Refusal> {
    let id = id.unwrap_or_else(|| shipped_id("root_oxygen_3"));
    let product = shelf.product(id).at("purpose")?;
    match (product.what, product.percent) {
        (ProductKind::Peroxide, Some(percent)) => Ok((id, product, percent)),
        _ => {
            Err(Refusal::new(format!("found “{}”, {}", product.name.as_str(), product.what.say()), "allowed is a peroxide", "Pick a peroxide from the shelf.")
                .at("purpose.product"))
        }
    }
}

fn weaker(product: &Product, percent: f64, wanted: f64) -> Refusal {
    Refusal::new(
        format!("found “{}” of {percent} %, weaker than the {wanted} % wanted", product.name.as_str()),
        format!("allowed is {wanted} % or stronger"),
        "Get a fresh bottle: an old one weakens by itself. A weaker one only thins the water.",
    )
    .at("purpose.product")
}

pub(super) fn dose(litres: Option<Litres>, product: Option<Uuid>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let (id, product, percent) = peroxide(product, shelf)?;
    if percent < DOSE_PERCENT {
        return Err(weaker(product, percent, DOSE_PERCENT));
    }
    let litres = shelf.standing(litres)?;
    let per_litre = Amount::ml(DOSE_ML_PER_LITRE * DOSE_PERCENT / percent);
    let whole = per_litre.with(per_litre.value * litres.get());
    let mut plan = Plan::new("Peroxide dose");
    let jug = only("jug of tank water", Litres::nearest(1.0), w);
    plan.doses.push(portioned(id, product, per_litre, whole, &[jug], tools(ask, shelf), w));
    plan.answer = format!("{} of {} into {}.", plan.doses[0].said, product.name.as_str(), w.volume(litres));
    let measured = plan.doses[0].portions[0].measured.clone();
    let pour = step("dose_0", format!("{}: {measured}. Stir it into a jug of tank water, pour slowly, pump and air on.", plan.doses[0].said))
        .why(format!("4 mL of 3 % for each litre; it decays to water, so again in {AGAIN_DAYS}."))
        .caution(CAUTION)
        .dosing(0, "Stir it into a jug of tank water, pour slowly, pump and air on.");
    plan.steps.push(pour);
    plan.steps.push(step("look", "Look at the roots at 2, 4 and 7 days; two sound looks close the case."));
    plan.after = Some(litres);
    "A usual dose; the bottle weakens with age and light.".clone_into(&mut plan.sure);
    carry(&mut plan, 1.0, w);
    plan.entry = treatment(shelf, TreatmentKind::PeroxideDose, whole.value)?;
    Ok(plan)
}

fn treatment(shelf: &Shelf<'_>, what: TreatmentKind, ml: f64) -> Result<Option<Body>, Refusal> {
    let Some(_) = shelf.situation else { return Ok(None) };
    Ok(Some(Body::Treatment(Treatment { what, amount_ml: Some(Millilitres::new(ml).at("purpose.litres")?), ports: None, note: None })))
}

/// Minutes in the bath, 7 to 15 by how far the roots have gone.
fn bath_minutes(stage: RootStage) -> Result<u32, Refusal> {
    match stage {
        RootStage::Sound => {
            Err(Refusal::new("found sound roots", "allowed is a bath for roots that clump or carry a film", "Leave sound roots alone: peroxide costs them their fine hairs.")
                .at("purpose.stage"))
        }
        RootStage::Clumping => Ok(7),
        RootStage::Film => Ok(12),
        RootStage::Rotted => {
            Err(Refusal::new("found rotted roots, stage 3", "allowed is a bath for stages 1 and 2", "Take the plant out and reset the system: no bath brings these roots back.")
                .at("purpose.stage"))
        }
    }
}

pub(super) fn root_bath(litres: Litres, product: Option<Uuid>, stage: Option<RootStage>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let (id, product, percent) = peroxide(product, shelf)?;
    if percent < DOSE_PERCENT {
        return Err(weaker(product, percent, DOSE_PERCENT));
    }
    let known = shelf.situation.and_then(|s| s.state.root_case).map(|case| case.value);
    let minutes = bath_minutes(stage.or(known).unwrap_or(RootStage::Film))?;
    let mixed = dilute(percent, BATH_PERCENT, litres).at("purpose")?;
    let whole = Amount::ml(mixed.concentrate.get() * 1000.0);
    let mut plan = Plan::new("Root bath");
    plan.plain = mixed.water;
    let basin = only("basin", litres, w);
    plan.doses.push(portioned(id, product, Amount::ml(1000.0 * BATH_PERCENT / percent), whole, &[basin], tools(ask, shelf), w));
    plan.answer = format!("{} of {} and {} of water, for {minutes} minutes.", plan.doses[0].said, product.name.as_str(), w.volume(mixed.water));
    plan.steps.push(step("water", format!("{} of plain water at the tank's temperature into a basin.", w.volume(mixed.water))));
    let measured = plan.doses[0].portions[0].measured.clone();
    let pour = step("dose_0", format!("{}: {measured}. Into the water, stir.", plan.doses[0].said))
        .why("One part of 3 % to two of water.")
        .caution(CAUTION)
        .dosing(0, "Into the water, stir.");
    plan.steps.push(pour);
    plan.steps.push(
        step("bath", format!("Roots in, leaves out, {minutes} minutes; lift them once or twice."))
            .why("By how far the roots have gone, 7 to 15 minutes.")
            .wait(WaitFor::RootBath, minutes),
    );
    plan.steps.push(step("rinse", "Rinse the roots with plain water, and put them into the fresh solution, not into the old one."));
    "The usual method; where growers differ, the label decides.".clone_into(&mut plan.sure);
    carry(&mut plan, litres.get(), w);
    plan.entry = treatment(shelf, TreatmentKind::RootBath, whole.value)?;
    Ok(plan)
}

pub(super) fn dilution(from: f64, to: f64, litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    if from > STRONGEST_PEROXIDE {
        return Err(Refusal::new(
            format!("found a peroxide of {from} %"),
            format!("allowed is up to {STRONGEST_PEROXIDE} %"),
            "A stronger one sets fire to wood and cloth: leave it to those who are trained for it, and get a weaker bottle.",
        )
        .at("purpose.from_percent"));
    }
    let mixed = dilute(from, to, litres).at("purpose")?;
    let mut plan = Plan::new("Weaken a peroxide");
    plan.plain = mixed.water;
    plan.shares = shares(litres, ask, shelf)?;
    let parts = (mixed.parts_water * 100.0).round() / 100.0;
    let concentrate = w.amount(Amount::ml(mixed.concentrate.get() * 1000.0));
    plan.answer = format!("{concentrate} of the {from} % and {} of water make {} of {to} %: 1 part and {parts} of water.", w.volume(mixed.water), w.volume(litres));
    plan.steps.push(step("water", format!("{} of water into a clean, dark bottle.", w.volume(mixed.water))).why("Water first: what splashes is then the weak one."));
    plan.steps.push(step("concentrate", format!("{concentrate} of the {from} % into it, slowly.")).caution(if from > DOSE_PERCENT {
        CAUTION
    } else {
        "Never with bleach or vinegar."
    }));
    plan.steps.push(step("label", format!("Write “peroxide {to} %” and the date on it; keep it dark, cool and away from children.")));
    "C₁V₁ = C₂V₂. The strength on an old label may be less than it says.".clone_into(&mut plan.sure);
    carry(&mut plan, litres.get(), w);
    Ok(plan)
}
