//! What a task says: how much, by the plan that its button opens. Task, button and bench have one figure for one thing.

use super::ask::{Ask, Purpose, Shelf};
use super::plan;
use crate::care::Task;
use crate::say;
use crate::system::Check;
use crate::way::WayTo;

/// What the bench is asked where a task's button leads to it, or to a change of all the water; `None` for any other.
#[must_use]
pub fn ask_of(task: &Task) -> Option<Ask> {
    let way = task.way.as_ref()?;
    let purpose = match (way.to, way.part) {
        (WayTo::Bench, Some("top_off")) => {
            Purpose::TopOff { from: None, to: None, ec: None, method: None, batch: None }
        }
        (WayTo::Bench, Some("correction")) => Purpose::Correction { litres: None, ec: None },
        (WayTo::Bench, Some("put_right")) => Purpose::PutRight { from: None, to: None, ec: None, ph: None },
        (WayTo::Bench, Some("ph")) => Purpose::Ph { litres: None, ph: None, aim: None, product: None, jar: None },
        (WayTo::Bench, Some("peroxide_dose")) => Purpose::PeroxideDose { litres: None, product: None, again: false },
        (WayTo::Bench, Some("top_off_reservoir")) => Purpose::TopOffReservoir { litres: None },
        (WayTo::Change, None) if task.check == Some(Check::Change) => {
            Purpose::Change { litres: None, heel: None, heel_ec: None }
        }
        _ => return None,
    };
    Some(Ask::new(purpose))
}

/// A task that says how much where the bench can tell; where it cannot, what stands against it.
#[must_use]
pub fn tell(task: Task, shelf: &Shelf<'_>) -> Task {
    let Some(ask) = ask_of(&task).filter(|_| !shelf.actor.is_child()) else { return task };
    match plan(&ask, shelf) {
        Ok(plan) if task.check == Some(Check::Change) => {
            Task { doing: say!("bench.drain_and", answer = plan.answer), ..task }
        }
        Ok(plan) => Task { doing: plan.answer, ..task },
        // The guide asks for what a change still wants.
        Err(_) if task.check == Some(Check::Change) => task,
        Err(refusal) => Task { doing: refusal.mending(), ..task },
    }
}
