//! Strength put right without topping off, at the level that stands.

use super::ask::{Ask, Shelf};
use super::feed::{Feed, target, usual_target};
use super::fills::sure;
use super::plan::{LedgerLine, Plan, expected_ec};
use super::steps::{batch_of, carry, mix_into, standing_ph, step};
use crate::log::{Body, TopOff, TopOffWater, Visit};
use crate::mixing::balance::{POUR_SLOWLY_ABOVE, Water, drain_first};
use crate::quantity::{Conductivity, EcReading, EcScale, Litres};
use crate::refusal::{AtField, Refusal};

/// Strength put right at the same level: feed in a jug of the tank's own water, or some of it
/// swapped for plain water.
pub(super) fn correction(litres: Option<Litres>, ec: Option<EcReading>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let standing = shelf.standing(litres)?;
    let Some(now) = shelf.standing_ec(ec, ask, "purpose.ec")? else {
        return Err(Refusal::new("found no EC of the tank", "allowed is a correction where the EC is known", "Measure the EC first.").at("purpose.ec"));
    };
    let Some(aim) = target(ask, shelf)?.or_else(|| usual_target(shelf)) else {
        return Err(Refusal::new("found no strength to aim at", "allowed is a correction towards a target", "Type the EC that is wanted, or enter what grows here.").at("target"));
    };
    let read = ec.or(Some(EcReading { value: now.get(), scale: EcScale::MilliSiemens, compensated: true }));
    if (aim.get() - now.get()).abs() < 0.02 {
        return Err(Refusal::new(format!("found {} with {} wanted", w.ec(now), w.ec(aim)), "allowed is a target that differs", "Nothing to correct.").at("target"));
    }
    if aim < now {
        return weaken(standing, now, aim, read, ask, shelf);
    }
    let (feed, left_out) = Feed::of(ask, shelf)?.feeding_only();
    let jug = Litres::nearest((standing.get() * 0.05).clamp(1.0, 10.0).min(standing.get()));
    // The products go into the tank's own water: their amounts are for the whole of it, so that
    // the tank rises from where it stands.
    let mixed = feed.mix(now, Some(aim), false)?;
    let mut plan = Plan::new("Stronger, at the same level");
    plan.warnings.extend(left_out);
    let whole = Ask { containers: Some(vec![crate::mixing::Container { name: crate::quantity::Name::new("jug")?, holds: standing }]), ..ask.clone() };
    mix_into(&mut plan, &mixed, standing, &whole, shelf)?;
    plan.shares.clear();
    plan.strength = None;
    plan.batch = Litres::ZERO;
    let strong = now.get() + (aim.get() - now.get()) * standing.get() / jug.get();
    plan.steps[0] = step("water", format!("Take {} of the tank's own water in a jug.", w.volume(jug))).why("The level stays, and no root meets the concentrate.");
    plan.steps.retain(|s| s.code != "mix" && s.code != "ec");
    plan.steps.push(step("pour", format!("Pour it back slowly{}.", if strong > POUR_SLOWLY_ABOVE { ", in four portions, pump on" } else { ", pump on where there is one" })));
    if strong > POUR_SLOWLY_ABOVE {
        plan.warnings.push(format!("The jug is at about {}: in portions, never all at once.", w.ec(Conductivity::nearest(strong))));
    }
    let wait = shelf.situation.map_or(45, |s| crate::ph::wait_minutes(&s.system.traits));
    plan.steps.push(step("mix", format!("Wait {wait} minutes, then measure.")).wait(super::plan::WaitFor::Remeasure, wait));
    plan.batch_ec = None;
    let (ec, spread) = mixed.ec.unwrap_or((aim.get(), 0.0));
    let after = Water::new(standing, Conductivity::new(ec).at("target")?);
    plan.after = Some(standing);
    plan.ph = standing_ph(shelf, plan.drain.get() / standing.get());
    plan.after_ec = Some(expected_ec(ec, spread, w));
    let before = Water::new(standing, now);
    plan.ledger = Some(LedgerLine { before: before.salt(), added: after.salt() - before.salt(), drained: 0.0, after: after.salt() });
    plan.answer = format!("Stir the feed for {} into a jug of its own water: that brings it from {} to {}.", w.volume(standing), w.ec(now), w.ec(aim));
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(&feed);
    carry(&mut plan, jug.get(), w);
    plan.entry = shelf.situation.map(|_| {
        let batch = batch_of(&plan, now).map(|batch| crate::log::Batch { fresh: standing, ..batch });
        Body::Visit(Visit { level: litres.map(|litres| crate::reservoir::LevelReading::Volume { litres, pump_ran: true }), ec: read, batch, ..Visit::default() })
    });
    Ok(plan)
}

fn weaken(standing: Litres, now: Conductivity, aim: Conductivity, read: Option<EcReading>, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let (w, source) = (shelf.wording, shelf.source(ask)?);
    let before = Water::new(standing, now);
    let after = Water::new(standing, aim);
    let drain = drain_first(before, after, source).at("target")?;
    let mut plan = Plan::new("Weaker, at the same level");
    plan.drain = drain;
    plan.plain = drain;
    plan.steps.push(step("drain", format!("Take {} out.", w.volume(drain))).caution("Onto garden or house plants; not into drains that lead to streams."));
    plan.steps.push(step("hose", format!("Put {} of plain water in its place, at the tank's temperature.", w.volume(drain))));
    plan.after = Some(standing);
    plan.ph = standing_ph(shelf, plan.drain.get() / standing.get());
    plan.after_ec = Some(expected_ec(aim.get(), now.get() * 0.02, w));
    plan.ledger = Some(LedgerLine::new(Some(before), &[Water::new(drain, source)], Some(Water::new(drain, now)), after));
    plan.answer = format!("Swap {} for plain water: that brings it from {} to {}.", w.volume(drain), w.ec(now), w.ec(aim));
    "Mixing is linear in EC to within a few per cent.".clone_into(&mut plan.sure);
    carry(&mut plan, drain.get(), w);
    plan.entry =
        shelf.situation.map(|_| Body::Visit(Visit { ec: read, drained: Some(drain), top_off: Some(TopOff { litres: drain, water: TopOffWater::Plain }), ..Visit::default() }));
    Ok(plan)
}
