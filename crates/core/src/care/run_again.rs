//! After a power cut, and after somebody switched pump or air off for a moment: until all that stopped was seen to run, that is
//! what is done first, and nothing is all fine.

use super::Task;
use super::margin::shorten;
use super::task::Mended;
use crate::calendar::day;
use crate::fact::{Running, Wait, WaitFor};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit};
use crate::projection::Stopped;
use crate::say;
use crate::situation::Situation;
use crate::system::Traits;
use crate::verdict::Rank;

/// The parts that a stop stops, and nobody has seen to run since; none where there was no stop.
#[must_use]
pub fn unseen(s: &Situation<'_>) -> Vec<&'static str> {
    s.known.readings.stopped.map_or_else(Vec::new, |stopped| unseen_since(stopped.value, &s.system.traits))
}

/// The same of one stop.
pub(crate) fn unseen_since(stopped: Stopped, traits: &Traits) -> Vec<&'static str> {
    let stops = |part: &&str| match *part {
        "water_sounds_right" | "bubbles" => true,
        // Where a timer feeds, it is what brings the water.
        "timer_right" => stopped.by_cut || traits.to_waste,
        _ => false,
    };
    let parts = Running::parts(traits, false).into_iter();
    parts.filter(|part| stops(part) && !stopped.seen.saw(part)).collect()
}

/// Hours that roots last here without pump or air; halved in warm water.
#[must_use]
pub fn lasts(s: &Situation<'_>) -> Option<f64> {
    let hours = s.system.kind.facts().lasts_hours.filter(|_| s.plants() > 0)?;
    Some(shorten(hours, true, s).days)
}

/// The reminder to plug in again, where pump or air can be switched off.
#[must_use]
pub fn off_for_a_moment(s: &Situation<'_>) -> Option<Wait> {
    let runs = s.system.traits.pumped() || s.system.traits.aerated;
    runs.then(|| Wait::new(WaitFor::SwitchedOff, FIGURES.findings.off_minutes))
}

/// What is to be seen after a stop.
pub(super) fn run_again(s: &Situation<'_>) -> Option<Task> {
    let stopped = s.known.readings.stopped?;
    let parts = unseen(s);
    let waters = parts.iter().any(|part| *part != "timer_right" || s.system.traits.to_waste);
    let name = if stopped.value.by_cut { say!("run_again.name_cut") } else { say!("run_again.name_off") };
    let asked: Vec<Message> = parts.iter().map(|part| Message::of("running.question", part, "say")).collect();
    let since = || day(s.date(stopped.at), s.today());
    let hours = lasts(s).filter(|_| waters).map(|hours| Param::Number(hours, Unit::Hours));
    let reason = match (stopped.value.by_cut, hours) {
        (true, Some(hours)) => say!("run_again.cut_lasts", since = since(), hours = hours),
        (true, None) => say!("run_again.cut", since = since()),
        (false, Some(hours)) => say!("run_again.off_lasts", since = since(), hours = hours),
        (false, None) => say!("run_again.off", since = since()),
    };
    let doing = say!("sentences", all = Param::Sentences(asked));
    let slack = if waters { 0.0 } else { FIGURES.findings.timer_slack };
    let task = Task::new("run_again", name, doing, reason, s.date(stopped.at), stopped.at, s).slack(slack, s);
    let rank = if waters && s.plants() > 0 { Rank::Hours } else { Rank::Days };
    let say = |part: &&'static str| Mended { part: (*part).into(), say: Message::of("running.mended", part, "say") };
    (!parts.is_empty()).then(|| Task { mended: parts.iter().map(say).collect(), ..task.ranked(rank) })
}
