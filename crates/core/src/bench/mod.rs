//! The mixing bench: what to make, how much of what, in which order, measured with which tool, in
//! which containers. A plan is worked out from what is asked and what is known, and stores nothing.

mod ask;
mod batch_ph;
mod correction;
mod feed;
mod fills;
mod gear;
pub mod kit;
mod peroxide;
mod ph_plan;
mod plan;
mod purposes;
mod put_right;
mod steps;
mod tell;
mod top_off;

pub use ask::{Ask, AskLine, MixIn, Purpose, Shelf};
pub use gear::{usual_containers, usual_tools};
pub use plan::{Dose, Expected, Filling, LedgerLine, Plan, PlanStep, Portion, StepKind};
pub use purposes::{ExampleFacts, FieldFacts, FieldKind, PurposeFacts, examples, purposes};
pub use steps::carried_in_cans;
pub use tell::{ask_of, tell};

use crate::care::one_order;
use crate::fact::{Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, degrees};
use crate::mixing::warmth::mixed;
use crate::quantity::Litres;
use crate::refusal::Refusal;
use crate::refuse;
use crate::reservoir::LevelReading;
use crate::say;
use crate::verdict::{Doubt, doubts};
use steps::tank_temperature;

/// Works out a plan.
///
/// # Errors
/// A refusal at the field for what cannot be made, with what would be possible instead.
pub fn plan(ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    if shelf.actor.is_child() && !ask.plain_water_only(shelf) {
        return Err(refuse!("child_asks_for_mix").at(Refusal::ACTOR));
    }
    ask.check()?;
    let mut plan = planned(ask, shelf)?;
    // What was typed is asked about before anything is poured by it.
    plan.warnings.splice(0..0, doubtful(ask, shelf));
    plan.warnings.extend(warmed(&plan, ask, shelf));
    if matches!(ask.purpose, Purpose::Correction { .. } | Purpose::PutRight { .. } | Purpose::Ph { .. }) {
        let beside = shelf.situation.and_then(one_order::beside);
        plan.warnings.splice(0..0, beside);
    }
    Ok(plan)
}

/// What the fresh water makes of the tank's temperature, where both are known.
fn warmed(plan: &Plan, ask: &Ask, shelf: &Shelf<'_>) -> Option<Message> {
    if !matches!(ask.purpose, Purpose::TopOff { .. } | Purpose::Change { .. } | Purpose::PutRight { .. }) {
        return None;
    }
    let (fresh, tank) = (ask.water_temperature?, tank_temperature(ask, shelf)?);
    let poured = plan.poured();
    let stays = (plan.after? - poured).or_nothing();
    let to = mixed((stays, tank), (poured, fresh));
    let most = FIGURES.water.step;
    if (to - tank).abs() > most && stays > Litres::ZERO {
        return Some(say!("bench.after_shock", from = tank, to = to, most = degrees(most)));
    }
    (stays > Litres::ZERO).then(|| say!("bench.after_degrees", to = to))
}

/// What was typed of the tank and is more likely a slip than so.
fn doubtful(ask: &Ask, shelf: &Shelf<'_>) -> Vec<Message> {
    let Some(s) = shelf.situation else { return Vec::new() };
    let (litres, ec, ph) = match ask.purpose {
        Purpose::TopOff { from, ec, .. } => (from, ec, None),
        Purpose::Correction { litres, ec } => (litres, ec, None),
        Purpose::PutRight { from, ec, ph, .. } => (from, ec, ph),
        Purpose::Ph { litres, ph, .. } => (litres, None, ph),
        _ => (None, None, None),
    };
    let level = litres.map(|litres| LevelReading::Volume { litres, pump_ran: true });
    let typed = Visit { level, ec, ph, temperature: ask.tank_temperature, ..Visit::default() };
    let of_water = |doubt: &Doubt| matches!(doubt.subject, Subject::Level | Subject::Ec | Subject::Ph);
    doubts(&typed, s).into_iter().filter(of_water).map(|doubt| doubt.question).collect()
}

fn planned(ask: &Ask, shelf: &Shelf<'_>) -> Result<Plan, Refusal> {
    match &ask.purpose {
        Purpose::FreshFill { litres } => fills::fresh_fill(*litres, ask, shelf),
        Purpose::Change { litres, heel, heel_ec } => fills::change(*litres, *heel, *heel_ec, ask, shelf),
        Purpose::Jug { litres } => fills::jug(*litres, ask, shelf),
        Purpose::TopOffReservoir { litres } => fills::top_off_reservoir(*litres, ask, shelf),
        Purpose::TopOff { .. } => top_off::top_off(ask, shelf),
        Purpose::Correction { litres, ec } => correction::correction(*litres, *ec, ask, shelf),
        Purpose::PeroxideDose { litres, product, again } => peroxide::dose(*litres, *product, *again, ask, shelf),
        Purpose::RootBath { litres, product, stage } => peroxide::root_bath(*litres, *product, *stage, ask, shelf),
        Purpose::Dilution { from_percent, to_percent, litres } => {
            peroxide::dilution(*from_percent, *to_percent, *litres, ask, shelf)
        }
        Purpose::PutRight { from, to, ec, ph } => {
            put_right::put_right(put_right::Wish { from: *from, to: *to, ec: *ec, ph: *ph }, ask, shelf)
        }
        Purpose::Ph { litres, ph, aim, product, jar } => {
            ph_plan::correct(ph_plan::Wish { ph: *ph, aim: *aim, jar: *jar, litres: *litres }, *product, ask, shelf)
        }
    }
}
