//! What is waited for.

use super::{Command, Decision, Refused};
use crate::fact::{Timer, WaitFor};
use crate::message::count;
use crate::refuse;
use jiff::{Timestamp, ToSpan};
use uuid::Uuid;

/// The most that run at once.
pub const MOST_TIMERS: usize = 50;
/// A longer wait is a task of another day.
const MOST_MINUTES: u32 = 1440;

/// What a timer's command rests on.
#[derive(Debug, Clone, Default)]
pub struct TimerFacts {
    /// The timer with the command's id.
    pub there: Option<Timer>,
    /// How many run or are over and not put away.
    pub running: usize,
    /// Those that run, or are over and not put away, of the same system.
    pub beside: Vec<Timer>,
    /// Whether the system that it is for is there.
    pub system_there: bool,
    /// The place of that system.
    pub place: Option<Uuid>,
}

pub(super) fn decide(command: &Command, facts: &TimerFacts, now: Timestamp) -> Result<Decision, Refused> {
    let Command::StartTimer { id, system, what, label, minutes } = command else { return Ok(Decision::Remove) };
    if let Some(there) = &facts.there {
        let same = there.system == *system && there.what == *what && there.label == label.as_str();
        return if same { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    if !(1..=MOST_MINUTES).contains(minutes) {
        let (found, most) = (count(*minutes), count(MOST_MINUTES));
        return Err(refuse!("timer_minutes", found = found, most = most).at("minutes").into());
    }
    if system.is_some() && !facts.system_there {
        return Err(Refused::NotFound("system"));
    }
    if facts.running >= MOST_TIMERS {
        return Err(refuse!("too_many_timers", most = count(MOST_TIMERS)).into());
    }
    // One wait before the water is measured again: what was poured since then begins it anew. Baths and soaks may
    // run side by side.
    let same = |other: &&Timer| *what == WaitFor::Remeasure && other.what == *what;
    let replaces: Vec<&Timer> = facts.beside.iter().filter(same).collect();
    let ends = now.saturating_add(i64::from(*minutes).minutes()).unwrap_or(now);
    let ends = replaces.iter().map(|other| other.ends).fold(ends, Timestamp::max);
    let (system, what, label) = (*system, *what, label.as_str().to_owned());
    let replaces = replaces.into_iter().map(|other| other.id).collect();
    let timer = Timer { id: *id, system, what, label, started: now, ends, account: None };
    Ok(Decision::KeepTimer(Box::new(timer), replaces))
}
