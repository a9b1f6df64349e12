//! Top-offs by each method. Still water is never raised above its limit.

use super::ask::{Ask, Purpose, Shelf};
use super::batch_ph::{Goes, put_plain_right, put_right, rise_of, wants_acid};
use super::feed::{Feed, target};
use super::fills::{sure, taken_up};
use super::plan::{Dose, LedgerLine, Plan, StepKind, expected_ec, step};
use super::steps::{batch_of, mix_into, standing_ph};
use crate::calendar::days_between;
use crate::care::top_off::top_off_advice;
use crate::fact::{Batch, Body, TopOff, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, Param, count, days};
use crate::mixing::Water;
use crate::mixing::balance::{batch_after_hose, drain_first};
use crate::quantity::{About, Conductivity, EcReading, Litres, Quantity, Salt, band, middle};
use crate::refill::{least, limit_of, line_at};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::{A_HAIR, LevelReading, RefillMethod, refills_needed};
use crate::situation::Situation;
use crate::system::TopOffMethod;
use crate::verdict::ends_outside;
use crate::{refuse, say};

/// Where the water stands, and where it shall stand.
struct Room {
    before: Litres,
    after: Litres,
    litres: Litres,
    measured: bool,
}

/// Refuses a level that covers air roots, with the number of refills that it would take.
pub(super) fn within_limit(standing: About<Litres>, after: Litres, s: &Situation<'_>) -> Result<(), Refusal> {
    let (before, most) = (standing.value, s.system.highest());
    if after > most * A_HAIR {
        let room = (most - standing.high).or_nothing();
        return Err(refuse!("top_off_over_maximum", found = after, most = most, room = room));
    }
    let (limit, reservoir) = (limit_of(&standing, s), s.system.vessel());
    if s.system.refill == RefillMethod::NoLimit || after.get() <= limit.up_to.get() + 1e-6 {
        // Wherever the water really stands, what is added has to fit.
        let fits = standing.high + (after - before).or_nothing() <= most * A_HAIR;
        let range = || band(standing.low, standing.high);
        return if fits { Ok(()) } else { Err(refuse!("level_too_old", range = range())) };
    }
    let now = if limit.litres < least(s) {
        say!("bench.add_nothing_now")
    } else {
        say!("bench.add_now", litres = limit.litres)
    };
    let way = match s.system.refill {
        RefillMethod::OneInch => {
            let refills = count(refills_needed(&reservoir, line_at(before, s).litres, after)?);
            say!("bench.refills_needed", after = after, refills = refills, now = now)
        }
        RefillMethod::HoldTheLine => say!("bench.never_raised", now = now),
        RefillMethod::WholeSwap => say!("bench.swap_instead", now = now),
        RefillMethod::QuarterToHalf | RefillMethod::NoLimit => {
            let full = reservoir.shape.capacity();
            let (quarter, half) = (full * FIGURES.refill.act_at, full * FIGURES.refill.fill_to);
            say!("bench.wait_for_quarter", quarter = quarter, half = half)
        }
    };
    let (up_to, reason) = (limit.up_to, limit.reason);
    Err(refuse!("refill_past_limit", before = before, found = after, most = up_to, way = way, reason = reason))
}

fn room(from: Option<Litres>, to: Option<Litres>, shelf: &Shelf<'_>) -> Result<Room, Refusal> {
    let standing = shelf.stands(from).map_err(|refusal| Refusal { field: "purpose.from".to_owned(), ..refusal })?;
    let before = standing.value;
    let limit = shelf.situation.map(|s| limit_of(&standing, s));
    let after = to.or_else(|| limit.as_ref().map(|limit| limit.up_to));
    let after = after.ok_or_else(|| refuse!("no_volume_to_fill_to").at("purpose.to"))?;
    if let Some(s) = shelf.situation {
        within_limit(standing, after, s).at("purpose.to")?;
    }
    // A level that was typed in another unit may be a hair over the line; what is poured is not.
    let after = shelf.situation.map_or(after, |s| after.min(s.system.highest()));
    let litres = (after - before).or_nothing();
    if litres < shelf.situation.map_or(Litres::constant(FIGURES.bench.least_top_off), least) {
        let refusal = match limit.filter(|_| to.is_none()) {
            Some(limit) => {
                refuse!("nothing_to_add_by_limit", standing = before, wanted = after, reason = limit.reason)
            }
            None => refuse!("nothing_to_add", standing = before, wanted = after),
        };
        return Err(refusal.at("purpose.to"));
    }
    Ok(Room { before, after, litres, measured: from.is_some() })
}

pub(super) fn top_off(ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let Purpose::TopOff { from, to, ec, method, batch } = ask.purpose else {
        return Err(refuse!("not_a_top_off"));
    };
    let room = room(from, to, shelf)?;
    let asked = method;
    let method = method.or(shelf.situation.map(|s| s.system.methods.top_off)).unwrap_or_default();
    // Of a dry vessel nothing has a strength, and nothing that is poured can be weighed up against it.
    let dry = room.before <= Litres::ZERO;
    let method = if dry && method == TopOffMethod::Measured { TopOffMethod::SameStrength } else { method };
    let before_ec = shelf.standing_ec(ec, ask, "purpose.ec")?.map(|about| about.value).filter(|_| !dry);
    let source = shelf.source(ask)?;
    let aim = target(ask, shelf)?;
    let mut plan = match method {
        TopOffMethod::Plain => plain(&room, source, ask, shelf),
        TopOffMethod::LightFeed => light(&room, source, ask, shelf)?,
        TopOffMethod::SameStrength => same(&room, source, ask, shelf)?,
        // Where the plants drink no stronger than the source, plain water is what they take up.
        TopOffMethod::Reservoir if ask.target.is_none() && taken_up(shelf).is_some_and(|ec| ec <= source) => {
            plain(&room, source, ask, shelf)
        }
        TopOffMethod::Reservoir => {
            let strength = if ask.target.is_some() { aim } else { taken_up(shelf) };
            fed(&room, strength, &Feed::of(ask, shelf)?, say!("bench.taken_up_title"), source, ask, shelf)?
        }
        TopOffMethod::Premixed => premixed(&room, shelf)?,
        TopOffMethod::Measured => {
            let made = shelf.acting_ec(ec, ask, source);
            match made.and_then(|now| measured(&room, now, aim, batch, source, ask, shelf)) {
                // Nobody asked for it now: water does not wait for a meter.
                Err(refusal) if asked.is_none() && batch.is_none() => {
                    let mut plan = same(&room, source, ask, shelf)?;
                    plan.warnings.push(refusal.mending());
                    plan
                }
                made => made?,
            }
        }
    };
    finish(&mut plan, &room, before_ec, source, ec, method, shelf);
    plan.warnings.extend(ending(&plan, &room, before_ec, shelf));
    let chosen = shelf.situation.filter(|s| s.system.methods.top_off == method);
    if let Some(advice) = chosen.and_then(top_off_advice).filter(|advice| advice.drifting) {
        plan.warnings.push(say!("follow_up.reason", finding = advice.finding, why = advice.next));
    }
    Ok(plan)
}

/// Where the plan ends outside the band: that it does, and what would not.
fn ending(plan: &Plan, room: &Room, before: Option<Conductivity>, shelf: &Shelf<'_>) -> Option<Message> {
    let (s, before) = (shelf.situation?, before?);
    let after = Conductivity::new(plan.after_ec.as_ref()?.value).ok()?;
    let (why, next) = ends_outside(Water::new(room.after, after), Water::new(room.before, before), s)?;
    Some(say!("sentences", all = Param::Sentences(vec![why, next])))
}

fn same(room: &Room, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let feed = Feed::of(ask, shelf)?;
    fed(room, feed.target(ask, shelf)?, &feed, say!("bench.at_target_title"), source, ask, shelf)
}

/// Halfway between the source and the target; where nothing is aimed at, the recipe at half its rate.
fn light(room: &Room, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let feed = Feed::of(ask, shelf)?;
    let title = say!("bench.light_title");
    let Some(aim) = feed.target(ask, shelf)? else {
        return fed(room, None, &feed.at_part(HALF), title, source, ask, shelf);
    };
    fed(room, Some(middle(source, aim)), &feed, title, source, ask, shelf)
}

/// Light feed is half of the target's.
const HALF: f64 = 0.5;

fn plain(room: &Room, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Plan {
    let mut plan = Plan::new(say!("bench.plain_title"));
    plan.plain = room.litres;
    plan.batch_ec = Some(expected_ec(source, source * 0.0, shelf.scale));
    put_plain_right(&mut plan, room.litres, ask, shelf);
    plan.steps.push(step(StepKind::Pour, say!("bench.pour_plain", litres = room.litres)));
    plan.sure = say!("mixing.linear");
    plan
}

fn fed(
    room: &Room,
    aim: Option<Conductivity>,
    feed: &Feed,
    title: Message,
    source: Conductivity,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let mixed = feed.mix(source, aim, false)?;
    let mut plan = Plan::new(title);
    mix_into(&mut plan, &mixed, feed, room.litres, ask, shelf)?;
    plan.warnings.extend(feed.hard_source(room.litres, source, aim));
    put_right(&mut plan, room.litres, rise_of(&mixed, source), Goes::Onto, ask, shelf);
    let to_waste = shelf.situation.is_some_and(|s| s.system.traits.to_waste);
    let pour = if to_waste {
        say!("bench.pour_and_stir", litres = room.litres)
    } else {
        say!("bench.pour_slowly", litres = room.litres)
    };
    plan.steps.push(step(StepKind::Pour, pour));
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(feed);
    Ok(plan)
}

fn premixed(room: &Room, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let ready = shelf.situation.and_then(|s| s.known.lessons.ready(s.system));
    let ready = ready.ok_or_else(|| refuse!("nothing_mixed_ahead").at("purpose.method"))?.value;
    let Some(stays) = (ready.litres - room.litres).positive().or((ready.litres == room.litres).then_some(Litres::ZERO))
    else {
        let (found, wanted) = (ready.litres, room.litres);
        return Err(refuse!("too_little_mixed_ahead", found = found, wanted = wanted).at("purpose.to"));
    };
    let mut plan = Plan::new(say!("bench.premixed_title"));
    plan.warnings.extend(stale(shelf));
    plan.batch_ec = ready.ec.map(|ec| expected_ec(ec, ec * FIGURES.strength.meter_error, shelf.scale));
    plan.steps.push(step(StepKind::Stir, say!("bench.stir_up")).why(say!("bench.stir_up_why")));
    plan.steps.push(step(StepKind::Pour, say!("bench.draw", litres = room.litres, stays = stays)));
    plan.sure = say!("bench.premixed_sure");
    Ok(plan)
}

/// Feed that has stood too long: what it was mixed to says little about what it is.
fn stale(shelf: &Shelf<'_>) -> Option<Message> {
    let s = shelf.situation?;
    let ready = s.known.lessons.ready(s.system)?;
    let age = days_between(ready.at, s.now.timestamp());
    let keeps = ready.value.keeps_days;
    (age > keeps).then(|| say!("bench.stale", age = days(age.floor()), keeps = days(keeps)))
}

/// The hose first, then a small concentrated batch; where even plain water would leave it too
/// strong, some is drained first.
fn measured(
    room: &Room,
    ec: Conductivity,
    aim: Option<Conductivity>,
    jug: Option<Litres>,
    source: Conductivity,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let aim = aim.ok_or_else(|| refuse!("no_strength_to_aim_at").at("target"))?;
    let (standing, wanted) = (Water::new(room.before, ec), Water::new(room.after, aim));
    let filled_up = standing.salt() + source * room.litres;
    if (filled_up - wanted.salt()).get() > 1e-9 {
        return Ok(drained_first(room, drain_first(standing, wanted, source).at("target")?));
    }
    let bench = &FIGURES.bench;
    let (least, most) = (Litres::constant(bench.jug_least), Litres::constant(bench.jug_most));
    // EC_b = EC_w + missing / V_b: so much that calcium stays clear of what drops out with it.
    let missing = (wanted.salt() - filled_up).get();
    let figures = &FIGURES.strength;
    let litres_at = |ec: f64| Litres::calculated(missing / (ec - source.get()).max(figures.same));
    // What the hose brings cannot be put right on its way: of hard water all is mixed in cans.
    let of_hose = || if wants_acid(shelf) { room.litres } else { Litres::ZERO };
    let usual =
        || of_hose().max((room.litres * bench.jug_share).max(least).min(most)).max(litres_at(figures.apart_above));
    let batch = jug.unwrap_or_else(|| usual().min(room.litres));
    let least = litres_at(figures.most_in_jug);
    if least > room.litres * A_HAIR {
        let (ec, most) = (source + Conductivity::calculated(missing / room.litres.get()), most_in_jug());
        return Err(refuse!("room_too_small", room = room.litres, found = ec, most = most).at("purpose.to"));
    }
    if batch * A_HAIR < least {
        let (ec, most) = (source + Conductivity::calculated(missing / batch.get()), most_in_jug());
        let refusal = refuse!("batch_too_concentrated", batch = batch, found = ec, most = most, least = least);
        return Err(refusal.at("purpose.batch"));
    }
    if batch > room.litres || batch <= Litres::ZERO {
        return Err(refuse!("batch_larger_than_room", found = batch, most = room.litres).at("purpose.batch"));
    }
    let hose = (room.litres - batch).or_nothing();
    let hosed = standing.with(Water::new(hose, source));
    let strong = batch_after_hose(hosed, batch, aim, source).at("purpose.batch")?;
    let (feed, left_out) = Feed::of(ask, shelf)?.feeding_only();
    let mut plan = Plan::new(say!("bench.measured_title"));
    plan.warnings.extend(left_out);
    plan.plain = hose;
    if hose > Litres::ZERO {
        let by_hose = say!("bench.by_hose", litres = hose, makes = hosed.litres);
        plan.steps.push(step(StepKind::Hose, by_hose).why(say!("bench.by_hose_why")));
    }
    if (strong.ec - source).get() > 0.005 {
        pour_strong(&mut plan, strong, &feed, source, ask, shelf)?;
    } else {
        plan.plain = room.litres;
        plan.sure = say!("bench.plain_is_enough");
    }
    Ok(plan)
}

fn drained_first(room: &Room, drain: Litres) -> Plan {
    let mut plan = Plan::new(say!("bench.drain_title"));
    plan.drain = drain;
    plan.plain = room.litres + drain;
    plan.steps.push(
        step(StepKind::Drain, say!("bench.drain", litres = drain))
            .why(say!("bench.drain_why"))
            .caution(say!("bench.old_water")),
    );
    plan.steps.push(step(StepKind::Hose, say!("bench.fill_up", litres = plan.plain)));
    plan.sure = say!("mixing.linear");
    plan
}

/// The concentrated batch: how it is mixed, and how it is poured so that roots do not meet it at once.
fn pour_strong(
    plan: &mut Plan,
    strong: Water,
    feed: &Feed,
    source: Conductivity,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<(), Refusal> {
    let mixed = feed.mix(source, Some(strong.ec), true)?;
    mix_into(plan, &mixed, feed, strong.litres, ask, shelf)?;
    if plan.plain <= Litres::ZERO {
        put_right(plan, strong.litres, rise_of(&mixed, source), Goes::Onto, ask, shelf);
    }
    // A batch that is meant to be concentrated says nothing by its share of the label's rate.
    plan.strength = None;
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(feed);
    let calcium: Vec<Message> = plan.doses.iter().filter(|dose| dose.what.holds_calcium()).map(named).collect();
    let others: Vec<Message> = plan.doses.iter().filter(|dose| !dose.what.holds_calcium()).map(named).collect();
    if strong.ec.get() > FIGURES.strength.apart_above && !calcium.is_empty() && !others.is_empty() {
        let half = strong.litres / 2.0;
        let apart = say!("bench.calcium_apart", half = half, calcium = calcium, others = others);
        plan.steps.insert(0, step(StepKind::Jugs, apart).why(say!("bench.calcium_apart_why")));
        plan.warnings.push(say!("bench.strong_batch", ec = strong.ec));
    }
    let pumped = shelf.situation.is_none_or(|s| s.system.traits.circulates);
    plan.steps.push(step(
        StepKind::Pour,
        if strong.ec.get() > FIGURES.strength.apart_above {
            say!("bench.pour_portions", litres = strong.litres)
        } else if pumped {
            say!("bench.pour_pump_on", litres = strong.litres)
        } else {
            say!("bench.pour_slowly", litres = strong.litres)
        },
    ));
    Ok(())
}

fn named(dose: &Dose) -> Message {
    say!("bench.name", name = dose.name.as_str())
}

fn most_in_jug() -> Conductivity {
    Conductivity::constant(FIGURES.strength.most_in_jug)
}

/// The strength afterwards, the balance, the words and the entry.
fn finish(
    plan: &mut Plan,
    room: &Room,
    before_ec: Option<Conductivity>,
    source: Conductivity,
    read: Option<EcReading>,
    method: TopOffMethod,
    shelf: &Shelf<'_>,
) {
    let poured = room.litres + plan.drain;
    let mixed = (poured - plan.plain).or_nothing();
    plan.after = Some(room.after);
    plan.ph = standing_ph(shelf, poured / room.after);
    let batch_ec = plan.batch_ec.as_ref().and_then(|ec| Conductivity::new(ec.value).ok());
    let hose = Water::new(plan.plain, source);
    let added = match batch_ec {
        Some(ec) if mixed > Litres::ZERO => vec![hose, Water::new(mixed, ec)],
        None if mixed > Litres::ZERO => vec![],
        _ => vec![hose],
    };
    let added_ec = added.iter().copied().reduce(Water::with).map(|water| water.ec);
    let after = before_ec.filter(|_| !added.is_empty()).map(|ec| {
        let (standing, drained) = (Water::new(room.before, ec), Water::new(plan.drain, ec));
        let salt = standing.salt() - drained.salt() + added.iter().map(|water| water.salt()).sum::<Salt>();
        let after = Water::new(room.after, (salt / room.after).or_nothing());
        let spread = plan.batch_ec.as_ref().and_then(|e| Conductivity::new(e.high - e.value).ok());
        let spread = spread.map_or(ec * 0.0, |spread| spread * (mixed / room.after));
        plan.after_ec = Some(expected_ec(after.ec, spread + ec * FIGURES.strength.meter_error, shelf.scale));
        let drained = (plan.drain > Litres::ZERO).then_some(drained);
        plan.ledger = Some(LedgerLine::new(Some(standing), &added, drained, after));
        after.ec
    });
    plan.answer = answer(plan, room, mixed, batch_ec, after);
    plan.carry(if plan.shares.iter().any(|filling| filling.share.stands) {
        plan.carried()
    } else if mixed > Litres::ZERO {
        mixed
    } else {
        plan.plain
    });
    plan.entry = shelf.situation.map(|_| {
        let water = match (method, mixed > Litres::ZERO) {
            (TopOffMethod::Premixed, _) => TopOffWater::Premixed {},
            (_, true) => TopOffWater::Feed { ec: added_ec },
            (_, false) => TopOffWater::Plain,
        };
        let level = LevelReading::Volume { litres: room.before, pump_ran: true };
        let fresh = if mixed > Litres::ZERO { plan.batch } else { plan.plain };
        Body::Visit(Visit {
            level: room.measured.then_some(level),
            ec: read,
            drained: (plan.drain > Litres::ZERO).then_some(plan.drain),
            top_off: Some(TopOff { litres: poured, water }),
            // Where nothing was mixed, what went in went into the plain water.
            batch: batch_of(plan, source).map(|batch| Batch { fresh, ..batch }),
            ..Visit::default()
        })
    });
}

/// What is poured, and what that makes.
fn answer(
    plan: &Plan,
    room: &Room,
    mixed: Litres,
    batch_ec: Option<Conductivity>,
    after: Option<Conductivity>,
) -> Message {
    let (plain, hosed) = (plan.plain, plan.plain > Litres::ZERO);
    let strength = || batch_ec.map_or_else(|| crate::message::term("bench.recipe_strength"), Param::from);
    let what = if plan.drain > Litres::ZERO {
        say!("bench.drain_then_add", drain = plan.drain, plain = plain)
    } else if hosed && mixed > Litres::ZERO {
        say!("bench.hose_then_batch", plain = plain, batch = mixed, ec = strength())
    } else if mixed > Litres::ZERO {
        say!("bench.add_at", litres = mixed, ec = strength())
    } else {
        say!("bench.add_plain", litres = room.litres)
    };
    match after {
        Some(ec) => say!("bench.makes_at", what = what, litres = room.after, ec = ec),
        None => say!("bench.makes", what = what, litres = room.after),
    }
}
