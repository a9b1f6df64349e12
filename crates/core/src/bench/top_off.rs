//! Top-offs by each method. Still water is never raised above its limit.

use super::ask::{Ask, Purpose, Shelf};
use super::feed::{Feed, target};
use super::fills::{first, sure, taken_up};
use super::plan::{LedgerLine, Plan, expected_ec};
use super::steps::{batch_of, carry, mix_into, standing_ph, step};
use crate::care::Situation;
use crate::care::top_off::top_off_advice;
use crate::log::{Body, TopOff, TopOffWater, Visit};
use crate::mixing::balance::{POUR_SLOWLY_ABOVE, Water, batch_after_hose, drain_first};
use crate::quantity::{Conductivity, EcReading, Litres, Wording};
use crate::refusal::{AtField, Refusal};
use crate::reservoir::{RefillMethod, refills_needed};
use crate::system::TopOffMethod;
use crate::verdict::limit_from;

/// Less than this is no top-off.
const LEAST: f64 = 0.05;
/// A measured batch takes a jug of this share of the room, where nobody says how much.
const JUG_SHARE: f64 = 0.15;

/// Where the water stands, and where it shall stand.
struct Room {
    before: Litres,
    after: Litres,
    litres: Litres,
    measured: bool,
}

/// Refuses a level that covers air roots, with the number of refills that it would take.
pub(super) fn within_limit(before: Litres, after: Litres, s: &Situation<'_>) -> Result<(), Refusal> {
    let w = s.wording;
    let reservoir = &s.system.reservoir;
    if after > reservoir.maximum {
        return Err(Refusal::new(
            format!("found a top-off to {}", w.volume(after)),
            format!("allowed is up to the maximum, {}", w.volume(reservoir.maximum)),
            format!("Add {} at most.", w.volume(Litres::nearest(reservoir.maximum.get() - before.get()))),
        ));
    }
    let limit = limit_from(before, s);
    if s.system.refill == RefillMethod::NoLimit || after.get() <= limit.up_to.get() + 1e-6 {
        return Ok(());
    }
    let now = if limit.litres.get() < LEAST { "Add nothing now.".to_owned() } else { format!("Add {} now.", w.volume(limit.litres)) };
    let mend = match s.system.refill {
        RefillMethod::OneInch => {
            let count = refills_needed(reservoir, before, after)?;
            let refills = if count == 1 { "1 refill".to_owned() } else { format!("{count} refills, seven days apart") };
            format!("To {} it takes {refills}. {now}", w.volume(after))
        }
        RefillMethod::HoldTheLine => format!("No number of refills leads there: this method never raises the line. {now}"),
        RefillMethod::QuarterToHalf | RefillMethod::NoLimit => {
            let full = reservoir.shape.capacity().get();
            format!("Wait until {} are left; 1 refill then fills it to {}.", w.volume(Litres::nearest(full / 4.0)), w.volume(Litres::nearest(full / 2.0)))
        }
    };
    Err(Refusal::new(
        format!("found a refill from {} to {}", w.volume(before), w.volume(after)),
        format!("allowed is up to {}", w.volume(limit.up_to)),
        format!("{mend} {}", limit.reason),
    ))
}

fn room(from: Option<Litres>, to: Option<Litres>, shelf: &Shelf<'_>) -> Result<Room, Refusal> {
    let before = shelf.standing(from).map_err(|r| Refusal { field: "purpose.from".to_owned(), ..r })?;
    let after = match (to, shelf.situation) {
        (Some(to), _) => to,
        (None, Some(s)) => limit_from(before, s).up_to,
        (None, None) => {
            return Err(Refusal::new("found no volume to fill up to", "allowed is a volume above what stands there", "Type how much it shall hold.").at("purpose.to"));
        }
    };
    if let Some(s) = shelf.situation {
        within_limit(before, after, s).at("purpose.to")?;
    }
    if after.get() - before.get() < LEAST {
        let why = shelf.situation.map(|s| limit_from(before, s).reason).filter(|_| to.is_none());
        return Err(Refusal::new(
            format!("found {} standing, {} wanted", shelf.wording.volume(before), shelf.wording.volume(after)),
            "allowed is a wanted volume above what stands there",
            why.unwrap_or_else(|| "Nothing can be added.".to_owned()),
        )
        .at("purpose.to"));
    }
    Ok(Room { before, after, litres: Litres::nearest(after.get() - before.get()), measured: from.is_some() })
}

pub(super) fn top_off(ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let Purpose::TopOff { from, to, ec, method, batch } = ask.purpose else {
        return Err(Refusal::new("found another purpose", "allowed is a top-off", "Ask for a top-off."));
    };
    let room = room(from, to, shelf)?;
    let method = method.or(shelf.situation.map(|s| s.system.methods.top_off)).unwrap_or_default();
    let before_ec = shelf.standing_ec(ec, ask, "purpose.ec")?;
    let source = shelf.source(ask)?;
    let aim = target(ask, shelf)?;
    let w = shelf.wording;
    let mut plan = match method {
        TopOffMethod::Plain => plain(&room, source, w),
        TopOffMethod::LightFeed => light(&room, source, ask, shelf)?,
        TopOffMethod::SameStrength => same(&room, source, ask, shelf)?,
        // Where the plants drink no stronger than the source, plain water is what they take up.
        TopOffMethod::Reservoir if ask.target.is_none() && taken_up(shelf).is_some_and(|ec| ec <= source) => plain(&room, source, w),
        TopOffMethod::Reservoir => {
            fed(&room, if ask.target.is_some() { aim } else { taken_up(shelf) }, Feed::of(ask, shelf)?, "Feed at the strength that is taken up", source, ask, shelf)?
        }
        TopOffMethod::Premixed => premixed(&room, shelf)?,
        TopOffMethod::Measured => measured(&room, before_ec, aim, batch, source, ask, shelf)?,
    };
    finish(&mut plan, &room, before_ec, source, ec, method, shelf);
    if let Some(advice) = shelf.situation.filter(|s| s.system.methods.top_off == method).and_then(top_off_advice).filter(|advice| advice.drifting) {
        plan.warnings.push(format!("{}. {}", advice.finding, advice.next));
    }
    Ok(plan)
}

fn same(room: &Room, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let feed = Feed::of(ask, shelf)?;
    fed(room, feed.target(ask, shelf)?, feed, "Feed at the target", source, ask, shelf)
}

/// Halfway between the source and the target; where nothing is aimed at, the recipe at half its rate.
fn light(room: &Room, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let feed = Feed::of(ask, shelf)?;
    let Some(aim) = feed.target(ask, shelf)? else {
        let mut plan = fed(room, None, feed.at_part(0.5), "Light feed", source, ask, shelf)?;
        plan.strength = Some(0.5);
        return Ok(plan);
    };
    fed(room, Some(halfway(source, aim)), feed, "Light feed", source, ask, shelf)
}

fn halfway(source: Conductivity, aim: Conductivity) -> Conductivity {
    Conductivity::nearest(f64::midpoint(source.get(), aim.get()))
}

fn plain(room: &Room, source: Conductivity, w: Wording) -> Plan {
    let mut plan = Plan::new("Top-off with plain water");
    plan.plain = room.litres;
    plan.batch_ec = Some(expected_ec(source.get(), 0.0, w));
    plan.steps.push(step("pour", format!("{} of plain water at the tank's temperature, slowly, away from the stems.", w.volume(room.litres))));
    "Mixing is linear in EC to within a few per cent.".clone_into(&mut plan.sure);
    plan
}

fn fed(room: &Room, aim: Option<Conductivity>, feed: Feed, title: &str, source: Conductivity, ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let mixed = feed.mix(source, aim, false)?;
    let mut plan = Plan::new(title);
    mix_into(&mut plan, &mixed, room.litres, ask, shelf)?;
    plan.steps.push(step("pour", format!("Pour the {} slowly, away from the stems.", shelf.wording.volume(room.litres))));
    plan.warnings.extend(feed.water_warning(shelf));
    plan.sure = sure(&feed);
    Ok(plan)
}

fn premixed(room: &Room, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let ready = shelf.situation.and_then(|s| s.state.premixed).ok_or_else(|| {
        Refusal::new("found no feed mixed ahead", "allowed is drawing from a jug or barrel that was logged", "Mix a jug on the bench and log it; until then choose another method.")
            .at("purpose.method")
    })?;
    if ready.value.litres < room.litres {
        return Err(Refusal::new(
            format!("found {} left of the feed mixed ahead", w.volume(ready.value.litres)),
            format!("allowed is a top-off of that or less; {} are wanted", w.volume(room.litres)),
            "Mix a new jug first, or fill up less far.",
        )
        .at("purpose.to"));
    }
    let mut plan = Plan::new("Top-off from the feed mixed ahead");
    plan.batch_ec = ready.value.ec.map(|ec| expected_ec(ec.get(), ec.get() * 0.02, w));
    plan.steps.push(step("stir", "Stir the feed up from the bottom before you draw.").why("What stood has settled."));
    plan.steps.push(step(
        "pour",
        format!("Draw {} and pour slowly; {} stay in the jug.", w.volume(room.litres), w.volume(Litres::nearest(ready.value.litres.get() - room.litres.get()))),
    ));
    "By the EC that was measured when it was mixed.".clone_into(&mut plan.sure);
    Ok(plan)
}

/// The hose first, then a small concentrated batch; where even plain water would leave it too
/// strong, some is drained first.
fn measured(
    room: &Room,
    before_ec: Option<Conductivity>,
    aim: Option<Conductivity>,
    jug: Option<Litres>,
    source: Conductivity,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<Plan, Refusal> {
    let w = shelf.wording;
    let Some(ec) = before_ec else {
        return Err(
            Refusal::new("found no EC of the tank", "allowed is a measured batch where the EC is known", "Measure the EC first, or top off with plain water.").at("purpose.ec")
        );
    };
    let Some(aim) = aim else {
        return Err(
            Refusal::new("found no strength to aim at", "allowed is a measured batch towards a target", "Type the EC that is wanted, or enter what grows here.").at("target")
        );
    };
    let (standing, wanted) = (Water::new(room.before, ec), Water::new(room.after, aim));
    if standing.salt() + source.get() * room.litres.get() > wanted.salt() + 1e-9 {
        let drain = drain_first(standing, wanted, source).at("target")?;
        let mut plan = Plan::new("Drain first, then plain water");
        plan.drain = drain;
        plan.plain = Litres::nearest(room.litres.get() + drain.get());
        plan.steps.push(
            step("drain", format!("Drain {}.", w.volume(drain)))
                .why("It is too strong: plain water alone would not weaken it enough.")
                .caution("Onto garden or house plants; not into drains that lead to streams."),
        );
        plan.steps.push(step("hose", format!("Fill up with {} of plain water.", w.volume(plan.plain))));
        "Mixing is linear in EC to within a few per cent.".clone_into(&mut plan.sure);
        return Ok(plan);
    }
    let usual = Litres::nearest((room.litres.get() * JUG_SHARE).clamp(1.0, 10.0).min(room.litres.get()));
    let batch = jug.unwrap_or(usual);
    if batch > room.litres || batch <= Litres::ZERO {
        return Err(Refusal::new(
            format!("found a batch of {}", w.volume(batch)),
            format!("allowed is more than 0, up to the room of {}", w.volume(room.litres)),
            "Take a smaller jug.",
        )
        .at("purpose.batch"));
    }
    let hose = Litres::nearest(room.litres.get() - batch.get());
    let hosed = standing.with(Water::new(hose, source));
    let salt = aim.get() * room.after.get() - hosed.salt();
    if salt > Conductivity::MAX * batch.get() {
        let least = Litres::nearest((salt / Conductivity::MAX).ceil());
        return Err(Refusal::new(
            format!("found a batch of {} that would be at {:.0} mS/cm", w.volume(batch), salt / batch.get()),
            format!("allowed is up to {:.0} mS/cm", Conductivity::MAX),
            format!("Take a larger batch: {} or more.", w.volume(least)),
        )
        .at("purpose.batch"));
    }
    let strong = batch_after_hose(hosed, batch, aim, source).at("purpose.batch")?;
    let (feed, left_out) = Feed::of(ask, shelf)?.feeding_only();
    let mut plan = Plan::new("The hose first, then a measured batch");
    plan.warnings.extend(left_out);
    plan.plain = hose;
    if hose.get() > 0.0 {
        plan.steps.push(
            step("hose", format!("Run in {} of plain water by the hose; that makes {}.", w.volume(hose), w.volume(Litres::nearest(hosed.litres.get()))))
                .why("Water by hose is light work; only the batch is carried."),
        );
    }
    if strong.ec.get() - source.get() > 0.005 {
        let mixed = feed.mix(source, Some(strong.ec), true)?;
        mix_into(&mut plan, &mixed, batch, ask, shelf)?;
        // A batch that is meant to be concentrated says nothing by its share of the label's rate.
        plan.strength = None;
        plan.warnings.extend(feed.water_warning(shelf));
        plan.sure = sure(&feed);
        let pour = step(
            "pour",
            format!(
                "Pour the {} in{}.",
                w.volume(batch),
                if strong.ec.get() > POUR_SLOWLY_ABOVE { " four portions, a minute apart, pump on, where the stream is strongest" } else { " slowly, pump on" }
            ),
        );
        plan.steps.push(pour);
        if strong.ec.get() > POUR_SLOWLY_ABOVE {
            plan.warnings.push(format!("The batch is at {}, more than roots should meet at once: in portions, pump on. A larger jug makes it milder.", w.ec(strong.ec)));
        }
        if strong.ec.get() > 6.0 {
            plan.warnings.push("Calcium and sulfate come close in a batch this strong: dissolve each product fully before the next, and pour it the same hour.".to_owned());
        }
    } else {
        plan.plain = room.litres;
        "Plain water alone brings it there.".clone_into(&mut plan.sure);
    }
    Ok(plan)
}

/// The strength afterwards, the balance, the words and the entry.
fn finish(plan: &mut Plan, room: &Room, before_ec: Option<Conductivity>, source: Conductivity, read: Option<EcReading>, method: TopOffMethod, shelf: &Shelf<'_>) {
    let w = shelf.wording;
    plan.after = Some(room.after);
    plan.ph = standing_ph(shelf, (room.litres.get() + plan.drain.get()) / room.after.get());
    let mixed_litres = Litres::nearest(room.litres.get() + plan.drain.get() - plan.plain.get());
    let poured = plan.batch_ec.as_ref().filter(|_| plan.plain < room.litres || method == TopOffMethod::Plain).map(|ec| Conductivity::nearest(ec.value));
    let hose = Water::new(plan.plain, source);
    let added = match poured {
        Some(ec) if mixed_litres > Litres::ZERO => vec![hose, Water::new(mixed_litres, ec)],
        _ if mixed_litres > Litres::ZERO => vec![],
        _ => vec![hose],
    };
    let added_ec = (!added.is_empty()).then(|| added.iter().skip(1).fold(added[0], |sum, water| sum.with(*water)).ec);
    if let (Some(ec), false) = (before_ec, added.is_empty()) {
        let standing = Water::new(room.before, ec);
        let drained = Water::new(plan.drain, ec);
        let salt = standing.salt() - drained.salt() + added.iter().map(|water| water.salt()).sum::<f64>();
        let after = Water::new(room.after, Conductivity::nearest(salt / room.after.get()));
        let spread = plan.batch_ec.as_ref().map_or(0.0, |e| e.high - e.value) * mixed_litres.get() / room.after.get();
        plan.after_ec = Some(expected_ec(after.ec.get(), spread + ec.get() * 0.02, w));
        plan.ledger = Some(LedgerLine::new(Some(standing), &added, (plan.drain > Litres::ZERO).then_some(drained), after));
    }
    let what = if plan.drain > Litres::ZERO {
        format!("Drain {}, then add {} of plain water", w.volume(plan.drain), w.volume(plan.plain))
    } else if plan.plain > Litres::ZERO && mixed_litres > Litres::ZERO {
        format!("{} by the hose, then a batch of {} at {}", w.volume(plan.plain), w.volume(mixed_litres), plan.batch_ec.as_ref().map_or("full strength", |ec| first(&ec.said)))
    } else if mixed_litres > Litres::ZERO {
        format!("Add {} at {}", w.volume(mixed_litres), plan.batch_ec.as_ref().map_or("the recipe's strength", |ec| first(&ec.said)))
    } else {
        format!("Add {} of plain water", w.volume(room.litres))
    };
    plan.answer = match &plan.after_ec {
        Some(ec) => format!("{what}: that makes {} at {}.", w.volume(room.after), first(&ec.said)),
        None => format!("{what}: that makes {}.", w.volume(room.after)),
    };
    carry(plan, if mixed_litres > Litres::ZERO { mixed_litres.get() } else { plan.plain.get() }, w);
    plan.entry = shelf.situation.map(|_| {
        let water = match (method, mixed_litres > Litres::ZERO) {
            (TopOffMethod::Premixed, _) => TopOffWater::Premixed {},
            (_, true) => TopOffWater::Feed { ec: added_ec },
            (_, false) => TopOffWater::Plain,
        };
        Body::Visit(Visit {
            level: room.measured.then_some(crate::reservoir::LevelReading::Volume { litres: room.before, pump_ran: true }),
            ec: read,
            drained: (plan.drain > Litres::ZERO).then_some(plan.drain),
            top_off: Some(TopOff { litres: Litres::nearest(room.litres.get() + plan.drain.get()), water }),
            batch: batch_of(plan, source),
            ..Visit::default()
        })
    });
}
