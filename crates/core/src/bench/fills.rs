//! Fillings: an empty vessel, a change around its heel, a jug ahead, a top-off reservoir.

use super::ask::{Ask, Shelf};
use super::batch_ph::{Goes, put_plain_behind, put_right, rise_of};
use super::feed::{Feed, target, usual_target};
use super::plan::{LedgerLine, Plan, PlanStep, StepKind, expected_ec, step};
use super::steps::{batch_of, in_vessel, mix_into, tank_temperature};
use crate::calendar::days_between;
use crate::fact::{Batch, Body, Change, Premix, PremixIn};
use crate::figures::FIGURES;
use crate::forecast::{holds_plain, supply_left, supply_takes};
use crate::message::{Message, Param, Unit, ph};
use crate::mixing::Water;
use crate::mixing::balance::beside_heel;
use crate::quantity::{Conductivity, EcReading, Litres, Quantity};
use crate::refill::{FillLimit, fill_limit, fill_to, strength_known};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::{A_HAIR, Shape};
use crate::statistics::slope;
use crate::system::PhMethod;
use crate::{refuse, say};

fn enough(litres: Litres) -> Result<Litres, Refusal> {
    let least = Litres::constant(FIGURES.bench.least_litres);
    if litres >= least {
        return Ok(litres);
    }
    Err(refuse!("too_little_to_mix", found = litres, least = least).at("purpose.litres"))
}

/// A whole filling: what stands there once the pump runs, and what has to go in while it rests, so that
/// the pipes are filled too.
#[derive(Clone, Copy)]
struct Filling {
    running: Litres,
    at_rest: Litres,
}

/// The volume of a whole filling: the one asked for, within what the vessel and its roots take.
fn filling(litres: Option<Litres>, shelf: &Shelf<'_>) -> Result<Filling, Refusal> {
    let Some(s) = shelf.situation else {
        let litres = enough(litres.ok_or_else(|| refuse!("no_volume_to_make").at("purpose.litres"))?)?;
        return Ok(Filling { running: litres, at_rest: litres });
    };
    let usual = fill_to(s).litres;
    let running = litres.or(usual).ok_or_else(|| refuse!("line_not_read").at("purpose.litres"))?;
    let (most, working) = (s.system.highest(), s.system.full());
    if running <= Litres::ZERO || running > most {
        return Err(refuse!("filling_amount", found = running, most = most, working = working).at("purpose.litres"));
    }
    match fill_limit(s) {
        Some(FillLimit::ReadFirst) => Err(refuse!("line_not_read").at("purpose.litres")),
        Some(FillLimit::To(limit)) if running.get() > limit.up_to.get() + 1e-6 => {
            let (most, reason) = (limit.up_to, limit.reason);
            Err(refuse!("filling_past_limit", found = running, most = most, reason = reason).at("purpose.litres"))
        }
        _ => Ok(Filling { running, at_rest: s.system.at_rest(running) }),
    }
}

pub(super) fn fresh_fill(litres: Option<Litres>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    around(None, filling(litres, shelf)?, ask, shelf)
}

pub(super) fn change(
    litres: Option<Litres>,
    heel: Option<Litres>,
    heel_ec: Option<EcReading>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let whole = filling(litres, shelf)?;
    let heel = heel.or(shelf.situation.map(|s| s.system.traits.heel)).unwrap_or(Litres::ZERO);
    if heel >= whole.at_rest {
        return Err(refuse!("heel_fills", heel = heel, filling = whole.at_rest).at("purpose.heel"));
    }
    let ec = shelf.standing_ec(heel_ec, ask, "purpose.heel_ec")?.map(|about| about.value);
    let heel = (heel > Litres::ZERO).then_some((heel, ec));
    let mut plan = around(heel, whole, ask, shelf)?;
    if ask.led {
        return Ok(plan);
    }
    // The old water goes out once the batch stands ready, or before the hose goes in.
    let out = match heel {
        Some((litres, _)) => say!("bench.drain_to_heel", heel = litres),
        None => say!("bench.drain_all"),
    };
    let poured = |made: &PlanStep| matches!(made.kind, StepKind::Hose | StepKind::Pour);
    let at = plan.steps.iter().position(poured).unwrap_or(plan.steps.len());
    plan.steps.insert(at, step(StepKind::Drain, out).caution(say!("bench.old_water")));
    Ok(plan)
}

/// What cannot be drained, with its strength where that is known.
type Heel = (Litres, Option<Conductivity>);

/// A batch around a heel, or without one.
fn around(heel: Option<Heel>, filling: Filling, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let whole = filling.at_rest;
    let (source, feed) = (shelf.source(ask)?, Feed::of(ask, shelf)?);
    let aim = feed.target(ask, shelf)?;
    let mut plan = Plan::new(if heel.is_some() { say!("bench.change_title") } else { say!("bench.fill_title") });
    let standing = heel.and_then(|(litres, ec)| Some(Water::new(litres, ec?)));
    let left_in = heel.map_or(Litres::ZERO, |(litres, _)| litres);
    let fresh = (whole - left_in).or_nothing();
    let wanted = match (aim, standing) {
        (Some(aim), Some(heel)) => Some(beside_heel(Water::new(whole, aim), heel, source).at("target")?.ec),
        (aim, _) => aim,
    };
    let mixed = feed.mix(source, wanted, false)?;
    let tempered = Ask { tank_temperature: tank_temperature(ask, shelf), ..ask.clone() };
    plan.in_vessel = in_vessel(fresh, true, ask, shelf)?;
    mix_into(&mut plan, &mixed, &feed, fresh, &tempered, shelf)?;
    plan.warnings.extend(feed.hard_source(fresh, source, wanted.or(aim)));
    put_right(&mut plan, fresh, rise_of(&mixed, source), Goes::Fresh, ask, shelf);
    plan.ph = plan.batch_ph.clone();
    plan.after = Some(filling.running);
    let batch = mixed.ec.map(|(ec, spread)| (Water::new(fresh, ec), spread));
    let after = batch.filter(|_| heel.is_none() || standing.is_some()).map(|(batch, spread)| {
        let after = standing.map_or(batch, |heel| heel.with(batch));
        plan.after_ec = Some(expected_ec(after.ec, spread * (fresh / whole), shelf.scale));
        plan.ledger = Some(LedgerLine::new(standing, &[batch], None, after));
        after.ec
    });
    if !plan.in_vessel && !ask.led {
        plan.steps.push(pour_step(&plan, whole));
    }
    if plan.in_vessel && !ask.led {
        plan.warnings.push(say!("bench.at_the_refill"));
    }
    if whole > filling.running && !ask.led {
        let (home, running) = ((whole - filling.running).or_nothing(), filling.running);
        plan.warnings.push(say!("bench.pump_off", whole = whole, home = home, running = running));
    }
    let label = || feed.label.clone();
    plan.answer = match (heel, batch.map(|(batch, _)| batch.ec), after) {
        (Some(_), Some(batch), Some(after)) => {
            say!("bench.mix_beside", fresh = fresh, ec = batch, heel = left_in, whole = whole, after = after)
        }
        (Some(_), _, _) => {
            say!("bench.mix_beside_unknown", fresh = fresh, feed = label(), heel = left_in, whole = whole)
        }
        (None, Some(batch), _) => say!("bench.mix_at", fresh = fresh, ec = batch),
        (None, None, _) => say!("bench.mix_as_printed", fresh = fresh, feed = label()),
    };
    if heel.is_some() && standing.is_none() {
        plan.warnings.push(say!("bench.heel_unknown"));
    }
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(&feed);
    plan.carry(plan.carried());
    plan.entry = shelf.situation.map(|_| {
        let heel = heel.map(|(litres, _)| litres);
        Body::Change(Change { heel, batch: batch_of(&plan, source), ..Change::full(filling.running) })
    });
    Ok(plan)
}

/// What was mixed goes over: poured from cans, pumped from what stands.
fn pour_step(plan: &Plan, whole: Litres) -> PlanStep {
    let said = if plan.shares.iter().any(|filling| filling.share.stands) {
        say!("bench.pump_up_to", litres = whole)
    } else {
        say!("bench.pour_up_to", litres = whole)
    };
    step(StepKind::Pour, said)
}

/// How sure an EC is, from where its rises come.
pub(super) fn sure(feed: &Feed) -> Message {
    let from = if feed.learnt() { say!("bench.sure_learnt") } else { say!("bench.sure_label") };
    say!("sentences", all = Param::Sentences(vec![from, say!("mixing.linear")]))
}

pub(super) fn jug(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let (source, feed) = (shelf.source(ask)?, Feed::of(ask, shelf)?);
    let aim = feed.target(ask, shelf)?;
    ahead(litres, aim, &feed, PremixIn::Jug, source, ask, shelf)
}

/// The strength at which the plants take water up, where the log tells it.
fn learnt_uptake(shelf: &Shelf<'_>) -> Option<Conductivity> {
    let s = shelf.situation?;
    Some(s.known.lessons.ledger.takes_up(s.ec_target()?.aim)?.value)
}

/// The same; before the log tells it, a little over the target.
pub(super) fn taken_up(shelf: &Shelf<'_>) -> Option<Conductivity> {
    learnt_uptake(shelf).or_else(|| usual_target(shelf).map(|aim| aim * FIGURES.strength.rule_of_thumb))
}

/// What is mixed for the reservoir behind the float valve, poured to what is left in it.
pub(super) fn top_off_reservoir(litres: Option<Litres>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    if shelf.situation.is_some_and(|s| s.system.drum_of.is_some()) {
        return Err(refuse!("supply_elsewhere").at("purpose"));
    }
    let mut plan = for_reservoir(litres, ask, shelf)?;
    if plan.doses.is_empty() && put_plain_behind(&mut plan, ask, shelf) {
        let batch = batch_of(&plan, shelf.source(ask)?).map(|batch| Batch { fresh: plan.plain, ..batch });
        if let Some(Body::Premix(premix)) = &mut plan.entry {
            premix.batch = batch;
        }
    }
    let left = shelf.situation.filter(|s| s.known.supply.last().is_some()).map(supply_left);
    if let (Some(Body::Premix(premix)), Some(s)) = (&mut plan.entry, shelf.situation) {
        let left = left.unwrap_or(Litres::ZERO);
        let (poured, holds) = (premix.litres, s.system.drum.as_ref().map(Shape::capacity));
        if let Some(holds) = holds.filter(|holds| left + poured > *holds * A_HAIR) {
            return Err(refuse!("supply_over_drum", found = left + poured, most = holds).at("purpose.litres"));
        }
        premix.litres = left + poured;
        let before = Water::new(left, s.known.lessons.behind_ec(s.system));
        let whole = |ec: EcReading| {
            ec.at_25(None).map_or(ec, |ec| EcReading::worked_out(Water::new(poured, ec).with(before).ec))
        };
        premix.ec = premix.ec.map(whole);
    }
    Ok(plan)
}

fn for_reservoir(litres: Option<Litres>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let full = shelf.situation.and_then(|s| {
        let (full, left) = (s.known.supply.fullest(s.system)? / s.system.drum_part(), supply_left(s));
        (full > Litres::ZERO && left >= full * (1.0 - FIGURES.bench.least_share)).then_some((full, left))
    });
    let takes = || shelf.situation.and_then(supply_takes).filter(|_| full.is_none());
    let none = || match full {
        Some((full, left)) => refuse!("supply_full", found = left, full = full),
        None => refuse!("supply_size_unknown"),
    };
    let litres = litres.or_else(takes).ok_or_else(|| none().at("purpose.litres"))?;
    let source = shelf.source(ask)?;
    let known = learnt_uptake(shelf);
    let asked = ask.target.is_some() || ask.as_printed;
    let typed = if asked { target(ask, shelf)? } else { None };
    let plain = || shelf.situation.is_some_and(holds_plain);
    let back = known.filter(|_| !asked && !plain()).and_then(|taken| leads_back(taken, litres, source, shelf));
    if let Some((ec, aim)) = back.as_ref().filter(|(_, mix)| mix.is_none()).map(|(ec, _)| *ec).zip(usual_target(shelf))
    {
        let answer = say!("bench.plain_reservoir_back", litres = litres, ec = ec, aim = aim);
        return Ok(plain_reservoir(litres, answer, say!("bench.sure_ledger"), source));
    }
    if let Some(aim) = known.filter(|aim| typed.is_none() && back.is_none() && *aim <= source) {
        let answer = say!("bench.plain_reservoir", litres = litres, ec = aim);
        return Ok(plain_reservoir(litres, answer, say!("bench.sure_ledger"), source));
    }
    if !asked && ask.recipe.is_none() && plain() {
        let answer = say!("bench.plain_reservoir_kept", litres = litres);
        return Ok(plain_reservoir(litres, answer, say!("bench.plain_reservoir_sure"), source));
    }
    let leads = back.and_then(|(ec, mix)| Some((ec, mix?)));
    let aim = typed.or(leads.map(|(_, mix)| mix)).or_else(|| taken_up(shelf));
    let mut plan = ahead(litres, aim, &Feed::of(ask, shelf)?, PremixIn::TopOffReservoir, source, ask, shelf)?;
    let why = match (asked, known, leads.zip(usual_target(shelf))) {
        (true, ..) => say!("bench.strength_asked"),
        (false, Some(taken), Some(((ec, _), aim))) => say!("bench.strength_back", taken = taken, ec = ec, aim = aim),
        (false, Some(_), None) => say!("bench.strength_taken_up"),
        (false, None, _) => say!("bench.strength_by_thumb"),
    };
    plan.sure = say!("sentences", all = Param::Sentences(vec![why, plan.sure.clone()]));
    // One aim for one water: what was put right with acid leans already.
    if plan.doses.iter().all(|dose| dose.first.is_none()) {
        plan.steps.extend(lean(shelf));
    }
    Ok(plan)
}

/// At what strength so many litres are mixed so that the vessel comes back to its aim by the time that they are drunk, with its
/// EC now: what the plants take up, and beside it what the vessel has too little or too much. The strength is `None` where plain
/// water does it. `None` where EC is not known well, or stands at its aim.
fn leads_back(
    taken: Conductivity,
    litres: Litres,
    source: Conductivity,
    shelf: &Shelf<'_>,
) -> Option<(Conductivity, Option<Conductivity>)> {
    // What brings one tank back takes the others away.
    let s = shelf.situation.filter(|s| s.system.drum_share.is_none())?;
    let (ec, target) = (s.water().ec().filter(strength_known)?.value, s.ec_target()?);
    let aim = usual_target(shelf)?;
    if (ec.get() / aim.get() - 1.0).abs() <= FIGURES.strength.at_aim {
        return None;
    }
    let left = supply_left(s);
    let whole = left + litres;
    // Salt that the whole drum has to bring: what is taken up of it, and what the vessel is short of.
    let wanted = taken.get() * whole.get() + (aim.get() - ec.get()) * s.system.full().get();
    let mix = (wanted - s.known.lessons.behind_ec(s.system).get() * left.get()) / litres.get();
    let most = target.high.get().max(taken.get()) * FIGURES.strength.back_most;
    let mix = mix.min(most);
    Some((ec, (mix > source.get() + FIGURES.strength.rise).then(|| Conductivity::calculated(mix))))
}

/// Plain water: where the plants drink no stronger than the source it holds EC level, and where it was kept so it is kept so.
fn plain_reservoir(litres: Litres, answer: Message, sure: Message, source: Conductivity) -> Plan {
    let mut plan = Plan::new(say!("bench.top_off_reservoir_title"));
    plan.plain = litres;
    plan.answer = answer;
    plan.steps.push(step(StepKind::Water, say!("bench.plain_into_reservoir", litres = litres)));
    plan.sure = sure;
    plan.carry(litres);
    let ec = Some(EcReading::worked_out(source));
    plan.entry = Some(Body::Premix(Premix { ec, ..Premix::of(PremixIn::TopOffReservoir, litres) }));
    plan
}

/// Where pH drifts, the top-off leans against it.
fn lean(shelf: &Shelf<'_>) -> Option<PlanStep> {
    let figures = &FIGURES.ph;
    let s = shelf.situation.filter(|s| s.system.methods.ph != PhMethod::RecipeOnly)?;
    let since = &s.known.readings.ph_since;
    let from = since.first()?.0;
    let points: Vec<(f64, f64)> = since.iter().map(|(at, ph)| (days_between(from, *at), *ph)).collect();
    let a_day = slope(&points).filter(|a_day| a_day.abs() >= figures.lean_from)?;
    let aim = ph(figures.fresh_usual - figures.lean * a_day.signum());
    let (by, lean) = (Param::Number(a_day.abs(), Unit::TwoDecimals), ph(figures.lean));
    let why = if a_day > 0.0 {
        say!("bench.lean_why_rises", by = by, lean = lean)
    } else {
        say!("bench.lean_why_falls", by = by, lean = lean)
    };
    Some(step(StepKind::Lean, say!("bench.lean", ph = aim)).why(why).caution(say!("bench.acid_and_base_caution")))
}

fn ahead(
    litres: Litres,
    aim: Option<Conductivity>,
    feed: &Feed,
    into: PremixIn,
    source: Conductivity,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    enough(litres)?;
    let mixed = feed.mix(source, aim, false)?;
    let mut plan = Plan::new(match into {
        PremixIn::Jug => say!("bench.jug_title"),
        PremixIn::TopOffReservoir => say!("bench.top_off_reservoir_title"),
    });
    plan.in_vessel = in_vessel(litres, true, ask, shelf)?;
    mix_into(&mut plan, &mixed, feed, litres, ask, shelf)?;
    plan.warnings.extend(feed.hard_source(litres, source, aim));
    let goes = if into == PremixIn::TopOffReservoir { Goes::Behind } else { Goes::Ahead };
    put_right(&mut plan, litres, rise_of(&mixed, source), goes, ask, shelf);
    plan.ph = plan.batch_ph.clone();
    plan.steps.push(step(StepKind::Keep, say!("bench.keep")).why(say!("bench.keep_why")));
    plan.answer = match mixed.ec {
        Some((ec, _)) => {
            let batch = Water::new(litres, ec);
            plan.ledger = Some(LedgerLine::new(None, &[batch], None, batch));
            say!("bench.mix_at", fresh = litres, ec = ec)
        }
        None => say!("bench.mix_as_printed", fresh = litres, feed = feed.label.clone()),
    };
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(feed);
    plan.carry(plan.carried());
    let batch = batch_of(&plan, source);
    plan.entry = shelf.situation.map(|_| Body::Premix(Premix { batch, ..Premix::of(into, litres) }));
    Ok(plan)
}
