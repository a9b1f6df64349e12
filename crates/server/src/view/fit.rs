//! What is done in the minutes that there are, and what waits.

use super::round::{Round, TaskLine};
use mopsel_core::care::fit::{Worth, counts, fit};
use mopsel_core::verdict::Rank;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// A task of the set, or of what waits.
#[derive(Debug, Serialize, ToSchema)]
pub struct FitTask {
    /// At which system.
    pub system: Uuid,
    /// What that is called.
    pub name: String,
    /// Whether that is a suspect: it is visited last.
    pub last: bool,
    /// Minutes that it usually takes.
    pub minutes: u16,
    /// What is done.
    pub task: TaskLine,
}

/// The set that fits.
#[derive(Debug, Serialize, ToSchema)]
pub struct Fit {
    /// Minutes that it takes in all.
    pub minutes: u32,
    /// What is done: what waits for nothing, also where it takes longer; then sound systems first, suspects last, each
    /// system together.
    pub chosen: Vec<FitTask>,
    /// What waits, least margin first.
    pub waits: Vec<FitTask>,
}

/// Chooses among the tasks of today.
pub fn fitting(mut round: Round, minutes: u16) -> Fit {
    round.tasks.retain(|today| counts(today.task.check));
    let worth: Vec<Worth> = round.tasks.iter().map(|today| today.task.worth).collect();
    let chosen = fit(&worth, minutes);
    let (mut done, mut waits) = (Vec::new(), Vec::new());
    for (n, today) in round.tasks.into_iter().enumerate() {
        let system = &round.systems[today.at];
        let (id, name, last) = (system.id, system.name.clone(), system.suspect);
        let line = FitTask { system: id, name, last, minutes: today.task.minutes, task: today.task };
        if chosen.contains(&n) { done.push(line) } else { waits.push(line) }
    }
    // What waits for nothing, then the order of the systems, suspects last.
    let place = |id: Uuid| round.systems.iter().position(|system| system.id == id);
    let rank = |line: &FitTask| if line.task.worth.now { line.task.rank } else { Rank::Routine };
    done.sort_by_key(|line| (rank(line), line.last, place(line.system)));
    Fit { minutes: done.iter().map(|line| u32::from(line.minutes)).sum(), chosen: done, waits }
}
