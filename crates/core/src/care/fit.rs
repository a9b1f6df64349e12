//! "I have ten minutes": the set of tasks that fits and wins the most margin.
//!
//! What a task wins is counted within a week: a task that is safe for two days wins five when it is done, one that is
//! three days past its margin wins ten, and one that is safe for a week or longer wins nothing yet. The choice is exact:
//! every sum of minutes up to what there is has its best set (the knapsack of whole minutes).

use super::look::{LOOK, minutes_together};
use super::{Task, Urgency};
use crate::system::Check;
use crate::verdict::Rank;

/// A task with what it takes and what it wins.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Worth {
    /// Whole minutes, at least one.
    pub minutes: u16,
    /// Days of margin that it wins, 0–14.
    pub wins: f64,
    /// Whether it is done however long it takes: people are in danger, or plants last only hours.
    pub now: bool,
}

/// Days within which margin counts.
const HORIZON: f64 = 7.0;
/// The longest time that is planned, in minutes.
pub const MOST_MINUTES: u16 = 480;
/// What a finding takes to be put right, where nothing else is known of it, in minutes.
const USUAL: u16 = 6;
/// Water, feed and acid by one order, in minutes.
const ONE_ORDER: u16 = 12;
/// A change that is led, with its bath or its scrubbing, in minutes.
const LED: u16 = 60;

/// What a task takes, and what it wins. `pace` is what a job takes here over what it usually takes.
#[must_use]
pub fn worth<W>(task: &Task<W>, pace: f64) -> Worth {
    let minutes = match (task.check, task.code.as_ref()) {
        (None, LOOK) => together(&task.parts),
        (Some(check), _) => check.facts().minutes,
        (None, "root_treat" | "root_restart" | "cycle_reset" | "first_fill") => LED,
        (None, "put_right") => ONE_ORDER,
        (None, "peroxide") => Check::Filters.facts().minutes,
        (None, "root_look" | "suspect_roots") => Check::Roots.facts().minutes,
        (None, "suspect_plants" | "plants") => Check::Plants.facts().minutes,
        (None, _) => USUAL,
    };
    let wins = HORIZON - task.margin_days.clamp(-HORIZON, HORIZON);
    // What asks for a hand goes before what only adds up.
    let wins = if task.urgency == Urgency::Hand { wins + 1.0 } else { wins };
    let minutes = (f64::from(minutes) * pace).round().clamp(1.0, f64::from(MOST_MINUTES)) as u16;
    Worth { minutes, wins, now: task.rank <= Rank::Hours }
}

/// What one look takes for all that it takes in.
fn together(parts: &[Check]) -> u16 {
    minutes_together(parts.iter().map(|check| check.facts().minutes).sum())
}

/// Whether a task is chosen for itself: to look in is a part of any visit.
#[must_use]
pub fn counts(check: Option<Check>) -> bool {
    check != Some(Check::LookIn)
}

/// The places of the tasks that are done in so many minutes: what waits for nothing, also where that takes longer; and of
/// the others, in what is left, those that win the most in all. Of two sets that win alike, the shorter; what wins nothing
/// is left.
#[must_use]
pub fn fit(tasks: &[Worth], minutes: u16) -> Vec<usize> {
    let (now, others): (Vec<usize>, Vec<usize>) = (0..tasks.len()).partition(|n| tasks[*n].now);
    let spent: u32 = now.iter().map(|n| u32::from(tasks[*n].minutes)).sum();
    let left = u16::try_from(u32::from(minutes).saturating_sub(spent)).unwrap_or(0);
    let waiting: Vec<Worth> = others.iter().map(|n| tasks[*n]).collect();
    let mut chosen: Vec<usize> = best(&waiting, left).into_iter().map(|n| others[n]).chain(now).collect();
    chosen.sort_unstable();
    chosen
}

fn best(tasks: &[Worth], minutes: u16) -> Vec<usize> {
    let most = usize::from(minutes.min(MOST_MINUTES));
    // The best that is won within each number of minutes, and whether each task is in it.
    let mut best = vec![0.0_f64; most + 1];
    let mut taken = vec![vec![false; most + 1]; tasks.len()];
    for (n, task) in tasks.iter().enumerate().filter(|(_, task)| task.wins > 0.0) {
        let takes = usize::from(task.minutes);
        for within in (takes..=most).rev() {
            let with = best[within - takes] + task.wins;
            if with > best[within] + 1e-9 {
                best[within] = with;
                taken[n][within] = true;
            }
        }
    }
    let mut left = (0..=most).find(|within| best[*within] >= best[most] - 1e-9).unwrap_or(most);
    let mut chosen = Vec::new();
    for n in (0..tasks.len()).rev().filter(|n| tasks[*n].wins > 0.0) {
        if taken[n][left] {
            chosen.push(n);
            left -= usize::from(tasks[n].minutes);
        }
    }
    chosen.reverse();
    chosen
}
