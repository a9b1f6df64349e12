//! Strength put right without topping off, at the level that stands.

use super::ask::{Ask, Shelf};
use super::feed::{Feed, target, usual_target};
use super::fills::sure;
use super::plan::{LedgerLine, Plan, StepKind, expected_ec, step};
use super::steps::{batch_of, mix_into, standing_ph};
use crate::fact::{Batch, Body, TopOff, TopOffWater, Visit, WaitFor};
use crate::figures::FIGURES;
use crate::message::minutes;
use crate::mixing::balance::drain_first;
use crate::mixing::{Container, Water};
use crate::quantity::{Conductivity, EcReading, Litres, Name};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::LevelReading;
use crate::situation::Situation;
use crate::{refuse, say};

/// Strength put right at the same level: feed in a jug of the tank's own water, or some of it
/// swapped for plain water.
pub(super) fn correction(
    litres: Option<Litres>,
    ec: Option<EcReading>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let standing = shelf.standing(litres)?.value;
    let now = shelf.acting_ec(ec, ask, shelf.source(ask)?)?;
    let aim = target(ask, shelf)?.or_else(|| usual_target(shelf));
    let aim = aim.ok_or_else(|| refuse!("no_strength_to_aim_at").at("target"))?;
    if (aim - now).size().get() < FIGURES.strength.same {
        return Err(refuse!("strength_is_right", found = now, wanted = aim).at("target"));
    }
    let water = Water::new(standing, now);
    if aim < now { weaken(water, aim, ec, ask, shelf) } else { strengthen(water, aim, litres, ec, ask, shelf) }
}

/// How much of a tank is taken out in a jug, to stir something into: so much that the jug stays clear of
/// what drops out.
fn jug_of(standing: Litres, now: Conductivity, aim: Conductivity) -> Litres {
    let (bench, most) = (&FIGURES.bench, Conductivity::constant(FIGURES.strength.apart_above));
    let (least, usual) = (Litres::constant(bench.jug_least), Litres::constant(bench.jug_most));
    let clear = (most - now).positive().map_or(standing, |room| standing * ((aim - now).or_nothing() / room));
    (standing * bench.correction_share).min(usual).max(least).max(clear).min(standing)
}

/// The part of its label's rate that a feed whose rise nobody knows begins with: the label takes plain water to about
/// what is aimed at, so of what is still to go half is safe.
fn first_part(before: Water, aim: Conductivity, source: Conductivity) -> f64 {
    let whole = (aim - source).get();
    let share = if whole > 0.0 { (aim - before.ec).get() / whole } else { 1.0 };
    FIGURES.bench.first_use * share.clamp(0.0, 1.0)
}

/// The products go into the tank's own water: their amounts are for the whole of it, so that the tank
/// rises from where it stands.
fn strengthen(
    before: Water,
    aim: Conductivity,
    level: Option<Litres>,
    read: Option<EcReading>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let (standing, now) = (before.litres, before.ec);
    let (feed, left_out) = Feed::of(ask, shelf)?.feeding_only();
    let jug = jug_of(standing, now, aim);
    // Nobody knows yet what these products do here: half of what the label would take, and then it is measured.
    let trial = feed.knows_no_rise();
    let part = if trial { first_part(before, aim, shelf.source(ask)?) } else { 1.0 };
    let feed = feed.at_part(part);
    let mixed = feed.mix(now, Some(aim).filter(|_| !trial), false)?;
    let mut plan = Plan::new(say!("bench.stronger_title"));
    plan.warnings.extend(left_out);
    let whole = vec![Container::carried(Name::new("jug")?, standing)];
    let alone = Shelf { lifts: Litres::MAX, ..*shelf };
    mix_into(&mut plan, &mixed, &feed, standing, &Ask { containers: Some(whole), ..ask.clone() }, &alone)?;
    plan.shares.clear();
    plan.strength = None;
    plan.batch = Litres::ZERO;
    plan.batch_ec = None;
    let heavy = jug.get() > shelf.lifts;
    let take = if heavy { say!("bench.own_water_in_parts", jug = jug) } else { say!("bench.own_water", jug = jug) };
    plan.steps[0] = step(StepKind::Water, take).why(say!("bench.own_water_why"));
    plan.steps.retain(|step| !matches!(step.kind, StepKind::Mix | StepKind::Ec));
    let back = if shelf.still() { say!("bench.pour_back_still") } else { say!("bench.pour_back") };
    plan.steps.push(step(StepKind::Pour, back));
    let wait = shelf.situation.map_or(FIGURES.bench.correction_wait, Situation::mixes_in);
    let waiting = if trial {
        say!("bench.wait_then_learn", minutes = minutes(wait))
    } else {
        say!("bench.wait_then_measure", minutes = minutes(wait))
    };
    plan.steps.push(step(StepKind::Wait, waiting).wait(WaitFor::Remeasure, wait));
    plan.after = Some(standing);
    plan.ph = standing_ph(shelf, 0.0);
    if let Some((ec, spread)) = mixed.ec.filter(|_| !trial) {
        let after = Water::new(standing, ec);
        plan.after_ec = Some(expected_ec(ec, spread, shelf.scale));
        let added = (after.salt() - before.salt()).get();
        let (was, is) = (before.salt().get(), after.salt().get());
        plan.ledger = Some(LedgerLine { before: was, added, drained: 0.0, after: is });
    }
    plan.answer = if trial {
        say!("bench.stronger_first", standing = standing, now = now, aim = aim)
    } else {
        say!("bench.stronger", standing = standing, now = now, aim = aim)
    };
    plan.warnings.extend(feed.water_warning(shelf));
    plan.warnings.extend(feed.hard_source(standing, shelf.source(ask)?, Some(aim)));
    plan.sure = sure(&feed);
    plan.carry(jug);
    plan.entry = shelf.situation.map(|_| {
        let batch = batch_of(&plan, now).map(|batch| Batch { fresh: standing, ..batch });
        let level = level.map(|litres| LevelReading::Volume { litres, pump_ran: true });
        Body::Visit(Visit { level, ec: read, batch, ..Visit::default() })
    });
    Ok(plan)
}

fn weaken(
    before: Water,
    aim: Conductivity,
    read: Option<EcReading>,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let source = shelf.source(ask)?;
    let (standing, now) = (before.litres, before.ec);
    let after = Water::new(standing, aim);
    let drain = drain_first(before, after, source).at("target")?;
    let mut plan = Plan::new(say!("bench.weaker_title"));
    plan.drain = drain;
    plan.plain = drain;
    plan.steps.push(step(StepKind::Drain, say!("bench.take_out", litres = drain)).caution(say!("bench.old_water")));
    plan.steps.push(step(StepKind::Hose, say!("bench.put_in_place", litres = drain)));
    plan.after = Some(standing);
    plan.ph = standing_ph(shelf, drain / standing);
    plan.after_ec = Some(expected_ec(aim, now * FIGURES.strength.meter_error, shelf.scale));
    plan.ledger =
        Some(LedgerLine::new(Some(before), &[Water::new(drain, source)], Some(Water::new(drain, now)), after));
    plan.answer = say!("bench.weaker", litres = drain, now = now, aim = aim);
    plan.sure = say!("mixing.linear");
    plan.carry(drain);
    let top_off = Some(TopOff { litres: drain, water: TopOffWater::Plain });
    plan.entry =
        shelf.situation.map(|_| Body::Visit(Visit { ec: read, drained: Some(drain), top_off, ..Visit::default() }));
    Ok(plan)
}
