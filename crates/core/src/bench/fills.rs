//! Fillings: an empty vessel, a change around its heel, a jug ahead, a top-off reservoir.

use super::ask::{Ask, Shelf};
use super::feed::{Feed, target, usual_target};
use super::plan::{LedgerLine, Plan, expected_ec};
use super::steps::{batch_of, carry, fresh_ph, mix_into, ph_step, step, tank_temperature};
use crate::changing::{fill_limit, fill_to};
use crate::log::{Body, Change, Premix, PremixIn};
use crate::mixing::balance::{Water, beside_heel};
use crate::quantity::{Conductivity, EcReading, Litres};
use crate::refusal::{AtField, Refusal};
use crate::robust::slope;
use crate::system::PhMethod;

/// Over the target, where what the plants take up is not known yet.
const RULE_OF_THUMB: f64 = 1.1;
/// How far a top-off reservoir's pH leans against the drift.
const LEAN: f64 = 0.3;

/// Less than a cup cannot be mixed with any care.
const LEAST_LITRES: f64 = 0.1;

fn too_little(litres: Litres) -> Refusal {
    Refusal::new(format!("found {} L", litres.get()), format!("allowed is {LEAST_LITRES} L or more"), "Type how much is to be made; a smaller amount cannot be measured.")
        .at("purpose.litres")
}

/// The volume of a whole filling: the one asked for, within what the vessel and its roots take.
fn filling(litres: Option<Litres>, shelf: &Shelf<'_>) -> Result<Litres, Refusal> {
    let w = shelf.wording;
    let Some(s) = shelf.situation else {
        let litres = litres.ok_or_else(|| Refusal::new("found no volume", "allowed is how much is to be made", "Type how much it shall be.").at("purpose.litres"))?;
        return if litres.get() >= LEAST_LITRES { Ok(litres) } else { Err(too_little(litres)) };
    };
    let litres = litres.unwrap_or_else(|| fill_to(s).0);
    let reservoir = &s.system.reservoir;
    if litres <= Litres::ZERO || litres > reservoir.maximum {
        return Err(Refusal::new(
            format!("found a filling of {}", w.volume(litres)),
            format!("allowed is more than 0, up to the maximum of {}", w.volume(reservoir.maximum)),
            format!("Its working volume is {}; mix the rest into a jug, if it is wanted.", w.volume(reservoir.working)),
        )
        .at("purpose.litres"));
    }
    match fill_limit(s).filter(|limit| litres.get() > limit.up_to.get() + 1e-6) {
        Some(limit) => {
            Err(Refusal::new(format!("found a filling of {}", w.volume(litres)), format!("allowed is up to {}, while plants hang in it", w.volume(limit.up_to)), limit.reason)
                .at("purpose.litres"))
        }
        None => Ok(litres),
    }
}

pub(super) fn fresh_fill(litres: Option<Litres>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let whole = filling(litres, shelf)?;
    around(None, whole, ask, shelf)
}

pub(super) fn change(litres: Option<Litres>, heel: Option<Litres>, heel_ec: Option<EcReading>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let whole = filling(litres, shelf)?;
    let heel = heel.or(shelf.situation.map(|s| s.system.traits.heel)).unwrap_or(Litres::ZERO);
    if heel >= whole {
        return Err(Refusal::new(
            format!("found a heel of {} in a filling of {}", shelf.wording.volume(heel), shelf.wording.volume(whole)),
            "allowed is a heel smaller than the filling",
            "Drain more, or fill further.",
        )
        .at("purpose.heel"));
    }
    let ec = shelf.standing_ec(heel_ec, ask, "purpose.heel_ec")?;
    let heel = (heel > Litres::ZERO).then_some((heel, ec));
    around(heel, whole, ask, shelf)
}

/// A batch around a heel, or without one.
fn around(heel: Option<(Litres, Option<Conductivity>)>, whole: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let (w, source, feed) = (shelf.wording, shelf.source(ask)?, Feed::of(ask, shelf)?);
    let aim = feed.target(ask, shelf)?;
    let mut plan = Plan::new(if heel.is_some() { "Change with a heel" } else { "Fresh filling" });
    let standing = heel.and_then(|(litres, ec)| Some(Water::new(litres, ec?)));
    let fresh = Litres::nearest(whole.get() - heel.map_or(0.0, |(litres, _)| litres.get()));
    let wanted = match (aim, standing) {
        (Some(aim), Some(heel)) => Some(beside_heel(Water::new(whole, aim), heel, source).at("target")?.ec),
        (aim, _) => aim,
    };
    let mixed = feed.mix(source, wanted, false)?;
    mix_into(&mut plan, &mixed, fresh, &Ask { tank_temperature: tank_temperature(ask, shelf), ..ask.clone() }, shelf)?;
    let ph = fresh_ph(shelf);
    plan.steps.push(ph_step(&ph));
    plan.ph = Some(ph);
    plan.after = Some(whole);
    if let Some((ec, spread)) = mixed.ec {
        let batch = Water::new(fresh, Conductivity::new(ec).at("target")?);
        if heel.is_none() || standing.is_some() {
            let after = standing.map_or(batch, |heel| heel.with(batch));
            plan.after_ec = Some(expected_ec(after.ec.get(), spread * fresh.get() / whole.get(), w));
            plan.ledger = Some(LedgerLine::new(standing, &[batch], None, after));
        }
    }
    plan.steps.push(step("pour", format!("Pour slowly up to {}, along the wall, away from the stems.", w.volume(whole))));
    plan.answer = match (heel, &plan.batch_ec, &plan.after_ec) {
        (Some((heel, _)), Some(batch), Some(after)) => {
            format!("Mix {} at {}; with the heel of {} that makes {} at {}.", w.volume(fresh), first(&batch.said), w.volume(heel), w.volume(whole), first(&after.said))
        }
        (Some((heel, _)), _, _) => format!("Mix {} of {}; with the heel of {} that makes {}.", w.volume(fresh), feed.label, w.volume(heel), w.volume(whole)),
        (None, Some(batch), _) => format!("Mix {} at {}.", w.volume(fresh), first(&batch.said)),
        (None, None, _) => format!("Mix {} of {}, as printed.", w.volume(fresh), feed.label),
    };
    if heel.is_some() && standing.is_none() {
        plan.warnings.push("The heel's EC is not known: what it adds is left out. Measure it if you can.".to_owned());
    }
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(&feed);
    carry(&mut plan, fresh.get(), w);
    plan.entry = shelf.situation.map(|_| {
        let heel = heel.map(|(litres, _)| litres);
        Body::Change(Change { heel, batch: batch_of(&plan, source), ..Change::full(whole) })
    });
    Ok(plan)
}

/// The part of an expectation before its range.
pub(super) fn first(said: &str) -> &str {
    said.split(", ").next().unwrap_or(said)
}

/// How sure an EC is, from where its rises come.
pub(super) fn sure(feed: &Feed) -> String {
    let learnt = feed.lines.iter().any(|line| line.product.rise != line.rise);
    let from = if learnt { "EC rises learnt from logged batches, good to about 4 %" } else { "EC rises from the labels, good to about 10 %; measured batches make them better" };
    format!("{from}. Mixing is linear in EC to within a few per cent.")
}

pub(super) fn jug(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let (source, feed) = (shelf.source(ask)?, Feed::of(ask, shelf)?);
    let aim = feed.target(ask, shelf)?;
    ahead(litres, aim, feed, PremixIn::Jug, source, ask, shelf)
}

/// The strength at which the plants take water up; before that is known, 10 % over the target.
pub(super) fn taken_up(shelf: &Shelf<'_>) -> Option<Conductivity> {
    let known = shelf.situation.and_then(|s| s.state.ledger.uptake_concentration());
    known.or_else(|| usual_target(shelf).map(|aim| Conductivity::nearest(aim.get() * RULE_OF_THUMB)))
}

pub(super) fn top_off_reservoir(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let source = shelf.source(ask)?;
    let known = shelf.situation.and_then(|s| s.state.ledger.uptake_concentration());
    let typed = if ask.target.is_some() || ask.as_printed { target(ask, shelf)? } else { None };
    let aim = typed.or_else(|| taken_up(shelf));
    if let Some(aim) = known.filter(|aim| typed.is_none() && *aim <= source) {
        let w = shelf.wording;
        let mut plan = Plan::new("Top-off reservoir");
        plan.plain = litres;
        plan.answer = format!("Fill it with {} of plain water: the plants drink at {}, no stronger than the water itself.", w.volume(litres), w.ec(aim));
        plan.steps.push(step("water", format!("{} of plain water into the top-off reservoir.", w.volume(litres))));
        "From the salt ledger of the last stretches.".clone_into(&mut plan.sure);
        carry(&mut plan, litres.get(), w);
        plan.entry = Some(Body::Premix(Premix {
            into: PremixIn::TopOffReservoir,
            litres,
            batch: None,
            ec: Some(EcReading { value: source.get(), scale: crate::quantity::EcScale::MilliSiemens, compensated: true }),
            ph: None,
            note: None,
        }));
        return Ok(plan);
    }
    let mut plan = ahead(litres, aim, Feed::of(ask, shelf)?, PremixIn::TopOffReservoir, source, ask, shelf)?;
    let why = if typed.is_some() || ask.as_printed {
        "At the strength that was asked for.".to_owned()
    } else if known.is_some() {
        "At the strength at which the plants take it up, from the salt ledger: EC then stays level.".to_owned()
    } else {
        "Ten per cent over the target, the rule of thumb until two full readings tell what the plants take up.".to_owned()
    };
    plan.sure = format!("{why} {}", plan.sure);
    if let Some(lean) = lean(shelf) {
        plan.steps.push(lean);
    }
    Ok(plan)
}

/// Where pH drifts, the top-off leans against it.
fn lean(shelf: &Shelf<'_>) -> Option<super::plan::PlanStep> {
    let s = shelf.situation.filter(|s| s.system.methods.ph != PhMethod::RecipeOnly)?;
    let from = s.state.ph_since.first()?.0;
    let points: Vec<(f64, f64)> = s.state.ph_since.iter().map(|(at, ph)| (crate::calendar::days_between(from, *at), *ph)).collect();
    let a_day = slope(&points).filter(|a_day| a_day.abs() >= 0.01)?;
    let aim = 6.0 - LEAN * a_day.signum();
    let way = if a_day > 0.0 { "rises" } else { "falls" };
    Some(
        step("lean", format!("Bring its pH to {aim:.1}."))
            .why(format!("The tank's pH {way} by about {:.2} a day: the top-off leans against that by {LEAN}.", a_day.abs()))
            .caution("Gloves and goggles; into water; never acid and base on one visit."),
    )
}

fn ahead(litres: Litres, aim: Option<Conductivity>, feed: Feed, into: PremixIn, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    if litres.get() < LEAST_LITRES {
        return Err(too_little(litres));
    }
    let w = shelf.wording;
    let mixed = feed.mix(source, aim, false)?;
    let mut plan = Plan::new(match into {
        PremixIn::Jug => "Feed mixed ahead",
        PremixIn::TopOffReservoir => "Top-off reservoir",
    });
    mix_into(&mut plan, &mixed, litres, ask, shelf)?;
    let ph = fresh_ph(shelf);
    plan.steps.push(ph_step(&ph));
    plan.ph = Some(ph);
    plan.steps.push(
        step("keep", "Keep it dark and lidded; write the date and the EC on it.")
            .why("Light grows algae in it, and water that evaporates makes it stronger. A child shall not take it for a drink."),
    );
    if let Some((ec, _)) = mixed.ec {
        let batch = Water::new(litres, Conductivity::new(ec).at("target")?);
        plan.ledger = Some(LedgerLine::new(None, &[batch], None, batch));
    }
    plan.answer = match &plan.batch_ec {
        Some(ec) => format!("Mix {} at {}.", w.volume(litres), first(&ec.said)),
        None => format!("Mix {} of {}, as printed.", w.volume(litres), feed.label),
    };
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(&feed);
    carry(&mut plan, litres.get(), w);
    plan.entry = shelf.situation.map(|_| Body::Premix(Premix { into, litres, batch: batch_of(&plan, source), ec: None, ph: None, note: None }));
    Ok(plan)
}
