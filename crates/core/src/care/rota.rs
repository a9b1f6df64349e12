//! Who does which job of a week: shared fairly among initials, with what everybody did before remembered, and the jobs
//! of whoever is absent given to others.
//!
//! Each day is shared out by itself, from the loads of before the week in which the sheet is printed: a day's jobs change
//! hands only when what is due on that day changes, and an absence moves the jobs of whoever is absent and no others.

use jiff::civil::Date;
use std::collections::BTreeSet;

/// Somebody who shares in.
#[derive(Debug, Clone, PartialEq)]
pub struct Hand {
    /// What they did in the weeks before, in usual minutes.
    pub did: f64,
    /// The days on which they are absent.
    pub away: BTreeSet<Date>,
}

/// A job of the week.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Job {
    /// On which day.
    pub on: Date,
    /// Usual minutes.
    pub minutes: u16,
}

/// Who does each job, by their places in the lists; nobody where all are absent on its day, or there is nobody at all.
/// `jobs` of one day come in an order that stays the same.
#[must_use]
pub fn share(hands: &[Hand], jobs: &[Job], monday: Date) -> Vec<Option<usize>> {
    // Whoever did least comes first.
    let mut order: Vec<usize> = (0..hands.len()).collect();
    order.sort_by(|a, b| hands[*a].did.total_cmp(&hands[*b].did).then(a.cmp(b)));
    let days: BTreeSet<Date> = jobs.iter().map(|job| job.on).collect();
    let mut who = vec![None; jobs.len()];
    if hands.is_empty() {
        return who;
    }
    for day in days {
        let mut of_day: Vec<usize> = (0..jobs.len()).filter(|n| jobs[*n].on == day).collect();
        // The longest first, each to whoever has least so far that day.
        of_day.sort_by_key(|n| (std::cmp::Reverse(jobs[*n].minutes), *n));
        let turn = usize::try_from((day - monday).get_days().max(0)).unwrap_or(0) * of_day.len();
        let turned: Vec<usize> = (0..order.len()).map(|n| order[(n + turn) % order.len()]).collect();
        let mut load = vec![0_u32; hands.len()];
        let least = |load: &[u32], here: &dyn Fn(usize) -> bool| {
            let can = turned.iter().enumerate().filter(|(_, hand)| here(**hand));
            can.min_by_key(|(n, hand)| (load[**hand], *n)).map(|(_, hand)| *hand)
        };
        for n in &of_day {
            let Some(hand) = least(&load, &|_| true) else { continue };
            who[*n] = Some(hand);
            load[hand] += u32::from(jobs[*n].minutes);
        }
        // Only what falls to somebody who is absent goes to another.
        for n in &of_day {
            let Some(hand) = who[*n].filter(|hand| hands[*hand].away.contains(&day)) else { continue };
            load[hand] = load[hand].saturating_sub(jobs[*n].minutes.into());
            who[*n] = least(&load, &|other| !hands[other].away.contains(&day));
            if let Some(other) = who[*n] {
                load[other] += u32::from(jobs[*n].minutes);
            }
        }
    }
    who
}
