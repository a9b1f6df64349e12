//! Peroxide: the dose for the reservoir, the bath for roots, and weakening a stronger one.
//! C₁V₁ = C₂V₂ throughout.

use super::ask::{Ask, Shelf};
use super::plan::{Plan, StepKind, step};
use super::steps::{dose as portioned, figure, only, shares, tools};
use crate::calendar::days_between;
use crate::fact::{Body, RootStage, Treatment, TreatmentKind, WaitFor};
use crate::figures::FIGURES;
use crate::message::{Message, days, minutes, percent};
use crate::mixing::{Product, ProductKind, STRONGEST_PEROXIDE, dilute, usual_peroxide};
use crate::quantity::{Amount, Litres, Millilitres, Name};
use crate::refusal::{AtField, Refusal};
use crate::{refuse, say};
use uuid::Uuid;

fn caution() -> Message {
    say!("bench.peroxide_caution")
}

/// The peroxide that is asked for, with its strength, where it is strong enough for a treatment.
fn peroxide<'a>(id: Option<Uuid>, shelf: &'a Shelf<'_>) -> Result<(Uuid, &'a Product, f64), Refusal> {
    let id = id.unwrap_or_else(usual_peroxide);
    let product = shelf.product(id).at("purpose")?;
    let (ProductKind::Peroxide, Some(found)) = (product.what, product.percent) else {
        return Err(refuse!("no_peroxide", name = &product.name, found = product.what).at("purpose.product"));
    };
    let wanted = FIGURES.roots.dose_percent;
    if found < wanted {
        let (found, wanted) = (percent(found), percent(wanted));
        let refusal = refuse!("peroxide_too_weak", name = &product.name, found = found, wanted = wanted);
        return Err(refusal.at("purpose.product"));
    }
    Ok((id, product, found))
}

pub(super) fn dose(
    litres: Option<Litres>,
    product: Option<Uuid>,
    again: bool,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let figures = &FIGURES.roots;
    let (id, product, found) = peroxide(product, shelf)?;
    if let Some(living) = living_in(shelf) {
        return Err(refuse!("living_inoculants", name = living).at("purpose"));
    }
    if let Some(s) = shelf.situation.filter(|_| !again) {
        let ago = s.known.lessons.peroxide.map(|at| days_between(at, s.now.timestamp()));
        if let Some(ago) = ago.filter(|ago| *ago < figures.dose_again) {
            let refusal = refuse!("peroxide_at_work", ago = days(ago), least = days(figures.dose_again));
            return Err(refusal.at("purpose.again"));
        }
    }
    let litres = shelf.standing(litres)?.value;
    let per_litre = Amount::ml(figures.dose_per_litre * figures.dose_percent / found);
    let whole = per_litre * litres;
    let mut plan = Plan::new(say!("bench.peroxide_title"));
    let jug = Litres::constant(FIGURES.bench.dose_jug);
    plan.doses.push(portioned(id, product, per_litre, whole, &[only("jug of tank water", jug)], tools(ask, shelf)));
    let measured = plan.doses[0].portions[0].measured.clone();
    plan.answer = say!("bench.dose_into", amount = whole, name = &product.name, litres = litres);
    let still = shelf.still();
    let handling = if still { say!("bench.peroxide_handling_still") } else { say!("bench.peroxide_handling") };
    let pour = say!("bench.peroxide_dose", amount = whole, measured = measured, handling = handling.clone());
    plan.steps.push(step(StepKind::Dose, pour).why(dose_why()).caution(caution()).dosing(0, handling));
    plan.steps.push(step(StepKind::Look, say!("bench.peroxide_look")));
    plan.after = Some(litres);
    plan.sure = say!("bench.peroxide_sure");
    plan.carry(jug);
    plan.entry = treatment(shelf, TreatmentKind::PeroxideDose, whole)?;
    Ok(plan)
}

/// A product with living inoculants that went into this water, or that its recipe holds.
fn living_in<'a>(shelf: &'a Shelf<'_>) -> Option<&'a Name> {
    let s = shelf.situation?;
    let recipe = s.system.methods.recipe.and_then(|id| shelf.recipes.get(&id));
    let planned = recipe.iter().flat_map(|recipe| &recipe.lines).map(|line| line.product);
    let inside = s.known.lessons.put_in.iter().copied().chain(planned);
    inside.filter_map(|id| shelf.products.get(&id)).find(|product| product.living).map(|product| &product.name)
}

/// The rate, said of ten litres, which any reader's measures can show.
fn dose_why() -> Message {
    let litres = Litres::constant(10.0);
    let amount = Amount::ml(FIGURES.roots.dose_per_litre * litres.get());
    say!("bench.peroxide_dose_why", amount = amount, litres = litres)
}

fn treatment(shelf: &Shelf<'_>, what: TreatmentKind, whole: Amount) -> Result<Option<Body>, Refusal> {
    let Some(_) = shelf.situation else { return Ok(None) };
    let amount_ml = Some(Millilitres::new(whole.value).at("purpose.litres")?);
    Ok(Some(Body::Treatment(Treatment { what, amount_ml, ports: None, note: None })))
}

/// Minutes in the bath, by how far the roots have gone.
fn bath_minutes(stage: RootStage) -> Result<f64, Refusal> {
    match stage {
        RootStage::Sound => Err(refuse!("bath_for_sound_roots").at("purpose.stage")),
        RootStage::Clumping => Ok(FIGURES.roots.bath_clumping),
        RootStage::Film => Ok(FIGURES.roots.bath_film),
        RootStage::Rotted => Err(refuse!("bath_for_rotted_roots").at("purpose.stage")),
    }
}

pub(super) fn root_bath(
    litres: Litres,
    product: Option<Uuid>,
    stage: Option<RootStage>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let bath = FIGURES.roots.bath_percent;
    let (id, product, found) = peroxide(product, shelf)?;
    let known = shelf.situation.and_then(|s| s.known.cases.root_rot()).map(|case| case.stage);
    let time = bath_minutes(stage.or(known).unwrap_or(RootStage::Film))?;
    let mixed = dilute(found, bath, litres).at("purpose")?;
    let whole = millilitres(mixed.concentrate);
    let mut plan = Plan::new(say!("bench.bath_title"));
    plan.plain = mixed.water;
    let per_litre = Amount::ml(1000.0 * bath / found);
    plan.doses.push(portioned(id, product, per_litre, whole, &[only("basin", litres)], tools(ask, shelf)));
    let measured = plan.doses[0].portions[0].measured.clone();
    let (water, for_minutes) = (mixed.water, minutes(time));
    plan.answer = say!("bench.bath", amount = whole, name = &product.name, water = water, minutes = for_minutes);
    plan.steps.push(step(StepKind::Water, say!("bench.bath_water", water = mixed.water)));
    let handling = say!("bench.bath_handling");
    let pour = say!("bench.peroxide_dose", amount = whole, measured = measured, handling = handling.clone());
    plan.steps.push(step(StepKind::Dose, pour).why(say!("bench.bath_why")).caution(caution()).dosing(0, handling));
    plan.steps.push(
        step(StepKind::Bath, say!("bench.roots_in", minutes = minutes(time)))
            .why(say!("bench.roots_in_why"))
            .wait(WaitFor::RootBath, time),
    );
    plan.steps.push(step(StepKind::Rinse, say!("bench.roots_out")));
    plan.sure = say!("bench.bath_sure");
    plan.carry(litres);
    plan.entry = treatment(shelf, TreatmentKind::RootBath, whole)?;
    Ok(plan)
}

/// A volume of concentrate as an amount.
fn millilitres(litres: Litres) -> Amount {
    Amount::ml(litres.get() * 1000.0)
}

pub(super) fn dilution(from: f64, to: f64, litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    if from > STRONGEST_PEROXIDE {
        let (found, most) = (percent(from), percent(STRONGEST_PEROXIDE));
        return Err(refuse!("peroxide_too_strong", found = found, most = most).at("purpose.from_percent"));
    }
    let mixed = dilute(from, to, litres).at("purpose")?;
    let mut plan = Plan::new(say!("bench.weaken_title"));
    plan.plain = mixed.water;
    plan.shares = shares(litres, ask, shelf)?;
    let concentrate = millilitres(mixed.concentrate);
    plan.answer = say!(
        "bench.weaken",
        amount = concentrate,
        from = percent(from),
        water = mixed.water,
        litres = litres,
        to = percent(to),
        parts = figure(mixed.parts_water)
    );
    let bottle = say!("bench.weaken_water", water = mixed.water);
    plan.steps.push(step(StepKind::Water, bottle).why(say!("bench.weaken_water_why")));
    let strong = from > FIGURES.roots.dose_percent;
    plan.steps.push(
        step(StepKind::Concentrate, say!("bench.weaken_concentrate", amount = concentrate, from = percent(from)))
            .caution(if strong { caution() } else { say!("bench.never_with_bleach") }),
    );
    plan.steps.push(step(StepKind::Label, say!("bench.weaken_label", to = percent(to))));
    plan.sure = say!("bench.weaken_sure");
    plan.carry(litres);
    Ok(plan)
}
