//! How care was kept: of each routine check and rule, how often it was done, done late, missed, skipped and moved.
//!
//! A turn falls an interval after the last time, moved off closed days, with the interval that held then: a changed
//! rule never rewrites what was kept by the old one. It was missed when its slack passed before anybody did it.

use super::gather::{gathers, within};
use super::routine::interval_at;
use super::slack;
use crate::calendar::add_days;
use crate::fact::Instead;
use crate::figures::FIGURES;
use crate::message::{Message, count};
use crate::projection::Occasion;
use crate::say;
use crate::situation::Situation;
use crate::system::{Check, Every, checks};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use std::collections::VecDeque;

/// How one check or rule was kept over the last weeks.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct KeptLine<W = Message> {
    /// The code of its task.
    pub code: String,
    /// What it is called.
    pub name: W,
    /// Times at which it was done, late ones among them.
    pub done: u32,
    /// Of these, after the day on which it was due, but within its slack.
    pub late: u32,
    /// Turns that passed with their slack before it was done.
    pub missed: u32,
    /// Times at which it was skipped with a reason.
    pub skipped: u32,
    /// Times at which it was moved to another day.
    pub moved: u32,
    /// The same in a sentence.
    pub said: W,
}

impl<W> KeptLine<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> KeptLine<V> {
        let Self { code, done, late, missed, skipped, moved, .. } = self;
        KeptLine { code, name: say(self.name), done, late, missed, skipped, moved, said: say(self.said) }
    }
}

/// A turn, by what held at a moment.
#[derive(Clone, Copy)]
struct TurnOf {
    /// Days after the last.
    every: i64,
    /// Days that it may be late.
    slack: f64,
    /// Days after its own within which it is done along with others, and not late.
    along: i64,
}

type Turn<'a> = dyn Fn(Timestamp) -> Option<TurnOf> + 'a;

/// How care was kept, each check and rule that has a turn of its own, in the order of a visit.
#[must_use]
pub fn kept(s: &Situation<'_>) -> Vec<KeptLine> {
    let of_check = |check: Check| {
        let turn = move |at: Timestamp| {
            let then = Situation { system: s.history.at(at), ..*s };
            // Those that are due by more than their interval, or only at some stages of a crop, are not counted by it.
            let by_interval = !matches!(
                check,
                Check::Change
                    | Check::Harvest
                    | Check::Stage
                    | Check::Calibrate
                    | Check::Light
                    | Check::Pollinate
                    | Check::TieUp
            );
            let every = interval_at(check, at, &then).filter(|_| by_interval)?;
            let along = if gathers(check, &then) { within() } else { 0 };
            Some(TurnOf { every: i64::from(every), slack: slack(check, &then).days, along })
        };
        line(check.code(), check.name(), check == Check::LookIn, &turn, s)
    };
    let mut lines: Vec<KeptLine> = checks().iter().filter_map(|facts| of_check(facts.key)).collect();
    lines.extend(s.system.rules.iter().filter_map(|rule| {
        let turn = move |_: Timestamp| match rule.every {
            Every::Days { days } => Some(TurnOf { every: i64::from(days), slack: rule.slack_days, along: 0 }),
            _ => None,
        };
        line(&format!("rule.{}", rule.id), say!("own_rule.name", name = &rule.name), false, &turn, s)
    }));
    lines
}

fn line(code: &str, name: Message, open_only: bool, turn: &Turn<'_>, s: &Situation<'_>) -> Option<KeptLine> {
    let none = VecDeque::new();
    let occasions = s.known.done.occasions.get(code).unwrap_or(&none);
    let from = add_days(s.today(), -(FIGURES.record.kept_days.round() as i64));
    let within = |on: Date| on >= from;
    let mut line = KeptLine {
        code: code.to_owned(),
        name,
        done: 0,
        late: 0,
        missed: 0,
        skipped: 0,
        moved: 0,
        said: say!("kept.none"),
    };
    let mut last: Option<Timestamp> = s.known.done.first_at;
    if turn(s.now.timestamp()).is_none() && occasions.is_empty() {
        return None;
    }
    let settle = |on: Date, slack: f64| {
        if open_only { s.calendar.open_on_or_after(on) } else { s.calendar.settle(on, slack) }
    };
    // The turns between one time and the next that passed unseen, and whether the next came after its day.
    let between = |last: Timestamp, until: Date| {
        let Some(TurnOf { every, slack, along }) = turn(last).filter(|turn| turn.every > 0) else { return (0, false) };
        let (mut due, mut missed) = (settle(add_days(s.date(last), every), slack), 0);
        while add_days(due, slack.floor() as i64) < until {
            missed += u32::from(within(due));
            due = settle(add_days(due, every), slack).max(add_days(due, 1));
        }
        (missed, add_days(due, along) < until)
    };
    for Occasion { at, instead } in occasions {
        let on = s.date(*at);
        if let Some(Instead::Moved { .. }) = instead {
            line.moved += u32::from(within(on));
            continue;
        }
        let (missed, late) = last.map_or((0, false), |last| between(last, on));
        line.missed += missed;
        if instead.is_none() {
            line.done += u32::from(within(on));
            line.late += u32::from(within(on) && late);
        } else {
            line.skipped += u32::from(within(on));
        }
        last = Some(*at);
    }
    line.missed += last.map_or(0, |last| between(last, s.today()).0);
    let parts = [
        (line.done > 0).then(|| say!("kept.done", times = count(line.done))),
        (line.late > 0).then(|| say!("kept.late", times = count(line.late))),
        (line.missed > 0).then(|| say!("kept.missed", times = count(line.missed))),
        (line.skipped > 0).then(|| say!("kept.skipped", times = count(line.skipped))),
        (line.moved > 0).then(|| say!("kept.moved", times = count(line.moved))),
    ];
    let parts: Vec<Message> = parts.into_iter().flatten().collect();
    if parts.is_empty() {
        return None;
    }
    line.said = say!("kept.said", parts = parts);
    Some(line)
}
