//! One order for one tank: water, feed, then acid or base for what is in the tank after that. One mixing, one wait, one
//! entry. After much new water the pH is measured first: acid for what was read before it would sour the tank. Each part is the plan that the bench makes of it alone, so that there is one figure for one thing.

use super::ask::{Ask, Purpose, Shelf};
use super::feed::target;
use super::ph_plan::{jug_of, known, put_in, wait_step};
use super::plan::{Plan, StepKind, step};
use super::{correction, planned};
use crate::dosing::doses_tank;
use crate::fact::{Body, Dosed, Visit};
use crate::figures::FIGURES;
use crate::message::{Param, minutes};
use crate::mixing::alkalinity::{held, ph_holding};
use crate::quantity::{EcReading, Litres, Ph, PhReading};
use crate::refill::{least, limit_of};
use crate::refusal::Refusal;
use crate::situation::Situation;
use crate::system::TopOffMethod;
use crate::{refuse, say};

/// What is wished for, as far as it was said.
pub(super) struct Wish {
    pub from: Option<Litres>,
    pub to: Option<Litres>,
    pub ec: Option<EcReading>,
    pub ph: Option<PhReading>,
}

pub(super) fn put_right(wish: Wish, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let water = water(&wish, ask, shelf)?;
    let standing = shelf.stands(wish.from)?.value;
    let litres = water.as_ref().and_then(|plan| plan.after).unwrap_or(standing);
    let new = water.as_ref().map_or(0.0, |plan| plan.poured() / litres);
    let read = if wants_dose(shelf) { known(wish.ph, shelf) } else { Err(refuse!("ph_left_alone")) };
    let poured = water.as_ref().map(|plan| plan.answer.clone());
    let mut plan = water.unwrap_or_else(|| Plan::new(say!("bench.put_right_title")));
    let (sure, batch_ph) = (plan.sure.clone(), plan.batch_ph.as_ref().map(|ph| ph.value));
    // So much new water moves the pH by itself, and nobody knows how far: it is measured before anything is poured for it.
    let moves = new > FIGURES.ph.new_water_little && read.is_ok();
    let dosed = match read {
        Ok(_) if moves => Ok(None),
        Ok(read) => {
            let aim = shelf.situation.map_or(FIGURES.ph.aim, Situation::ph_aim);
            let from = (mixed(read.0, batch_ph, new, aim), read.1);
            let dosed = put_in(&mut plan, from, (None, None, None), litres, ask, shelf);
            dosed.map(|dosed| Some(Dosed { from: read.0, ..dosed }))
        }
        Err(refusal) => Err(refusal),
    };
    plan.title = say!("bench.put_right_title");
    match (poured, &dosed) {
        (None, Err(refusal)) => return Err(refusal.clone()),
        (Some(poured), Err(refusal)) => {
            plan.answer = poured;
            // That the pH is right is no warning.
            let against = wants_dose(shelf) && refusal.code != "ph_inside";
            plan.warnings.extend(against.then(|| refusal.mending()));
        }
        (Some(poured), Ok(None)) => {
            let wait = shelf.situation.map_or(FIGURES.ph.mix_unpumped, Situation::mixes_in);
            plan.answer = say!("bench.put_right_measure", water = poured, minutes = minutes(wait));
            plan.steps.push(wait_step(wait).why(say!("bench.new_water_why")));
            plan.steps.push(step(StepKind::Measure, say!("bench.ph_measure")));
        }
        (Some(poured), Ok(Some(_))) => {
            plan.answer = say!("bench.put_right_answer", water = poured, dose = plan.answer.clone());
            plan.sure = say!("sentences", all = Param::Sentences(vec![sure, plan.sure.clone()]));
        }
        (None, Ok(_)) => plan.carry(jug_of(litres)),
    }
    plan.after = Some(litres);
    if shelf.situation.is_some() {
        let visit = match plan.entry.take() {
            Some(Body::Visit(visit)) => visit,
            _ => Visit::default(),
        };
        plan.entry = Some(Body::Visit(Visit { ph: wish.ph, dosed: dosed.ok().flatten(), ..visit }));
    }
    Ok(plan)
}

/// The pH that a dose begins from, once so large a part is new water: what the two hold together, where that leaves less
/// to do; else as it was read. Never more is poured because of what was not measured.
fn mixed(read: PhReading, batch_ph: Option<f64>, new: f64, aim: f64) -> PhReading {
    let Some(batch) = batch_ph.filter(|_| new > 0.0) else { return read };
    let was = read.middle();
    let together = ph_holding(held(was) * (1.0 - new) + held(batch) * new);
    let less = (together - aim).abs() < (was - aim).abs();
    Ph::new(together).ok().filter(|_| less).map_or(read, PhReading::Meter)
}

/// Whether pH is put right between changes here at all.
fn wants_dose(shelf: &Shelf<'_>) -> bool {
    shelf.situation.is_none_or(doses_tank)
}

/// The part of it that is water and feed: a top-off that brings the strength right where there is room for one, else a
/// correction at the level that is there. `None` where neither is wanted.
fn water(wish: &Wish, ask: &Ask, shelf: &Shelf<'_>) -> Result<Option<Plan>, Refusal> {
    let standing = shelf.stands(wish.from)?;
    let up_to = wish.to.or_else(|| shelf.situation.map(|s| limit_of(&standing, s).up_to));
    let enough = shelf.situation.map_or(Litres::constant(FIGURES.bench.least_top_off), least);
    let room = up_to.is_some_and(|up_to| (up_to - standing.value).or_nothing() >= enough);
    let source = shelf.source(ask)?;
    let acting = shelf.acting_ec(wish.ec, ask, source).ok().filter(|_| standing.value > Litres::ZERO);
    let off = match (acting, target(ask, shelf)?) {
        (Some(now), Some(aim)) if ask.target.is_none() => {
            let band = shelf.situation.and_then(|s| s.ec_target());
            band.map_or((aim - now).size().get() >= FIGURES.strength.same, |band| now < band.low || now > band.high)
        }
        (Some(now), Some(aim)) => (aim - now).size().get() >= FIGURES.strength.same,
        _ => false,
    };
    let top_off = |method: Option<TopOffMethod>| {
        let purpose = Purpose::TopOff { from: wish.from, to: wish.to, ec: wish.ec, method, batch: None };
        planned(&Ask { purpose, ..ask.clone() }, shelf)
    };
    let correct = || correction::correction(wish.from, wish.ec, ask, shelf);
    match (room, off) {
        // So little room that no jug can bring it right is left for another day.
        (true, true) => {
            top_off(Some(TopOffMethod::Measured)).or_else(|_| correct()).or_else(|_| top_off(None)).map(Some)
        }
        (true, false) => top_off(None).map(Some),
        (false, true) => correct().map(Some),
        (false, false) => Ok(None),
    }
}
