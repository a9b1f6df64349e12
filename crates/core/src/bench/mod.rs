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
mod steps;
mod top_off;

pub use ask::{Ask, AskLine, MixIn, Purpose, Shelf};
pub use gear::{usual_containers, usual_tools};
pub use plan::{Dose, Expected, Filling, LedgerLine, Plan, PlanStep, Portion, StepKind};
pub use purposes::{ExampleFacts, FieldFacts, FieldKind, PurposeFacts, examples, purposes};
pub use steps::carried_in_cans;

use crate::care::one_order;
use crate::refusal::Refusal;
use crate::refuse;

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
    if matches!(ask.purpose, Purpose::Correction { .. } | Purpose::Ph { .. }) {
        let beside = shelf.situation.and_then(one_order::beside);
        plan.warnings.splice(0..0, beside);
    }
    Ok(plan)
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
        Purpose::Ph { litres, ph, aim, product, jar } => {
            ph_plan::correct(ph_plan::Wish { ph: *ph, aim: *aim, jar: *jar, litres: *litres }, *product, ask, shelf)
        }
    }
}
